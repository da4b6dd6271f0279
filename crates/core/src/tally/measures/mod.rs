//! Measures: what indicators add up. Each goes over its rows once and says of each what it adds where; figures sum that up, and
//! a why shows the very rows.
//!
//! To add one: a [`Measure`] in the module of its rows, its name in [`Pass`](super::formula::Pass), and a line in `on_measure!`.

mod alarms;
mod cost;
mod failures;
mod labour;
mod open;
mod stops;
mod upkeep;
mod work;

pub(super) use alarms::Alarmed;
pub(super) use cost::Cost;
pub(super) use failures::{Downing, Failed, Restored};
pub(super) use labour::{Capacity, Worked};
pub(super) use open::{Near, Open, OpenWork, open_at, open_in, open_parts};
pub(super) use stops::{DownCost, Slowed};
pub(super) use upkeep::Upkept;
pub(super) use work::{Completed, Raised, Scheduled};

use super::{Question, dimension::Dimension};
use crate::{
    facts::{Added, Snapshot, columns::Part},
    ground::time::{Instant, Span},
    tally::indicators::TraceRow,
};
use fixedbitset::FixedBitSet;

/// What one row adds.
#[derive(Debug, Clone, Copy)]
pub(super) struct Contribution {
    pub(super) asset: u32,
    /// In whose tree it counts.
    pub(super) at: Instant,
    /// Which of the measure's sums it goes into.
    pub(super) cell: usize,
    pub(super) amount: i64,
    /// The order that it is of; [`NO_WORK`] where it is of none.
    pub(super) work: u32,
}

/// No order.
pub(super) const NO_WORK: u32 = u32::MAX;

/// Something that is added up over rows, in one or more sums that one pass makes.
pub(super) trait Measure {
    type Rows: Part;
    const CELLS: usize;

    /// From when to when its rows may lie: where nothing moved in it, their assets count for one row throughout.
    fn window(&self, facts: &Snapshot, q: Question) -> Span;

    /// Whether it takes away on assets above what it adds below, so that both count where the one that it begins on does: it
    /// contributes for no others.
    fn takes_away(&self) -> bool {
        false
    }

    /// The instant as of which it tells what stood, where it tells that and not what happened: what its work was is asked of then.
    fn stands_at(&self, _: Question) -> Option<Instant> {
        None
    }

    /// Every contribution of the assets that count, with the part and the place of its row; of other assets maybe, where to look
    /// for them would take longer.
    fn each(
        &self,
        facts: &Snapshot,
        q: Question,
        counts: impl Fn(u32) -> bool,
        found: impl FnMut(&Self::Rows, usize, Contribution),
    );

    /// What the assets that count add, which is the same in sum, without the rows, where something kept spares a pass over all of
    /// these; false where nothing does, and none was found.
    fn kept(
        &self,
        _: &Snapshot,
        _: Question,
        _counting: &FixedBitSet,
        _found: impl FnMut(u32, Instant, Added),
    ) -> bool {
        false
    }

    /// A row as a why shows it.
    fn row(&self, facts: &Snapshot, q: Question, part: &Self::Rows, place: usize, one: Contribution) -> TraceRow;

    /// What a row itself is taken apart by, as a number, [`NONE`](crate::facts::packed::NONE) for none of it; nothing where that is
    /// asked of its order.
    fn says(&self, _: &Self::Rows, _: usize, _: Dimension) -> Option<i64> {
        None
    }

    /// How many of its item a row is of, in thousandths.
    fn quantity(&self, _: &Self::Rows, _: usize) -> i64 {
        0
    }
}

/// Does something with the measure of a pass.
macro_rules! on_measure {
    ($pass:expr, $measure:ident => $then:expr) => {{
        use $crate::tally::{formula::Pass, measures};
        match $pass {
            Pass::Cost(over) => {
                let $measure = &measures::Cost(over);
                $then
            }
            Pass::Failed => {
                let $measure = &measures::Failed;
                $then
            }
            Pass::Downing => {
                let $measure = &measures::Downing;
                $then
            }
            Pass::Restored => {
                let $measure = &measures::Restored;
                $then
            }
            Pass::Open => {
                let $measure = &measures::Open;
                $then
            }
            Pass::Raised => {
                let $measure = &measures::Raised;
                $then
            }
            Pass::Completed => {
                let $measure = &measures::Completed;
                $then
            }
            Pass::Worked => {
                let $measure = &measures::Worked;
                $then
            }
            Pass::Alarmed => {
                let $measure = &measures::Alarmed;
                $then
            }
            Pass::Scheduled => {
                let $measure = &measures::Scheduled;
                $then
            }
            Pass::Upkept => {
                let $measure = &measures::Upkept;
                $then
            }
            Pass::DownCost => {
                let $measure = &measures::DownCost;
                $then
            }
            Pass::Slowed => {
                let $measure = &measures::Slowed;
                $then
            }
            Pass::Capacity => {
                let $measure = &measures::Capacity;
                $then
            }
        }
    }};
}

pub(super) use on_measure;

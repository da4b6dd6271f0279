//! Entries of cost.

use super::{Contribution, Measure};
use crate::{
    facts::{
        Added, Entries, Snapshot,
        columns::Part,
        packed::{NONE, Packed},
    },
    ground::{
        ids::EntryId,
        period,
        time::{Instant, Span},
    },
    tally::{
        Question,
        dimension::Dimension,
        formula::Over,
        indicators::{RowKind, TraceRow},
    },
    work::entries::EntryKind,
};
use fixedbitset::FixedBitSet;

/// Entries of cost, by kind, settled and provisional apart.
pub(in crate::tally) struct Cost(pub(in crate::tally) Over);

impl Cost {
    /// The kind whose sum a cell is.
    pub(in crate::tally) fn kind(cell: usize) -> EntryKind {
        EntryKind::ALL[cell / 2]
    }

    /// Whether a cell is of what is settled.
    pub(in crate::tally) fn is_settled(cell: usize) -> bool {
        cell.is_multiple_of(2)
    }
}

/// An entry as a why shows it.
pub(super) fn entry_row(facts: &Snapshot, q: Question, part: &Entries, place: usize, amount: i64) -> TraceRow {
    let entry = part.row(place);
    TraceRow {
        kind: RowKind::Entry,
        id: entry.id.0,
        asset: facts.tree.node(entry.asset as usize).id,
        work_order: Some(entry.work),
        at: entry.at,
        amount,
        whole: None,
        settled: Some(entry.settled_at <= q.now),
    }
}

impl Measure for Cost {
    type Rows = Entries;
    const CELLS: usize = 8;

    fn window(&self, facts: &Snapshot, q: Question) -> Span {
        let end = q.period.end();
        let start = match self.0 {
            Over::Period => q.period.start(),
            Over::Year => period::fiscal_year_start(end.plus(-1), &facts.zone, facts.fiscal_month),
            Over::Life => Instant::EARLIEST,
        };
        Span::new(start, end).unwrap_or(q.period)
    }

    fn each(
        &self,
        facts: &Snapshot,
        q: Question,
        counts: impl Fn(u32) -> bool,
        mut found: impl FnMut(&Entries, usize, Contribution),
    ) {
        let window = self.window(facts, q);
        let now = q.now.ms();
        for (part, places) in facts.entries.between((window.start(), EntryId(0)), (window.end(), EntryId(0))) {
            // In a small part of the plant most rows end here, with one look.
            let of_part = places.start..;
            for (place, asset) in of_part.zip(&part.asset[places]).filter(|(_, asset)| counts(**asset)) {
                let contribution = Contribution {
                    asset: *asset,
                    at: Instant::unpack(part.at.of(place)),
                    cell: usize::from(part.kind[place]) * 2 + usize::from(part.settled_at.of(place) > now),
                    amount: part.cost.of(place),
                    work: part.work[place],
                };
                found(part, place, contribution);
            }
        }
    }

    fn kept(
        &self,
        facts: &Snapshot,
        q: Question,
        counting: &FixedBitSet,
        found: impl FnMut(u32, Instant, Added),
    ) -> bool {
        let ends = facts.life.ends(&facts.entries, self.window(facts, q));
        (self.0 == Over::Life || ends.spare(counting))
            && facts.life.between(&facts.entries, &facts.tree, (ends, q.now), counting, found)
    }

    fn row(&self, facts: &Snapshot, q: Question, part: &Entries, place: usize, one: Contribution) -> TraceRow {
        entry_row(facts, q, part, place, one.amount)
    }

    fn says(&self, part: &Entries, place: usize, dimension: Dimension) -> Option<i64> {
        let id = |id: u32| if id == u32::MAX { NONE } else { i64::from(id) };
        match dimension {
            Dimension::Kind => Some(i64::from(part.kind[place])),
            Dimension::Item => Some(id(part.item[place])),
            Dimension::Supplier => Some(id(part.supplier[place])),
            _ => None,
        }
    }

    fn quantity(&self, part: &Entries, place: usize) -> i64 {
        part.quantity.of(place)
    }
}

//! Failure reports. Those of work that was dropped count nowhere: it was a duplicate, or nothing had failed.

use super::{Contribution, Measure};
use crate::{
    codes::{codebooks::says_nothing, failures::Effect},
    facts::{DowntimeFact, Failures, Snapshot, columns::Part, packed::Packed},
    ground::{
        ids::{CodeId, FailureId, WorkOrderId},
        time::{DAY, Instant, Span},
    },
    plant::{
        assets::{NOBODY, ParentEffect, SteadyEffect},
        downtime::{DowntimeKind, Piece},
    },
    tally::{
        Question,
        dimension::Dimension,
        indicators::{RowKind, TraceRow},
        times::risen,
    },
    work::WorkState,
};
use fixedbitset::FixedBitSet;
use rustc_hash::{FxHashMap, FxHashSet};
use std::{cell::LazyCell, collections::HashMap};

/// A failure of the same problem on the same asset within this time is a repeat.
pub(in crate::tally) const REPEATS_WITHIN_MS: i64 = 90 * DAY;

fn failures_in(facts: &Snapshot, period: Span) -> impl Iterator<Item = (&Failures, usize)> {
    let found = facts.failures.between((period.start(), FailureId(0)), (period.end(), FailureId(0)));
    found.flat_map(|(part, places)| places.map(move |place| (part, place)))
}

/// Whether its work was dropped.
fn is_dropped(facts: &Snapshot, part: &Failures, place: usize) -> bool {
    let found = facts.works.order(part.work[place]);
    found.is_some_and(|(works, at)| works.state[at] == WorkState::Dropped.pack())
}

fn counted(facts: &Snapshot, period: Span) -> impl Iterator<Item = (&Failures, usize)> {
    failures_in(facts, period).filter(|(part, place)| !is_dropped(facts, part, *place))
}

fn critical(facts: &Snapshot, period: Span) -> impl Iterator<Item = (&Failures, usize)> {
    let critical = Effect::Critical.pack();
    counted(facts, period).filter(move |(part, place)| part.effect[*place] == critical)
}

/// A failure as a why shows it.
fn failure_row(facts: &Snapshot, part: &Failures, place: usize, amount: i64) -> TraceRow {
    let failure = part.row(place);
    TraceRow {
        kind: RowKind::Failure,
        id: failure.id.0,
        asset: facts.tree.node(failure.asset as usize).id,
        work_order: Some(failure.work),
        at: failure.at,
        amount,
        whole: None,
        settled: None,
    }
}

fn says(part: &Failures, place: usize, dimension: Dimension) -> Option<i64> {
    match dimension {
        Dimension::Kind => Some(i64::from(part.effect[place])),
        Dimension::Problem => {
            Some(Option::<CodeId>::unpack(part.problem[place]).map_or(crate::facts::packed::NONE, |code| code.0))
        }
        _ => None,
    }
}

/// Failure reports, by effect; those that repeat one, those that are coded, those whose codes say nothing, and those of dropped
/// work, which count for nothing else.
pub(in crate::tally) struct Failed;

impl Failed {
    pub(in crate::tally) const REPEAT: usize = 3;
    pub(in crate::tally) const CODED: usize = 4;
    pub(in crate::tally) const OTHER: usize = 5;
    pub(in crate::tally) const DROPPED: usize = 6;
}

impl Measure for Failed {
    type Rows = Failures;
    const CELLS: usize = 7;

    fn window(&self, _: &Snapshot, q: Question) -> Span {
        q.period
    }

    fn each(
        &self,
        facts: &Snapshot,
        q: Question,
        counts: impl Fn(u32) -> bool,
        mut found: impl FnMut(&Failures, usize, Contribution),
    ) {
        let none = Option::<CodeId>::None.pack();
        let says_nothing: FxHashSet<u32> = facts
            .names
            .codes
            .iter()
            .filter(|code| says_nothing(&code.code))
            .map(|code| CodeId(code.id).pack())
            .collect();
        // When each problem was had last, by asset.
        let mut had: FxHashMap<(u32, u32), i64> = FxHashMap::default();
        let from = q.period.start().plus(-REPEATS_WITHIN_MS);
        let Ok(window) = Span::new(from, q.period.end()) else { return };
        for (part, place) in failures_in(facts, window).filter(|(part, place)| counts(part.asset[*place])) {
            let (asset, work, at) = (part.asset[place], part.work[place], part.at.of(place));
            let mut adds = |cell, amount| {
                found(part, place, Contribution { asset, at: Instant::from_ms(at), cell, amount, work });
            };
            let is_dropped = is_dropped(facts, part, place);
            let is_in = at >= q.period.start().ms();
            if is_dropped {
                if is_in {
                    adds(Self::DROPPED, 1);
                }
                continue;
            }
            let is_failure = part.effect[place] != Effect::Incipient.pack();
            let mut repeats = false;
            if is_failure && part.problem[place] != none {
                let before = had.insert((asset, part.problem[place]), at);
                repeats = before.is_some_and(|before| at - before <= REPEATS_WITHIN_MS);
            }
            if !is_in {
                continue;
            }
            adds(usize::from(part.effect[place]), 1);
            if repeats {
                adds(Self::REPEAT, 1);
            }
            if part.problem[place] != none {
                adds(Self::CODED, 1);
                let codes = [part.problem[place], part.cause[place], part.remedy[place]];
                if codes.iter().any(|code| says_nothing.contains(code)) {
                    adds(Self::OTHER, 1);
                }
            }
        }
    }

    fn row(&self, facts: &Snapshot, _: Question, part: &Failures, place: usize, one: Contribution) -> TraceRow {
        failure_row(facts, part, place, one.amount)
    }

    fn says(&self, part: &Failures, place: usize, dimension: Dimension) -> Option<i64> {
        says(part, place, dimension)
    }
}

/// Critical failures where they put something down: the failed asset and all that the chain of *yes*, and groups of which too few
/// were up, puts down with it. It adds one on the asset and takes it away above the last that it reaches.
pub(in crate::tally) struct Downing;

impl Downing {
    /// The first asset upwards that a failure does not put down.
    fn above(
        facts: &Snapshot,
        q: Question,
        (asset, at): (u32, Instant),
        parent: impl Fn(u32) -> Option<u32>,
        down: &LazyCell<Down, impl FnOnce() -> Down>,
    ) -> Option<u32> {
        let tree = &facts.tree;
        let lives = |asset: u32| tree.lives_always(asset as usize) || tree.node(asset as usize).life.contains(at);
        let mut last = asset;
        loop {
            let above = parent(last)?;
            let is_down = || match tree.effect_at(last as usize, q.tree_at(at)) {
                ParentEffect::Yes => true,
                ParentEffect::No => false,
                ParentEffect::Group { .. } => {
                    down.get(&above).is_some_and(|pieces| pieces.iter().any(|piece| piece.span.contains(at)))
                }
            };
            let puts_down = match tree.steady_effect(last as usize) {
                SteadyEffect::Yes => true,
                SteadyEffect::No => false,
                SteadyEffect::Other => is_down(),
            };
            if !puts_down || !lives(above) {
                return Some(above);
            }
            last = above;
        }
    }

    /// Downtime of any kind of whatever a group stood below that one of those that failed, and when, may have put down: what is
    /// down as planned is not up either.
    fn down(facts: &Snapshot, q: Question, failed: &[(u32, Instant)]) -> Down {
        let tree = &facts.tree;
        let grouped = tree.grouped();
        let mut parents: Vec<u32> = match failed.len() < grouped.len() {
            true => {
                let of_line = |(asset, at): &(u32, Instant)| -> Vec<u32> {
                    let line: Vec<u32> =
                        tree.line_at(*asset as usize, q.tree_at(*at)).map(|above| above as u32).collect();
                    let in_group = line.windows(2).filter(|pair| grouped.binary_search(&pair[0]).is_ok());
                    in_group.map(|pair| pair[1]).collect()
                };
                failed.iter().flat_map(of_line).collect()
            }
            false => {
                let above = grouped.iter().flat_map(|asset| tree.ever_parents(*asset as usize));
                above.map(|above| above as u32).collect()
            }
        };
        parents.sort_unstable();
        parents.dedup();
        let leads_there = tree.below_groups();
        let counts = |fact: &DowntimeFact| leads_there[fact.asset as usize];
        risen(facts, (q, q.period), (Some(&parents), DowntimeKind::External), counts).of(parents)
    }
}

/// Pieces of downtime by asset.
type Down = HashMap<u32, Vec<Piece>>;

impl Measure for Downing {
    type Rows = Failures;
    const CELLS: usize = 1;

    fn window(&self, _: &Snapshot, q: Question) -> Span {
        q.period
    }

    fn takes_away(&self) -> bool {
        true
    }

    fn each(
        &self,
        facts: &Snapshot,
        q: Question,
        counts: impl Fn(u32) -> bool,
        mut found: impl FnMut(&Failures, usize, Contribution),
    ) {
        let failed = critical(facts, q.period).filter(|(part, place)| counts(part.asset[*place]));
        let failed: Vec<(&Failures, usize)> = failed.collect();
        let of = |(part, place): (&Failures, usize)| (part.asset[place], Instant::unpack(part.at.of(place)));
        let down = LazyCell::new(|| Self::down(facts, q, &failed.iter().map(|one| of(*one)).collect::<Vec<_>>()));
        // What stood still has one way up, close together.
        let shape = facts.tree.shape_at(q.tree_at(q.as_of()));
        // Where a line was another one, something on today's was moved since.
        let mut moved = FixedBitSet::with_capacity(facts.tree.len());
        shape.mark_below(facts.tree.moved_in(q.period), &mut moved);
        for &(part, place) in &failed {
            let ((asset, at), work) = (of((part, place)), part.work[place]);
            let steady = |asset| Some(shape.parent(asset)).filter(|above| *above != NOBODY);
            let then = |asset: u32| facts.tree.parent_at(asset as usize, q.tree_at(at)).map(|above| above as u32);
            let above = match moved.contains(asset as usize) {
                true => Self::above(facts, q, (asset, at), then, &down),
                false => Self::above(facts, q, (asset, at), steady, &down),
            };
            found(part, place, Contribution { asset, at, cell: 0, amount: 1, work });
            if let Some(above) = above {
                found(part, place, Contribution { asset: above, at, cell: 0, amount: -1, work });
            }
        }
    }

    fn row(&self, facts: &Snapshot, _: Question, part: &Failures, place: usize, one: Contribution) -> TraceRow {
        failure_row(facts, part, place, one.amount)
    }
}

/// Critical failures that had downtime of their own, their time to restore (that downtime, open downtime up to now), and how much of it the work was under way.
pub(in crate::tally) struct Restored;

impl Restored {
    pub(in crate::tally) const COUNT: usize = 0;
    pub(in crate::tally) const MS: usize = 1;
    pub(in crate::tally) const UNDER_WAY_MS: usize = 2;
}

impl Measure for Restored {
    type Rows = Failures;
    const CELLS: usize = 3;

    fn window(&self, _: &Snapshot, q: Question) -> Span {
        q.period
    }

    fn each(
        &self,
        facts: &Snapshot,
        q: Question,
        counts: impl Fn(u32) -> bool,
        mut found: impl FnMut(&Failures, usize, Contribution),
    ) {
        let several = facts.several_reports();
        for (part, place) in critical(facts, q.period).filter(|(part, place)| counts(part.asset[*place])) {
            let number = WorkOrderId::unpack(part.work[place]);
            let Some(down) = facts.own_downtime(&several, part, place, q.now) else { continue };
            let (asset, at, work) = (part.asset[place], Instant::unpack(part.at.of(place)), part.work[place]);
            let mut adds = |cell, amount| found(part, place, Contribution { asset, at, cell, amount, work });
            adds(Self::COUNT, 1);
            adds(Self::MS, down.ms());
            adds(Self::UNDER_WAY_MS, down.ms_in(&under_way(facts, number, q.now)));
        }
    }

    fn row(&self, facts: &Snapshot, _: Question, part: &Failures, place: usize, one: Contribution) -> TraceRow {
        failure_row(facts, part, place, one.amount)
    }

    fn says(&self, part: &Failures, place: usize, dimension: Dimension) -> Option<i64> {
        says(part, place, dimension)
    }
}

/// When work was under way, up to `now`.
fn under_way(facts: &Snapshot, work: WorkOrderId, now: Instant) -> Vec<Span> {
    let mut spans = Vec::new();
    let mut since = None;
    for (at, to) in facts.way(work) {
        match (to, since) {
            (WorkState::UnderWay, None) => since = Some(at),
            (WorkState::UnderWay, Some(_)) => {}
            (_, Some(began)) => {
                spans.extend(Span::new(began, at.min(now)).ok());
                since = None;
            }
            (_, None) => {}
        }
    }
    spans.extend(since.and_then(|began| Span::new(began, now).ok()));
    spans
}

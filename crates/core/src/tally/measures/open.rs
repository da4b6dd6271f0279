//! Work that is open at an instant.

use super::{Contribution, Measure};
use crate::{
    facts::{Snapshot, Standing, Works, columns::Part, packed::Packed},
    ground::{
        ids::WorkOrderId,
        time::{Instant, Span},
    },
    tally::{
        Question,
        indicators::{RowKind, TraceRow},
    },
    work::{WorkKind, WorkState, shared_ms},
};
use rustc_hash::FxHashSet;

/// A work order that is open at an instant, as it stood then.
pub(in crate::tally) struct OpenWork<'a> {
    pub(in crate::tally) part: &'a Works,
    pub(in crate::tally) place: usize,
    pub(in crate::tally) asset: u32,
    pub(in crate::tally) standing: Standing,
    pub(in crate::tally) kind: WorkKind,
    pub(in crate::tally) department: Option<u32>,
    pub(in crate::tally) window_end: Instant,
    pub(in crate::tally) scheduled_start: Option<Instant>,
    pub(in crate::tally) estimated_ms: Option<i64>,
}

impl OpenWork<'_> {
    pub(in crate::tally) fn number(&self) -> u32 {
        self.part.number[self.place]
    }

    /// Estimated minus spent time by an instant, never below 0; none where nobody estimated it.
    pub(in crate::tally) fn left_ms(&self, facts: &Snapshot, at: Instant) -> Option<i64> {
        let spent = || match facts.last_entry().is_none_or(|last| last <= at) {
            true => self.part.spent_ms.of(self.place),
            false => facts.spent_ms(WorkOrderId::unpack(self.number()), at),
        };
        self.estimated_ms.map(|estimated| (estimated - spent()).max(0))
    }

    /// The same by the assets of its open steps, as [`shared_ms`] says.
    pub(in crate::tally) fn left_by_asset(&self, facts: &Snapshot, at: Instant) -> Option<Vec<(u32, i64)>> {
        let left = self.left_ms(facts, at)?;
        let (mut open, mut of_steps) = (Vec::new(), 0);
        for step in facts.steps_of(WorkOrderId::unpack(self.number())) {
            of_steps += step.hours_ms;
            if step.settled_at > at {
                open.push((step.asset.unwrap_or(self.asset), step.hours_ms));
            }
        }
        Some(shared_ms(left, self.asset, self.estimated_ms.unwrap_or(left) - of_steps, &open))
    }

    pub(in crate::tally) fn is_ready(&self) -> bool {
        matches!(self.standing.state, WorkState::Ready | WorkState::Scheduled)
    }
}

/// Calls `found` with each order that is open at an instant and of which something may count, as it stood then.
pub(in crate::tally) fn open_at(
    facts: &Snapshot,
    at: Instant,
    near: &Near<impl Fn(u32) -> bool>,
    mut found: impl FnMut(&OpenWork),
) {
    open_parts(facts, &[at]).for_each(|part| open_in(facts, part, &[at], near, |_, open| found(open)));
}

/// Orders among which some may be open at one of some instants.
pub(in crate::tally) fn open_parts<'a>(facts: &'a Snapshot, at: &[Instant]) -> impl Iterator<Item = &'a Works> {
    let ends = at.iter().min().zip(at.iter().max());
    let window = ends.and_then(|(first, last)| Span::new(*first, last.plus(1)).ok());
    window.into_iter().flat_map(|window| facts.works.overlapping(window))
}

/// Calls `found` with each order of a part that is open at one of some instants and of which something may count: by the place of
/// that instant, and as the order stood then.
pub(in crate::tally) fn open_in<'a>(
    facts: &Snapshot,
    part: &'a Works,
    at: &[Instant],
    near: &Near<impl Fn(u32) -> bool>,
    mut found: impl FnMut(usize, &OpenWork<'a>),
) {
    let Some(first) = at.iter().min() else { return };
    // Most are over: that is asked first.
    part.until.within(first.ms() + 1..i64::MAX, |place, until| {
        if !near.may_count(part, place) {
            return;
        }
        let raised_at = part.raised_at.of(place);
        for (which, at) in at.iter().enumerate().filter(|(_, at)| raised_at <= at.ms() && at.ms() < until) {
            if let Some(open) = as_it_stood(facts, part, place, *at) {
                found(which, &open);
            }
        }
    });
}

/// Which orders may count for what is asked: those of its assets, those that were ever elsewhere, and those with open steps there.
pub(in crate::tally) struct Near<F> {
    counts: F,
    steps: FxHashSet<u32>,
}

impl<F: Fn(u32) -> bool> Near<F> {
    /// Of the assets that count, for work that is open at one of some instants.
    pub(in crate::tally) fn new(facts: &Snapshot, at: &[Instant], counts: F) -> Self {
        let first = at.iter().min().map_or(i64::MAX, |first| first.ms());
        let mut steps = FxHashSet::default();
        for part in facts.steps.parts() {
            let open = (0..part.len()).filter(|place| part.settled_at.of(*place) > first);
            let there = open.filter(|place| Option::unpack(part.asset[*place]).is_some_and(&counts));
            steps.extend(there.map(|place| part.work[place]));
        }
        Self { counts, steps }
    }

    fn may_count(&self, part: &Works, place: usize) -> bool {
        (self.counts)(part.asset[place]) || part.changed[place] || self.steps.contains(&part.number[place])
    }
}

/// An order as it stood at an instant, if it was open.
fn as_it_stood<'a>(facts: &Snapshot, part: &'a Works, place: usize, at: Instant) -> Option<OpenWork<'a>> {
    let number = WorkOrderId::unpack(part.number[place]);
    let mut standing = Standing::now(part, place);
    // As it stands since its last move, which spares a look at the way it came.
    if standing.since > at {
        let step = facts.step_at(number, at)?;
        (standing.state, standing.since, standing.waiting_for) = (step.to, step.at, step.waiting_for);
    }
    if !standing.state.is_open() {
        return None;
    }
    let mut work = OpenWork {
        part,
        place,
        asset: part.asset[place],
        standing,
        kind: WorkKind::unpack(part.kind[place]),
        department: Option::unpack(part.department[place]),
        window_end: Instant::unpack(part.window_end.of(place)),
        scheduled_start: Option::unpack(part.scheduled_start.of(place)),
        estimated_ms: Option::unpack(part.estimated_ms.of(place)),
    };
    // Of that instant, where they were changed.
    if part.changed[place]
        && let Some(fields) = facts.fields_at(number, at)
    {
        work.asset = fields.asset;
        work.kind = fields.kind;
        work.department = fields.department;
        work.window_end = fields.window_end;
        work.scheduled_start = fields.scheduled_start;
        work.estimated_ms = fields.estimated_ms;
        work.standing.rank = fields.rank;
        work.standing.crew = fields.crew;
        work.standing.is_dated = fields.scheduled_start.is_some();
    }
    Some(work)
}

/// Open work as of the end of the period: how much, its hours still to do, what nobody estimated, what is past its window, over
/// its state's limit, the hours that are ready, and how long since it was raised.
pub(in crate::tally) struct Open;

impl Open {
    pub(in crate::tally) const COUNT: usize = 0;
    pub(in crate::tally) const MS: usize = 1;
    pub(in crate::tally) const UNESTIMATED: usize = 2;
    pub(in crate::tally) const PAST: usize = 3;
    pub(in crate::tally) const OVER: usize = 4;
    pub(in crate::tally) const READY_MS: usize = 5;
    pub(in crate::tally) const AGE_MS: usize = 6;
}

impl Measure for Open {
    type Rows = Works;
    const CELLS: usize = 7;

    fn window(&self, _: &Snapshot, q: Question) -> Span {
        let as_of = q.as_of();
        Span::new(as_of, as_of.plus(1)).unwrap_or(q.period)
    }

    fn stands_at(&self, q: Question) -> Option<Instant> {
        Some(q.as_of())
    }

    fn each(
        &self,
        facts: &Snapshot,
        q: Question,
        counts: impl Fn(u32) -> bool,
        mut found: impl FnMut(&Works, usize, Contribution),
    ) {
        let as_of = q.as_of();
        open_at(facts, as_of, &Near::new(facts, &[as_of], counts), |open| {
            let work = open.number();
            let mut adds_at = |asset, cell, amount| {
                found(open.part, open.place, Contribution { asset, at: as_of, cell, amount, work });
            };
            let left = open.left_by_asset(facts, as_of);
            for (asset, left) in left.iter().flatten() {
                adds_at(*asset, Self::MS, *left);
                if open.is_ready() {
                    adds_at(*asset, Self::READY_MS, *left);
                }
            }
            let mut adds = |cell, amount| adds_at(open.asset, cell, amount);
            adds(Self::COUNT, 1);
            adds(Self::AGE_MS, as_of.ms() - open.part.raised_at.of(open.place));
            if left.is_none() {
                adds(Self::UNESTIMATED, 1);
            }
            if open.window_end < as_of {
                adds(Self::PAST, 1);
            }
            if facts.is_over_limit(open.part, open.place, open.standing, as_of) {
                adds(Self::OVER, 1);
            }
        });
    }

    fn row(&self, facts: &Snapshot, _: Question, part: &Works, place: usize, one: Contribution) -> TraceRow {
        work_row(facts, part, place, one)
    }
}

/// A work order as a why shows it, at the asset where it counts.
pub(super) fn work_row(facts: &Snapshot, part: &Works, place: usize, one: Contribution) -> TraceRow {
    let number = WorkOrderId::unpack(part.number[place]);
    TraceRow {
        kind: RowKind::WorkOrder,
        id: number.0,
        asset: facts.tree.node(one.asset as usize).id,
        work_order: Some(number),
        at: Instant::unpack(part.raised_at.of(place)),
        amount: one.amount,
        whole: None,
        settled: None,
    }
}

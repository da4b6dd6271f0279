//! Measures: what indicators add up. Each goes over its rows once and says of each what it adds where; figures sum that up, and
//! a why shows the very rows.

use super::{Question, formula::Over};
use crate::{
    codes::failures::Effect,
    facts,
    facts::{
        Entries, Failures, Snapshot, Works,
        columns::Part,
        packed::{NONE, Packed},
    },
    ground::{
        ids::{EntryId, FailureId, WorkOrderId},
        period,
        time::{Instant, Span},
    },
    tally::indicators::{RowKind, TraceRow},
    work::{WorkState, entries::EntryKind},
};

/// What one row adds.
#[derive(Debug, Clone, Copy)]
pub(super) struct Contribution {
    pub(super) asset: u32,
    /// In whose tree it counts.
    pub(super) at: Instant,
    /// Which of the measure's sums it goes into.
    pub(super) cell: usize,
    pub(super) amount: i64,
}

/// Something that is added up over rows, in one or more sums that one pass makes.
pub(super) trait Measure {
    type Rows: Part;
    const CELLS: usize;

    /// From when to when its rows may lie: where nothing moved in it, their assets count for one row throughout.
    fn window(&self, facts: &Snapshot, q: Question) -> Span;

    /// Every contribution, with the part and the place of its row.
    fn each(&self, facts: &Snapshot, q: Question, found: impl FnMut(&Self::Rows, usize, Contribution));

    /// Contributions that add up to the same, without their rows, where something kept spares a pass over all of these; false where
    /// nothing does, and none was found.
    fn kept(&self, _: &Snapshot, _: Question, _: impl FnMut(Contribution)) -> bool {
        false
    }

    /// A row as a why shows it.
    fn row(&self, facts: &Snapshot, q: Question, part: &Self::Rows, place: usize, amount: i64) -> TraceRow;
}

/// Entries of cost, by kind, settled and provisional apart.
pub(super) struct Cost(pub(super) Over);

impl Cost {
    pub(super) fn cell(kind: EntryKind, is_settled: bool) -> usize {
        facts::cell(kind, is_settled)
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

    fn each(&self, facts: &Snapshot, q: Question, mut found: impl FnMut(&Entries, usize, Contribution)) {
        let window = self.window(facts, q);
        let now = q.now.ms();
        for (part, places) in facts.entries.between((window.start(), EntryId(0)), (window.end(), EntryId(0))) {
            for place in places {
                let contribution = Contribution {
                    asset: part.asset[place],
                    at: Instant::unpack(part.at[place]),
                    cell: usize::from(part.kind[place]) * 2 + usize::from(part.settled_at[place] > now),
                    amount: part.cost[place],
                };
                found(part, place, contribution);
            }
        }
    }

    fn kept(&self, facts: &Snapshot, q: Question, mut found: impl FnMut(Contribution)) -> bool {
        self.0 == Over::Life
            && facts.life.before(&facts.entries, &facts.tree, q.period.end(), q.now, |asset, at, cell, amount| {
                found(Contribution { asset, at, cell, amount });
            })
    }

    fn row(&self, facts: &Snapshot, q: Question, part: &Entries, place: usize, amount: i64) -> TraceRow {
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
}

fn failures_in(facts: &Snapshot, period: Span) -> impl Iterator<Item = (&Failures, usize)> {
    let found = facts.failures.between((period.start(), FailureId(0)), (period.end(), FailureId(0)));
    found.flat_map(|(part, places)| places.map(move |place| (part, place)))
}

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

/// Failure reports, by effect.
pub(super) struct Failed;

impl Failed {
    pub(super) fn cell(effect: Effect) -> usize {
        effect as usize
    }
}

impl Measure for Failed {
    type Rows = Failures;
    const CELLS: usize = 3;

    fn window(&self, _: &Snapshot, q: Question) -> Span {
        q.period
    }

    fn each(&self, facts: &Snapshot, q: Question, mut found: impl FnMut(&Failures, usize, Contribution)) {
        for (part, place) in failures_in(facts, q.period) {
            let at = Instant::unpack(part.at[place]);
            let cell = usize::from(part.effect[place]);
            found(part, place, Contribution { asset: part.asset[place], at, cell, amount: 1 });
        }
    }

    fn row(&self, facts: &Snapshot, _: Question, part: &Failures, place: usize, amount: i64) -> TraceRow {
        failure_row(facts, part, place, amount)
    }
}

/// Critical failures that had downtime, and their time to restore: the union of the work's unplanned downtime, open downtime up
/// to now.
pub(super) struct Restored;

impl Restored {
    pub(super) const COUNT: usize = 0;
    pub(super) const MS: usize = 1;
}

impl Measure for Restored {
    type Rows = Failures;
    const CELLS: usize = 2;

    fn window(&self, _: &Snapshot, q: Question) -> Span {
        q.period
    }

    fn each(&self, facts: &Snapshot, q: Question, mut found: impl FnMut(&Failures, usize, Contribution)) {
        let critical = Effect::Critical.pack();
        for (part, place) in failures_in(facts, q.period).filter(|(part, place)| part.effect[*place] == critical) {
            if let Some(ms) = facts.restored_ms(WorkOrderId::unpack(part.work[place]), q.now) {
                let (asset, at) = (part.asset[place], Instant::unpack(part.at[place]));
                found(part, place, Contribution { asset, at, cell: Self::COUNT, amount: 1 });
                found(part, place, Contribution { asset, at, cell: Self::MS, amount: ms });
            }
        }
    }

    fn row(&self, facts: &Snapshot, _: Question, part: &Failures, place: usize, amount: i64) -> TraceRow {
        failure_row(facts, part, place, amount)
    }
}

/// Work that is open as of the end of the period, its estimated minus spent time, never below 0, and what nobody estimated.
pub(super) struct Open;

impl Open {
    pub(super) const COUNT: usize = 0;
    pub(super) const MS: usize = 1;
    pub(super) const UNESTIMATED: usize = 2;
}

impl Measure for Open {
    type Rows = Works;
    const CELLS: usize = 3;

    fn window(&self, _: &Snapshot, q: Question) -> Span {
        let as_of = q.as_of();
        Span::new(as_of, as_of.plus(1)).unwrap_or(q.period)
    }

    fn each(&self, facts: &Snapshot, q: Question, mut found: impl FnMut(&Works, usize, Contribution)) {
        let as_of = q.as_of();
        let moment = self.window(facts, q);
        for part in facts.works.overlapping(moment) {
            for place in 0..part.len() {
                if part.raised_at[place] > as_of.ms() || part.until[place] <= as_of.ms() {
                    continue;
                }
                let number = WorkOrderId::unpack(part.number[place]);
                // As it stands since its last move, which spares a look at the way it came.
                let state = match part.state_since[place] <= as_of.ms() {
                    true => Some(WorkState::unpack(part.state[place])),
                    false => facts.state_at(number, as_of),
                };
                if !state.is_some_and(WorkState::is_open) {
                    continue;
                }
                // Of that instant, where they were changed.
                let fields = part.changed[place].then(|| facts.fields_at(number, as_of)).flatten();
                let asset = fields.map_or(part.asset[place], |fields| fields.asset);
                let estimated = fields.map_or(part.estimated_ms[place], |fields| fields.estimated_ms.pack());
                let mut adds = |cell, amount| found(part, place, Contribution { asset, at: as_of, cell, amount });
                adds(Self::COUNT, 1);
                match estimated {
                    NONE => adds(Self::UNESTIMATED, 1),
                    estimated => {
                        let left = (estimated - facts.spent_ms(number, as_of)).max(0);
                        adds(Self::MS, left);
                    }
                }
            }
        }
    }

    fn row(&self, facts: &Snapshot, q: Question, part: &Works, place: usize, amount: i64) -> TraceRow {
        let work = part.row(place);
        let asset = facts.fields_at(work.number, q.as_of()).map_or(work.asset, |fields| fields.asset);
        TraceRow {
            kind: RowKind::WorkOrder,
            id: work.number.0,
            asset: facts.tree.node(asset as usize).id,
            work_order: Some(work.number),
            at: work.raised_at,
            amount,
            whole: None,
            settled: None,
        }
    }
}

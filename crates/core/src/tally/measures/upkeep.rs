//! Cycles of upkeep that fell due, and those that were done in time: SMRP 5.4.14 (from memory), with a tenth of the interval as
//! grace, which is common practice.

use super::{Contribution, Measure};
use crate::{
    facts::{Cycles, Snapshot, columns::Part, packed::Packed},
    ground::{
        ids::CycleId,
        time::{Instant, Span},
    },
    tally::{
        Question,
        indicators::{RowKind, TraceRow},
    },
};

/// Cycles that were due in the period, of those that are done or have no time left; and those done in time.
pub(in crate::tally) struct Upkept;

impl Upkept {
    pub(in crate::tally) const DUE: usize = 0;
    pub(in crate::tally) const IN_TIME: usize = 1;
}

impl Measure for Upkept {
    type Rows = Cycles;
    const CELLS: usize = 2;

    fn window(&self, _: &Snapshot, q: Question) -> Span {
        q.period
    }

    fn each(
        &self,
        facts: &Snapshot,
        q: Question,
        counts: impl Fn(u32) -> bool,
        mut found: impl FnMut(&Cycles, usize, Contribution),
    ) {
        let due = facts.cycles.between((q.period.start(), CycleId(0)), (q.period.end(), CycleId(0)));
        for (part, places) in due {
            for place in places.filter(|place| counts(part.asset[*place])) {
                let Some(in_time) = facts.cycle_in_time(part, place, q.now) else { continue };
                let (asset, work, at) = (part.asset[place], part.work[place], Instant::unpack(part.due.of(place)));
                let mut adds = |cell| found(part, place, Contribution { asset, at, cell, amount: 1, work });
                adds(Self::DUE);
                if in_time {
                    adds(Self::IN_TIME);
                }
            }
        }
    }

    fn row(&self, facts: &Snapshot, _: Question, part: &Cycles, place: usize, one: Contribution) -> TraceRow {
        let cycle = part.row(place);
        TraceRow {
            kind: RowKind::Cycle,
            id: cycle.id.0,
            asset: facts.tree.node(cycle.asset as usize).id,
            work_order: cycle.work,
            at: cycle.due,
            amount: one.amount,
            whole: None,
            settled: None,
        }
    }
}

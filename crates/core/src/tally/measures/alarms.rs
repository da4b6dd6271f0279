//! Alarms that ask for a response: not those of rungs that only record, nor of silent meters. After IEC 62682 (from memory).

use super::{Contribution, Measure, NO_WORK};
use crate::{
    facts::{Alarms, Snapshot, columns::Part, packed::Packed},
    ground::{
        ids::AlarmId,
        time::{Instant, Span},
    },
    tally::{
        Question,
        indicators::{RowKind, TraceRow},
    },
    watch::alarms::AlarmKind,
    work::Verdict,
};

/// Alarms that began in the period: how many, those that led to work, those whose work was judged, and those of which it was said
/// that nothing was wrong.
pub(in crate::tally) struct Alarmed;

impl Alarmed {
    pub(in crate::tally) const COUNT: usize = 0;
    pub(in crate::tally) const LED: usize = 1;
    pub(in crate::tally) const JUDGED: usize = 2;
    pub(in crate::tally) const NOTHING: usize = 3;
}

impl Measure for Alarmed {
    type Rows = Alarms;
    const CELLS: usize = 4;

    fn window(&self, _: &Snapshot, q: Question) -> Span {
        q.period
    }

    fn each(
        &self,
        facts: &Snapshot,
        q: Question,
        counts: impl Fn(u32) -> bool,
        mut found: impl FnMut(&Alarms, usize, Contribution),
    ) {
        let none = Option::<Verdict>::None.pack();
        let verdict_of = |work: u32| facts.works.order(work).map_or(none, |(works, at)| works.verdict[at]);
        let limit = AlarmKind::Limit.pack();
        let alarms = facts.alarms.between((q.period.start(), AlarmId(0)), (q.period.end(), AlarmId(0)));
        for (part, places) in alarms {
            let is_counted =
                |place: &usize| part.kind[*place] == limit && part.asks[*place] && counts(part.asset[*place]);
            for place in places.filter(is_counted) {
                let (asset, work, at) =
                    (part.asset[place], part.work[place], Instant::unpack(part.entered_at.of(place)));
                let mut adds = |cell| found(part, place, Contribution { asset, at, cell, amount: 1, work });
                adds(Self::COUNT);
                if work == NO_WORK {
                    continue;
                }
                adds(Self::LED);
                let verdict = verdict_of(work);
                if verdict != none {
                    adds(Self::JUDGED);
                    if verdict == Verdict::NothingWrong.pack() {
                        adds(Self::NOTHING);
                    }
                }
            }
        }
    }

    fn row(&self, facts: &Snapshot, _: Question, part: &Alarms, place: usize, one: Contribution) -> TraceRow {
        let alarm = part.row(place);
        TraceRow {
            kind: RowKind::Alarm,
            id: alarm.id.0,
            asset: facts.tree.node(alarm.asset as usize).id,
            work_order: alarm.work,
            at: alarm.entered_at,
            amount: one.amount,
            whole: None,
            settled: None,
        }
    }
}

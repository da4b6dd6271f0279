//! The rows behind a figure, found by the passes that add it up.

use super::compute::{AskedRow, Pass};
use crate::{
    codes::failures::Effect,
    facts::{FailureFact, WorkFact},
    ground::time::{HOUR, Span},
    plant::downtime::DowntimeKind,
    tally::indicators::{Indicator, Input, Part, RowKind, RowUnit, TraceRow, Unit},
    work::entries::EntryKind,
};
use std::collections::HashMap;

impl Pass<'_> {
    /// Inputs without rows, and the parts whose rows add up.
    pub(super) fn trace(&self, asked: &AskedRow, indicator: Indicator) -> (Vec<Input>, Vec<Part>) {
        use Indicator as I;
        match indicator {
            I::CostTotal => (vec![], self.cost_parts(self.period_window(), &EntryKind::ALL)),
            I::CostLabour => (vec![], self.cost_parts(self.period_window(), &[EntryKind::Labour])),
            I::CostMaterial => (vec![], self.cost_parts(self.period_window(), &[EntryKind::Material])),
            I::CostService => (vec![], self.cost_parts(self.period_window(), &[EntryKind::Service])),
            I::CostTool => (vec![], self.cost_parts(self.period_window(), &[EntryKind::Tool])),
            I::CostYtd => (vec![], self.cost_parts(self.year_window(), &EntryKind::ALL)),
            I::CostLife => (vec![], self.cost_parts(self.life_window(), &EntryKind::ALL)),
            I::UnplannedDowntime => self.time_parts(asked, &[DowntimeKind::Unplanned]),
            I::PlannedDowntime => self.time_parts(asked, &[DowntimeKind::Planned]),
            I::ExternalDowntime => self.time_parts(asked, &[DowntimeKind::External]),
            I::Availability => self.time_parts(asked, &KINDS),
            I::Failures => (vec![], vec![self.failure_part("Failures", &[Effect::Critical, Effect::Degraded])]),
            I::Mtbf => {
                let (mut inputs, mut parts) = self.time_parts(asked, &KINDS);
                let running = asked.running_ms(self.snapshot, self.q);
                if let Some(ms) = running {
                    inputs.insert(
                        0,
                        Input {
                            name: "Operating time".into(),
                            value: ms as f64 / HOUR as f64,
                            unit: Unit::Hours,
                            note: "by the running-hours counter, along a straight line between its readings".into(),
                        },
                    );
                    inputs.truncate(1);
                    parts.clear();
                }
                parts.insert(0, self.failure_part("Critical failures", &[Effect::Critical]));
                (inputs, parts)
            }
            I::Mttr => (vec![], vec![self.restore_part()]),
            I::OpenWork => (vec![], vec![self.open_part("Open work orders", RowUnit::Count, |_| true)]),
            I::OpenHours => (vec![], vec![self.open_part("Hours still to do", RowUnit::Ms, |_| true)]),
            I::OpenWithoutEstimate => {
                let unestimated = |work: &WorkFact| work.estimated_ms.is_none();
                (vec![], vec![self.open_part("Open work orders without an estimate", RowUnit::Count, unestimated)])
            }
        }
    }

    fn cost_parts(&self, window: Span, kinds: &[EntryKind]) -> Vec<Part> {
        let mut by_kind: HashMap<EntryKind, Vec<TraceRow>> = HashMap::new();
        self.costs(window, |_, entry| {
            by_kind.entry(entry.kind).or_default().push(TraceRow {
                kind: RowKind::Entry,
                id: entry.id.0,
                asset: entry.asset,
                work_order: Some(entry.work),
                at: entry.at,
                amount: entry.cost.0,
                whole: None,
                settled: Some(entry.settled_at <= self.q.now),
            });
        });
        let found = kinds.iter().filter_map(|kind| Some((kind, by_kind.remove(kind)?)));
        found.map(|(kind, rows)| Part::of(part_name(*kind), RowUnit::Money, rows)).collect()
    }

    fn time_parts(&self, asked: &AskedRow, kinds: &[DowntimeKind]) -> (Vec<Input>, Vec<Part>) {
        let time = asked.asset.and_then(|asset| self.times().of(asset, asked.stood.as_deref()));
        let Some(time) = time else { return (vec![], vec![]) };
        let required = Input {
            name: "Required time".into(),
            value: time.sums().required as f64 / HOUR as f64,
            unit: Unit::Hours,
            note: "operating calendar within the asset's life, up to now".into(),
        };
        let parts = kinds.iter().map(|kind| {
            // A row may be counted in several pieces: cut by calendars, or around what overlaps it.
            let mut ms_of: HashMap<i64, i64> = HashMap::new();
            for piece in time.down.iter().filter(|piece| piece.kind == *kind) {
                *ms_of.entry(piece.row).or_default() += piece.span.ms();
            }
            let rows = ms_of.into_iter().filter_map(|(row, ms)| {
                let fact = self.snapshot.downtimes.get(row)?;
                let whole = self.snapshot.downtime_span(fact, self.q.now)?.ms();
                Some(TraceRow {
                    kind: RowKind::Downtime,
                    id: row,
                    asset: fact.asset,
                    work_order: fact.work,
                    at: fact.start,
                    amount: ms,
                    whole: (whole != ms).then_some(whole),
                    settled: None,
                })
            });
            let mut rows: Vec<TraceRow> = rows.collect();
            rows.sort_by_key(|row| (row.at, row.id));
            Part::of(&format!("{} downtime", capital(kind.word())), RowUnit::Ms, rows)
        });
        (vec![required], parts.collect())
    }

    fn failure_part(&self, name: &str, effects: &[Effect]) -> Part {
        let mut rows = Vec::new();
        self.failures(|_, failure| {
            if effects.contains(&failure.effect) {
                rows.push(failure_row(failure, 1));
            }
        });
        Part::of(name, RowUnit::Count, rows)
    }

    fn restore_part(&self) -> Part {
        let mut rows = Vec::new();
        self.restored(|_, failure, ms| rows.push(failure_row(failure, ms)));
        Part::of("Time to restore", RowUnit::Ms, rows)
    }

    fn open_part(&self, name: &str, unit: RowUnit, counts: impl Fn(&WorkFact) -> bool) -> Part {
        let mut rows = Vec::new();
        self.open_work(|_, work, open_ms| {
            if !counts(work) {
                return;
            }
            rows.push(TraceRow {
                kind: RowKind::WorkOrder,
                id: work.number.0,
                asset: work.asset,
                work_order: Some(work.number),
                at: work.raised_at,
                amount: if unit == RowUnit::Ms { open_ms } else { 1 },
                whole: if unit == RowUnit::Ms { work.estimated_ms.filter(|ms| *ms != open_ms) } else { None },
                settled: None,
            });
        });
        Part::of(name, unit, rows)
    }
}

const KINDS: [DowntimeKind; 3] = [DowntimeKind::Unplanned, DowntimeKind::Planned, DowntimeKind::External];

fn failure_row(failure: &FailureFact, amount: i64) -> TraceRow {
    TraceRow {
        kind: RowKind::Failure,
        id: failure.id.0,
        asset: failure.asset,
        work_order: Some(failure.work),
        at: failure.at,
        amount,
        whole: None,
        settled: None,
    }
}

fn part_name(kind: EntryKind) -> &'static str {
    match kind {
        EntryKind::Labour => "Labour",
        EntryKind::Material => "Material",
        EntryKind::Service => "Services",
        EntryKind::Tool => "Tools",
    }
}

fn capital(word: &str) -> String {
    let mut letters = word.chars();
    letters.next().map_or_else(String::new, |first| first.to_uppercase().chain(letters).collect())
}

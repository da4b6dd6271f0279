//! What the passes add up for one asset, and the figures that follow from it.

use crate::{
    facts::EntryFact,
    ground::time::{HOUR, Instant},
    tally::indicators::{Figure, Indicator},
    work::entries::EntryKind,
};

/// Which passes the asked indicators need.
#[derive(Default)]
pub(super) struct Needs {
    pub(super) cost: bool,
    pub(super) ytd: bool,
    pub(super) life: bool,
    pub(super) time: bool,
    pub(super) failures: bool,
    pub(super) restore: bool,
    pub(super) work: bool,
}

impl Needs {
    pub(super) fn of(&mut self, indicator: Indicator) {
        use Indicator as I;
        match indicator {
            I::CostTotal | I::CostLabour | I::CostMaterial | I::CostService | I::CostTool => self.cost = true,
            I::CostYtd => self.ytd = true,
            I::CostLife => self.life = true,
            I::UnplannedDowntime | I::PlannedDowntime | I::ExternalDowntime | I::Availability => self.time = true,
            I::Failures => self.failures = true,
            I::Mtbf => (self.time, self.failures) = (true, true),
            I::Mttr => self.restore = true,
            I::OpenWork | I::OpenHours | I::OpenWithoutEstimate => self.work = true,
        }
    }
}

/// Money by kind, settled and provisional apart.
#[derive(Clone, Default)]
pub(super) struct Money {
    by_kind: [(i64, i64); 4],
}

impl Money {
    pub(super) fn add(&mut self, entry: &EntryFact, now: Instant) {
        let (settled, provisional) = &mut self.by_kind[entry.kind as usize];
        *if entry.settled_at <= now { settled } else { provisional } += entry.cost.0;
    }

    fn figure(&self, kind: Option<EntryKind>) -> Figure {
        let asked = |index: usize| kind.is_none_or(|kind| kind as usize == index);
        let of_kinds = self.by_kind.iter().enumerate().filter(|(index, _)| asked(*index));
        let (settled, provisional) = of_kinds.fold((0, 0), |sum, (_, kind)| (sum.0 + kind.0, sum.1 + kind.1));
        Figure {
            value: Some((settled + provisional) as f64),
            settled: Some(settled),
            provisional: Some(provisional),
            ..Figure::default()
        }
    }
}

/// Milliseconds of required time and of each kind of downtime in it.
#[derive(Clone, Copy, Default)]
pub(super) struct TimeSums {
    pub(super) required: i64,
    pub(super) unplanned: i64,
    pub(super) planned: i64,
    pub(super) external: i64,
}

/// What the passes add up for one asset.
#[derive(Clone, Default)]
pub(super) struct Sums {
    pub(super) cost: Money,
    pub(super) ytd: Money,
    pub(super) life: Money,
    pub(super) time: Option<TimeSums>,
    pub(super) running_ms: Option<i64>,
    pub(super) critical: i64,
    pub(super) degraded: i64,
    pub(super) incipient: i64,
    pub(super) restored: i64,
    pub(super) restore_ms: i64,
    pub(super) open_work: i64,
    pub(super) open_ms: i64,
    pub(super) open_unestimated: i64,
}

impl Sums {
    pub(super) fn figure(&self, indicator: Indicator) -> Figure {
        use Indicator as I;
        let hours_down = |of: fn(&TimeSums) -> i64| self.time.map_or_else(Figure::default, |t| Figure::hours(of(&t)));
        match indicator {
            I::CostTotal => self.cost.figure(None),
            I::CostLabour => self.cost.figure(Some(EntryKind::Labour)),
            I::CostMaterial => self.cost.figure(Some(EntryKind::Material)),
            I::CostService => self.cost.figure(Some(EntryKind::Service)),
            I::CostTool => self.cost.figure(Some(EntryKind::Tool)),
            I::CostYtd => self.ytd.figure(None),
            I::CostLife => self.life.figure(None),
            I::UnplannedDowntime => hours_down(|t| t.unplanned),
            I::PlannedDowntime => hours_down(|t| t.planned),
            I::ExternalDowntime => hours_down(|t| t.external),
            I::Availability => self.time.map_or_else(Figure::default, |t| {
                let base = t.required - t.external;
                Figure::ratio((base - t.unplanned - t.planned) as f64, base as f64)
            }),
            I::Failures => {
                Figure { incipient: Some(self.incipient), ..Figure::of((self.critical + self.degraded) as f64) }
            }
            I::Mtbf => {
                let Some(operating) = self.operating_ms() else { return Figure::default() };
                let hours = operating as f64 / HOUR as f64;
                let none_yet = (self.critical == 0 && operating > 0).then_some(hours);
                Figure { at_least: none_yet, ..Figure::ratio(hours, self.critical as f64) }
            }
            I::Mttr => Figure::ratio(self.restore_ms as f64 / HOUR as f64, self.restored as f64),
            I::OpenWork => Figure::of(self.open_work as f64),
            I::OpenHours => Figure::hours(self.open_ms),
            I::OpenWithoutEstimate => Figure::of(self.open_unestimated as f64),
        }
    }

    fn operating_ms(&self) -> Option<i64> {
        let by_calendar = self.time.map(|t| t.required - t.unplanned - t.planned - t.external);
        self.running_ms.or(by_calendar)
    }
}

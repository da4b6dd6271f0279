//! Indicators from facts. One pass over the facts of a period serves every asked asset; the same pass, asked for one
//! asset, gives the rows behind its figure.

use super::{
    EntryFact, FailureFact, Snapshot, WorkFact,
    sums::{Needs, Sums},
    times::Times,
};
use crate::{
    assets::Basis,
    downtime::{DowntimeKind, total_ms, union},
    failures::Effect,
    ids::AssetId,
    indicators::{Figure, Indicator, Why},
    period,
    time::{Instant, Span},
};

/// What is asked of the tally.
#[derive(Debug, Clone, Copy)]
pub struct Question {
    pub period: Span,
    /// The asked instant: nothing later is known, and what is settled by then is settled.
    pub now: Instant,
    pub basis: Basis,
}

impl Question {
    /// The part of the period that has passed.
    pub(super) fn passed(&self) -> Option<Span> {
        Span::new(self.period.start(), self.period.end().min(self.now)).ok()
    }

    /// The instant whose open work counts: the last of a past period, or now, with what is raised at this very moment.
    fn as_of(&self) -> Instant {
        if self.period.end() < self.now { self.period.end().plus(-1) } else { self.now }
    }

    /// The instant whose tree an event counts in.
    fn tree_at(&self, event: Instant) -> Instant {
        match self.basis {
            Basis::AsWas => event,
            Basis::AsIs => self.now,
        }
    }
}

/// Figures of `indicators` for each of `assets`, in both orders. An unknown asset has figures without base.
#[must_use]
pub fn figures(snapshot: &Snapshot, assets: &[AssetId], indicators: &[Indicator], q: Question) -> Vec<Vec<Figure>> {
    let pass = Pass::new(snapshot, assets, q);
    let mut needs = Needs::default();
    indicators.iter().for_each(|indicator| needs.of(*indicator));
    let mut sums: Vec<Sums> = vec![Sums::default(); assets.len()];
    if needs.cost {
        pass.costs(pass.period_window(), |slot, entry| sums[slot].cost.add(entry, q.now));
    }
    if needs.ytd {
        pass.costs(pass.year_window(), |slot, entry| sums[slot].ytd.add(entry, q.now));
    }
    if needs.life {
        pass.costs(pass.life_window(), |slot, entry| sums[slot].life.add(entry, q.now));
    }
    if needs.failures {
        pass.failures(|slot, failure| match failure.effect {
            Effect::Critical => sums[slot].critical += 1,
            Effect::Degraded => sums[slot].degraded += 1,
            Effect::Incipient => sums[slot].incipient += 1,
        });
    }
    if needs.restore {
        pass.restored(|slot, _, ms| {
            sums[slot].restored += 1;
            sums[slot].restore_ms += ms;
        });
    }
    if needs.work {
        pass.open_work(|slot, _, open_ms| {
            sums[slot].open_work += 1;
            sums[slot].open_ms += open_ms;
        });
    }
    if needs.time {
        let times = pass.times();
        for (slot, asset) in assets.iter().enumerate() {
            if let Some(time) = times.of(*asset) {
                sums[slot].time = Some(time.sums());
                sums[slot].running_ms = q.passed().and_then(|window| snapshot.running_ms(*asset, window));
            }
        }
    }
    sums.iter().map(|sums| indicators.iter().map(|indicator| sums.figure(*indicator)).collect()).collect()
}

/// The figure of one indicator at one asset, with its inputs and the rows that add up to it. `None` for an unknown asset.
#[must_use]
pub fn why(snapshot: &Snapshot, asset: AssetId, indicator: Indicator, q: Question) -> Option<Why> {
    snapshot.tree.index(asset)?;
    let figure = figures(snapshot, &[asset], &[indicator], q)[0][0];
    let pass = Pass::new(snapshot, &[asset], q);
    let (inputs, parts) = pass.trace(asset, indicator);
    Some(Why { indicator, figure, inputs, parts })
}

const NO_SLOT: u32 = u32::MAX;

/// One question over one snapshot for some assets.
pub(super) struct Pass<'a> {
    pub(super) snapshot: &'a Snapshot,
    pub(super) q: Question,
    /// By dense index of the tree: the asset's place among the asked ones.
    slots: Vec<u32>,
}

impl<'a> Pass<'a> {
    fn new(snapshot: &'a Snapshot, assets: &[AssetId], q: Question) -> Self {
        let mut slots = vec![NO_SLOT; snapshot.tree.len()];
        for (slot, asset) in assets.iter().enumerate() {
            if let Some(index) = snapshot.tree.index(*asset) {
                slots[index] = u32::try_from(slot).unwrap_or(NO_SLOT);
            }
        }
        Self { snapshot, q, slots }
    }

    pub(super) fn period_window(&self) -> Span {
        self.q.period
    }

    pub(super) fn year_window(&self) -> Span {
        let last = self.q.period.end().plus(-1);
        let start = period::fiscal_year_start(last, &self.snapshot.zone, self.snapshot.fiscal_month);
        Span::new(start, self.q.period.end()).unwrap_or(self.q.period)
    }

    pub(super) fn life_window(&self) -> Span {
        Span::new(Instant::EARLIEST, self.q.period.end()).unwrap_or(self.q.period)
    }

    /// Calls `found` with the slot of each asked asset that `asset` counts for at that instant: once for each.
    fn for_line(&self, asset: AssetId, at: Instant, mut found: impl FnMut(usize)) {
        let Some(index) = self.snapshot.tree.index(asset) else { return };
        for above in self.snapshot.tree.line_at(index, self.q.tree_at(at)) {
            if self.slots[above] != NO_SLOT {
                found(self.slots[above] as usize);
            }
        }
    }

    pub(super) fn costs(&self, window: Span, mut found: impl FnMut(usize, &EntryFact)) {
        for entry in self.snapshot.entries.dated_in(window) {
            self.for_line(entry.asset, entry.at, |slot| found(slot, entry));
        }
    }

    pub(super) fn failures(&self, mut found: impl FnMut(usize, &FailureFact)) {
        for failure in self.snapshot.failures.dated_in(self.q.period) {
            self.for_line(failure.asset, failure.at, |slot| found(slot, failure));
        }
    }

    /// Critical failures that had downtime, with their time to restore: the union of the work's unplanned downtime,
    /// open downtime up to now.
    pub(super) fn restored(&self, mut found: impl FnMut(usize, &FailureFact, i64)) {
        let critical = |failure: &&FailureFact| failure.effect == Effect::Critical;
        for failure in self.snapshot.failures.dated_in(self.q.period).iter().filter(critical) {
            let down = self.snapshot.downtimes.of_work(failure.work);
            let unplanned = down.filter(|d| d.kind == DowntimeKind::Unplanned);
            let spans = union(unplanned.filter_map(|d| Span::new(d.start, d.end.min(self.q.now)).ok()).collect());
            if !spans.is_empty() {
                let ms = total_ms(&spans);
                self.for_line(failure.asset, failure.at, |slot| found(slot, failure, ms));
            }
        }
    }

    /// Open work as of the end of the period, with its estimated minus spent time, never below 0.
    pub(super) fn open_work(&self, mut found: impl FnMut(usize, &WorkFact, i64)) {
        let as_of = self.q.as_of();
        for work in self.snapshot.works.standing_at(as_of) {
            if !work.state_at(as_of).is_some_and(|state| state.is_open()) {
                continue;
            }
            let spent: i64 = match work.estimated_ms {
                None => 0,
                Some(_) => {
                    let entries = self.snapshot.entries.of_work(work.number);
                    entries.filter(|entry| entry.at <= as_of).map(|entry| entry.hours_ms).sum()
                }
            };
            let open_ms = (work.estimated_ms.unwrap_or(0) - spent).max(0);
            self.for_line(work.asset, as_of, |slot| found(slot, work, open_ms));
        }
    }

    pub(super) fn times(&self) -> Times<'a> {
        Times::new(self.snapshot, self.q)
    }
}

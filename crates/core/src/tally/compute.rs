//! Indicators from facts. One pass over the facts of a period serves every asked asset; the same pass, asked for one
//! asset, gives the rows behind its figure.

use super::{
    Places, Question,
    sums::{Needs, Sums},
    times::Times,
};
use crate::{
    codes::failures::Effect,
    facts::{EntryFact, FailureFact, Snapshot, WorkFact},
    ground::{
        ids::AssetId,
        period,
        spans::{total_ms, union},
        time::{Instant, Span},
    },
    plant::downtime::DowntimeKind,
    tally::indicators::{Figure, Indicator, Why},
};

/// Figures of `indicators` for each of `assets`, in both orders. An unknown asset has figures without base.
#[must_use]
pub fn figures(snapshot: &Snapshot, assets: &[AssetId], indicators: &[Indicator], q: Question) -> Vec<Vec<Figure>> {
    let asked: Vec<AskedRow> = assets.iter().map(|asset| AskedRow { asset: Some(*asset), stood: None }).collect();
    Pass::new(snapshot, Rows::of(snapshot, assets), q).figures(&asked, indicators)
}

/// Figures of `indicators` for each row, in both orders: what each came to while it stood in its place. What is no asset
/// (own, formerly here) has additive figures only.
#[must_use]
pub fn figures_of(snapshot: &Snapshot, places: &Places, indicators: &[Indicator], q: Question) -> Vec<Vec<Figure>> {
    let asked = asked_of(snapshot, places, q);
    Pass::new(snapshot, Rows::Places { places, only: None }, q).figures(&asked, indicators)
}

/// The figure of one indicator at one asset, with its inputs and the rows that add up to it. `None` for an unknown asset.
#[must_use]
pub fn why(snapshot: &Snapshot, asset: AssetId, indicator: Indicator, q: Question) -> Option<Why> {
    snapshot.tree.index(asset)?;
    let figure = figures(snapshot, &[asset], &[indicator], q)[0][0];
    let pass = Pass::new(snapshot, Rows::of(snapshot, &[asset]), q);
    let (inputs, parts) = pass.trace(&AskedRow { asset: Some(asset), stood: None }, indicator);
    Some(Why { indicator, figure, inputs, parts })
}

/// The same for one of the rows of a tally.
#[must_use]
pub fn why_of(snapshot: &Snapshot, places: &Places, place: usize, indicator: Indicator, q: Question) -> Option<Why> {
    let asked = asked_of(snapshot, places, q);
    let asked = asked.get(place)?;
    let pass = Pass::new(snapshot, Rows::Places { places, only: Some(place) }, q);
    let figure = pass.figures(std::slice::from_ref(asked), &[indicator])[0][0];
    let (inputs, parts) = pass.trace(asked, indicator);
    Some(Why { indicator, figure, inputs, parts })
}

fn asked_of(snapshot: &Snapshot, places: &Places, q: Question) -> Vec<AskedRow> {
    let stood = places.stood(snapshot, q).into_iter().enumerate();
    let asked = stood.map(|(place, stood)| {
        let asset = places.index(place).map(|index| snapshot.tree.node(index).id);
        AskedRow { asset, stood: Some(stood) }
    });
    asked.collect()
}

/// One row of an answer.
pub(super) struct AskedRow {
    /// None for what is no asset.
    pub(super) asset: Option<AssetId>,
    /// When it stood in its place; always without it.
    pub(super) stood: Option<Vec<Span>>,
}

impl AskedRow {
    /// Running time by the asset's counters, while it stood there.
    pub(super) fn running_ms(&self, snapshot: &Snapshot, q: Question) -> Option<i64> {
        let (asset, window) = (self.asset?, q.passed()?);
        match &self.stood {
            None => snapshot.running_ms(asset, window),
            Some(stood) => {
                let parts = stood.iter().filter_map(|span| snapshot.running_ms(asset, span.clip(window)?));
                parts.fold(None, |sum, ms| Some(sum.unwrap_or(0) + ms))
            }
        }
    }
}

const NO_SLOT: u32 = u32::MAX;

/// Which rows something on an asset counts for.
pub(super) enum Rows<'a> {
    /// Assets, wherever they stood: by dense index of the tree the place among the asked ones.
    Assets(Vec<u32>),
    /// Rows of a tally; all of them, or one that then is the first.
    Places { places: &'a Places, only: Option<usize> },
}

impl Rows<'_> {
    fn of(snapshot: &Snapshot, assets: &[AssetId]) -> Self {
        let mut slots = vec![NO_SLOT; snapshot.tree.len()];
        for (slot, asset) in assets.iter().enumerate() {
            if let Some(index) = snapshot.tree.index(*asset) {
                slots[index] = u32::try_from(slot).unwrap_or(NO_SLOT);
            }
        }
        Self::Assets(slots)
    }
}

/// One question over one snapshot for some rows.
pub(super) struct Pass<'a> {
    pub(super) snapshot: &'a Snapshot,
    pub(super) q: Question,
    rows: Rows<'a>,
}

impl<'a> Pass<'a> {
    fn new(snapshot: &'a Snapshot, rows: Rows<'a>, q: Question) -> Self {
        Self { snapshot, q, rows }
    }

    fn figures(&self, asked: &[AskedRow], indicators: &[Indicator]) -> Vec<Vec<Figure>> {
        let q = self.q;
        let mut needs = Needs::default();
        indicators.iter().for_each(|indicator| needs.of(*indicator));
        let mut sums: Vec<Sums> = vec![Sums::default(); asked.len()];
        if needs.cost {
            self.costs(self.period_window(), |slot, entry| sums[slot].cost.add(entry, q.now));
        }
        if needs.ytd {
            self.costs(self.year_window(), |slot, entry| sums[slot].ytd.add(entry, q.now));
        }
        if needs.life {
            self.costs(self.life_window(), |slot, entry| sums[slot].life.add(entry, q.now));
        }
        if needs.failures {
            self.failures(|slot, failure| match failure.effect {
                Effect::Critical => sums[slot].critical += 1,
                Effect::Degraded => sums[slot].degraded += 1,
                Effect::Incipient => sums[slot].incipient += 1,
            });
        }
        if needs.restore {
            self.restored(|slot, _, ms| {
                sums[slot].restored += 1;
                sums[slot].restore_ms += ms;
            });
        }
        if needs.work {
            self.open_work(|slot, work, open_ms| {
                sums[slot].open_work += 1;
                sums[slot].open_ms += open_ms;
                sums[slot].open_unestimated += i64::from(work.estimated_ms.is_none());
            });
        }
        if needs.time {
            let times = self.times();
            for (sums, asked) in sums.iter_mut().zip(asked) {
                let time = asked.asset.and_then(|asset| times.of(asset, asked.stood.as_deref()));
                sums.time = time.map(|time| time.sums());
                sums.running_ms = asked.running_ms(self.snapshot, q);
            }
        }
        sums.iter().map(|sums| indicators.iter().map(|indicator| sums.figure(*indicator)).collect()).collect()
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

    /// Calls `found` with each asked row that something on `asset` counts for at that instant: once for each.
    fn for_line(&self, asset: AssetId, at: Instant, mut found: impl FnMut(usize)) {
        let Some(index) = self.snapshot.tree.index(asset) else { return };
        let line = self.snapshot.tree.line_at(index, self.q.tree_at(at));
        match &self.rows {
            Rows::Assets(slots) => {
                for above in line {
                    if slots[above] != NO_SLOT {
                        found(slots[above] as usize);
                    }
                }
            }
            Rows::Places { places, only } => {
                let line: Vec<usize> = line.collect();
                places.each(&line, |place| match only {
                    None => found(place),
                    Some(only) if *only == place => found(0),
                    Some(_) => {}
                });
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
            let spans = union(unplanned.filter_map(|d| self.snapshot.downtime_span(d, self.q.now)).collect());
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

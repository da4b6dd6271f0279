//! The facts a tally is computed over, as of one change of the database.

use super::{Assignment, DowntimeFact, EntryFact, Facts, FailureFact, WorkFact};
use crate::{
    ground::{
        calendar::Calendar,
        ids::{AssetId, CalendarId, MeterId},
        time::{HOUR, Instant, Span},
    },
    plant::assets::Tree,
    watch::{
        meters::Meter,
        readings::{Exchange, Reading, risen},
    },
};
use jiff::tz::TimeZone;
use std::{collections::HashMap, sync::Arc};

/// A counter whose hours are its asset's operating time.
#[derive(Debug, Clone, PartialEq)]
pub struct RunningCounter {
    pub meter: MeterId,
    /// By time, as hours since the first.
    pub readings: Vec<(Instant, f64)>,
    /// The newest of them, as it was read.
    pub last: Option<Reading>,
    /// How often its readings had been revised when these were read.
    pub revised: i64,
    /// When it was retired; [`Instant::LATEST`] while it is not.
    pub until: Instant,
}

impl RunningCounter {
    /// Takes a newer reading; exchanges of the device ascend.
    pub fn push(&mut self, rules: &Meter, reading: Reading, exchanges: &[Exchange]) {
        let so_far = self.readings.last().map_or(0.0, |last| last.1);
        let more = self.last.map_or(0.0, |last| risen(rules, last, reading, exchanges).max(0.0));
        self.readings.push((reading.at, so_far + more));
        self.last = Some(reading);
    }

    /// From its first reading to its last, or to its end.
    fn covers(&self) -> Option<Span> {
        let (first, last) = (self.readings.first()?.0, self.readings.last()?.0);
        Span::new(first, last.min(self.until)).ok()
    }
}

/// Everything the indicators are made of. Clones share what is large until one of them changes.
#[derive(Debug, Clone)]
pub struct Snapshot {
    /// The database's change counter that this is true for.
    pub change: i64,
    pub zone: TimeZone,
    /// Month, 1 to 12, in which the fiscal year starts.
    pub fiscal_month: i8,
    pub tree: Arc<Tree>,
    /// By dense index of the tree.
    pub assignments: Vec<Vec<Assignment>>,
    pub calendars: HashMap<CalendarId, Calendar>,
    /// Running-hours counters, by asset: one at a time, in the order they came.
    pub running: HashMap<AssetId, Vec<RunningCounter>>,
    pub entries: Facts<EntryFact>,
    pub downtimes: Facts<DowntimeFact>,
    pub failures: Facts<FailureFact>,
    pub works: Facts<WorkFact>,
}

impl Default for Snapshot {
    fn default() -> Self {
        Self {
            change: 0,
            zone: TimeZone::UTC,
            fiscal_month: 1,
            tree: Arc::default(),
            assignments: Vec::new(),
            calendars: HashMap::new(),
            running: HashMap::new(),
            entries: Facts::default(),
            downtimes: Facts::default(),
            failures: Facts::default(),
            works: Facts::default(),
        }
    }
}

impl Snapshot {
    /// Puts a counter in the place it had, or among those of its asset.
    pub fn put_running(&mut self, asset: AssetId, counter: RunningCounter) {
        self.remove_running(counter.meter);
        let of_asset = self.running.entry(asset).or_default();
        of_asset.push(counter);
        of_asset.sort_by_key(|counter| (counter.readings.first().map(|first| first.0), counter.meter));
    }

    /// A counter counts no more.
    pub fn remove_running(&mut self, meter: MeterId) {
        drop(self.take_running(meter));
    }

    /// Takes a counter away, to put it back with more.
    pub fn take_running(&mut self, meter: MeterId) -> Option<RunningCounter> {
        let of_asset = self.running.iter_mut().find_map(|(asset, counters)| {
            let place = counters.iter().position(|counter| counter.meter == meter)?;
            Some((*asset, counters.remove(place), counters.is_empty()))
        });
        let (asset, counter, was_last) = of_asset?;
        if was_last {
            self.running.remove(&asset);
        }
        Some(counter)
    }

    /// Running time in the window by the asset's counters, in milliseconds: read between readings along a straight line,
    /// and nothing before the first or after the last of each. Where one follows another, each counts from where the one
    /// before it ended. `None` without a counter that was read in or around the window.
    #[must_use]
    pub fn running_ms(&self, asset: AssetId, window: Span) -> Option<i64> {
        let mut running: Option<i64> = None;
        let mut counted_to = Instant::EARLIEST;
        for counter in self.running.get(&asset)? {
            let Some(covers) = counter.covers() else { continue };
            let part = Span::new(covers.start().max(counted_to), covers.end()).ok().and_then(|part| part.clip(window));
            if let Some(part) = part {
                let hours = hours_at(&counter.readings, part.end()) - hours_at(&counter.readings, part.start());
                running = Some(running.unwrap_or(0) + (hours * HOUR as f64).round() as i64);
            }
            counted_to = counted_to.max(covers.end());
        }
        running
    }

    /// When recorded downtime counts: open downtime up to `now`, and none beyond the life of its asset.
    #[must_use]
    pub fn downtime_span(&self, fact: &DowntimeFact, now: Instant) -> Option<Span> {
        let life = self.tree.node(self.tree.index(fact.asset)?).life;
        Span::new(fact.start, fact.end.min(now)).ok()?.clip(life)
    }
}

fn hours_at(readings: &[(Instant, f64)], at: Instant) -> f64 {
    let after = readings.partition_point(|(when, _)| *when <= at);
    let Some(&(before_at, before)) = after.checked_sub(1).and_then(|i| readings.get(i)) else {
        return readings.first().map_or(0.0, |r| r.1);
    };
    let Some(&(after_at, later)) = readings.get(after) else { return before };
    let share = at.since(before_at) as f64 / after_at.since(before_at) as f64;
    before + (later - before) * share
}

//! The facts a tally is computed over, as of one change of the database.

use super::{Assignment, DowntimeFact, EntryFact, Facts, FailureFact, WorkFact};
use crate::{
    assets::Tree,
    calendar::Calendar,
    ids::{AssetId, CalendarId},
    time::{HOUR, Instant, Span},
};
use jiff::tz::TimeZone;
use std::collections::HashMap;

/// Everything the indicators are made of.
#[derive(Debug, Clone)]
pub struct Snapshot {
    /// The database's change counter that this is true for.
    pub change: i64,
    pub zone: TimeZone,
    /// Month, 1 to 12, in which the fiscal year starts.
    pub fiscal_month: i8,
    pub tree: Tree,
    /// By dense index of the tree.
    pub assignments: Vec<Vec<Assignment>>,
    pub calendars: HashMap<CalendarId, Calendar>,
    /// Running-hours counters: readings by time, as hours since the first.
    pub running: HashMap<AssetId, Vec<(Instant, f64)>>,
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
            tree: Tree::default(),
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
    /// Running time in the window by the asset's counter, in milliseconds: read between readings along a straight line,
    /// and nothing before the first or after the last. `None` without a counter that was read in or around the window.
    #[must_use]
    pub fn running_ms(&self, asset: AssetId, window: Span) -> Option<i64> {
        let readings = self.running.get(&asset).filter(|r| r.len() >= 2)?;
        let (first, last) = (readings.first()?.0, readings.last()?.0);
        let covered = Span::new(first, last).ok()?.clip(window)?;
        let hours = hours_at(readings, covered.end()) - hours_at(readings, covered.start());
        Some((hours * HOUR as f64).round() as i64)
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

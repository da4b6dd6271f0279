//! What a replay is asked: over which history, and what is assumed of work.

use crate::{
    ground::{
        severity::Severity,
        time::{DAY, Instant, Span},
    },
    watch::{
        limits::{
            chatter::Chatter,
            warnings::{Past, Terms},
        },
        meters::Meter,
        readings::{Columns, Series},
    },
    work::Verdict,
};
use std::ops::Range;

/// How a work order ended, where that is known.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Completion {
    pub at: Instant,
    pub how: Completed,
}

/// See [`Completion`].
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Completed {
    Done(Option<Verdict>),
    /// A decision: what it was raised for stays quiet.
    Dropped,
}

/// What a replay takes as given.
#[derive(Debug, Clone, PartialEq)]
pub struct Assumptions {
    /// How long imagined work stays open; an hour at the least.
    pub work_lasts_ms: i64,
    /// When and how the first, second, … work ended, where that is known; work beyond the list lasts as above.
    pub completions: Vec<Completion>,
    /// Spells in which the meter was shelved, with the reason.
    pub shelves: Vec<(Span, String)>,
    /// Spells in which the asset was out of use, with the reason.
    pub out_of_use: Vec<(Span, String)>,
    /// The least severity that counts as a warning.
    pub least: Severity,
    /// How long before a failure a warning may come, and how long after a warning a failure may.
    pub horizon_ms: i64,
    /// Spells nearer together than this are one warning.
    pub calm_ms: i64,
    /// A warning shorter than this is too late.
    pub lead_ms: i64,
    pub chatter: Chatter,
}

impl Default for Assumptions {
    /// Work of 14 days; alert and above; 30 days of horizon, 7 of calm, 1 of lead.
    fn default() -> Self {
        Self {
            work_lasts_ms: 14 * DAY,
            completions: Vec::new(),
            shelves: Vec::new(),
            out_of_use: Vec::new(),
            least: Severity::Alert,
            horizon_ms: 30 * DAY,
            calm_ms: 7 * DAY,
            lead_ms: DAY,
            chatter: Chatter::default(),
        }
    }
}

impl Assumptions {
    /// How warnings are judged.
    #[must_use]
    pub fn terms(&self, until: Instant) -> Terms {
        Terms { horizon_ms: self.horizon_ms, calm_ms: self.calm_ms, lead_ms: self.lead_ms, until }
    }
}

/// What a ladder is run over.
#[derive(Debug, Clone)]
pub struct History<'a> {
    pub meter: &'a Meter,
    /// In order of time, one an instant.
    pub readings: &'a Columns,
    /// For a counter, the same values as they go on across exchanges and rollovers.
    pub through: Option<&'a [f64]>,
    /// Places of those that are looked at.
    pub part: Range<usize>,
    /// What suspends the ladder: readings of another meter, below this value.
    pub suspended: Option<(&'a Columns, f64)>,
    /// Nothing is dated earlier: what an older reading enters, it enters then.
    pub since: Instant,
    /// The end of history.
    pub until: Instant,
    pub past: &'a Past,
}

impl<'a> History<'a> {
    /// All of some readings, up to an instant.
    #[must_use]
    pub fn of(meter: &'a Meter, readings: &'a Columns, until: Instant, past: &'a Past) -> Self {
        let (part, since) = (0..readings.len(), Instant::EARLIEST);
        Self { meter, readings, through: None, part, suspended: None, since, until, past }
    }

    pub(super) fn series(&self) -> Series<'a> {
        Series { columns: self.readings, through: self.through }
    }

    /// The first instant from `at` on at which the ladder is not suspended, as far as is known.
    pub(super) fn runs_from(&self, at: Instant) -> Option<Instant> {
        let Some((other, below)) = self.suspended else { return Some(at) };
        other.runs_from(at, below)
    }

    /// When the newest of the readings looked at by then was taken.
    pub(super) fn newest_reading(&self, at: Instant) -> Option<Instant> {
        let up_to = self.readings.at()[self.part.clone()].partition_point(|one| *one <= at.ms());
        up_to.checked_sub(1).map(|place| Instant::from_ms(self.readings.at()[self.part.start + place]))
    }
}

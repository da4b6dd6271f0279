//! What a replay finds.

use crate::{
    ground::time::Instant,
    watch::limits::{
        RungSide,
        warnings::{FailureVerdict, JudgedFailure, JudgedWarning, middle},
    },
};
use serde::Serialize;

/// A rung that was entered, until it was left; open at the end of history.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WouldBeAlarm {
    pub rung: usize,
    pub entered_at: Instant,
    pub left_at: Option<Instant>,
}

/// Work that would have been raised.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WouldBeWork {
    /// The rung that raised it.
    pub rung: usize,
    /// The worst that raised or joined it.
    pub worst: usize,
    pub raised_at: Instant,
    pub done_at: Instant,
}

/// A stretch at or above the least severity, of one side.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Spell {
    pub side: RungSide,
    pub from: Instant,
    pub to: Option<Instant>,
}

/// What a ladder would have done.
#[derive(Debug, Clone, PartialEq)]
pub struct Replay {
    pub readings: usize,
    pub alarms: Vec<WouldBeAlarm>,
    /// Time at each severity as the worst of the ladder, least first.
    pub in_severity_ms: [i64; 4],
    pub work: Vec<WouldBeWork>,
    pub joined: usize,
    pub held: usize,
    /// Entries that were chattering.
    pub chattering: usize,
    pub spells: Vec<Spell>,
    /// In order of time.
    pub warnings: Vec<JudgedWarning>,
    pub failures: Vec<JudgedFailure>,
    /// How often warnings were nuisance.
    pub nuisance: usize,
    /// Warnings that averted a failure.
    pub averted: usize,
}

impl Replay {
    /// How many failures came to that.
    #[must_use]
    pub fn failures_of(&self, verdict: FailureVerdict) -> usize {
        self.failures.iter().filter(|failure| failure.verdict == verdict).count()
    }

    /// How many failures were warned of in time.
    #[must_use]
    pub fn caught(&self) -> usize {
        self.failures_of(FailureVerdict::Caught)
    }

    /// How many were warned of too late to act.
    #[must_use]
    pub fn too_late(&self) -> usize {
        self.failures_of(FailureVerdict::TooLate)
    }

    /// How many failures were not.
    #[must_use]
    pub fn missed(&self) -> usize {
        self.failures_of(FailureVerdict::Missed)
    }

    /// The middle of the warning times of what was caught.
    #[must_use]
    pub fn median_warning_ms(&self) -> Option<i64> {
        median_warning_ms(&self.failures)
    }
}

/// The middle of the warning times of what was caught.
pub(crate) fn median_warning_ms(failures: &[JudgedFailure]) -> Option<i64> {
    let caught = failures.iter().filter(|failure| failure.verdict == FailureVerdict::Caught);
    let mut times: Vec<i64> = caught.filter_map(|failure| failure.warning_ms).collect();
    times.sort_unstable();
    middle(&times)
}

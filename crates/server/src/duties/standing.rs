//! How each duty stands: when it was last done, and what went wrong.

use serde::Serialize;
use std::{
    collections::BTreeMap,
    sync::{Mutex, PoisonError},
    time::{Duration, Instant as Moment},
};
use tally_core::ground::time::Instant;
use utoipa::ToSchema;

/// One duty.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct DutyStanding {
    pub duty: &'static str,
    /// When it was last done without a fault; none before the first time.
    pub last_finished: Option<Instant>,
    /// It was not done for much longer than it should take.
    pub is_late: bool,
    /// What went wrong the last time.
    pub error: Option<String>,
}

#[derive(Debug)]
struct Known {
    every: Duration,
    /// Of the machine's clock, which nobody sets.
    since: Moment,
    last_finished: Option<Instant>,
    error: Option<String>,
}

/// All duties that were begun.
#[derive(Debug, Default)]
pub struct Duties(Mutex<BTreeMap<&'static str, Known>>);

/// A duty is late after so many of its intervals, and this long at the least.
const LATE_AFTER: u32 = 10;
const LATE_AT_LEAST: Duration = Duration::from_secs(60);

impl Duties {
    fn with<T>(&self, look: impl FnOnce(&mut BTreeMap<&'static str, Known>) -> T) -> T {
        look(&mut self.0.lock().unwrap_or_else(PoisonError::into_inner))
    }

    pub(super) fn begin(&self, duty: &'static str, every: Duration) {
        let known = Known { every, since: Moment::now(), last_finished: None, error: None };
        self.with(|duties| duties.insert(duty, known));
    }

    pub(super) fn note(&self, duty: &'static str, done: Result<(), String>, now: Instant) {
        self.with(|duties| {
            let Some(known) = duties.get_mut(duty) else { return };
            known.error = done.err();
            if known.error.is_none() {
                (known.since, known.last_finished) = (Moment::now(), Some(now));
            }
        });
    }

    /// How they stand, by name.
    #[must_use]
    pub fn standing(&self) -> Vec<DutyStanding> {
        self.with(|duties| {
            let standing = duties.iter().map(|(duty, known)| DutyStanding {
                duty,
                last_finished: known.last_finished,
                is_late: known.since.elapsed() > (known.every * LATE_AFTER).max(LATE_AT_LEAST),
                error: known.error.clone(),
            });
            standing.collect()
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_duty_that_fails_says_so_until_it_is_done_again() {
        let duties = Duties::default();
        duties.begin("a", Duration::from_secs(1));
        let now = Instant::from_ms(5);
        duties.note("a", Ok(()), now);
        duties.note("a", Err("torn".into()), now.plus(9));
        let told = duties.standing().remove(0);
        assert_eq!((told.error.as_deref(), told.last_finished, told.is_late), (Some("torn"), Some(now), false));
        duties.note("a", Ok(()), now.plus(10));
        assert_eq!(
            (duties.standing()[0].error.clone(), duties.standing()[0].last_finished),
            (None, Some(now.plus(10)))
        );
    }
}

//! How long work may stand in a state, and who is told when it stands longer.

use crate::{
    ground::time::{DAY, Instant},
    work::{WaitingFor, WorkState},
};
use serde::{Deserialize, Serialize};

/// How long work may stay in a state, maybe only some of it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StateLimit {
    pub state: WorkState,
    pub days: u16,
    /// Only work that waits for this.
    #[serde(default)]
    pub waiting_for: Option<WaitingFor>,
    /// Only work without an agreed start.
    #[serde(default)]
    pub undated: bool,
    /// Only work of this rank, 1 to 5.
    #[serde(default)]
    pub rank: Option<u8>,
    /// Only work of the crew of this code.
    #[serde(default)]
    pub crew: Option<String>,
}

/// Where a work order stands, as limits on states look at it.
#[derive(Debug, Clone, Copy)]
pub struct InState<'a> {
    pub state: WorkState,
    pub waiting_for: Option<WaitingFor>,
    pub is_dated: bool,
    pub rank: u8,
    pub crew: Option<&'a str>,
}

impl StateLimit {
    /// The states that a limit can be set on: those that work leaves again.
    #[must_use]
    pub fn states() -> Vec<WorkState> {
        WorkState::ALL.into_iter().filter(|state| !state.is_over()).collect()
    }

    /// Whether it can be set; what is at fault otherwise, and why.
    ///
    /// # Errors
    /// The field, and the reason.
    pub fn check(&self) -> Result<(), (&'static str, &'static str)> {
        if self.state.is_over() {
            return Err(("state", "work stays there: no limit can be set on it"));
        }
        if self.days == 0 {
            return Err(("days", "a limit has at least one day"));
        }
        if self.rank.is_some_and(|rank| !(1..=5).contains(&rank)) {
            return Err(("rank", "must be 1 to 5"));
        }
        Ok(())
    }

    /// A limit on all work of a state.
    #[must_use]
    pub fn of(state: WorkState, days: u16) -> Self {
        Self { state, days, waiting_for: None, undated: false, rank: None, crew: None }
    }

    /// The first settings: planning 10 days, waiting for parts 21, ready without a date 14, done or returned 5.
    #[must_use]
    pub fn first_settings() -> Vec<Self> {
        vec![
            Self::of(WorkState::Planning, 10),
            Self { waiting_for: Some(WaitingFor::Parts), ..Self::of(WorkState::Waiting, 21) },
            Self { undated: true, ..Self::of(WorkState::Ready, 14) },
            Self::of(WorkState::Done, 5),
            Self::of(WorkState::Returned, 5),
        ]
    }

    /// Whether it is a limit on work that stands so.
    #[must_use]
    pub fn applies_to(&self, work: InState) -> bool {
        self.state == work.state
            && self.waiting_for.is_none_or(|reason| work.waiting_for == Some(reason))
            && !(self.undated && work.is_dated)
            && self.rank.is_none_or(|rank| work.rank == rank)
            && self.crew.as_deref().is_none_or(|crew| work.crew == Some(crew))
    }

    /// How long work may stay, in milliseconds.
    #[must_use]
    pub fn allowed_ms(&self) -> i64 {
        i64::from(self.days) * DAY
    }

    /// How long work has stood as this limit counts it, in milliseconds, by its steps in order up to `now`: stays in the state count
    /// as one unless more than `gap_days` lay between two of them, so that a minute elsewhere, or a move that is taken back, resets
    /// nothing; *done* and *returned* are one state. Rework begins anew. The time between two stays does not count.
    #[must_use]
    pub fn stood_ms(&self, steps: &[StateStep], now: Instant, gap_days: u16) -> i64 {
        let (mut stood, mut end, mut next_stay) = (0, now, None::<Instant>);
        for (place, step) in steps.iter().enumerate().rev() {
            if self.counts(step) {
                if next_stay.is_some_and(|next| next.since(end) > i64::from(gap_days) * DAY) {
                    break;
                }
                stood += end.since(step.at);
                next_stay = Some(step.at);
            }
            let before = place.checked_sub(1).map(|before| steps[before].to);
            if step.to == WorkState::UnderWay && before.is_some_and(is_finished) {
                break;
            }
            end = step.at;
        }
        stood
    }

    fn counts(&self, step: &StateStep) -> bool {
        let is_there = step.to == self.state || is_finished(step.to) && is_finished(self.state);
        is_there && self.waiting_for.is_none_or(|reason| step.waiting_for == Some(reason))
    }
}

/// Done, or returned with a question: one state to limits.
fn is_finished(state: WorkState) -> bool {
    matches!(state, WorkState::Done | WorkState::Returned)
}

/// A step of work on its way through the states, as limits on states look at it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct StateStep {
    pub at: Instant,
    pub to: WorkState,
    pub waiting_for: Option<WaitingFor>,
}

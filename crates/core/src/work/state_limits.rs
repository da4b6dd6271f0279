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
    pub since: Instant,
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

    /// Whether work has stood longer in its state than this limit lets it.
    #[must_use]
    pub fn is_exceeded(&self, work: InState, now: Instant) -> bool {
        self.state == work.state
            && self.waiting_for.is_none_or(|reason| work.waiting_for == Some(reason))
            && !(self.undated && work.is_dated)
            && self.rank.is_none_or(|rank| work.rank == rank)
            && self.crew.as_deref().is_none_or(|crew| work.crew == Some(crew))
            && now.since(work.since) > i64::from(self.days) * DAY
    }
}

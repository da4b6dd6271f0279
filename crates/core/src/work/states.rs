//! Kinds and states of work, what it waits for, and what it says of the alarm that raised it.

use serde::{Deserialize, Serialize};

/// Kind of work. Source: EN 13306 (maintenance types).
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum WorkKind {
    CorrectiveImmediate,
    CorrectiveDeferred,
    ConditionBased,
    Predetermined,
    Inspection,
    Improvement,
}

crate::kept_as_words!(WorkKind);

impl WorkKind {
    /// All kinds.
    pub const ALL: [Self; 6] = [
        Self::CorrectiveImmediate,
        Self::CorrectiveDeferred,
        Self::ConditionBased,
        Self::Predetermined,
        Self::Inspection,
        Self::Improvement,
    ];

    /// Whether it is done because something failed or is about to: open, it is a risk.
    #[must_use]
    pub fn is_risk(self) -> bool {
        self.is_corrective() || self == Self::ConditionBased
    }

    /// Whether it mends something that failed.
    #[must_use]
    pub fn is_corrective(self) -> bool {
        matches!(self, Self::CorrectiveImmediate | Self::CorrectiveDeferred)
    }
}

/// Where a work order stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum WorkState {
    Raised,
    Planning,
    Waiting,
    Ready,
    Scheduled,
    UnderWay,
    Done,
    Returned,
    Closed,
    Dropped,
}

crate::kept_as_words!(WorkState);

impl WorkState {
    /// All states, in the order of the work.
    pub const ALL: [Self; 10] = [
        Self::Raised,
        Self::Planning,
        Self::Waiting,
        Self::Ready,
        Self::Scheduled,
        Self::UnderWay,
        Self::Done,
        Self::Returned,
        Self::Closed,
        Self::Dropped,
    ];

    /// Before done: it can still be joined, and counts as open work.
    #[must_use]
    pub fn is_open(self) -> bool {
        !matches!(self, Self::Done | Self::Returned | Self::Closed | Self::Dropped)
    }

    /// Over for good: nothing is added to it any more.
    #[must_use]
    pub fn is_over(self) -> bool {
        matches!(self, Self::Closed | Self::Dropped)
    }

    /// As people say it.
    #[must_use]
    pub fn word(self) -> &'static str {
        match self {
            Self::Raised => "raised",
            Self::Planning => "planning",
            Self::Waiting => "waiting",
            Self::Ready => "ready",
            Self::Scheduled => "scheduled",
            Self::UnderWay => "under way",
            Self::Done => "done",
            Self::Returned => "returned",
            Self::Closed => "closed",
            Self::Dropped => "dropped",
        }
    }
}

/// What work waits for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum WaitingFor {
    Parts,
    Outage,
    People,
    Other,
}

crate::kept_as_words!(WaitingFor);

/// The verdict of who did the work on the alarm that raised it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Verdict {
    FoundIt,
    NothingWrong,
    Other,
}

crate::kept_as_words!(Verdict);

//! What work needs before it is closed.

use crate::work::{Verdict, WorkKind};

/// What stands in the way of closing.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum NotClosable {
    #[error("corrective work needs a failure report with at least the problem")]
    NoProblem,
    #[error(
        "work that found it needs a failure report with at least the problem: degraded or incipient, where nothing broke"
    )]
    NothingFound,
    #[error("downtime {0} has no end yet")]
    DowntimeOpen(i64),
    #[error("the check sheet {0:?} is not finished: finish it, or leave it out")]
    CheckOpen(String),
}

impl NotClosable {
    /// The field at fault.
    #[must_use]
    pub fn field(&self) -> &'static str {
        match self {
            Self::NoProblem | Self::NothingFound => "failure.problem",
            Self::DowntimeOpen(_) => "downtime",
            Self::CheckOpen(_) => "checks",
        }
    }
}

/// Whether closing asks for a failure report: corrective work does, and condition-based work that found it.
#[must_use]
pub fn asks_for_failure(kind: WorkKind, verdict: Option<Verdict>) -> bool {
    kind.is_corrective() || (kind == WorkKind::ConditionBased && verdict == Some(Verdict::FoundIt))
}

/// Whether a finished work order may be closed.
///
/// # Errors
/// [`NotClosable`], the first reason found.
pub fn check_close(
    kind: WorkKind,
    verdict: Option<Verdict>,
    has_problem: bool,
    open_downtime: Option<i64>,
    open_check: Option<String>,
) -> Result<(), NotClosable> {
    if asks_for_failure(kind, verdict) && !has_problem {
        return Err(if kind.is_corrective() { NotClosable::NoProblem } else { NotClosable::NothingFound });
    }
    open_downtime.map_or(Ok(()), |id| Err(NotClosable::DowntimeOpen(id)))?;
    open_check.map_or(Ok(()), |title| Err(NotClosable::CheckOpen(title)))
}

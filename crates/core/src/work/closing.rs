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
    #[error("visit {0} is neither done nor skipped")]
    VisitOpen(usize),
}

impl NotClosable {
    /// The field at fault.
    #[must_use]
    pub fn field(&self) -> &'static str {
        match self {
            Self::NoProblem | Self::NothingFound => "failure.problem",
            Self::DowntimeOpen(_) => "downtime",
            Self::CheckOpen(_) => "checks",
            Self::VisitOpen(_) => "visits",
        }
    }
}

/// Whether closing asks for a failure report: corrective work does, and condition-based work that found it.
#[must_use]
pub fn asks_for_failure(kind: WorkKind, verdict: Option<Verdict>) -> bool {
    kind.is_corrective() || (kind == WorkKind::ConditionBased && verdict == Some(Verdict::FoundIt))
}

/// What an order has, and what of it is still open.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct ToClose {
    /// A failure report says at least the problem.
    pub has_problem: bool,
    /// A downtime without an end.
    pub downtime: Option<i64>,
    /// The title of a check sheet that is not finished.
    pub check: Option<String>,
    /// A visit of its round that is neither done nor skipped, counted from 1.
    pub visit: Option<usize>,
}

/// All that stands in the way of closing.
#[must_use]
pub fn missing(kind: WorkKind, verdict: Option<Verdict>, open: ToClose) -> Vec<NotClosable> {
    let unsaid = asks_for_failure(kind, verdict) && !open.has_problem;
    let unsaid = unsaid.then(|| if kind.is_corrective() { NotClosable::NoProblem } else { NotClosable::NothingFound });
    let downtime = open.downtime.map(NotClosable::DowntimeOpen);
    let check = open.check.map(NotClosable::CheckOpen);
    let visit = open.visit.map(NotClosable::VisitOpen);
    [unsaid, downtime, check, visit].into_iter().flatten().collect()
}

/// Whether a finished work order may be closed.
///
/// # Errors
/// [`NotClosable`], the first reason found.
pub fn check_close(kind: WorkKind, verdict: Option<Verdict>, open: ToClose) -> Result<(), NotClosable> {
    missing(kind, verdict, open).into_iter().next().map_or(Ok(()), Err)
}

//! Failure reports: what failed, and how much that mattered.

use crate::ground::ids::CodeId;
use serde::{Deserialize, Serialize};

/// What a failure did to the asset's job. Source: ISO 14224 (failure impact).
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Effect {
    /// The job stopped.
    Critical,
    /// The job went on, worse.
    Degraded,
    /// The job was not touched yet.
    Incipient,
}

crate::kept_as_words!(Effect);

/// How a failure was noticed. Source: ISO 14224 (detection method), own selection.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Noticed {
    Operation,
    Inspection,
    ConditionMonitoring,
    Maintenance,
    Chance,
}

crate::kept_as_words!(Noticed);

/// A chosen code and the code it stands below.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Chosen {
    pub id: CodeId,
    pub parent: Option<CodeId>,
}

/// A choice of codes that does not hang together.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum CodingError {
    #[error("choose the problem before its cause")]
    CauseWithoutProblem,
    #[error("choose the cause before its remedy")]
    RemedyWithoutCause,
    #[error("this cause does not belong to the problem")]
    CauseElsewhere,
    #[error("this remedy does not belong to the cause")]
    RemedyElsewhere,
}

impl CodingError {
    /// The field at fault.
    #[must_use]
    pub fn field(&self) -> &'static str {
        match self {
            Self::CauseWithoutProblem | Self::CauseElsewhere => "cause",
            Self::RemedyWithoutCause | Self::RemedyElsewhere => "remedy",
        }
    }
}

/// Whether the cause belongs to the problem and the remedy to the cause.
///
/// # Errors
/// [`CodingError`] for the first that does not.
pub fn check_codes(problem: Option<Chosen>, cause: Option<Chosen>, remedy: Option<Chosen>) -> Result<(), CodingError> {
    if let Some(cause) = cause {
        let problem = problem.ok_or(CodingError::CauseWithoutProblem)?;
        if cause.parent != Some(problem.id) {
            return Err(CodingError::CauseElsewhere);
        }
    }
    if let Some(remedy) = remedy {
        let cause = cause.ok_or(CodingError::RemedyWithoutCause)?;
        if remedy.parent != Some(cause.id) {
            return Err(CodingError::RemedyElsewhere);
        }
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn code(id: i64, parent: i64) -> Option<Chosen> {
        Some(Chosen { id: CodeId(id), parent: (parent > 0).then_some(CodeId(parent)) })
    }

    #[rstest]
    #[case::all_three(code(1, 0), code(2, 1), code(3, 2), Ok(()))]
    #[case::problem_alone(code(1, 0), None, None, Ok(()))]
    #[case::cause_of_another_problem(code(1, 0), code(2, 9), None, Err(CodingError::CauseElsewhere))]
    #[case::remedy_of_another_cause(code(1, 0), code(2, 1), code(3, 1), Err(CodingError::RemedyElsewhere))]
    #[case::cause_first(None, code(2, 1), None, Err(CodingError::CauseWithoutProblem))]
    #[case::remedy_before_cause(code(1, 0), None, code(3, 2), Err(CodingError::RemedyWithoutCause))]
    fn codes_hang_together(
        #[case] problem: Option<Chosen>,
        #[case] cause: Option<Chosen>,
        #[case] remedy: Option<Chosen>,
        #[case] expected: Result<(), CodingError>,
    ) {
        assert_eq!(check_codes(problem, cause, remedy), expected);
    }
}

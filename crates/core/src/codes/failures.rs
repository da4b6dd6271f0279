//! Failure reports: what failed, and how much that mattered.

use super::codebooks::CodeLevel;
use crate::{
    access::refusal::{Refusal, said},
    ground::{
        ids::{CodeId, FailureId},
        status::Status,
        time::Instant,
    },
    work::WorkState,
};
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

/// What failed, and how it is coded: one report for each asset of an order. Putting it again for the same asset replaces it.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NewFailure {
    /// The report that is corrected, maybe in its asset; without it that of the asset, or a new one.
    #[serde(default)]
    pub id: Option<FailureId>,
    /// Code of the failed asset; the order's where none is given.
    pub asset: Option<String>,
    /// Code of the codebook; the one of the failed asset's class where none is given.
    pub codebook: Option<String>,
    pub problem: Option<String>,
    pub cause: Option<String>,
    pub remedy: Option<String>,
    pub failed_at: Instant,
    pub noticed: Option<Noticed>,
    pub effect: Effect,
    /// When it was reported, if that was earlier.
    #[serde(default)]
    pub at: Option<Instant>,
    /// Why it is corrected; needed on closed work.
    #[serde(default)]
    pub reason: String,
}

impl NewFailure {
    /// Whether it may be reported at `now`; the codes it names, problem, cause and remedy.
    ///
    /// # Errors
    /// [`Refusal::Field`].
    pub fn check(&self, now: Instant) -> Result<[Option<&str>; 3], Refusal> {
        if self.failed_at > now {
            return Err(Refusal::field("failed_at", "lies in the future"));
        }
        let codes = [&self.problem, &self.cause, &self.remedy];
        Ok(codes.map(|code| code.as_deref().map(str::trim).filter(|code| !code.is_empty())))
    }
}

/// Whether what failed on work of that state may still be told. On closed work codes are corrected with a reason; on dropped
/// work they stay.
///
/// # Errors
/// [`Refusal::Conflict`] on dropped work, [`Refusal::Field`] for a correction that says no reason.
pub fn may_report_failure(state: WorkState, reason: &str) -> Result<(), Refusal> {
    match state {
        WorkState::Dropped => Err(Refusal::Conflict("this work is dropped; its codes stay as they are".into())),
        WorkState::Closed => said("reason", reason, "this work is closed: say why its codes are corrected").map(drop),
        _ => Ok(()),
    }
}

/// A code that was found by what a report names, and the code it stands below.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Chosen {
    pub id: CodeId,
    pub parent: Option<CodeId>,
    pub status: Status,
}

/// Whether the codes may be chosen, each below the one before it; a retired one may only stay where the report `had` it.
///
/// # Errors
/// [`Refusal::Field`] for the first that does not fit.
pub fn check_codes([problem, cause, remedy]: [Option<Chosen>; 3], had: &[CodeId]) -> Result<(), Refusal> {
    let levels =
        [(CodeLevel::Problem, None, problem), (CodeLevel::Cause, problem, cause), (CodeLevel::Remedy, cause, remedy)];
    for (level, above, chosen) in levels {
        let Some(chosen) = chosen else { continue };
        let refused = |reason: String| Err(Refusal::field(level.word(), reason));
        if chosen.status == Status::Retired && !had.contains(&chosen.id) {
            return refused(format!("this {} is retired", level.word()));
        }
        let Some(level_above) = level.above() else { continue };
        match above {
            None => return refused(format!("choose the {} before its {}", level_above.word(), level.word())),
            Some(above) if chosen.parent != Some(above.id) => {
                return refused(format!("this {} does not belong to the {}", level.word(), level_above.word()));
            }
            Some(_) => {}
        }
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn code(id: i64, parent: i64) -> Option<Chosen> {
        Some(Chosen { id: CodeId(id), parent: (parent > 0).then_some(CodeId(parent)), status: Status::Active })
    }

    fn retired(id: i64) -> Option<Chosen> {
        code(id, 0).map(|code| Chosen { status: Status::Retired, ..code })
    }

    #[rstest]
    #[case::all_three([code(1, 0), code(2, 1), code(3, 2)], "")]
    #[case::problem_alone([code(1, 0), None, None], "")]
    #[case::cause_of_another_problem([code(1, 0), code(2, 9), None], "cause: this cause does not belong to the problem")]
    #[case::remedy_of_another_cause(
        [code(1, 0), code(2, 1), code(3, 1)],
        "remedy: this remedy does not belong to the cause"
    )]
    #[case::cause_first([None, code(2, 1), None], "cause: choose the problem before its cause")]
    #[case::remedy_before_cause([code(1, 0), None, code(3, 2)], "remedy: choose the cause before its remedy")]
    #[case::retired([retired(1), None, None], "problem: this problem is retired")]
    #[case::retired_since([retired(7), None, None], "")]
    fn codes_hang_together(#[case] codes: [Option<Chosen>; 3], #[case] said: &str) {
        let refused = check_codes(codes, &[CodeId(7)]).err().map_or_else(String::new, |refused| refused.to_string());
        assert_eq!(refused, said);
    }

    #[test]
    fn a_report_names_codes_and_nothing_that_is_still_to_fail() {
        let report = serde_json::json!({"failed_at": "2026-03-01T00:00:00Z", "effect": "critical", "problem": " LEAK ", "cause": " "});
        let report: NewFailure = serde_json::from_value(report).unwrap();
        assert_eq!(report.check(report.failed_at), Ok([Some("LEAK"), None, None]));
        let early = report.check(report.failed_at.plus(-1)).unwrap_err();
        assert_eq!(early.to_string(), "failed_at: lies in the future");
        assert_eq!(may_report_failure(WorkState::Done, ""), Ok(()));
        assert_eq!(may_report_failure(WorkState::Closed, "the seal was worn, not cut"), Ok(()));
        let closed = may_report_failure(WorkState::Closed, " ").unwrap_err().to_string();
        assert_eq!(closed, "reason: this work is closed: say why its codes are corrected");
        let over = may_report_failure(WorkState::Dropped, "twice").unwrap_err().to_string();
        assert_eq!(over, "this work is dropped; its codes stay as they are");
    }
}

//! Decisions on risk: what a rung hands up to a person, and what they answer.

use crate::{
    access::{
        refusal::{Refusal, said},
        roles::Role,
    },
    ground::{
        ids::PersonId,
        time::{DAY, Instant},
    },
};
use serde::{Deserialize, Serialize};

/// What whoever decides on a risk answers.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum RiskAnswer {
    /// The work is done now.
    DoNow,
    /// It runs on until a date; the rung is quiet until then unless a worse one is entered.
    RunOn,
    /// The asset is stopped.
    Stop,
}

crate::kept_as_words!(RiskAnswer);

/// An answer as it is given.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NewRiskAnswer {
    pub answer: RiskAnswer,
    /// Until when it runs on.
    #[serde(default)]
    pub until: Option<Instant>,
    /// Why; needed for running on and for a stop.
    #[serde(default)]
    pub reason: String,
}

/// Longer than anybody lets a warning stand with open eyes.
const MOST_DAYS: i64 = 366;

impl NewRiskAnswer {
    /// Whether it may be given at `now`.
    ///
    /// # Errors
    /// [`Refusal::Field`].
    pub fn check(&self, now: Instant) -> Result<(), Refusal> {
        match (self.answer, self.until) {
            (RiskAnswer::RunOn, None) => return Err(Refusal::field("until", "say until when it runs on")),
            (RiskAnswer::RunOn, Some(until)) if until <= now => {
                return Err(Refusal::field("until", "must lie ahead"));
            }
            (RiskAnswer::RunOn, Some(until)) if until > now.plus(MOST_DAYS * DAY) => {
                return Err(Refusal::field("until", "is more than a year ahead; decide again before that"));
            }
            (RiskAnswer::DoNow | RiskAnswer::Stop, Some(_)) => {
                return Err(Refusal::field("until", "is only for running on"));
            }
            _ => {}
        }
        if self.answer != RiskAnswer::DoNow {
            said("reason", &self.reason, "say why")?;
        }
        Ok(())
    }
}

/// Whether somebody may answer what was handed up to `asked`: that person, and an administrator for one who is away.
#[must_use]
pub fn may_answer(role: Role, person: PersonId, asked: PersonId) -> bool {
    person == asked || role == Role::Administrator
}

/// Whether a decision that is open since `asked_at` has been open for longer than the days that are set.
#[must_use]
pub fn is_overdue(asked_at: Instant, within_days: u16, now: Instant) -> bool {
    now.since(asked_at) > i64::from(within_days) * DAY
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn now() -> Instant {
        Instant::parse("2026-03-01T08:00:00Z").unwrap()
    }

    fn given(answer: RiskAnswer, days: Option<i64>, reason: &str) -> NewRiskAnswer {
        NewRiskAnswer { answer, until: days.map(|days| now().plus(days * DAY)), reason: reason.into() }
    }

    #[rstest]
    #[case::no_end(given(RiskAnswer::RunOn, None, "spare on its way"), "until")]
    #[case::over(given(RiskAnswer::RunOn, Some(0), "spare on its way"), "until")]
    #[case::for_ever(given(RiskAnswer::RunOn, Some(400), "spare on its way"), "until")]
    #[case::no_reason(given(RiskAnswer::RunOn, Some(5), " "), "reason")]
    #[case::a_stop_has_no_end(given(RiskAnswer::Stop, Some(5), "it shakes"), "until")]
    #[case::a_stop_has_a_reason(given(RiskAnswer::Stop, None, ""), "reason")]
    fn what_makes_no_sense_is_named(#[case] answer: NewRiskAnswer, #[case] at_fault: &str) {
        assert!(matches!(answer.check(now()), Err(Refusal::Field { field, .. }) if field == at_fault));
    }

    #[test]
    fn an_answer_is_given_by_whom_it_is_asked_of() {
        assert_eq!(given(RiskAnswer::DoNow, None, "").check(now()), Ok(()));
        assert_eq!(given(RiskAnswer::RunOn, Some(5), "spare on its way").check(now()), Ok(()));
        let (asked, other) = (PersonId(1), PersonId(2));
        assert!(may_answer(Role::Manager, asked, asked) && !may_answer(Role::Engineer, other, asked));
        assert!(may_answer(Role::Administrator, other, asked));
    }

    #[test]
    fn two_days_are_over_after_two_days() {
        assert!(!is_overdue(now(), 2, now().plus(2 * DAY)));
        assert!(is_overdue(now(), 2, now().plus(2 * DAY + 1)));
    }
}

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
            (RiskAnswer::RunOn, None) => return Err(Refusal::field("until", "enter the date until which it runs on")),
            (RiskAnswer::RunOn, Some(until)) if until <= now => {
                return Err(Refusal::field("until", "must be in the future"));
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

/// What ends a decision to run on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum RunOnEnd {
    /// Whoever may decide withdrew or changed it.
    Withdrawn,
    /// The rung that it was about was left, or its alarm ended otherwise.
    Left,
    /// The limits got a new version.
    LimitsChanged,
    /// A worse rung was entered.
    Worse,
    /// The work was done, closed or dropped.
    WorkOver,
    /// Its date has come.
    Date,
}

/// What happened since it was decided that something runs on; each instant none where it did not happen.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct RunOnSince {
    pub decided_at: Instant,
    pub until: Instant,
    pub withdrawn_at: Option<Instant>,
    /// When the alarm that it was about ended.
    pub left_at: Option<Instant>,
    /// That alarm ended because the limits got a new version.
    pub limits_changed: bool,
    /// When a worse rung of the same side was entered.
    pub worse_at: Option<Instant>,
    /// When the work was done, closed or dropped.
    pub work_over_at: Option<Instant>,
}

impl RunOnSince {
    /// When the decision ended or ends, and by what: the first of all that ends one. It ends at the latest on its date; what
    /// happened before it was decided ends it at once.
    #[must_use]
    pub fn end(&self) -> (Instant, RunOnEnd) {
        let left = if self.limits_changed { RunOnEnd::LimitsChanged } else { RunOnEnd::Left };
        let ends = [
            (self.withdrawn_at, RunOnEnd::Withdrawn),
            (self.work_over_at, RunOnEnd::WorkOver),
            (self.left_at, left),
            (self.worse_at, RunOnEnd::Worse),
            (Some(self.until), RunOnEnd::Date),
        ];
        let ends = ends.into_iter().filter_map(|(at, end)| Some((at?.max(self.decided_at), end)));
        ends.min_by_key(|(at, _)| *at).unwrap_or((self.until, RunOnEnd::Date))
    }
}

/// The withdrawal of a decision to run on, as it is given.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct NewWithdrawal {
    /// Why.
    pub reason: String,
}

impl NewWithdrawal {
    /// The reason, as it is kept.
    ///
    /// # Errors
    /// [`Refusal::Field`] without one.
    pub fn check(&self) -> Result<&str, Refusal> {
        said("reason", &self.reason, "say why")
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

    /// rules.md §3: what ends it, each alone and the first of several.
    #[rstest]
    #[case::nothing_but_its_date(RunOnSince { ..decided() }, (20, RunOnEnd::Date))]
    #[case::the_rung_is_left(RunOnSince { left_at: day(5), ..decided() }, (5, RunOnEnd::Left))]
    #[case::new_limits(RunOnSince { left_at: day(5), limits_changed: true, ..decided() }, (5, RunOnEnd::LimitsChanged))]
    #[case::worse(RunOnSince { worse_at: day(6), left_at: day(7), ..decided() }, (6, RunOnEnd::Worse))]
    #[case::done(RunOnSince { work_over_at: day(4), left_at: day(7), ..decided() }, (4, RunOnEnd::WorkOver))]
    #[case::withdrawn(RunOnSince { withdrawn_at: day(3), work_over_at: day(4), ..decided() }, (3, RunOnEnd::Withdrawn))]
    #[case::too_late_to_matter(RunOnSince { left_at: day(30), ..decided() }, (20, RunOnEnd::Date))]
    #[case::it_was_over_before(RunOnSince { left_at: day(-5), ..decided() }, (0, RunOnEnd::Left))]
    fn a_decision_to_run_on_ends_with_the_first_that_ends_one(
        #[case] since: RunOnSince,
        #[case] (days, end): (i64, RunOnEnd),
    ) {
        assert_eq!(since.end(), (now().plus(days * DAY), end));
    }

    fn day(n: i64) -> Option<Instant> {
        Some(now().plus(n * DAY))
    }

    fn decided() -> RunOnSince {
        RunOnSince {
            decided_at: now(),
            until: now().plus(20 * DAY),
            withdrawn_at: None,
            left_at: None,
            limits_changed: false,
            worse_at: None,
            work_over_at: None,
        }
    }

    #[test]
    fn two_days_are_over_after_two_days() {
        assert!(!is_overdue(now(), 2, now().plus(2 * DAY)));
        assert!(is_overdue(now(), 2, now().plus(2 * DAY + 1)));
    }
}

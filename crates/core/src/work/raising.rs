//! Work as a person raises it, and changes to what it says and plans.

use super::{
    attaching::{NewAttachment, check_attach},
    moves::may_start_in,
    states::{WorkKind, WorkState},
};
use crate::{
    access::{
        refusal::{Refusal, said, said_at},
        roles::Role,
    },
    ground::{ids::WorkOrderId, time::Instant},
};
use serde::{Deserialize, Serialize};

/// Work as a person raises it.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NewWork {
    pub title: String,
    #[serde(default)]
    pub text: String,
    pub kind: WorkKind,
    /// Code of the asset.
    pub asset: String,
    /// 1 (worst) to 5.
    pub risk_rank: u8,
    pub target_start: Option<Instant>,
    pub target_finish: Option<Instant>,
    pub crew: Option<String>,
    pub assignee: Option<String>,
    pub estimated_hours: Option<f64>,
    #[serde(default = "raised")]
    pub state: WorkState,
    /// When it was raised, if that was earlier.
    pub raised_at: Option<Instant>,
    /// Code of the job sheet that it follows; what is not said here comes from it.
    pub job_sheet: Option<String>,
    /// Other work that it has to do with.
    #[serde(default)]
    pub linked: Vec<WorkOrderId>,
    /// The order that it follows on from.
    pub follows: Option<WorkOrderId>,
    /// Codes of other assets, on each of which the same is raised.
    #[serde(default)]
    pub also_on: Vec<String>,
    /// Photos and papers that were sent before.
    #[serde(default)]
    pub attachments: Vec<NewAttachment>,
}

fn raised() -> WorkState {
    WorkState::Raised
}

/// Changes to what work says and plans; a field left out stays as it is.
#[derive(Debug, Clone, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WorkChange {
    pub title: Option<String>,
    pub text: Option<String>,
    pub kind: Option<WorkKind>,
    pub risk_rank: Option<u8>,
    pub crew: Option<String>,
    pub assignee: Option<String>,
    pub estimated_hours: Option<f64>,
    pub target_start: Option<Instant>,
    pub target_finish: Option<Instant>,
    pub scheduled_start: Option<Instant>,
    pub scheduled_end: Option<Instant>,
    /// Code of the job sheet that it follows, in its newest version.
    pub job_sheet: Option<String>,
    /// The number that another system has for it.
    pub reference: Option<String>,
    /// What there is no more.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub clear: Vec<Clearable>,
    /// Since when it is so, if that was earlier: kind, rank, crew, assignee, estimate and dates keep what they were before.
    pub at: Option<Instant>,
}

/// What an order can do without.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Clearable {
    /// With its department.
    Crew,
    Assignee,
    EstimatedHours,
    TargetStart,
    TargetFinish,
    /// Its scheduled start and end.
    Schedule,
    JobSheet,
}

const NO_TITLE: &str = "say in a few words what is to be done";

/// More hours than anybody plans for one order.
const MOST_HOURS: f64 = 100_000.0;

/// Other work that new work is linked to at once.
const MOST_LINKED: usize = 20;

/// Other assets on which the same is raised at once.
const MOST_ALSO: usize = 200;

impl NewWork {
    /// Whether somebody of that role may raise it at `now`; when it was raised.
    ///
    /// # Errors
    /// [`Refusal::Field`], and [`Refusal::NotTheirs`] for a state the role may not raise work in.
    pub fn check(&self, role: Role, now: Instant) -> Result<Instant, Refusal> {
        said("title", &self.title, NO_TITLE)?;
        check_rank(self.risk_rank)?;
        check_hours(self.estimated_hours)?;
        if !may_start_in(self.state, role) {
            let (role, state) = (role.word(), self.state.word());
            return Err(Refusal::NotTheirs(format!("a {role} may not raise work as {state}")));
        }
        if self.linked.len() > MOST_LINKED {
            return Err(Refusal::field("linked", format!("at most {MOST_LINKED} at once")));
        }
        if self.also_on.len() > MOST_ALSO {
            return Err(Refusal::field("also_on", format!("at most {MOST_ALSO} at once")));
        }
        if !self.attachments.is_empty() {
            check_attach(role, false, 0, &self.attachments)?;
        }
        said_at("raised_at", self.raised_at, now)
    }
}

impl WorkChange {
    /// Whether it makes sense at `now` for work whose fields are what they are since an instant; since when it is so.
    ///
    /// # Errors
    /// [`Refusal::Field`].
    pub fn check(&self, since: Instant, now: Instant) -> Result<Instant, Refusal> {
        if let Some(title) = &self.title {
            said("title", title, NO_TITLE)?;
        }
        self.risk_rank.map_or(Ok(()), check_rank)?;
        check_hours(self.estimated_hours)?;
        if let (Some(start), Some(end)) = (self.scheduled_start, self.scheduled_end)
            && start >= end
        {
            return Err(Refusal::field("scheduled_end", "must lie after scheduled_start"));
        }
        for clear in &self.clear {
            let (field, is_given) = match clear {
                Clearable::Crew => ("crew", self.crew.is_some()),
                Clearable::Assignee => ("assignee", self.assignee.is_some()),
                Clearable::EstimatedHours => ("estimated_hours", self.estimated_hours.is_some()),
                Clearable::TargetStart => ("target_start", self.target_start.is_some()),
                Clearable::TargetFinish => ("target_finish", self.target_finish.is_some()),
                Clearable::JobSheet => ("job_sheet", self.job_sheet.is_some()),
                Clearable::Schedule => ("scheduled_start", self.scheduled_start.or(self.scheduled_end).is_some()),
            };
            if is_given {
                return Err(Refusal::field(field, "is given and taken away at once"));
            }
        }
        match said_at("at", self.at, now)? {
            at if self.at.is_some() && at < since => {
                Err(Refusal::field("at", "lies before the last change, or before it was raised"))
            }
            at => Ok(at),
        }
    }
}

/// Whether there is such a rank.
///
/// # Errors
/// [`Refusal::Field`].
pub fn check_rank(rank: u8) -> Result<(), Refusal> {
    if (1..=5).contains(&rank) { Ok(()) } else { Err(Refusal::field("risk_rank", "must be 1 (worst) to 5")) }
}

/// Whether so many hours can be estimated for one order.
///
/// # Errors
/// [`Refusal::Field`].
pub fn check_hours(hours: Option<f64>) -> Result<(), Refusal> {
    match hours {
        Some(hours) if !(hours.is_finite() && (0.0..=MOST_HOURS).contains(&hours)) => {
            Err(Refusal::field("estimated_hours", "must be a number of hours, 0 or more"))
        }
        _ => Ok(()),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::ground::time::DAY;
    use rstest::rstest;

    fn now() -> Instant {
        Instant::parse("2026-03-01T08:00:00Z").unwrap()
    }

    fn new() -> NewWork {
        let new =
            serde_json::json!({"title": "Look at it", "kind": "corrective_deferred", "asset": "A", "risk_rank": 3});
        serde_json::from_value(new).unwrap()
    }

    fn field(refused: Refusal) -> String {
        match refused {
            Refusal::Field { field, .. } => field,
            other => panic!("{other}"),
        }
    }

    #[rstest]
    #[case::title(NewWork { title: " ".into(), ..new() }, "title")]
    #[case::rank_zero(NewWork { risk_rank: 0, ..new() }, "risk_rank")]
    #[case::rank_six(NewWork { risk_rank: 6, ..new() }, "risk_rank")]
    #[case::hours(NewWork { estimated_hours: Some(-1.0), ..new() }, "estimated_hours")]
    #[case::hours_without_end(NewWork { estimated_hours: Some(f64::INFINITY), ..new() }, "estimated_hours")]
    #[case::links(NewWork { linked: vec![WorkOrderId(1); 21], ..new() }, "linked")]
    #[case::future(NewWork { raised_at: Some(now().plus(DAY)), ..new() }, "raised_at")]
    fn what_is_wrong_is_named(#[case] new: NewWork, #[case] at_fault: &str) {
        assert_eq!(field(new.check(Role::Planner, now()).unwrap_err()), at_fault);
    }

    #[test]
    fn it_is_raised_now_unless_it_was_earlier() {
        assert_eq!(new().check(Role::Requester, now()), Ok(now()));
        let earlier = NewWork { raised_at: Some(now().plus(-5)), ..new() };
        assert_eq!(earlier.check(Role::Requester, now()), Ok(now().plus(-5)));
    }

    #[test]
    fn a_requester_plans_nothing() {
        let planned = NewWork { state: WorkState::Planning, ..new() };
        let said = planned.check(Role::Requester, now()).unwrap_err().to_string();
        assert_eq!(said, "a requester may not raise work as planning");
        assert!(planned.check(Role::Planner, now()).is_ok());
    }

    #[rstest]
    #[case(WorkChange { title: Some(String::new()), ..WorkChange::default() }, "title")]
    #[case(WorkChange { risk_rank: Some(9), ..WorkChange::default() }, "risk_rank")]
    #[case(WorkChange { estimated_hours: Some(f64::NAN), ..WorkChange::default() }, "estimated_hours")]
    #[case(WorkChange { scheduled_start: Some(now()), scheduled_end: Some(now()), ..WorkChange::default() }, "scheduled_end")]
    #[case(WorkChange { crew: Some("a".into()), clear: vec![Clearable::Crew], ..WorkChange::default() }, "crew")]
    #[case(WorkChange { scheduled_end: Some(now()), clear: vec![Clearable::Schedule], ..WorkChange::default() }, "scheduled_start")]
    #[case(WorkChange { at: Some(now().plus(DAY)), ..WorkChange::default() }, "at")]
    #[case(WorkChange { at: Some(now().plus(-11)), ..WorkChange::default() }, "at")]
    fn a_change_that_makes_no_sense_is_named(#[case] change: WorkChange, #[case] at_fault: &str) {
        let since = now().plus(-10);
        assert_eq!(field(change.check(since, now()).unwrap_err()), at_fault);
        assert_eq!(WorkChange::default().check(since, now()), Ok(now()));
        let earlier = WorkChange { at: Some(since), ..WorkChange::default() };
        assert_eq!(earlier.check(since, now()), Ok(since));
    }
}

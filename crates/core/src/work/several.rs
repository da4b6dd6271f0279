//! The same done to several orders at once, and put back.

use super::{
    moves::{Mover, check_move},
    moving::StateMove,
    raising::{Clearable, WorkChange},
    states::{WaitingFor, WorkKind, WorkState},
};
use crate::{
    access::refusal::Refusal,
    ground::{ids::WorkOrderId, time::Instant},
};
use serde::{Deserialize, Serialize};

/// Orders that are changed at once.
pub const MOST_AT_ONCE: usize = 500;

/// The same change or move of several orders.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Several {
    pub orders: Vec<WorkOrderId>,
    pub change: Option<WorkChange>,
    pub to: Option<StateMove>,
}

impl Several {
    /// Whether there is something to be done, to orders that are named once each; whether each takes it is asked one by one.
    ///
    /// # Errors
    /// [`Refusal::Field`].
    pub fn check(&self) -> Result<(), Refusal> {
        if self.orders.is_empty() {
            return Err(Refusal::field("orders", "choose the work first"));
        }
        if self.orders.len() > MOST_AT_ONCE {
            return Err(Refusal::field("orders", format!("at most {MOST_AT_ONCE} at once")));
        }
        let mut once = self.orders.clone();
        once.sort_unstable();
        once.dedup();
        if once.len() < self.orders.len() {
            return Err(Refusal::field("orders", "names the same work twice"));
        }
        if self.change.is_none() && self.to.is_none() {
            return Err(Refusal::field("change", "say what is to change, or where the work is to go"));
        }
        for (field, is_given) in self.change.iter().flat_map(|change| {
            [
                ("change.title", change.title.is_some()),
                ("change.text", change.text.is_some()),
                ("change.reference", change.reference.is_some()),
                ("change.job_sheet", change.job_sheet.is_some() || change.clear.contains(&Clearable::JobSheet)),
            ]
        }) {
            if is_given {
                return Err(Refusal::field(field, "each order has its own"));
            }
        }
        if self.to.as_ref().is_some_and(|to| !to.readings.is_empty()) {
            return Err(Refusal::field("to.readings", "are taken of one order at a time"));
        }
        Ok(())
    }
}

/// What of an order several are changed in at once.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Placed {
    pub state: WorkState,
    pub waiting_for: Option<WaitingFor>,
    pub expected_until: Option<Instant>,
    pub kind: WorkKind,
    pub risk_rank: u8,
    pub window_end: Instant,
    /// Codes.
    pub crew: Option<String>,
    pub assignee: Option<String>,
    pub estimated_hours: Option<f64>,
    pub target_start: Option<Instant>,
    pub target_finish: Option<Instant>,
    pub scheduled_start: Option<Instant>,
    pub scheduled_end: Option<Instant>,
}

/// One thing that is another than before.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WorkDifference {
    pub field: String,
    /// As the API has it; nothing where there was nothing.
    pub from: Option<String>,
    pub to: Option<String>,
}

impl Placed {
    /// What is another `now` than it was, by the names of the fields.
    #[must_use]
    pub fn changes(&self, now: &Self) -> Vec<WorkDifference> {
        let (before, after) = (serde_json::to_value(self), serde_json::to_value(now));
        let (Ok(serde_json::Value::Object(before)), Ok(serde_json::Value::Object(after))) = (before, after) else {
            return Vec::new();
        };
        let said = |value: &serde_json::Value| match value {
            serde_json::Value::Null => None,
            serde_json::Value::String(text) => Some(text.clone()),
            other => Some(other.to_string()),
        };
        let changed = before.iter().filter(|(field, from)| after.get(*field) != Some(from));
        let change = |(field, from): (&String, &serde_json::Value)| WorkDifference {
            field: field.clone(),
            from: said(from),
            to: after.get(field).and_then(said),
        };
        let mut changes: Vec<WorkDifference> = changed.map(change).collect();
        changes.sort_by(|one, other| one.field.cmp(&other.field));
        changes
    }

    /// Whether it stands in the same state, waiting for the same until the same date.
    #[must_use]
    pub fn stands_as(&self, other: &Self) -> bool {
        let stands = |one: &Self| (one.state, one.waiting_for, one.expected_until);
        stands(self) == stands(other)
    }

    /// Whether it was moved, and nothing else was done to it.
    #[must_use]
    pub fn differs_in_state_only(&self, now: &Self) -> bool {
        let Self { state, waiting_for, expected_until, .. } = self.clone();
        *self == Self { state, waiting_for, expected_until, ..now.clone() }
    }

    /// Whether an order that was so before, and so after several were changed, can be put back as it stands by now.
    ///
    /// # Errors
    /// [`Refusal::Conflict`] where somebody changed it since, or nobody moves work back that way; [`Refusal::NotTheirs`] for
    /// another role's move.
    pub fn check_back(&self, after: &Self, now: &Self, mover: Mover) -> Result<(), Refusal> {
        if after != now {
            return Err(Refusal::Conflict("it was changed since".into()));
        }
        if self.state == after.state {
            return Ok(());
        }
        check_move(after.state, self.state, mover).map_err(|refused| match refused {
            super::MoveRefused::NoSuchMove { .. } => Refusal::Conflict(refused.to_string()),
            super::MoveRefused::NotTheirs { .. } => Refusal::NotTheirs(refused.to_string()),
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::access::roles::Role;
    use rstest::rstest;

    fn several(json: serde_json::Value) -> Several {
        serde_json::from_value(json).unwrap()
    }

    #[rstest]
    #[case::none(serde_json::json!({"orders": [], "change": {"risk_rank": 2}}), "orders: choose the work first")]
    #[case::twice(serde_json::json!({"orders": [1, 2, 1], "change": {"risk_rank": 2}}), "orders: names the same work twice")]
    #[case::too_many(serde_json::json!({"orders": (0..501).collect::<Vec<_>>(), "change": {}}), "orders: at most 500 at once")]
    #[case::nothing(serde_json::json!({"orders": [1]}), "change: say what is to change, or where the work is to go")]
    #[case::title(serde_json::json!({"orders": [1], "change": {"title": "All"}}), "change.title: each order has its own")]
    fn what_is_wrong_is_named(#[case] given: serde_json::Value, #[case] said: &str) {
        assert_eq!(several(given).check().unwrap_err().to_string(), said);
    }

    fn placed() -> Placed {
        Placed {
            state: WorkState::Ready,
            waiting_for: None,
            expected_until: None,
            kind: WorkKind::Inspection,
            risk_rank: 3,
            window_end: Instant::from_ms(9),
            crew: Some("lifts".into()),
            assignee: None,
            estimated_hours: Some(2.5),
            target_start: None,
            target_finish: None,
            scheduled_start: None,
            scheduled_end: None,
        }
    }

    #[test]
    fn what_is_another_is_told_with_what_it_was() {
        let after = Placed { crew: None, assignee: Some("tess".into()), risk_rank: 1, ..placed() };
        let told: Vec<(String, Option<String>, Option<String>)> =
            placed().changes(&after).into_iter().map(|one| (one.field, one.from, one.to)).collect();
        let some = |text: &str| Some(text.to_owned());
        let expected = [
            ("assignee".to_owned(), None, some("tess")),
            ("crew".to_owned(), some("lifts"), None),
            ("risk_rank".to_owned(), some("3"), some("1")),
        ];
        assert_eq!(told, expected);
        assert_eq!(placed().changes(&placed()), []);
    }

    #[test]
    fn only_what_nobody_changed_since_is_put_back_and_by_a_way_there_is() {
        let mover = Mover { role: Role::Planner, immediate: false, waiting_from: None, is_asked: false };
        let scheduled = Placed { state: WorkState::Scheduled, ..placed() };
        assert_eq!(placed().check_back(&scheduled, &scheduled, mover), Ok(()));
        let since = Placed { crew: None, ..scheduled.clone() };
        assert_eq!(placed().check_back(&scheduled, &since, mover).unwrap_err().to_string(), "it was changed since");
        let closed = Placed { state: WorkState::Closed, ..placed() };
        let done = Placed { state: WorkState::Done, ..placed() };
        let said = done.check_back(&closed, &closed, mover).unwrap_err().to_string();
        assert_eq!(said, "work that is closed cannot become done");
        let technician = Mover { role: Role::Technician, ..mover };
        assert!(matches!(placed().check_back(&scheduled, &scheduled, technician), Err(Refusal::NotTheirs(_))));
    }
}

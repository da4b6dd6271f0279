//! Photos and papers that stand with an order: who puts them there and takes them away, and how many there can be.

use crate::{
    access::{
        refusal::{Refusal, said},
        roles::{Action, Role, may},
    },
    ground::time::Instant,
};
use serde::{Deserialize, Serialize};

/// A file that was sent before, to stand with an order.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct NewAttachment {
    /// The name under which it was kept when it was sent.
    pub file: String,
    /// What it was called where it came from.
    pub name: String,
}

/// What is attached to an order.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Attaching {
    pub attachments: Vec<NewAttachment>,
    /// When it was, if that was earlier.
    #[serde(default)]
    pub at: Option<Instant>,
}

/// Photos and papers of one order.
pub const MOST_ATTACHED: usize = 100;

/// Letters of a file's name.
const LONGEST_NAME: usize = 200;

/// Whether somebody of that role may attach so many to work that has `has` of them.
///
/// # Errors
/// [`Refusal::MayNot`], and [`Refusal::Field`] for `attachments`.
pub fn check_attach(role: Role, is_over: bool, has: usize, new: &[NewAttachment]) -> Result<(), Refusal> {
    if is_over {
        may(role, Action::AdjustClosedWork)?;
    } else if may(role, Action::RaiseWork).is_err() {
        may(role, Action::ReportOnWork)?;
    }
    if has + new.len() > MOST_ATTACHED {
        return Err(Refusal::field("attachments", format!("at most {MOST_ATTACHED} stand with one order")));
    }
    for (place, one) in new.iter().enumerate() {
        let field = format!("attachments[{place}].name");
        said(&field, &one.name, "a file has a name")?;
        if one.name.chars().count() > LONGEST_NAME {
            return Err(Refusal::field(field, format!("at most {LONGEST_NAME} letters")));
        }
    }
    Ok(())
}

/// Whether somebody of that role may take away what was attached: what they attached themselves, or of work they plan.
#[must_use]
pub fn may_detach(role: Role, is_own: bool) -> bool {
    is_own || may(role, Action::PlanWork).is_ok()
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn photo(name: &str) -> NewAttachment {
        NewAttachment { file: "f".into(), name: name.into() }
    }

    #[rstest]
    #[case::requester(Role::Requester, false, true)]
    #[case::technician(Role::Technician, false, true)]
    #[case::viewer(Role::Viewer, false, false)]
    #[case::gateway(Role::Gateway, false, false)]
    #[case::technician_after_closing(Role::Technician, true, false)]
    #[case::planner_after_closing(Role::Planner, true, true)]
    fn who_attaches(#[case] role: Role, #[case] is_over: bool, #[case] may: bool) {
        assert_eq!(check_attach(role, is_over, 0, &[photo("crack.jpg")]).is_ok(), may);
    }

    #[test]
    fn there_is_an_end_and_each_has_a_name() {
        let at_fault = |has, name: &str| match check_attach(Role::Planner, false, has, &[photo(name)]) {
            Err(Refusal::Field { field, .. }) => field,
            other => format!("{other:?}"),
        };
        assert_eq!(at_fault(MOST_ATTACHED, "a"), "attachments");
        assert_eq!(at_fault(0, " "), "attachments[0].name");
        assert_eq!(at_fault(0, &"n".repeat(201)), "attachments[0].name");
        assert!(check_attach(Role::Planner, false, MOST_ATTACHED - 1, &[photo("a")]).is_ok());
    }

    #[test]
    fn ones_own_goes_and_a_planner_takes_any() {
        assert!(may_detach(Role::Requester, true) && !may_detach(Role::Requester, false));
        assert!(!may_detach(Role::Technician, false) && may_detach(Role::Planner, false));
    }
}

//! What people say about work to each other.

use crate::access::{
    refusal::{Refusal, said},
    roles::{Action, Role, may},
};
use serde::{Deserialize, Serialize};

/// Something said about an order.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct NewComment {
    pub text: String,
    /// Only those who do or plan work read it.
    #[serde(default)]
    pub for_colleagues: bool,
}

/// Letters of a comment at the most.
const LONGEST: usize = 4_000;

/// Whether somebody of that role does or plans work, and reads what is said among those.
#[must_use]
pub fn is_colleague(role: Role) -> bool {
    may(role, Action::ReportOnWork).is_ok() || may(role, Action::PlanWork).is_ok()
}

/// Whether somebody of that role may say something about work.
#[must_use]
pub fn may_comment(role: Role) -> bool {
    is_colleague(role) || may(role, Action::RaiseWork).is_ok()
}

impl NewComment {
    /// The text, where somebody of that role may say it.
    ///
    /// # Errors
    /// [`Refusal::MayNot`], [`Refusal::Field`].
    pub fn check(&self, role: Role) -> Result<&str, Refusal> {
        if !may_comment(role) {
            may(role, Action::RaiseWork)?;
        }
        if self.for_colleagues && !is_colleague(role) {
            return Err(Refusal::field("for_colleagues", "only those who do or plan work talk among themselves"));
        }
        let text = said("text", &self.text, "say something")?;
        if text.chars().count() > LONGEST {
            return Err(Refusal::field("text", format!("at most {LONGEST} letters")));
        }
        Ok(text)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn requesters_speak_to_all_and_viewers_to_nobody() {
        let new = |text: &str, for_colleagues| NewComment { text: text.into(), for_colleagues };
        assert_eq!(new(" It drips again ", false).check(Role::Requester), Ok("It drips again"));
        assert!(matches!(new("Hm", true).check(Role::Requester), Err(Refusal::Field { .. })));
        assert_eq!(new("Hm", true).check(Role::Technician), Ok("Hm"));
        assert!(new("Hm", false).check(Role::Viewer).is_err());
        assert!(new("  ", false).check(Role::Planner).is_err());
        assert!(new(&"x".repeat(4_001), false).check(Role::Planner).is_err());
        let readers = Role::ALL.into_iter().filter(|role| is_colleague(*role)).collect::<Vec<_>>();
        assert!(
            !readers.contains(&Role::Requester)
                && !readers.contains(&Role::Viewer)
                && !readers.contains(&Role::Gateway)
        );
    }
}

//! What people say about work to each other.

use crate::{
    access::{
        refusal::{Refusal, said, said_at},
        roles::{Action, Role, may},
    },
    ground::time::Instant,
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
    /// When it was said, if that was earlier.
    #[serde(default)]
    pub at: Option<Instant>,
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
    /// The text and when it was said, where somebody of that role may say it.
    ///
    /// # Errors
    /// [`Refusal::MayNot`], [`Refusal::Field`].
    pub fn check(&self, role: Role, now: Instant) -> Result<(&str, Instant), Refusal> {
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
        Ok((text, said_at("at", self.at, now)?))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn requesters_speak_to_all_and_viewers_to_nobody() {
        let now = Instant::from_ms(1_000);
        let new = |text: &str, for_colleagues| NewComment { text: text.into(), for_colleagues, at: None };
        let check = |new: NewComment, role| new.check(role, now).map(|(text, at)| (text.to_owned(), at));
        assert_eq!(check(new(" It drips again ", false), Role::Requester), Ok(("It drips again".into(), now)));
        assert!(matches!(check(new("Hm", true), Role::Requester), Err(Refusal::Field { .. })));
        assert_eq!(check(new("Hm", true), Role::Technician), Ok(("Hm".into(), now)));
        assert!(check(new("Hm", false), Role::Viewer).is_err());
        assert!(check(new("  ", false), Role::Planner).is_err());
        assert!(check(new(&"x".repeat(4_001), false), Role::Planner).is_err());
        let readers = Role::ALL.into_iter().filter(|role| is_colleague(*role)).collect::<Vec<_>>();
        assert!(
            !readers.contains(&Role::Requester)
                && !readers.contains(&Role::Viewer)
                && !readers.contains(&Role::Gateway)
        );
    }
}

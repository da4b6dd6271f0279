//! Work that is reported again, instead of being raised twice.

use super::states::WorkState;
use crate::{
    access::refusal::{Refusal, said},
    ground::time::Instant,
};
use serde::{Deserialize, Serialize};

/// The same fault, as somebody else says it.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NewOccurrence {
    /// What they say of it.
    pub words: String,
    /// When it was seen; now without it.
    pub at: Option<Instant>,
}

/// An occurrence that may be written.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct CheckedOccurrence<'a> {
    pub words: &'a str,
    pub at: Instant,
}

impl NewOccurrence {
    /// Whether it can be joined to work that stands in a state, at `now`.
    ///
    /// # Errors
    /// [`Refusal::Field`]; [`Refusal::Conflict`] for work that is done: what is seen then is another fault.
    pub fn check(&self, state: WorkState, now: Instant) -> Result<CheckedOccurrence<'_>, Refusal> {
        let words = said("words", &self.words, "say in a few words what you see")?;
        let at = self.at.unwrap_or(now);
        if at > now {
            return Err(Refusal::field("at", "lies in the future"));
        }
        if !state.is_open() {
            return Err(Refusal::Conflict(format!("it is {} by now: raise new work, and link the two", state.word())));
        }
        Ok(CheckedOccurrence { words, at })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_open_work_is_reported_again_with_words_and_not_of_tomorrow() {
        let now = Instant::from_ms(1_000);
        let seen = |words: &str, at| NewOccurrence { words: words.into(), at };
        for state in WorkState::ALL {
            let joined = seen(" still leaks ", None);
            match joined.check(state, now) {
                Ok(checked) => assert_eq!((checked.words, checked.at, state.is_open()), ("still leaks", now, true)),
                Err(refused) => assert!(!state.is_open() && refused.to_string().contains(state.word()), "{refused}"),
            }
        }
        let said = |one: NewOccurrence| one.check(WorkState::Raised, now).unwrap_err().to_string();
        assert_eq!(said(seen("  ", None)), "words: say in a few words what you see");
        assert_eq!(said(seen("leaks", Some(now.plus(1)))), "at: lies in the future");
    }
}

//! Why something that somebody wants done is not done.

use super::roles::MayNot;
use crate::ground::time::{CLOCK_OFF_MS, Instant};

/// A refusal, which the one who asked is told.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum Refusal {
    /// Something given does not fit; `field` is a path into what was given.
    #[error("{field}: {reason}")]
    Field { field: String, reason: String },
    #[error(transparent)]
    MayNot(#[from] MayNot),
    /// It is not this person's to do, for another reason than the role alone.
    #[error("{0}")]
    NotTheirs(String),
    /// It would contradict what is there.
    #[error("{0}")]
    Conflict(String),
}

impl Refusal {
    /// Something given does not fit.
    pub fn field(field: impl Into<String>, reason: impl ToString) -> Self {
        Self::Field { field: field.into(), reason: reason.to_string() }
    }
}

/// A text that must say something, without the blanks around it.
///
/// # Errors
/// [`Refusal::Field`] with `reason` where it says nothing.
pub fn said<'a>(field: &str, text: &'a str, reason: &str) -> Result<&'a str, Refusal> {
    let text = text.trim();
    if text.is_empty() { Err(Refusal::field(field, reason)) } else { Ok(text) }
}

/// When something was done: now, where nobody says it, and where it is ahead by no more than a clock may be off.
///
/// # Errors
/// [`Refusal::Field`] where it lies further ahead.
pub fn said_at(field: &str, at: Option<Instant>, now: Instant) -> Result<Instant, Refusal> {
    match at {
        Some(at) if at > now.plus(CLOCK_OFF_MS) => Err(Refusal::field(field, "lies in the future")),
        at => Ok(at.unwrap_or(now).min(now)),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_lies_ahead_by_a_little_is_now() {
        let now = Instant::from_ms(1_000_000);
        let said = |ms| said_at("at", Some(now.plus(ms)), now);
        assert_eq!(said_at("at", None, now), Ok(now));
        assert_eq!(said(-1), Ok(now.plus(-1)));
        assert_eq!(said(CLOCK_OFF_MS), Ok(now));
        assert_eq!(said(CLOCK_OFF_MS + 1).unwrap_err().to_string(), "at: lies in the future");
    }
}

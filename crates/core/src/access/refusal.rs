//! Why something that somebody wants done is not done.

use super::roles::MayNot;

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

//! What an answer is held against: a few words that a page can look up as well, where there is no network.

use super::answer::AnswerValue;
use serde::{Deserialize, Serialize};

/// What an answer is held against.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "when", rename_all = "snake_case", deny_unknown_fields)]
pub enum Condition {
    /// A number below that one.
    Below { value: f64 },
    /// A number above that one.
    Above { value: f64 },
    /// One of these was chosen.
    Among { values: Vec<String> },
}

impl Condition {
    /// Whether an answer meets it. One of another kind does not.
    #[must_use]
    pub fn holds(&self, answer: &AnswerValue) -> bool {
        match (self, answer) {
            (Self::Below { value }, AnswerValue::Number { value: given }) => given < value,
            (Self::Above { value }, AnswerValue::Number { value: given }) => given > value,
            (Self::Among { values }, AnswerValue::Choices { values: given }) => {
                given.iter().any(|one| values.contains(one))
            }
            _ => false,
        }
    }
}

//! What is answered on a check sheet.

use crate::{ground::time::Instant, work::NewAttachment};
use serde::{Deserialize, Serialize};

/// An answer.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum AnswerValue {
    Number {
        value: f64,
    },
    /// What was chosen: also `pass` or `fail`, and the grade that a meter stands at.
    Choices {
        values: Vec<String>,
    },
    Text {
        text: String,
    },
    /// Photos, or a signature.
    Files {
        files: Vec<NewAttachment>,
    },
}

/// The answer to a question.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct GivenAnswer {
    /// The question's key.
    pub question: String,
    pub value: AnswerValue,
    /// When it was answered; when the sheet is finished without it.
    pub at: Option<Instant>,
}

impl AnswerValue {
    /// Nothing was said by it.
    pub(super) fn is_empty(&self) -> bool {
        match self {
            Self::Number { .. } => false,
            Self::Choices { values } => values.is_empty(),
            Self::Text { text } => text.trim().is_empty(),
            Self::Files { files } => files.is_empty(),
        }
    }
}

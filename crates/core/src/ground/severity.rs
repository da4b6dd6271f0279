//! How bad an entered rung is.

use serde::{Deserialize, Serialize};

/// From notice to danger; drawn as one to four tally strokes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, strum::IntoStaticStr)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum Severity {
    Notice,
    Alert,
    Serious,
    Danger,
}

impl Severity {
    /// All of them, least first.
    pub const ALL: [Self; 4] = [Self::Notice, Self::Alert, Self::Serious, Self::Danger];

    /// 1 for notice to 4 for danger: the number of strokes.
    #[must_use]
    pub fn strokes(self) -> u8 {
        self as u8 + 1
    }

    /// The severity with that many strokes.
    #[must_use]
    pub fn from_strokes(strokes: u8) -> Option<Self> {
        Self::ALL.get(usize::from(strokes).checked_sub(1)?).copied()
    }

    /// The word for it.
    #[must_use]
    pub fn word(self) -> &'static str {
        self.into()
    }
}

impl std::fmt::Display for Severity {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(self.word())
    }
}

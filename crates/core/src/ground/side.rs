//! The sides of a meter's range.

use serde::{Deserialize, Serialize};

/// Which way a rung looks.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, strum::IntoStaticStr)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum RungSide {
    High,
    Low,
    Grade,
}

crate::kept_as_words!(RungSide);

impl RungSide {
    /// The word for it.
    #[must_use]
    pub fn word(self) -> &'static str {
        self.into()
    }
}

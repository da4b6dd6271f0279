//! Where readings come from.

use crate::access::roles::Role;
use serde::{Deserialize, Serialize};

/// Where readings come from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, strum::IntoStaticStr)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum Source {
    Entered,
    CheckSheet,
    Gateway,
    File,
}

crate::kept_as_words!(Source);

impl Source {
    /// The word for it.
    #[must_use]
    pub fn word(self) -> &'static str {
        self.into()
    }

    /// Whether somebody of that role may say that readings come from there: a gateway speaks for itself alone.
    #[must_use]
    pub fn may_be_said_by(self, role: Role) -> bool {
        role != Role::Gateway || self == Self::Gateway
    }
}

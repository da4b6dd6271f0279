//! Whether what is set up is in use.

use serde::{Deserialize, Serialize};

/// What is set up may be used while active; retired it stays in the history.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Status {
    Draft,
    #[default]
    Active,
    Retired,
}

crate::kept_as_words!(Status);

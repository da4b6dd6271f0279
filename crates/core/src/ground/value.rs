//! Values as they come in.

use serde::{Deserialize, Serialize};

/// A value as it comes in: a number, or the name of a grade.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(untagged)]
pub enum IncomingValue {
    Number(f64),
    Name(String),
}

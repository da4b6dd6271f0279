//! What a list can be filtered by.

use serde::Serialize;
use utoipa::ToSchema;

/// A value that a filter offers, with how many rows have it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct FacetValue {
    pub value: String,
    pub count: i64,
}

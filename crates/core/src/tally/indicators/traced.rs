//! The shape of a why: a figure with the rows and inputs that it is made of.

use super::{Figure, Indicator, Part, Unit};
use serde::Serialize;

/// A value that goes into the formula and has no rows.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Input {
    pub name: String,
    pub value: f64,
    pub unit: Unit,
    /// Where it is from.
    pub note: String,
}

/// All that a figure is made of.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Why {
    pub indicator: Indicator,
    pub figure: Figure,
    pub inputs: Vec<Input>,
    pub parts: Vec<Part>,
}

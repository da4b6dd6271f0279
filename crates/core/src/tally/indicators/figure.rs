//! The shape of a figure.

use crate::ground::time::HOUR;
use serde::Serialize;

/// The value of an indicator at one asset.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Figure {
    /// In the indicator's unit, money in minor units; `None` is "no base".
    pub value: Option<f64>,
    /// Money of closed work.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub settled: Option<i64>,
    /// Money of work that is not closed yet.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub provisional: Option<i64>,
    /// With no failure, the mean time between failures is at least this.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub at_least: Option<f64>,
    /// Incipient failures, which are not in the count.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub incipient: Option<i64>,
    /// Of a distribution whose median is the value: what nine of ten stay below.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub ninth: Option<f64>,
    /// How many lie in each band, where there are bands: up to 7, 30, 90, 180 days, and beyond.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub bands: Option<[i64; 5]>,
}

impl Figure {
    /// A plain number.
    #[must_use]
    pub fn of(value: f64) -> Self {
        Self { value: Some(value), ..Self::default() }
    }

    /// Milliseconds as hours.
    #[must_use]
    pub fn hours(ms: i64) -> Self {
        Self::of(ms as f64 / HOUR as f64)
    }

    /// A quotient; no base where the denominator is zero.
    #[must_use]
    pub fn ratio(numerator: f64, denominator: f64) -> Self {
        Self { value: (denominator != 0.0).then(|| numerator / denominator), ..Self::default() }
    }
}

//! Settings to try, and what one of them comes to.

use crate::{
    ground::units::{rounded, significant},
    watch::limits::{
        replay::median_warning_ms,
        warnings::{FailureVerdict, JudgedFailure},
    },
};
use serde::Serialize;

/// What one setting would have come to.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FinderPoint {
    pub setpoint: f64,
    pub deadband: Option<f64>,
    pub caught: usize,
    pub too_late: usize,
    pub missed: usize,
    pub nuisance: usize,
    pub averted: usize,
    pub warnings: usize,
    pub median_warning_ms: Option<i64>,
    /// Work orders raised.
    pub work: usize,
}

impl FinderPoint {
    pub(super) fn new(setting: Setting, failures: &[JudgedFailure], work: usize) -> Self {
        let of = |verdict| failures.iter().filter(|failure| failure.verdict == verdict).count();
        Self {
            setpoint: setting.setpoint,
            deadband: setting.deadband,
            caught: of(FailureVerdict::Caught),
            too_late: of(FailureVerdict::TooLate),
            missed: of(FailureVerdict::Missed),
            nuisance: 0,
            averted: 0,
            warnings: 0,
            median_warning_ms: median_warning_ms(failures),
            work,
        }
    }
}

/// One setting of the rung that a finder moves; the rung's own deadband where none is given.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Setting {
    pub setpoint: f64,
    pub deadband: Option<f64>,
}

/// The grid that a finder sweeps: `steps` setpoints between the least and the greatest value, both ends left out, rounded
/// to a tenth of the power of ten of a step, as a person would set them.
#[must_use]
pub fn grid(values: &[f64], steps: usize) -> Vec<f64> {
    let (low, high) =
        values.iter().fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), v| (low.min(*v), high.max(*v)));
    if low >= high {
        return Vec::new();
    }
    let width = (high - low) / (steps + 1) as f64;
    let power = width.log10().floor() as i32 - 1;
    let mut tried: Vec<f64> = (1..=steps).map(|step| rounded(low + width * step as f64, power)).collect();
    tried.dedup();
    tried
}

/// Deadbands to compare on a grid: none, and shares of its range.
#[must_use]
pub fn deadbands(grid: &[f64]) -> Vec<f64> {
    let range = grid.last().zip(grid.first()).map_or(0.0, |(last, first)| last - first);
    [0.0, 0.02, 0.05, 0.1].iter().map(|share| significant(share * range, 3)).collect()
}

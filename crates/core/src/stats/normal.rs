//! The normal distribution.

use statrs::distribution::{ContinuousCDF, Normal};

/// The one of mean 0 and deviation 1.
pub(super) fn standard_normal() -> Normal {
    Normal::new(0.0, 1.0).expect("a normal distribution of mean 0 and deviation 1")
}

/// P(Z ≤ z).
pub(super) fn normal_cdf(z: f64) -> f64 {
    standard_normal().cdf(z)
}

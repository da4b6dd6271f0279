//! How much a counter is used a day, and within which bounds that is known.

use statrs::distribution::{ContinuousCDF, StudentsT};

/// Weeks of use that are looked at.
pub const WEEKS_OF_USE: usize = 13;

/// Use a day with its bounds.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct UsePerDay {
    pub mean: f64,
    pub low: f64,
    pub high: f64,
}

/// The mean use a day of whole weeks, and the bounds between which the mean lies with a confidence of 95 %, by Student's t of
/// their spread. Less than two weeks say nothing of the spread: the bounds are the mean.
#[must_use]
pub fn use_per_day(weekly: &[f64]) -> UsePerDay {
    let n = weekly.len() as f64;
    if weekly.is_empty() {
        return UsePerDay::default();
    }
    let mean = weekly.iter().sum::<f64>() / n;
    let spread = weekly.iter().map(|used| (used - mean).powi(2)).sum::<f64>() / (n - 1.0).max(1.0);
    let half = if weekly.len() < 2 { 0.0 } else { student_t(weekly.len() - 1) * (spread / n).sqrt() };
    UsePerDay { mean: mean / 7.0, low: (mean - half).max(0.0) / 7.0, high: (mean + half) / 7.0 }
}

/// The two-sided 95 % point of Student's t.
fn student_t(freedom: usize) -> f64 {
    StudentsT::new(0.0, 1.0, freedom as f64).map_or(0.0, |t| t.inverse_cdf(0.975))
}

#[cfg(test)]
mod tests {
    use super::*;

    // By hand: 70 hours a week, spread 14, t of two degrees of freedom 4.303 (handbook tables of Student's t, from memory).
    #[test]
    fn the_mean_has_bounds() {
        let told = use_per_day(&[70.0, 84.0, 56.0]);
        assert_eq!(told.mean, 10.0);
        assert!((told.high - (70.0 + 4.303 * 14.0 / 3.0_f64.sqrt()) / 7.0).abs() < 1e-3, "{told:?}");
        assert!((told.low - (70.0 - 4.303 * 14.0 / 3.0_f64.sqrt()) / 7.0).abs() < 1e-3, "{told:?}");
    }

    #[test]
    fn one_week_has_no_spread_and_none_no_use() {
        assert_eq!(use_per_day(&[14.0]), UsePerDay { mean: 2.0, low: 2.0, high: 2.0 });
        assert_eq!(use_per_day(&[]), UsePerDay::default());
    }
}

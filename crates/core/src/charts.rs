//! Control charts and what goes with them: limits from a baseline, change detection, tolerance factors.
//!
//! Methods as in the NIST/SEMATECH e-Handbook of Statistical Methods, chapters 6.3.2 (individuals, CUSUM, EWMA) and
//! 7.2.6.3 (tolerance factors). Values are in any one unit; indices count from 0.

use statrs::distribution::{ContinuousCDF, Normal};
use statrs::function::{erf, gamma::ln_gamma};

/// 3 / d2 for two neighbours: the width of an individuals chart in mean moving ranges.
pub const INDIVIDUALS_WIDTH: f64 = 2.66;
/// d2 for two neighbours: the mean moving range of a normal series in standard deviations.
const D2: f64 = 1.128;
/// D4 for two neighbours: the upper limit of the moving range in mean moving ranges.
const D4: f64 = 3.267;
/// What makes a median absolute deviation comparable to a standard deviation of a normal series.
pub const MAD_SCALE: f64 = 1.4826;

/// The mean. `None` for no values.
#[must_use]
pub fn mean(values: &[f64]) -> Option<f64> {
    (!values.is_empty()).then(|| values.iter().sum::<f64>() / values.len() as f64)
}

/// The standard deviation of a sample, n − 1 below. `None` for fewer than two values.
#[must_use]
pub fn standard_deviation(values: &[f64]) -> Option<f64> {
    let mean = mean(values)?;
    let squares: f64 = values.iter().map(|v| (v - mean).powi(2)).sum();
    (values.len() > 1).then(|| (squares / (values.len() - 1) as f64).sqrt())
}

/// The value below which a share of the sorted values lies, interpolated between neighbours (type 7 of Hyndman and Fan).
/// `None` for no values.
#[must_use]
pub fn quantile(sorted: &[f64], share: f64) -> Option<f64> {
    let last = sorted.len().checked_sub(1)?;
    let place = share.clamp(0.0, 1.0) * last as f64;
    let (low, high) = (sorted[place.floor() as usize], sorted[place.ceil() as usize]);
    Some(low + (high - low) * place.fract())
}

fn sorted(values: &[f64]) -> Vec<f64> {
    let mut sorted = values.to_vec();
    sorted.sort_unstable_by(f64::total_cmp);
    sorted
}

/// The median. `None` for no values.
#[must_use]
pub fn median(values: &[f64]) -> Option<f64> {
    quantile(&sorted(values), 0.5)
}

/// An individuals chart from a baseline.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Individuals {
    pub center: f64,
    /// Mean difference of neighbours, signs aside.
    pub mean_range: f64,
    pub upper: f64,
    pub lower: f64,
    /// The standard deviation that the mean range stands for.
    pub sigma: f64,
    /// Upper limit of the moving range.
    pub range_upper: f64,
}

/// Limits at the mean ± 2.66 mean moving ranges. `None` for fewer than two values.
#[must_use]
pub fn individuals(baseline: &[f64]) -> Option<Individuals> {
    let center = mean(baseline)?;
    let ranges: Vec<f64> = baseline.windows(2).map(|pair| (pair[1] - pair[0]).abs()).collect();
    let mean_range = mean(&ranges)?;
    Some(Individuals {
        center,
        mean_range,
        upper: center + INDIVIDUALS_WIDTH * mean_range,
        lower: center - INDIVIDUALS_WIDTH * mean_range,
        sigma: mean_range / D2,
        range_upper: D4 * mean_range,
    })
}

/// Median, unscaled median absolute deviation, and the limits k scaled deviations away.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Robust {
    pub median: f64,
    pub deviation: f64,
    pub upper: f64,
    pub lower: f64,
}

/// Limits at the median ± k · 1.4826 · MAD. `None` for no values.
#[must_use]
pub fn robust(baseline: &[f64], k: f64) -> Option<Robust> {
    let center = median(baseline)?;
    let away: Vec<f64> = baseline.iter().map(|v| (v - center).abs()).collect();
    let deviation = median(&away)?;
    let width = k * MAD_SCALE * deviation;
    Some(Robust { median: center, deviation, upper: center + width, lower: center - width })
}

/// The exponentially weighted moving average, from `target` on: z = λ·y + (1 − λ)·z before.
#[must_use]
pub fn ewma(values: &[f64], target: f64, lambda: f64) -> Vec<f64> {
    let mut z = target;
    let next = |y: &f64| {
        z = lambda * y + (1.0 - lambda) * z;
        z
    };
    values.iter().map(next).collect()
}

/// How far the limits of an EWMA lie from its target after `n` values (from 1); for ever without it.
#[must_use]
pub fn ewma_width(sigma: f64, lambda: f64, width: f64, n: Option<usize>) -> f64 {
    let grown = n.map_or(1.0, |n| 1.0 - (1.0 - lambda).powf(2.0 * n as f64));
    width * sigma * (lambda / (2.0 - lambda) * grown).sqrt()
}

/// The two sums of a tabular CUSUM.
#[derive(Debug, Clone, PartialEq)]
pub struct Cusum {
    pub high: Vec<f64>,
    pub low: Vec<f64>,
    /// With both sums back at 0 after each signal: where, and whether high.
    pub signals: Vec<(usize, bool)>,
}

/// Sums of what lies more than `k` standard deviations beside the target; a sum above `h` is a signal.
#[must_use]
pub fn cusum(values: &[f64], target: f64, sigma: f64, k: f64, h: f64) -> Cusum {
    let step = |(high, low): (f64, f64), y: f64| {
        let away = (y - target) / sigma;
        ((high + away - k).max(0.0), (low - away - k).max(0.0))
    };
    let mut all = Cusum { high: Vec::new(), low: Vec::new(), signals: Vec::new() };
    let (mut sums, mut fresh) = ((0.0, 0.0), (0.0, 0.0));
    for (index, y) in values.iter().enumerate() {
        sums = step(sums, *y);
        all.high.push(sums.0);
        all.low.push(sums.1);
        fresh = step(fresh, *y);
        if fresh.0 > h || fresh.1 > h {
            all.signals.push((index, fresh.0 > h));
            fresh = (0.0, 0.0);
        }
    }
    all
}

/// Where a series falls best into two parts of one mean each.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ChangePoint {
    /// Index of the first value of the second part.
    pub first: usize,
    pub mean_before: f64,
    pub mean_after: f64,
    /// Sum of squares around the two means, and around one.
    pub squares: f64,
    pub squares_without: f64,
}

/// The split of least squares, the earliest of equal ones. `None` for fewer than two values. `O(n)`.
#[must_use]
pub fn change_point(values: &[f64]) -> Option<ChangePoint> {
    let center = mean(values)?;
    let n = values.len();
    if n < 2 {
        return None;
    }
    // Around the mean, so that the squares of large values do not eat the differences.
    let sum = |part: &[f64]| part.iter().map(|v| v - center).sum::<f64>();
    let total = sum(values);
    let (mut before, mut best) = (0.0, (0, f64::NEG_INFINITY));
    for first in 1..n {
        before += values[first - 1] - center;
        let gained = before * before / first as f64 + (total - before).powi(2) / (n - first) as f64;
        // Equal splits differ in their last digits only.
        if gained > best.1 * (1.0 + 1e-12) || best.0 == 0 {
            best = (first, gained);
        }
    }
    let squares = |part: &[f64], around: f64| part.iter().map(|v| (v - around).powi(2)).sum::<f64>();
    let (left, right) = values.split_at(best.0);
    let (mean_before, mean_after) = (mean(left)?, mean(right)?);
    Some(ChangePoint {
        first: best.0,
        mean_before,
        mean_after,
        squares: squares(left, mean_before) + squares(right, mean_after),
        squares_without: squares(values, center),
    })
}

fn standard_normal() -> Normal {
    Normal::new(0.0, 1.0).expect("a normal distribution of mean 0 and deviation 1")
}

/// How many standard deviations from the mean of `n` normal values a one-sided limit must lie, to have the share
/// `coverage` of all values on its good side with the probability `confidence`: t′(confidence; n − 1, z·√n) / √n with
/// the noncentral t distribution. `None` for fewer than two values or shares outside 0 to 1.
///
/// Its distribution function is integrated over the chi distribution of the sample's deviation; good to 1e-9.
///
/// ```
/// # use tally_core::charts::tolerance_factor;
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
    fn too_few_values_have_no_chart() {
        assert_eq!(mean(&[]), None);
        assert_eq!(standard_deviation(&[1.0]), None);
        assert_eq!(individuals(&[1.0]), None);
        assert_eq!(robust(&[], 3.0), None);
        assert_eq!(change_point(&[1.0]), None);
        assert_eq!(tolerance_factor(1, 0.95, 0.95), None);
        assert_eq!(tolerance_factor(10, 1.0, 0.95), None);
    }

    /// Own numbers, type 7 of Hyndman and Fan: between 1, 2, 3, 4 a quarter lies at 1.75.
    #[test]
    fn a_quantile_is_interpolated() {
        assert_eq!(quantile(&[1.0, 2.0, 3.0, 4.0], 0.25), Some(1.75));
        assert_eq!(quantile(&[1.0, 2.0, 3.0, 4.0], 1.0), Some(4.0));
        assert_eq!(median(&[5.0, 1.0, 3.0]), Some(3.0));
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

//! Control charts and what goes with them: limits from a baseline, change detection, tolerance factors.
//!
//! Methods as in the NIST/SEMATECH e-Handbook of Statistical Methods, chapters 6.3.2 (individuals, CUSUM, EWMA) and
//! 7.2.6.3 (tolerance factors). Values are in any one unit; indices count from 0.

use crate::stats::describe::{mean, median};

/// 3 / d2 for two neighbours: the width of an individuals chart in mean moving ranges.
pub const INDIVIDUALS_WIDTH: f64 = 2.66;

/// d2 for two neighbours: the mean moving range of a normal series in standard deviations.
const D2: f64 = 1.128;

/// D4 for two neighbours: the upper limit of the moving range in mean moving ranges.
const D4: f64 = 3.267;

/// What makes a median absolute deviation comparable to a standard deviation of a normal series.
pub const MAD_SCALE: f64 = 1.4826;

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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn too_few_values_have_no_chart() {
        assert_eq!(individuals(&[1.0]), None);
        assert_eq!(robust(&[], 3.0), None);
        assert_eq!(change_point(&[1.0]), None);
    }
}

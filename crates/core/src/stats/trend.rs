//! Does a series drift, do events come faster? Tests and robust slopes.
//!
//! Mann–Kendall and Theil–Sen as in Hollander and Wolfe, *Nonparametric Statistical Methods* (from memory), the interval
//! of the slope after Sen; Laplace and MIL-HDBK-189 for events in time.

use super::normal::normal_cdf;
use crate::stats::describe::median;

/// z of a two-sided 95 % interval.
const Z_95: f64 = 1.959_963_984_540_054;

/// Sizes of the groups of equal values.
fn ties(values: &[f64]) -> Vec<usize> {
    let mut sorted = values.to_vec();
    sorted.sort_unstable_by(f64::total_cmp);
    sorted.chunk_by(|a, b| a == b).map(<[f64]>::len).filter(|size| *size > 1).collect()
}

/// n(n − 1)(2n + 5), of a whole or of a group of ties.
fn spread(n: usize) -> f64 {
    let n = n as f64;
    n * (n - 1.0) * (2.0 * n + 5.0)
}

/// Whether later values tend to be higher.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct MannKendall {
    pub n: usize,
    /// Pairs that rise, less pairs that fall.
    pub s: i64,
    pub variance: f64,
    pub z: f64,
    /// Two-sided.
    pub p: f64,
    /// `s` as a share of all pairs.
    pub tau_a: f64,
}

/// The Mann–Kendall test with correction for ties; values in order of time. `None` for fewer than two. `O(n²)`.
#[must_use]
pub fn mann_kendall(values: &[f64]) -> Option<MannKendall> {
    let n = values.len();
    if n < 2 {
        return None;
    }
    let mut s = 0;
    for (index, earlier) in values.iter().enumerate() {
        s += values[index + 1..]
            .iter()
            .map(|later| i64::from(later > earlier) - i64::from(later < earlier))
            .sum::<i64>();
    }
    let variance = (spread(n) - ties(values).into_iter().map(spread).sum::<f64>()) / 18.0;
    let z = if s == 0 || variance <= 0.0 { 0.0 } else { (s - s.signum()) as f64 / variance.sqrt() };
    let pairs = (n * (n - 1)) as f64 / 2.0;
    Some(MannKendall { n, s, variance, z, p: (2.0 * normal_cdf(-z.abs())).min(1.0), tau_a: s as f64 / pairs })
}

/// A robust line with the interval of its slope.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TheilSen {
    pub slope: f64,
    pub intercept: f64,
    /// Where the line turns: medians of x and y.
    pub through: (f64, f64),
    pub lower: f64,
    pub upper: f64,
    pub slopes: usize,
}

/// The median of the slopes between all pairs, with its two-sided interval at `z` (95 % without it). `None` where no
/// two points have different x. `O(n²)`.
#[must_use]
pub fn theil_sen(points: &[(f64, f64)], z: Option<f64>) -> Option<TheilSen> {
    let mut slopes = Vec::with_capacity(points.len() * points.len().saturating_sub(1) / 2);
    for (index, (x0, y0)) in points.iter().enumerate() {
        slopes.extend(points[index + 1..].iter().filter(|(x, _)| x != x0).map(|(x, y)| (y - y0) / (x - x0)));
    }
    slopes.sort_unstable_by(f64::total_cmp);
    let xs: Vec<f64> = points.iter().map(|point| point.0).collect();
    let ys: Vec<f64> = points.iter().map(|point| point.1).collect();
    let (x, y) = (median(&xs)?, median(&ys)?);
    let slope = crate::stats::describe::quantile(&slopes, 0.5)?;
    let tied = |values: &[f64]| ties(values).into_iter().map(spread).sum::<f64>();
    let sigma = ((spread(points.len()) - tied(&ys) - tied(&xs)) / 18.0).max(0.0).sqrt();
    let (count, half) = (slopes.len() as f64, z.unwrap_or(Z_95) * sigma);
    let lower = (((count - half) / 2.0).round_ties_even() - 1.0).max(0.0) as usize;
    let upper = (((count + half) / 2.0).round_ties_even().max(0.0) as usize).min(slopes.len() - 1);
    Some(TheilSen {
        slope,
        intercept: y - slope * x,
        through: (x, y),
        lower: slopes[lower.min(slopes.len() - 1)],
        upper: slopes[upper],
        slopes: slopes.len(),
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn too_few_points_have_no_trend() {
        assert_eq!(mann_kendall(&[1.0]), None);
        assert_eq!(theil_sen(&[(1.0, 2.0)], None), None);
        assert_eq!(theil_sen(&[(1.0, 2.0), (1.0, 3.0)], None), None, "one x only");
    }

    #[test]
    fn one_wild_value_does_not_turn_the_line() {
        let mut points: Vec<(f64, f64)> = (0..20).map(|x| (f64::from(x), 2.0 * f64::from(x))).collect();
        points[10].1 = 900.0;
        assert_eq!(theil_sen(&points, None).unwrap().slope, 2.0);
    }
}

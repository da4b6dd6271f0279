//! How often is measured, and what counts of it.

/// Measurements of each thing.
pub const ROUNDS: usize = 11;

/// The middle of what was measured.
pub fn median(times: &mut [f64]) -> f64 {
    times.sort_by(f64::total_cmp);
    times[times.len() / 2]
}

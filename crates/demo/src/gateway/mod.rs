//! The gateway stand-in's plan: what is sent when, with chosen faults. Sending it is the program's.

mod faults;

pub use faults::{Fault, plan};

use tally_core::ground::time::Instant;

/// One reading as a gateway has it.
#[derive(Debug, Clone, PartialEq)]
pub struct Sample {
    /// Code or tag.
    pub meter: String,
    pub at: Instant,
    /// As text: a number, or a grade's name.
    pub value: String,
}

/// Readings that are sent together.
#[derive(Debug, Clone, PartialEq)]
pub struct Sending {
    /// In the time of the readings.
    pub at: Instant,
    pub samples: Vec<Sample>,
}

/// Samples of one meter around a level: a slow swing and some noise, one every `every_ms`.
#[must_use]
pub fn synthetic(meter: &str, from: Instant, count: usize, every_ms: i64, level: f64, seed: u64) -> Vec<Sample> {
    let mut rng = fastrand::Rng::with_seed(seed);
    let width = level.abs().max(1.0) * 0.04;
    (0..count)
        .map(|n| {
            let swing = (n as f64 / 40.0).sin() * width;
            let noise = (rng.f64() - 0.5) * width;
            let value = ((level + swing + noise) * 100.0).round() / 100.0;
            Sample { meter: meter.into(), at: from.plus(n as i64 * every_ms), value: value.to_string() }
        })
        .collect()
}

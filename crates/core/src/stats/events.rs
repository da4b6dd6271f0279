//! Whether events come ever more often: trend tests of repairable systems.

use super::normal::normal_cdf;
use statrs::distribution::{ChiSquared, ContinuousCDF};

/// Events of one system, watched from 0 to `end`.
#[derive(Debug, Clone, PartialEq)]
pub struct System {
    pub events: Vec<f64>,
    pub end: f64,
    /// The last event ended the watching, and tells nothing of the rate.
    pub ends_with_event: bool,
}

/// A test on whether events come faster or slower.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct EventTrend {
    pub events: usize,
    /// Laplace's u: above 0 when events come faster.
    pub laplace: f64,
    /// MIL-HDBK-189: small when they do; with two degrees of freedom an event.
    pub chi_squared: f64,
}

impl EventTrend {
    /// Probabilities of Laplace's test: two-sided, faster, slower.
    #[must_use]
    pub fn laplace_p(&self) -> (f64, f64, f64) {
        let u = self.laplace;
        ((2.0 * normal_cdf(-u.abs())).min(1.0), normal_cdf(-u), normal_cdf(u))
    }

    /// The same of MIL-HDBK-189.
    #[must_use]
    pub fn chi_squared_p(&self) -> (f64, f64, f64) {
        let of = ChiSquared::new(2.0 * self.events as f64).expect("at least one event");
        let (faster, slower) = (of.cdf(self.chi_squared), of.sf(self.chi_squared));
        ((2.0 * faster.min(slower)).min(1.0), faster, slower)
    }
}

/// Both tests over several systems together. `None` without an event.
#[must_use]
pub fn event_trend(systems: &[System]) -> Option<EventTrend> {
    let (mut events, mut sum, mut middle, mut variance, mut logs) = (0, 0.0, 0.0, 0.0, 0.0);
    for system in systems {
        let used = system.events.len() - usize::from(system.ends_with_event && !system.events.is_empty());
        let used = &system.events[..used];
        events += used.len();
        sum += used.iter().sum::<f64>();
        middle += used.len() as f64 * system.end / 2.0;
        variance += used.len() as f64 * system.end.powi(2) / 12.0;
        logs += used.iter().map(|at| (system.end / at).ln()).sum::<f64>();
    }
    (events > 0).then(|| EventTrend { events, laplace: (sum - middle) / variance.sqrt(), chi_squared: 2.0 * logs })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn without_events_there_is_no_trend() {
        assert_eq!(event_trend(&[]), None);
    }
}

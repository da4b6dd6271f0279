//! What the server counts as it happens, for a system that watches it.

use prometheus_client::{
    encoding::EncodeLabelSet,
    metrics::{
        counter::Counter,
        family::Family,
        histogram::{Histogram, exponential_buckets},
    },
    registry::Registry,
};
use std::time::Duration;

#[derive(Debug, Clone, PartialEq, Eq, Hash, EncodeLabelSet)]
struct Answered {
    method: String,
    /// As it is described, so that there are no more of them than routes.
    route: String,
    status: u16,
}

#[derive(Debug, Clone, PartialEq, Eq, Hash, EncodeLabelSet)]
struct Route {
    route: String,
}

/// From a millisecond to half a minute.
fn seconds() -> Histogram {
    Histogram::new(exponential_buckets(0.001, 2.0, 16))
}

/// Answers by route and status, and how long they took.
#[derive(Debug)]
pub struct Metrics {
    answers: Family<Answered, Counter>,
    seconds: Family<Route, Histogram>,
}

impl Default for Metrics {
    fn default() -> Self {
        Self { answers: Family::default(), seconds: Family::new_with_constructor(seconds) }
    }
}

impl Metrics {
    /// One more answer.
    pub fn answered(&self, method: String, route: String, status: u16, took: Duration) {
        self.seconds.get_or_create(&Route { route: route.clone() }).observe(took.as_secs_f64());
        self.answers.get_or_create(&Answered { method, route, status }).inc();
    }

    /// Enters what was counted so far.
    pub fn enter(&self, registry: &mut Registry) {
        registry.register("answers", "Requests that were answered", self.answers.clone());
        registry.register("answer_seconds", "How long answers took until they began", self.seconds.clone());
    }
}

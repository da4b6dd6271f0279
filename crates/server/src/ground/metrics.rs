//! What the server counts, for a system that watches it (the text form of Prometheus).

use crate::AppState;
use axum::{
    extract::{MatchedPath, Request, State},
    middleware::Next,
    response::Response,
};
use prometheus_client::{
    encoding::{EncodeLabelSet, text::encode},
    metrics::{
        counter::Counter,
        family::Family,
        gauge::Gauge,
        histogram::{Histogram, exponential_buckets},
    },
    registry::Registry,
};
use std::time::Instant as Moment;
use tally_store::{StoreError, ground::counts::Counts};

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

#[derive(Debug, Clone, PartialEq, Eq, Hash, EncodeLabelSet)]
struct Duty {
    duty: String,
}

/// From a millisecond to half a minute.
fn seconds() -> Histogram {
    Histogram::new(exponential_buckets(0.001, 2.0, 16))
}

/// Counted as it happens.
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

/// Counts every answer.
pub async fn count(State(state): State<AppState>, request: Request, next: Next) -> Response {
    let matched = request.extensions().get::<MatchedPath>().map(MatchedPath::as_str);
    let route = matched.unwrap_or("other").to_owned();
    let (method, begun) = (request.method().to_string(), Moment::now());
    let response = next.run(request).await;
    let status = response.status().as_u16();
    state.metrics.seconds.get_or_create(&Route { route: route.clone() }).observe(begun.elapsed().as_secs_f64());
    state.metrics.answers.get_or_create(&Answered { method, route, status }).inc();
    response
}

fn gauge(registry: &mut Registry, name: &str, help: &str, value: i64) {
    let gauge: Gauge = Gauge::default();
    gauge.set(value);
    registry.register(name, help, gauge);
}

/// All that is counted, as text.
///
/// # Errors
/// SQLite's own, and [`StoreError::Folder`].
pub fn text(state: &AppState) -> Result<String, StoreError> {
    let now = state.clock.now();
    let mut registry = Registry::with_prefix("fair_tally");
    let Metrics { answers, seconds } = &*state.metrics;
    registry.register("answers", "Requests that were answered", answers.clone());
    registry.register("answer_seconds", "How long answers took until they began", seconds.clone());
    let Counts { readings, alarms, open_work, outbox, deliveries } =
        state.store.read(now, |view| tally_store::ground::counts::counts(view))?;
    for (name, help, value) in [
        ("readings", "Readings that are kept", readings),
        ("standing_alarms", "Alarms that stand", alarms),
        ("open_work_orders", "Work orders that are open", open_work),
        ("waiting_mail", "Messages to people that wait", outbox),
        ("waiting_events", "Events that wait for webhooks", deliveries),
    ] {
        gauge(&mut registry, name, help, value);
    }
    let bytes = |path: &std::path::Path| std::fs::metadata(path).map_or(0, |file| file.len() as i64);
    gauge(&mut registry, "database_bytes", "Size of the database file", bytes(state.store.path()));
    gauge(&mut registry, "log_bytes", "Size of its log", bytes(&state.store.path().with_extension("db-wal")));
    gauge(&mut registry, "writing", "Writes that are under way or wait", state.store.writing() as i64);
    gauge(&mut registry, "ready", "Whether the facts have been read", i64::from(state.store.has_facts()));
    let backups = state.backups.standing(&state.store, now)?;
    if let Some(last) = backups.last() {
        gauge(&mut registry, "backup_age_seconds", "Age of the last good backup", now.since(last) / 1_000);
    }
    let ages: Family<Duty, Gauge> = Family::default();
    let failing: Family<Duty, Gauge> = Family::default();
    for duty in state.duties.standing() {
        let of = Duty { duty: duty.duty.to_owned() };
        if let Some(last) = duty.last_finished {
            ages.get_or_create(&of).set(now.since(last) / 1_000);
        }
        failing.get_or_create(&of).set(i64::from(duty.error.is_some() || duty.is_late));
    }
    registry.register("duty_age_seconds", "Since a duty was last done", ages);
    registry.register("duty_failing", "Whether a duty fails or is late", failing);
    let mut told = String::new();
    encode(&mut told, &registry).map_err(|error| StoreError::File(error.to_string()))?;
    Ok(told)
}

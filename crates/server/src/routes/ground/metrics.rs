//! What the server counts, as text that Prometheus and its kind read.

use crate::{
    AppState,
    access::signed::Signed,
    ground::{error::ApiError, serve::Peer, threads::blocking},
};
use axum::{
    Extension,
    extract::{MatchedPath, Request, State},
    http::{HeaderMap, header},
    middleware::Next,
    response::{IntoResponse, Response},
};
use prometheus_client::{
    encoding::{EncodeLabelSet, text::encode},
    metrics::{family::Family, gauge::Gauge},
    registry::Registry,
};
use std::time::Instant as Moment;
use tally_core::access::seen::Topic;
use tally_store::{
    StoreError, Viewer,
    ground::counts::{Counts, counts},
};

#[derive(Debug, Clone, PartialEq, Eq, Hash, EncodeLabelSet)]
struct Duty {
    duty: String,
}

/// Counts every answer.
pub async fn count(State(state): State<AppState>, request: Request, next: Next) -> Response {
    let matched = request.extensions().get::<MatchedPath>().map(MatchedPath::as_str);
    let route = matched.unwrap_or("other").to_owned();
    let (method, begun) = (request.method().to_string(), Moment::now());
    let response = next.run(request).await;
    state.metrics.answered(method, route, response.status().as_u16(), begun.elapsed());
    response
}

/// Whether somebody may read what is counted: on the machine itself whoever is there, from elsewhere who sees the office's.
fn check(state: &AppState, peer: Option<&Peer>, headers: &HeaderMap) -> Result<(), ApiError> {
    let is_here = peer.is_none_or(|Peer(address)| address.is_loopback()) && state.access.proxies.is_empty();
    if is_here {
        return Ok(());
    }
    let signed = Signed::of(state, headers)?.ok_or_else(ApiError::nobody)?;
    Ok(Viewer::from(&signed.somebody.actor).require_topic(Topic::Office)?)
}

/// All that is counted.
pub async fn get(
    State(state): State<AppState>,
    peer: Option<Extension<Peer>>,
    headers: HeaderMap,
) -> Result<impl IntoResponse, ApiError> {
    let asking = state.clone();
    blocking(move || check(&asking, peer.as_ref().map(|Extension(peer)| peer), &headers)).await?;
    let told = blocking(move || Ok(text(&state)?)).await?;
    Ok(([(header::CONTENT_TYPE, "application/openmetrics-text; version=1.0.0; charset=utf-8")], told))
}

fn gauge(registry: &mut Registry, name: &str, help: &str, value: i64) {
    let gauge: Gauge = Gauge::default();
    gauge.set(value);
    registry.register(name, help, gauge);
}

fn text(state: &AppState) -> Result<String, StoreError> {
    let now = state.clock.now();
    let mut registry = Registry::with_prefix("fair_tally");
    state.metrics.enter(&mut registry);
    let Counts { readings, alarms, open_work, outbox, deliveries } = state.store.read(now, |view| counts(view))?;
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

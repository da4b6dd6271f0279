//! The receiver stand-in: takes webhooks, checks their signature, and keeps each event once.

use crate::duties::{SIGNATURE, is_signed};
use axum::{
    Router,
    body::Bytes,
    extract::State,
    http::{HeaderMap, StatusCode},
    routing::post,
};
use serde_json::Value;
use std::{
    collections::HashSet,
    io::Write,
    path::PathBuf,
    sync::{Arc, Mutex, PoisonError},
};

/// What it has taken so far.
#[derive(Debug, Default)]
struct Taken {
    ids: HashSet<i64>,
    /// Requests that are still to be turned away, for trying the sender's patience.
    to_fail: u32,
}

#[derive(Debug, Clone)]
struct Receiver {
    secret: Arc<str>,
    /// Events as lines of JSON; printed where there is none.
    out: Option<PathBuf>,
    taken: Arc<Mutex<Taken>>,
}

/// A receiver with the secret that the sender signs with; it turns the first `fail` requests away.
pub fn router(secret: &str, out: Option<PathBuf>, fail: u32) -> Router {
    let taken = Arc::new(Mutex::new(Taken { to_fail: fail, ..Taken::default() }));
    let receiver = Receiver { secret: secret.into(), out, taken };
    Router::new().route("/", post(take)).with_state(receiver)
}

async fn take(State(receiver): State<Receiver>, headers: HeaderMap, body: Bytes) -> (StatusCode, &'static str) {
    let signed = headers.get(SIGNATURE).and_then(|value| value.to_str().ok()).unwrap_or_default();
    if !is_signed(signed, &receiver.secret, &body) {
        return (StatusCode::UNAUTHORIZED, "the signature is not that of the secret");
    }
    let Some((id, event)) =
        serde_json::from_slice::<Value>(&body).ok().and_then(|event| Some((event["id"].as_i64()?, event)))
    else {
        return (StatusCode::BAD_REQUEST, "an event has an id");
    };
    let mut taken = receiver.taken.lock().unwrap_or_else(PoisonError::into_inner);
    if taken.to_fail > 0 {
        taken.to_fail -= 1;
        return (StatusCode::SERVICE_UNAVAILABLE, "turned away, as asked for");
    }
    if !taken.ids.insert(id) {
        return (StatusCode::OK, "known already");
    }
    let written = match &receiver.out {
        Some(path) => std::fs::OpenOptions::new()
            .create(true)
            .append(true)
            .open(path)
            .and_then(|mut file| writeln!(file, "{event}")),
        None => writeln!(std::io::stdout(), "{event}"),
    };
    match written {
        Ok(()) => (StatusCode::OK, "taken"),
        Err(_unwritten) => {
            taken.ids.remove(&id);
            (StatusCode::INTERNAL_SERVER_ERROR, "it can't be kept")
        }
    }
}

use crate::{
    AppState,
    duties::DutyStanding,
    ground::{error::ApiError, threads::blocking},
};
use axum::{Json, extract::State, http::StatusCode};
use serde::Serialize;
use tally_store::{StoreError, access::people, plant::settings};
use utoipa::ToSchema;

/// Whether the server does all that it should.
#[derive(Debug, Serialize, ToSchema)]
pub struct Health {
    /// `ok` or `failing`.
    pub status: &'static str,
    /// Why nothing can be written, where it can't.
    pub writes: Option<String>,
    /// What is done by the clock.
    pub duties: Vec<DutyStanding>,
}

/// Key under which trial writes are counted.
const TRIED: &str = "health";

/// Says how the server is: it looks, writes, and reads off what is done by the clock.
pub async fn healthz(State(state): State<AppState>) -> (StatusCode, Json<Health>) {
    let trying = state.clone();
    let wrote = blocking(move || {
        let (store, now) = (&trying.store, trying.clock.now());
        let actor = store.read(now, |view| people::program(view, people::Program::Clock))?;
        // The same value again would be no write at all; the clock may stand.
        let last = store.read(now, |view| settings::kept::<u64>(view, TRIED)).unwrap_or_default().unwrap_or(0);
        Ok(store.write(actor, now, |tx| settings::put(tx, TRIED, &last.wrapping_add(1)))?)
    })
    .await;
    let full = |error: &_| matches!(error, ApiError::Store(StoreError::Full));
    let writes = wrote.err().map(|error| match full(&error) {
        true => "the disk is full".to_owned(),
        false => "a trial write failed; the log says why".to_owned(),
    });
    let duties = state.duties.standing();
    let is_ok = writes.is_none() && duties.iter().all(|duty| duty.error.is_none() && !duty.is_late);
    let (code, status) = if is_ok { (StatusCode::OK, "ok") } else { (StatusCode::SERVICE_UNAVAILABLE, "failing") };
    (code, Json(Health { status, writes, duties }))
}

/// Whether figures are answered at once: before, the facts they are made of are being read.
#[derive(Debug, Serialize)]
pub struct Readiness {
    status: &'static str,
}

/// Says whether it is ready to be asked.
pub async fn readyz(State(state): State<AppState>) -> (StatusCode, Json<Readiness>) {
    match state.store.has_facts() {
        true => (StatusCode::OK, Json(Readiness { status: "ready" })),
        false => (StatusCode::SERVICE_UNAVAILABLE, Json(Readiness { status: "reading the facts" })),
    }
}

//! Backups: which there are, and one more.

use crate::{
    AppState,
    ground::{error::ApiError, extract::Who, threads::blocking},
};
use axum::{Json, extract::State, http::StatusCode};
use serde::Serialize;
use tally_core::{
    access::seen::Topic,
    ground::time::Instant,
    outside::backups::{HOUR, is_old},
};
use tally_store::outside::{
    backup,
    backup::{Backup, BackupFor},
};
use utoipa::ToSchema;

/// How backups stand.
#[derive(Debug, Serialize, ToSchema)]
pub struct BackupsBody {
    /// Where they go, on the server's machine.
    pub folder: String,
    /// Nights that are kept; 0 where none is made by the clock.
    pub keep: usize,
    /// Hour of the night, in the installation's zone.
    pub hour: i32,
    /// When the last good one was made.
    pub last: Option<Instant>,
    /// That is so long ago that somebody should look.
    pub is_old: bool,
    /// Since when one is being made.
    pub making_since: Option<Instant>,
    /// Why the last one was not made.
    pub failed: Option<String>,
    /// The newest first.
    pub backups: Vec<Backup>,
}

fn body(state: &AppState) -> Result<BackupsBody, ApiError> {
    let now = state.clock.now();
    let standing = state.backups.standing(&state.store, now)?;
    let plan = &state.backups.plan;
    Ok(BackupsBody {
        folder: plan.folder.display().to_string(),
        keep: plan.keep,
        hour: HOUR,
        last: standing.last(),
        is_old: is_old(standing.last(), standing.began.unwrap_or(now), now),
        making_since: standing.since,
        failed: standing.failed,
        backups: standing.made,
    })
}

/// Backups of all there is, and how old the last good one is.
#[utoipa::path(get, path = "/backups", responses((status = 200, body = BackupsBody)))]
pub async fn list(State(state): State<AppState>, who: Who) -> Result<Json<BackupsBody>, ApiError> {
    state.look(who, Topic::Office, |_| Ok(())).await?;
    blocking(move || body(&state).map(Json)).await
}

/// Makes one more, while everything goes on; the list says when it is there.
#[utoipa::path(post, path = "/backups", responses((status = 202, body = BackupsBody)))]
pub async fn make(State(state): State<AppState>, who: Who) -> Result<(StatusCode, Json<BackupsBody>), ApiError> {
    let now = state.clock.now();
    let name = BackupFor::Hand.name(now);
    state.write(who, move |tx| backup::ask(tx, &name)).await?;
    state.backups.begin(now)?;
    let making = state.clone();
    tokio::task::spawn_blocking(move || {
        if let Err(error) = making.backups.finish(&making.store, BackupFor::Hand, now) {
            tracing::error!(?error, "a backup was not made");
        }
    });
    let body = blocking(move || body(&state)).await?;
    Ok((StatusCode::ACCEPTED, Json(body)))
}

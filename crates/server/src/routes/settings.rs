use crate::{
    AppState,
    error::ApiError,
    extract::{Body, Who},
};
use axum::{Json, extract::State};
use tally_store::settings::{self, Settings};

/// What holds for the whole installation.
#[utoipa::path(get, path = "/settings", responses((status = 200, body = Settings)))]
pub async fn get(State(state): State<AppState>, who: Who) -> Result<Json<Settings>, ApiError> {
    state.look(who, |look| Ok(Json(settings::get(look.conn)?))).await
}

/// Replaces it.
#[utoipa::path(put, path = "/settings", request_body = Settings, responses((status = 200, body = Settings)))]
pub async fn put(
    State(state): State<AppState>,
    who: Who,
    Body(body): Body<Settings>,
) -> Result<Json<Settings>, ApiError> {
    state.write(who, move |act| settings::set(act, &body).map(|()| Json(body))).await
}

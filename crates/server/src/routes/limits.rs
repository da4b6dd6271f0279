use crate::{
    AppState,
    error::ApiError,
    extract::{Body, Segment, Who},
};
use axum::{Json, extract::State};
use tally_store::limits::{self, LadderReceipt, LadderView, NewLadder};

/// The newest version of a meter's ladder, and the versions before it.
#[utoipa::path(get, path = "/meters/{code}/ladder", params(("code" = String, Path)),
    responses((status = 200, body = LadderView)))]
pub async fn get(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
) -> Result<Json<LadderView>, ApiError> {
    state.look(who, move |look| Ok(Json(limits::view(look.conn, &code)?))).await
}

/// Writes a new version. The last reading is evaluated under it at once.
#[utoipa::path(put, path = "/meters/{code}/ladder", params(("code" = String, Path)), request_body = NewLadder,
    responses((status = 200, body = LadderReceipt)))]
pub async fn put(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Body(body): Body<NewLadder>,
) -> Result<Json<LadderReceipt>, ApiError> {
    state.write(who, move |act| limits::set(act, &code, &body).map(Json)).await
}

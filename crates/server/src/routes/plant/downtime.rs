use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Body, Segment, Who},
    },
    routes::work::orders::DowntimeEntered,
};
use axum::{Json, extract::State, http::StatusCode};
use serde::Deserialize;
use tally_core::{
    ground::{ids::DowntimeId, time::Instant},
    plant::downtime::NewDowntime,
};
use tally_store::plant::downtime;
use utoipa::ToSchema;

/// Reports downtime on an asset, without work.
#[utoipa::path(post, path = "/assets/{code}/downtime", params(("code" = String, Path)), request_body = NewDowntime,
    responses((status = 201, body = DowntimeEntered)))]
pub async fn add_to_asset(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Body(body): Body<NewDowntime>,
) -> Result<(StatusCode, Json<DowntimeEntered>), ApiError> {
    let add = move |tx: &mut tally_store::Tx| downtime::add_to_asset(tx, &code, &body);
    Ok((StatusCode::CREATED, Json(DowntimeEntered { id: state.write(who, add).await? })))
}

/// When it was over.
#[derive(Debug, Deserialize, ToSchema)]
pub struct EndBody {
    end: Instant,
}

/// Ends open downtime.
#[utoipa::path(post, path = "/downtime/{id}/end", params(("id" = i64, Path)), request_body = EndBody,
    responses((status = 200, body = DowntimeEntered)))]
pub async fn end(
    State(state): State<AppState>,
    who: Who,
    Segment(id): Segment<DowntimeId>,
    Body(body): Body<EndBody>,
) -> Result<Json<DowntimeEntered>, ApiError> {
    state.write(who, move |tx| downtime::end(tx, id, body.end).map(|()| Json(DowntimeEntered { id }))).await
}

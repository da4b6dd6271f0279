use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Body, Params, Segment, Who},
    },
    routes::work::orders::DowntimeEntered,
};
use axum::{Json, extract::State, http::StatusCode};
use serde::{Deserialize, Serialize};
use tally_core::{
    access::seen::Topic,
    ground::{
        ids::{DowntimeId, WorkOrderId},
        time::Instant,
    },
    plant::downtime::{DowntimeCorrection, NewDowntime, OddDowntime},
};
use tally_store::plant::downtime::{self, DowntimeRemoval, TypedDowntime};
use utoipa::{IntoParams, ToSchema};

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

/// Corrects downtime, with a reason: a new version, the old one stays for what was known then.
#[utoipa::path(put, path = "/downtime/{id}", params(("id" = i64, Path)), request_body = DowntimeCorrection,
    responses((status = 200, body = DowntimeEntered)))]
pub async fn correct(
    State(state): State<AppState>,
    who: Who,
    Segment(id): Segment<DowntimeId>,
    Body(body): Body<DowntimeCorrection>,
) -> Result<Json<DowntimeEntered>, ApiError> {
    state.write(who, move |tx| downtime::correct(tx, id, &body).map(|()| Json(DowntimeEntered { id }))).await
}

/// Deletes downtime that was none, with a reason. It can be put back.
#[utoipa::path(delete, path = "/downtime/{id}", params(("id" = i64, Path)), request_body = DowntimeRemoval,
    responses((status = 200, body = DowntimeEntered)))]
pub async fn remove(
    State(state): State<AppState>,
    who: Who,
    Segment(id): Segment<DowntimeId>,
    Body(body): Body<DowntimeRemoval>,
) -> Result<Json<DowntimeEntered>, ApiError> {
    state.write(who, move |tx| downtime::remove(tx, id, &body).map(|()| Json(DowntimeEntered { id }))).await
}

/// Puts deleted downtime back as it was.
#[utoipa::path(post, path = "/downtime/{id}/put-back", params(("id" = i64, Path)),
    responses((status = 200, body = DowntimeEntered)))]
pub async fn put_back(
    State(state): State<AppState>,
    who: Who,
    Segment(id): Segment<DowntimeId>,
) -> Result<Json<DowntimeEntered>, ApiError> {
    state.write(who, move |tx| downtime::put_back(tx, id).map(|()| Json(DowntimeEntered { id }))).await
}

/// Downtime as it is typed.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct TypedParams {
    /// Code of the asset.
    asset: String,
    /// The order that it is entered on.
    work: Option<i64>,
    start: Instant,
    /// None while it is still down.
    end: Option<Instant>,
    /// Id of the one that is corrected.
    corrected: Option<i64>,
}

/// What is odd about downtime that is being typed.
#[derive(Debug, Serialize, ToSchema)]
pub struct OddBody {
    pub odd: Vec<OddDowntime>,
}

/// What is odd about downtime as it is typed, so that it can be questioned before it is entered.
#[utoipa::path(get, path = "/downtime/odd", params(TypedParams), responses((status = 200, body = OddBody)))]
pub async fn odd(
    State(state): State<AppState>,
    who: Who,
    Params(TypedParams { asset, work, start, end, corrected }): Params<TypedParams>,
) -> Result<Json<OddBody>, ApiError> {
    let (work, corrected) = (work.map(WorkOrderId), corrected.map(DowntimeId));
    let typed = TypedDowntime { asset, work, start, end, corrected };
    state.look(who, Topic::Plant, move |view| Ok(Json(OddBody { odd: downtime::odd(view, &typed)? }))).await
}

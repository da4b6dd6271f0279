use super::meters::SpanParams;
use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Body, Params, Segment, Who},
    },
};
use axum::{Json, extract::State};
use serde::{Deserialize, Serialize};
use tally_core::{
    access::seen::Topic,
    ground::time::{Instant, Span},
    watch::batch::Receipt,
};
use tally_store::watch::{
    readings,
    readings::{ExchangeRow, NewExchange, ReadingRow, Release, VoidedRow, Voiding},
};
use utoipa::{IntoParams, ToSchema};

/// Readings listed at the most.
const MOST: usize = 500;

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct ListParams {
    /// Readings before this instant; the newest without it.
    before: Option<Instant>,
    /// Only those kept apart because they lie outside the plausible range.
    #[serde(default)]
    apart: bool,
    limit: Option<usize>,
}

/// Recent readings one by one, those that were voided, and exchanges of the device.
#[derive(Debug, Serialize, ToSchema)]
pub struct ReadingList {
    /// Newest first.
    pub readings: Vec<ReadingRow>,
    pub voided: Vec<VoidedRow>,
    pub exchanges: Vec<ExchangeRow>,
}

/// Recent readings one by one, with where they came from; those voided, and exchanges of the device.
#[utoipa::path(get, path = "/meters/{code}/reading-list", params(("code" = String, Path), ListParams),
    responses((status = 200, body = ReadingList)))]
pub async fn list(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Params(params): Params<ListParams>,
) -> Result<Json<ReadingList>, ApiError> {
    state
        .look(who, Topic::Meters, move |view| {
            let (before, limit) = (params.before.unwrap_or(Instant::LATEST), params.limit.unwrap_or(50).clamp(1, MOST));
            Ok(Json(ReadingList {
                readings: readings::newest(view, &code, before, params.apart, limit)?,
                voided: readings::voided(view, &code, MOST)?,
                exchanges: readings::exchange_list(view, &code)?,
            }))
        })
        .await
}

/// Voids a reading with a reason: it goes from the chart and from every replay.
#[utoipa::path(post, path = "/meters/{code}/void", params(("code" = String, Path)), request_body = Voiding,
    responses((status = 200, body = Voiding)))]
pub async fn void(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Body(body): Body<Voiding>,
) -> Result<Json<Voiding>, ApiError> {
    state.write(who, move |tx| readings::void(tx, &code, &body).map(|()| Json(body))).await
}

/// Releases a reading that was kept apart: it goes through the ladder as if it had just come.
#[utoipa::path(post, path = "/meters/{code}/release", params(("code" = String, Path)), request_body = Release,
    responses((status = 200, body = Receipt)))]
pub async fn release(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Body(body): Body<Release>,
) -> Result<Json<Receipt>, ApiError> {
    state.write(who, move |tx| readings::release(tx, &code, &body).map(Json)).await
}

/// Notes that a counter's device was exchanged.
#[utoipa::path(post, path = "/meters/{code}/exchange", params(("code" = String, Path)), request_body = NewExchange,
    responses((status = 201, body = NewExchange)))]
pub async fn exchange(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Body(body): Body<NewExchange>,
) -> Result<(axum::http::StatusCode, Json<NewExchange>), ApiError> {
    let created = axum::http::StatusCode::CREATED;
    state.write(who, move |tx| readings::exchange(tx, &code, &body).map(|()| (created, Json(body)))).await
}

/// How much a counter grew.
#[derive(Debug, Serialize, ToSchema)]
pub struct Usage {
    pub span: Span,
    /// In the meter's unit.
    pub usage: f64,
}

/// How much a counter grew in a span, across rollovers and exchanges of the device.
#[utoipa::path(get, path = "/meters/{code}/usage", params(("code" = String, Path), SpanParams),
    responses((status = 200, body = Usage)))]
pub async fn usage(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Params(params): Params<SpanParams>,
) -> Result<Json<Usage>, ApiError> {
    state
        .look(who, Topic::Meters, move |view| {
            let span = params.span(view)?;
            Ok(Json(Usage { span, usage: readings::usage(view, &code, span)? }))
        })
        .await
}

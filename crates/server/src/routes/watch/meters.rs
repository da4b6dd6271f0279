use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Body, Params, Segment, Who},
        look,
    },
};
use axum::{Json, extract::State, http::StatusCode};
use serde::{Deserialize, Serialize};
use tally_core::{access::seen::Topic, ground::time::Span};
use tally_store::{
    View,
    watch::{
        meters,
        meters::{MeterDetail, MeterPage, NewMeter},
    },
    work,
    work::WorkSpan,
};
use utoipa::{IntoParams, ToSchema};

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct MeterParams {
    /// Code of the asset whose meters, and those of all below it, are listed.
    scope: Option<String>,
    /// In code, name or asset.
    text: Option<String>,
    /// Of the small drawings; the last twelve months without it.
    period: Option<String>,
    cursor: Option<String>,
    limit: Option<usize>,
}

/// The meters of a scope: the worst standing first, then the nearest to a limit.
#[utoipa::path(get, path = "/meters", params(MeterParams), responses((status = 200, body = MeterPage)))]
pub async fn list(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<MeterParams>,
) -> Result<Json<MeterPage>, ApiError> {
    state
        .look(who, Topic::Meters, move |view| {
            let scope = look::scope(view, params.scope.as_deref())?;
            let spark = look::period(view, params.period.as_deref(), None, None)?.span;
            let limit = params.limit.unwrap_or(60).clamp(1, 500);
            let text = params.text.as_deref().map(str::trim).filter(|text| !text.is_empty());
            Ok(Json(meters::list(view, scope.as_deref(), text, spark, params.cursor.as_deref(), limit)?))
        })
        .await
}

/// Adds a meter.
#[utoipa::path(post, path = "/meters", request_body = NewMeter, responses((status = 201, body = NewMeter)))]
pub async fn add(
    State(state): State<AppState>,
    who: Who,
    Body(body): Body<NewMeter>,
) -> Result<(StatusCode, Json<NewMeter>), ApiError> {
    state.write(who, move |tx| meters::add(tx, &body).map(|_| (StatusCode::CREATED, Json(body)))).await
}

/// One meter.
#[utoipa::path(get, path = "/meters/{code}", params(("code" = String, Path)), responses((status = 200, body = MeterDetail)))]
pub async fn one(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
) -> Result<Json<MeterDetail>, ApiError> {
    state.look(who, Topic::Meters, move |view| Ok(Json(meters::detail(view, &code)?))).await
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct SpanParams {
    from: Option<String>,
    to: Option<String>,
    period: Option<String>,
}

impl SpanParams {
    /// The span they ask for.
    pub fn span(&self, view: &View) -> Result<Span, ApiError> {
        Ok(look::period(view, self.period.as_deref(), self.from.as_deref(), self.to.as_deref())?.span)
    }
}

/// What lies below a meter's trend on the same time axis.
#[derive(Debug, Serialize, ToSchema)]
pub struct Lanes {
    pub work: Vec<WorkSpan>,
}

/// Work drawn at the most.
const MOST_WORK: usize = 400;

/// Work on the meter's asset at the time, with its failures.
#[utoipa::path(get, path = "/meters/{code}/lanes", params(("code" = String, Path), SpanParams),
    responses((status = 200, body = Lanes)))]
pub async fn lanes(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Params(params): Params<SpanParams>,
) -> Result<Json<Lanes>, ApiError> {
    state
        .look(who, Topic::Meters, move |view| {
            let span = params.span(view)?;
            Ok(Json(Lanes { work: work::beside_meter(view, &code, span, MOST_WORK)? }))
        })
        .await
}

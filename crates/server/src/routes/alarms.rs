use super::meters::SpanParams;
use crate::{
    AppState,
    error::ApiError,
    extract::{Params, Segment, Who},
};
use axum::{Json, extract::State};
use serde::{Deserialize, Serialize};
use tally_core::ids::AlarmId;
use tally_store::alarms::{self, AlarmRow};
use utoipa::{IntoParams, ToSchema};

/// Alarms answered at the most.
const MOST: usize = 2_000;

/// Alarms of one meter that stood in the period, newest first.
#[utoipa::path(get, path = "/meters/{code}/alarms", params(("code" = String, Path), SpanParams),
    responses((status = 200, body = Vec<AlarmRow>)))]
pub async fn of_meter(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Params(params): Params<SpanParams>,
) -> Result<Json<Vec<AlarmRow>>, ApiError> {
    state
        .look(who, move |look| {
            let span = params.span(look)?;
            Ok(Json(alarms::of_meter(look.conn, &code, span, MOST)?))
        })
        .await
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct StandingParams {
    scope: Option<String>,
}

/// Alarms that stand now, the worst and newest first.
#[utoipa::path(get, path = "/alarms", params(StandingParams), responses((status = 200, body = Vec<AlarmRow>)))]
pub async fn standing(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<StandingParams>,
) -> Result<Json<Vec<AlarmRow>>, ApiError> {
    state
        .look(who, move |look| {
            let scope = look.scope(params.scope.as_deref())?;
            Ok(Json(alarms::standing(look.conn, scope.as_deref(), MOST)?))
        })
        .await
}

/// An alarm that has been seen.
#[derive(Debug, Serialize, ToSchema)]
pub struct Acknowledged {
    pub id: AlarmId,
}

/// Says that an alarm has been seen.
#[utoipa::path(post, path = "/alarms/{id}/acknowledge", params(("id" = i64, Path)),
    responses((status = 200, body = Acknowledged)))]
pub async fn acknowledge(
    State(state): State<AppState>,
    who: Who,
    Segment(id): Segment<AlarmId>,
) -> Result<Json<Acknowledged>, ApiError> {
    state.write(who, move |act| alarms::acknowledge(act, id).map(|()| Json(Acknowledged { id }))).await
}

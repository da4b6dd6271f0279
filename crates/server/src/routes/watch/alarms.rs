use super::meters::SpanParams;
use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Body, Params, Segment, Who},
        look,
    },
};
use axum::{Json, extract::State};
use serde::{Deserialize, Serialize};
use tally_core::{
    access::seen::Topic,
    ground::ids::AlarmId,
    watch::holds::{NewOutOfUse, NewShelf},
};
use tally_store::watch::{
    alarms,
    alarms::{
        AlarmRow, AlarmsNow, Judgement, Show, performance,
        performance::{AlarmPerformance, Chatter},
    },
};
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
        .look(who, Topic::Meters, move |view| {
            let span = params.span(view)?;
            Ok(Json(alarms::of_meter(view, &code, span, MOST)?))
        })
        .await
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct NowParams {
    scope: Option<String>,
    /// Which of those that stand; all without it.
    #[param(inline)]
    show: Option<Show>,
}

/// What stands now across a scope, the worst and newest first, with shelved meters and late readings beyond a rung.
#[utoipa::path(get, path = "/alarms", params(NowParams), responses((status = 200, body = AlarmsNow)))]
pub async fn now(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<NowParams>,
) -> Result<Json<AlarmsNow>, ApiError> {
    state
        .look(who, Topic::Meters, move |view| {
            let scope = look::scope(view, params.scope.as_deref())?;
            let show = params.show.unwrap_or_default();
            Ok(Json(alarms::now(view, scope.as_deref(), show, MOST)?))
        })
        .await
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct PerformanceParams {
    scope: Option<String>,
    from: Option<String>,
    to: Option<String>,
    period: Option<String>,
    /// So many entries of one rung within `chatter_seconds` are chattering; 3 without it.
    chatter_entries: Option<u32>,
    /// 60 without it.
    chatter_seconds: Option<u32>,
}

/// How well the alarms of a scope do in a period, after IEC 62682.
#[utoipa::path(get, path = "/alarms/performance", params(PerformanceParams),
    responses((status = 200, body = AlarmPerformance)))]
pub async fn performance(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<PerformanceParams>,
) -> Result<Json<AlarmPerformance>, ApiError> {
    state
        .look(who, Topic::Meters, move |view| {
            let scope = look::scope(view, params.scope.as_deref())?;
            let span = look::period(view, params.period.as_deref(), params.from.as_deref(), params.to.as_deref())?.span;
            let usual = Chatter::default();
            let chatter = Chatter {
                entries: params.chatter_entries.unwrap_or(usual.entries).clamp(2, 1_000),
                seconds: params.chatter_seconds.unwrap_or(usual.seconds).clamp(1, 31_536_000),
            };
            Ok(Json(performance::of(view, scope.as_deref(), span, chatter, &view.facts()?.zone)?))
        })
        .await
}

/// Alarms that were seen.
#[derive(Debug, Serialize, ToSchema)]
pub struct Acknowledged {
    /// How many of them nobody had seen before.
    pub seen: usize,
}

/// Says that an alarm has been seen.
#[utoipa::path(post, path = "/alarms/{id}/acknowledge", params(("id" = i64, Path)),
    responses((status = 200, body = Acknowledged)))]
pub async fn acknowledge(
    State(state): State<AppState>,
    who: Who,
    Segment(id): Segment<AlarmId>,
) -> Result<Json<Acknowledged>, ApiError> {
    state.write(who, move |tx| alarms::acknowledge(tx, &[id]).map(|seen| Json(Acknowledged { seen }))).await
}

/// Alarms to acknowledge together.
#[derive(Debug, Deserialize, ToSchema)]
pub struct ManyAlarms {
    pub ids: Vec<AlarmId>,
}

/// Says that several alarms have been seen, all or none.
#[utoipa::path(post, path = "/alarms/acknowledge", request_body = ManyAlarms,
    responses((status = 200, body = Acknowledged)))]
pub async fn acknowledge_many(
    State(state): State<AppState>,
    who: Who,
    Body(body): Body<ManyAlarms>,
) -> Result<Json<Acknowledged>, ApiError> {
    state.write(who, move |tx| alarms::acknowledge(tx, &body.ids).map(|seen| Json(Acknowledged { seen }))).await
}

/// Takes back what this person acknowledged a short while ago, all or none.
#[utoipa::path(post, path = "/alarms/acknowledge/take-back", request_body = ManyAlarms, responses((status = 204)))]
pub async fn take_back(
    State(state): State<AppState>,
    who: Who,
    Body(body): Body<ManyAlarms>,
) -> Result<axum::http::StatusCode, ApiError> {
    state.write(who, move |tx| alarms::take_back(tx, &body.ids)).await?;
    Ok(axum::http::StatusCode::NO_CONTENT)
}

/// Holds a meter's alarms back for a while; a shelf that holds already gets the new end and reason.
#[utoipa::path(put, path = "/meters/{code}/shelf", params(("code" = String, Path)), request_body = NewShelf,
    responses((status = 200, body = NewShelf)))]
pub async fn shelve(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Body(body): Body<NewShelf>,
) -> Result<Json<NewShelf>, ApiError> {
    state.write(who, move |tx| alarms::shelve(tx, &code, &body).map(|()| Json(body))).await
}

/// Takes a meter off the shelf: what it held back answers now.
#[utoipa::path(delete, path = "/meters/{code}/shelf", params(("code" = String, Path)), responses((status = 204)))]
pub async fn unshelve(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
) -> Result<axum::http::StatusCode, ApiError> {
    state.write(who, move |tx| alarms::unshelve(tx, &code)).await?;
    Ok(axum::http::StatusCode::NO_CONTENT)
}

/// Puts an asset out of use for a while: alarms on it and all below it are held. A spell that holds already gets the new end
/// and reason.
#[utoipa::path(put, path = "/assets/{code}/out-of-use", params(("code" = String, Path)), request_body = NewOutOfUse,
    responses((status = 200, body = NewOutOfUse)))]
pub async fn put_out_of_use(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Body(body): Body<NewOutOfUse>,
) -> Result<Json<NewOutOfUse>, ApiError> {
    state.write(who, move |tx| alarms::put_out_of_use(tx, &code, &body).map(|()| Json(body))).await
}

/// Takes an asset back into use: what its alarms held back answers now.
#[utoipa::path(delete, path = "/assets/{code}/out-of-use", params(("code" = String, Path)), responses((status = 204)))]
pub async fn back_in_use(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
) -> Result<axum::http::StatusCode, ApiError> {
    state.write(who, move |tx| alarms::back_in_use(tx, &code)).await?;
    Ok(axum::http::StatusCode::NO_CONTENT)
}

/// Takes a late reading beyond a rung off the list, with what the person makes of it.
#[utoipa::path(post, path = "/late-readings/{id}/judge", params(("id" = i64, Path)), request_body = Judgement,
    responses((status = 200, body = Judgement)))]
pub async fn judge_late(
    State(state): State<AppState>,
    who: Who,
    Segment(id): Segment<i64>,
    Body(body): Body<Judgement>,
) -> Result<Json<Judgement>, ApiError> {
    state.write(who, move |tx| alarms::judge_late(tx, id, &body).map(|()| Json(body))).await
}

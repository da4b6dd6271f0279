use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Body, Segment, Who},
        look,
    },
};
use axum::{Json, extract::State};
use serde::Deserialize;
use tally_core::{
    access::seen::Topic,
    ground::time::{Instant, Span},
    watch::limits::Ladder,
};
use tally_store::{
    StoreError, View,
    watch::{
        families, replay,
        replay::{
            FinderAsked, FinderView, ForecastView, JudgedBy, ManyReplay, MeterForecast, ProposalsAsked, ProposalsView,
            ReplayView,
        },
    },
};
use utoipa::ToSchema;

/// A span by its name, or two instants; the last twelve months without either.
#[derive(Debug, Default, Deserialize, ToSchema)]
pub struct PastSpan {
    from: Option<String>,
    to: Option<String>,
    period: Option<String>,
}

impl PastSpan {
    fn span(&self, view: &View) -> Result<Span, ApiError> {
        Ok(look::period(view, self.period.as_deref(), self.from.as_deref(), self.to.as_deref())?.span)
    }
}

/// A ladder to run over the past; the meter's newest where none is given.
#[derive(Debug, Deserialize, ToSchema)]
pub struct ReplayBody {
    #[serde(flatten)]
    past: PastSpan,
    ladder: Option<Ladder>,
    #[serde(flatten)]
    asked: JudgedBy,
}

/// A ladder to run over a meter's past, and which part of that is drawn: all of it without.
#[derive(Debug, Deserialize, ToSchema)]
pub struct MeterReplayBody {
    #[serde(flatten)]
    replay: ReplayBody,
    drawn: Option<Drawn>,
}

/// A part of a chart's time axis.
#[derive(Debug, Deserialize, ToSchema)]
pub struct Drawn {
    from: Instant,
    to: Instant,
}

/// What a ladder would have done: alarms, work, and the failures it would have caught or missed.
#[utoipa::path(post, path = "/meters/{code}/replay", params(("code" = String, Path)), request_body = MeterReplayBody,
    responses((status = 200, body = ReplayView)))]
pub async fn replay(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Body(body): Body<MeterReplayBody>,
) -> Result<Json<ReplayView>, ApiError> {
    state
        .look(who, Topic::Meters, move |view| {
            let MeterReplayBody { replay: ReplayBody { past, ladder, asked }, drawn } = body;
            let drawn = drawn.map(|drawn| Span::new(drawn.from, drawn.to)).transpose();
            let drawn = drawn.map_err(|error| StoreError::invalid("drawn.to", error))?;
            let span = past.span(view)?;
            Ok(Json(replay::of_meter(view, &code, span, ladder, &asked, drawn)?))
        })
        .await
}

/// A rung to move over the past.
#[derive(Debug, Deserialize, ToSchema)]
pub struct FinderBody {
    #[serde(flatten)]
    past: PastSpan,
    ladder: Option<Ladder>,
    #[serde(flatten)]
    asked: JudgedBy,
    #[serde(flatten)]
    which: FinderAsked,
}

/// What each of many setpoints of one rung would have come to.
#[utoipa::path(post, path = "/meters/{code}/finder", params(("code" = String, Path)), request_body = FinderBody,
    responses((status = 200, body = FinderView)))]
pub async fn finder(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Body(body): Body<FinderBody>,
) -> Result<Json<FinderView>, ApiError> {
    state
        .look_long(who, Topic::Meters, move |view| {
            let span = body.past.span(view)?;
            Ok(Json(replay::finder(view, &code, span, body.ladder, &body.which, &body.asked)?))
        })
        .await
}

/// What a ladder would have done on all meters of a family.
#[utoipa::path(post, path = "/families/{class}/{name}/replay",
    params(("class" = String, Path), ("name" = String, Path)), request_body = ReplayBody,
    responses((status = 200, body = ManyReplay)))]
pub async fn of_family(
    State(state): State<AppState>,
    who: Who,
    Segment((class, name)): Segment<(String, String)>,
    Body(body): Body<ReplayBody>,
) -> Result<Json<ManyReplay>, ApiError> {
    state
        .look_long(who, Topic::Meters, move |view| {
            let span = body.past.span(view)?;
            Ok(Json(families::replay_of(view, &class, &name, span, body.ladder, &body.asked)?))
        })
        .await
}

/// What each of many settings of one rung would have come to on all meters of a family.
#[utoipa::path(post, path = "/families/{class}/{name}/finder",
    params(("class" = String, Path), ("name" = String, Path)), request_body = FinderBody,
    responses((status = 200, body = FinderView)))]
pub async fn finder_of_family(
    State(state): State<AppState>,
    who: Who,
    Segment((class, name)): Segment<(String, String)>,
    Body(body): Body<FinderBody>,
) -> Result<Json<FinderView>, ApiError> {
    state
        .look_long(who, Topic::Meters, move |view| {
            let span = body.past.span(view)?;
            let (ladder, which) = (body.ladder, &body.which);
            Ok(Json(families::finder_of(view, &class, &name, span, ladder, which, &body.asked)?))
        })
        .await
}

/// A baseline window, and what the engineer chooses.
#[derive(Debug, Deserialize, ToSchema)]
pub struct ProposalsBody {
    #[serde(flatten)]
    past: PastSpan,
    #[serde(flatten)]
    asked: ProposalsAsked,
}

/// Setpoints that a baseline window speaks for, each with its count, formula and source.
#[utoipa::path(post, path = "/meters/{code}/proposals", params(("code" = String, Path)), request_body = ProposalsBody,
    responses((status = 200, body = ProposalsView)))]
pub async fn proposals(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Body(body): Body<ProposalsBody>,
) -> Result<Json<ProposalsView>, ApiError> {
    state
        .look(who, Topic::Meters, move |view| {
            let span = body.past.span(view)?;
            Ok(Json(replay::proposals(view, &code, span, &body.asked)?))
        })
        .await
}

/// A recent window, and a ladder whose rungs may be reached.
#[derive(Debug, Deserialize, ToSchema)]
pub struct ForecastBody {
    #[serde(flatten)]
    past: PastSpan,
    ladder: Option<Ladder>,
}

/// Where a meter is heading: a robust line through a recent window, and when it reaches each rung.
#[utoipa::path(post, path = "/meters/{code}/forecast", params(("code" = String, Path)), request_body = ForecastBody,
    responses((status = 200, body = ForecastView)))]
pub async fn forecast(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Body(body): Body<ForecastBody>,
) -> Result<Json<ForecastView>, ApiError> {
    state
        .look(who, Topic::Meters, move |view| {
            let span = body.past.span(view)?;
            Ok(Json(replay::forecast(view, &code, span, body.ladder)?))
        })
        .await
}

/// Setpoints that the baseline windows of a family's meters speak for together.
#[utoipa::path(post, path = "/families/{class}/{name}/proposals",
    params(("class" = String, Path), ("name" = String, Path)), request_body = ProposalsBody,
    responses((status = 200, body = ProposalsView)))]
pub async fn proposals_of_family(
    State(state): State<AppState>,
    who: Who,
    Segment((class, name)): Segment<(String, String)>,
    Body(body): Body<ProposalsBody>,
) -> Result<Json<ProposalsView>, ApiError> {
    state
        .look_long(who, Topic::Meters, move |view| {
            let span = body.past.span(view)?;
            Ok(Json(families::proposals_of(view, &class, &name, span, &body.asked)?))
        })
        .await
}

/// Meters of a family that get to a rung, the soonest first.
#[utoipa::path(post, path = "/families/{class}/{name}/forecast",
    params(("class" = String, Path), ("name" = String, Path)), request_body = ForecastBody,
    responses((status = 200, body = Vec<MeterForecast>)))]
pub async fn forecast_of_family(
    State(state): State<AppState>,
    who: Who,
    Segment((class, name)): Segment<(String, String)>,
    Body(body): Body<ForecastBody>,
) -> Result<Json<Vec<MeterForecast>>, ApiError> {
    state
        .look_long(who, Topic::Meters, move |view| {
            let span = body.past.span(view)?;
            Ok(Json(families::forecast_of(view, &class, &name, span, body.ladder)?))
        })
        .await
}

//! Upkeep plans: the year ahead and levelling it, cycles that are moved, one plan, and raising it now.

use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Body, Params, Segment, Who},
    },
};
use axum::{Json, extract::State};
use serde::{Deserialize, Serialize};
use tally_core::{access::seen::Topic, ground::ids::WorkOrderId};
use tally_store::work::{
    upkeep,
    upkeep::{CycleMove, CyclesMoved, Levelling, PlanDetail, YearAhead, YearAsked},
};
use utoipa::{IntoParams, ToSchema};

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct YearParams {
    /// Code of an asset, with all below it; everything without it.
    scope: Option<String>,
    /// Code of the crew whose plans are told; empty for plans of no crew, of all without it.
    crew: Option<String>,
    /// The week whose plans are told, counted from the first; of all without it.
    week: Option<usize>,
}

/// The 52 weeks ahead: what upkeep falls due in each, beside what each crew can do; and some of the plans with their cycles.
#[utoipa::path(get, path = "/upkeep/year", params(YearParams), responses((status = 200, body = YearAhead)))]
pub async fn year(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<YearParams>,
) -> Result<Json<YearAhead>, ApiError> {
    let told = YearAsked { crew: params.crew, week: params.week };
    let look = move |view: &tally_store::View| Ok(Json(upkeep::year(view, params.scope.as_deref(), &told)?));
    state.look(who, Topic::Work, look).await
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct LevelParams {
    /// Code of an asset, with all below it; everything without it.
    scope: Option<String>,
}

/// How the year ahead could be levelled: each cycle within its tolerance. Nothing is moved by asking.
#[utoipa::path(get, path = "/upkeep/levelling", params(LevelParams), responses((status = 200, body = Levelling)))]
pub async fn level(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<LevelParams>,
) -> Result<Json<Levelling>, ApiError> {
    let look = move |view: &tally_store::View| Ok(Json(upkeep::level(view, params.scope.as_deref())?));
    state.look(who, Topic::Work, look).await
}

/// Moves cycles that lie ahead to other days, all or none.
#[utoipa::path(post, path = "/upkeep/moves", request_body = CycleMove, responses((status = 200, body = CyclesMoved)))]
pub async fn move_cycles(
    State(state): State<AppState>,
    who: Who,
    Body(body): Body<CycleMove>,
) -> Result<Json<CyclesMoved>, ApiError> {
    state.write(who, move |tx| upkeep::move_cycles(tx, &body).map(Json)).await
}

/// One plan: its next cycles, those it had, and how many of them were done in time.
#[utoipa::path(get, path = "/upkeep/plans/{code}", params(("code" = String, Path)), responses((status = 200, body = PlanDetail)))]
pub async fn plan(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
) -> Result<Json<PlanDetail>, ApiError> {
    state.look(who, Topic::Work, move |view| Ok(Json(upkeep::detail(view, &code)?))).await
}

/// For which asset a plan is done now.
#[derive(Debug, Default, Deserialize, ToSchema)]
pub struct PlanNow {
    /// Code; not needed where the plan is for one asset alone.
    #[serde(default)]
    asset: Option<String>,
}

/// The work that was raised.
#[derive(Debug, Serialize, ToSchema)]
pub struct PlanRaised {
    number: WorkOrderId,
}

/// Raises the next cycle of a plan now.
#[utoipa::path(post, path = "/upkeep/plans/{code}/now", params(("code" = String, Path)), request_body = PlanNow,
    responses((status = 200, body = PlanRaised)))]
pub async fn raise_now(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Body(body): Body<PlanNow>,
) -> Result<Json<PlanRaised>, ApiError> {
    let raised = move |tx: &mut tally_store::Tx| {
        upkeep::raise_now(tx, &code, body.asset.as_deref()).map(|number| Json(PlanRaised { number }))
    };
    state.write(who, raised).await
}

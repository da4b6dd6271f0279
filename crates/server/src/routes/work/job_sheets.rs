//! Job sheets and rounds, and ticking off what an order's says.

use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{BasedOn, Body, Params, Segment, Who},
    },
};
use axum::{Json, extract::State};
use serde::Deserialize;
use tally_core::{
    access::seen::Topic,
    ground::ids::WorkOrderId,
    work::{JobSheet, MOST_STEPS, rounds::MapLine},
};
use tally_store::{
    StoreError, Tx, View,
    ground::{base, base::Edited},
    plant::assets,
    work::{
        job_sheets,
        job_sheets::{JobSheetRow, JobSheetView, TickChange},
    },
};
use utoipa::IntoParams;

/// The job sheets there are.
#[utoipa::path(get, path = "/job-sheets", responses((status = 200, body = Vec<JobSheetRow>)))]
pub async fn list(State(state): State<AppState>, who: Who) -> Result<Json<Vec<JobSheetRow>>, ApiError> {
    state.look(who, Topic::Work, |view| Ok(Json(job_sheets::list(view)?))).await
}

/// One job sheet, in its newest version.
#[utoipa::path(get, path = "/job-sheets/{code}", params(("code" = String, Path)),
    responses((status = 200, body = JobSheetView)))]
pub async fn one(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
) -> Result<Json<JobSheetView>, ApiError> {
    state.look(who, Topic::Work, move |view| Ok(Json(job_sheets::view(view, &code)?))).await
}

/// Writes a job sheet: a new version of it.
#[utoipa::path(put, path = "/job-sheets/{code}", params(("code" = String, Path), BasedOn), request_body = JobSheet,
    responses((status = 200, body = JobSheet)))]
pub async fn put(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Params(based): Params<BasedOn>,
    Body(body): Body<JobSheet>,
) -> Result<Json<JobSheet>, ApiError> {
    let put = move |tx: &mut Tx| {
        base::require(tx, Edited::JobSheet(&code), based.based_on)?;
        job_sheets::put(tx, &code, &body).map(|()| Json(body))
    };
    state.write(who, put).await
}

/// Ticks a step or a permit of an order's job sheet off, or back.
#[utoipa::path(post, path = "/work-orders/{number}/job-sheet/ticks", params(("number" = i64, Path)), request_body = TickChange,
    responses((status = 200, body = TickChange)))]
pub async fn tick(
    State(state): State<AppState>,
    who: Who,
    Segment(number): Segment<WorkOrderId>,
    Body(body): Body<TickChange>,
) -> Result<Json<TickChange>, ApiError> {
    state.write(who, move |tx| job_sheets::tick(tx, number, &body).map(|()| Json(body))).await
}

/// Where a round leads.
#[derive(Debug, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
pub struct Visited {
    /// Codes of the assets that are visited, one after the other, with commas between.
    visits: String,
}

/// The part of the tree that the visits of a round lie in. What there is not is left out, unless there is nothing at all.
#[utoipa::path(get, path = "/rounds/map", params(Visited), responses((status = 200, body = Vec<MapLine>)))]
pub async fn map(
    State(state): State<AppState>,
    who: Who,
    Params(visited): Params<Visited>,
) -> Result<Json<Vec<MapLine>>, ApiError> {
    let map = move |view: &View| {
        let visits: Vec<&str> = visited.visits.split(',').map(str::trim).collect();
        if visits.len() > MOST_STEPS {
            return Err(StoreError::invalid("visits", format!("at most {MOST_STEPS}")).into());
        }
        let map = job_sheets::round_map(view, &visits)?;
        if map.is_empty() {
            assets::require_reached(view, visits.first().copied().unwrap_or_default())?;
        }
        Ok(Json(map))
    };
    state.look(who, Topic::Work, map).await
}

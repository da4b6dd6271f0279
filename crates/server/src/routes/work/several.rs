//! The same done to several orders at once, after a look at what it would do, and put back.

use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Body, Params, Segment, Who},
    },
};
use axum::{Json, extract::State};
use serde::Deserialize;
use tally_core::work::Several;
use tally_store::work::{self, SeveralDone};
use utoipa::IntoParams;

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct SeveralParams {
    /// Only tells what would be done.
    #[serde(default)]
    dry_run: bool,
}

/// Changes or moves several orders: each that takes it.
#[utoipa::path(post, path = "/work-orders/several", params(SeveralParams), request_body = Several,
    responses((status = 200, body = SeveralDone)))]
pub async fn several(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<SeveralParams>,
    Body(body): Body<Several>,
) -> Result<Json<SeveralDone>, ApiError> {
    state.tx(who, params.dry_run, move |tx| work::several(tx, &body).map(Json)).await
}

/// Puts several orders back as they were before: those that nobody changed since.
#[utoipa::path(post, path = "/work-orders/several/{batch}/put-back", params(("batch" = i64, Path)),
    responses((status = 200, body = SeveralDone)))]
pub async fn put_back(
    State(state): State<AppState>,
    who: Who,
    Segment(batch): Segment<i64>,
) -> Result<Json<SeveralDone>, ApiError> {
    state.write(who, move |tx| work::put_back(tx, batch).map(Json)).await
}

//! The same fault once: what was raised already, reports joined to it, and links between orders.

use super::orders::Raised;
use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Body, Params, Segment, Who},
    },
};
use axum::{Json, extract::State, http::StatusCode};
use serde::{Deserialize, Serialize};
use tally_core::{access::seen::Topic, ground::ids::WorkOrderId, work::NewOccurrence};
use tally_store::work::{self, AlreadyRaised, links, occurrences};
use utoipa::{IntoParams, ToSchema};

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct AlreadyParams {
    /// Code of the asset.
    asset: String,
    /// What is to be done, as far as it is typed.
    title: Option<String>,
}

/// Open work on an asset, what is above it and its parts, raised in the last 90 days: what may be about the same first.
#[utoipa::path(get, path = "/work-orders/already-raised", params(AlreadyParams),
    responses((status = 200, body = AlreadyRaised)))]
pub async fn already_raised(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<AlreadyParams>,
) -> Result<Json<AlreadyRaised>, ApiError> {
    let words = params.title.unwrap_or_default();
    state.look(who, Topic::Work, move |view| Ok(Json(work::already_raised(view, &params.asset, &words)?))).await
}

/// A report that was joined.
#[derive(Debug, Serialize, ToSchema)]
pub struct Joined {
    pub id: i64,
}

/// Reports work again instead of raising it twice.
#[utoipa::path(post, path = "/work-orders/{number}/occurrences", params(("number" = i64, Path)), request_body = NewOccurrence,
    responses((status = 201, body = Joined)))]
pub async fn join(
    State(state): State<AppState>,
    who: Who,
    Segment(number): Segment<WorkOrderId>,
    Body(body): Body<NewOccurrence>,
) -> Result<(StatusCode, Json<Joined>), ApiError> {
    let id = state.write(who, move |tx| occurrences::join(tx, number, &body)).await?;
    Ok((StatusCode::CREATED, Json(Joined { id })))
}

/// Takes a report back.
#[utoipa::path(delete, path = "/work-orders/{number}/occurrences/{id}", params(("number" = i64, Path), ("id" = i64, Path)),
    responses((status = 204)))]
pub async fn take_back(
    State(state): State<AppState>,
    who: Who,
    Segment((number, id)): Segment<(WorkOrderId, i64)>,
) -> Result<StatusCode, ApiError> {
    state.write(who, move |tx| occurrences::take_back(tx, number, id)).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Work that an order has to do with.
#[derive(Debug, Deserialize, ToSchema)]
pub struct NewLink {
    to: WorkOrderId,
}

/// Says that two orders have to do with each other.
#[utoipa::path(post, path = "/work-orders/{number}/links", params(("number" = i64, Path)), request_body = NewLink,
    responses((status = 201, body = Raised)))]
pub async fn link(
    State(state): State<AppState>,
    who: Who,
    Segment(number): Segment<WorkOrderId>,
    Body(body): Body<NewLink>,
) -> Result<(StatusCode, Json<Raised>), ApiError> {
    state.write(who, move |tx| links::link(tx, number, body.to)).await?;
    Ok((StatusCode::CREATED, Json(Raised { number })))
}

/// Says that they don't after all.
#[utoipa::path(delete, path = "/work-orders/{number}/links/{to}", params(("number" = i64, Path), ("to" = i64, Path)),
    responses((status = 204)))]
pub async fn unlink(
    State(state): State<AppState>,
    who: Who,
    Segment((number, to)): Segment<(WorkOrderId, WorkOrderId)>,
) -> Result<StatusCode, ApiError> {
    state.write(who, move |tx| links::unlink(tx, number, to)).await?;
    Ok(StatusCode::NO_CONTENT)
}

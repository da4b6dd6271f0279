//! What somebody reports while they work: time that runs, hours, parts, and what they say to others.

use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Body, Params, Segment, Who},
    },
};
use axum::{Json, extract::State, http::StatusCode};
use serde::{Deserialize, Serialize};
use tally_core::{
    access::seen::Topic,
    ground::ids::WorkOrderId,
    work::{NewComment, NewHours, PartMove, TimeChange},
};
use tally_store::{
    View,
    work::{SparePart, comments, find_parts, move_part, running_time},
};
use utoipa::{IntoParams, ToSchema};

/// Begins or ends somebody's time on an order. With it the work begins; whose time runs elsewhere ends it there. What ends
/// becomes hours at their rates.
#[utoipa::path(post, path = "/work-orders/{number}/time", params(("number" = i64, Path)), request_body = TimeChange,
    responses((status = 204)))]
pub async fn time(
    State(state): State<AppState>,
    who: Who,
    Segment(number): Segment<WorkOrderId>,
    Body(body): Body<TimeChange>,
) -> Result<StatusCode, ApiError> {
    state.write(who, move |tx| running_time::change(tx, number, &body)).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Reports the same hours for some people at once, an entry each.
#[utoipa::path(post, path = "/work-orders/{number}/hours", params(("number" = i64, Path)), request_body = NewHours,
    responses((status = 204)))]
pub async fn hours(
    State(state): State<AppState>,
    who: Who,
    Segment(number): Segment<WorkOrderId>,
    Body(body): Body<NewHours>,
) -> Result<StatusCode, ApiError> {
    state.write(who, move |tx| running_time::add_hours(tx, number, &body)).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Sets a part aside for an order, frees it, takes it from the storeroom at the price of now, or gives it back.
#[utoipa::path(post, path = "/work-orders/{number}/parts", params(("number" = i64, Path)), request_body = PartMove,
    responses((status = 204)))]
pub async fn part(
    State(state): State<AppState>,
    who: Who,
    Segment(number): Segment<WorkOrderId>,
    Body(body): Body<PartMove>,
) -> Result<StatusCode, ApiError> {
    state.write(who, move |tx| move_part(tx, number, &body)).await?;
    Ok(StatusCode::NO_CONTENT)
}

#[derive(Debug, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
pub struct PartSearch {
    /// Letters of the name or the part number.
    #[serde(default)]
    text: String,
    /// Code of the asset that it is for: what fits it comes first.
    asset: Option<String>,
}

/// Parts that the storeroom keeps, twenty at the most.
#[utoipa::path(get, path = "/storeroom", params(PartSearch), responses((status = 200, body = Vec<SparePart>)))]
pub async fn parts(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<PartSearch>,
) -> Result<Json<Vec<SparePart>>, ApiError> {
    let look = move |view: &View| Ok(Json(find_parts(view, &params.text, params.asset.as_deref())?));
    state.look(who, Topic::Work, look).await
}

/// A comment that was written.
#[derive(Debug, Serialize, ToSchema)]
pub struct Commented {
    pub id: i64,
}

/// Says something about an order; to all who see it, or to colleagues only.
#[utoipa::path(post, path = "/work-orders/{number}/comments", params(("number" = i64, Path)), request_body = NewComment,
    responses((status = 201, body = Commented)))]
pub async fn comment(
    State(state): State<AppState>,
    who: Who,
    Segment(number): Segment<WorkOrderId>,
    Body(body): Body<NewComment>,
) -> Result<(StatusCode, Json<Commented>), ApiError> {
    let id = state.write(who, move |tx| comments::add(tx, number, &body)).await?;
    Ok((StatusCode::CREATED, Json(Commented { id })))
}

/// Takes a comment away that one made.
#[utoipa::path(delete, path = "/work-orders/{number}/comments/{id}",
    params(("number" = i64, Path), ("id" = i64, Path)), responses((status = 204)))]
pub async fn take_comment_away(
    State(state): State<AppState>,
    who: Who,
    Segment((number, id)): Segment<(WorkOrderId, i64)>,
) -> Result<StatusCode, ApiError> {
    state.write(who, move |tx| comments::take_away(tx, number, id, false)).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Puts a comment back that was taken away.
#[utoipa::path(post, path = "/work-orders/{number}/comments/{id}/put-back",
    params(("number" = i64, Path), ("id" = i64, Path)), responses((status = 204)))]
pub async fn put_comment_back(
    State(state): State<AppState>,
    who: Who,
    Segment((number, id)): Segment<(WorkOrderId, i64)>,
) -> Result<StatusCode, ApiError> {
    state.write(who, move |tx| comments::take_away(tx, number, id, true)).await?;
    Ok(StatusCode::NO_CONTENT)
}

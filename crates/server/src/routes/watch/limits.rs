use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{BasedOn, Body, Params, Segment, Who},
    },
};
use axum::{Json, extract::State, http::StatusCode};
use serde::Deserialize;
use tally_core::{
    access::seen::Topic,
    watch::limits::{
        Ladder, Rung,
        edits::{Edit, edited},
    },
};
use tally_store::{
    StoreError, Tx,
    ground::{base, base::Edited},
    watch::{
        limits,
        limits::{LadderChanges, LadderReceipt, LadderView, NewLadder},
    },
};
use utoipa::{IntoParams, ToSchema};

/// The newest version of a meter's ladder, and the versions before it.
#[utoipa::path(get, path = "/meters/{code}/ladder", params(("code" = String, Path)),
    responses((status = 200, body = LadderView)))]
pub async fn get(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
) -> Result<Json<LadderView>, ApiError> {
    state.look(who, Topic::Meters, move |view| Ok(Json(limits::view(view, &code)?))).await
}

/// An edit of a ladder that is not saved yet.
#[derive(Debug, Deserialize, ToSchema)]
pub struct LadderEdit {
    ladder: Ladder,
    edit: Edit,
    /// What the meter read last, in its unit.
    last: Option<f64>,
}

/// The rung that an edit makes, with its numbers. Nothing is kept.
#[utoipa::path(post, path = "/ladders/edit", request_body = LadderEdit, responses((status = 200, body = Rung)))]
pub async fn edit(
    State(state): State<AppState>,
    who: Who,
    Body(body): Body<LadderEdit>,
) -> Result<Json<Rung>, ApiError> {
    let wrong = |error| ApiError::from(StoreError::invalid("edit", error));
    state.look(who, Topic::Meters, move |_| edited(&body.ladder, body.edit, body.last).map(Json).map_err(wrong)).await
}

/// Writes a new version. The last reading is evaluated under it at once.
#[utoipa::path(put, path = "/meters/{code}/ladder", params(("code" = String, Path), BasedOn), request_body = NewLadder,
    responses((status = 200, body = LadderReceipt)))]
pub async fn put(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Params(based): Params<BasedOn>,
    Body(body): Body<NewLadder>,
) -> Result<Json<LadderReceipt>, ApiError> {
    let set = move |tx: &mut Tx| {
        base::require(tx, Edited::Ladder(&code), based.based_on)?;
        limits::set(tx, &code, &body).map(Json)
    };
    state.write(who, set).await
}

/// A second engineer's yes to the version that waits for it.
#[utoipa::path(post, path = "/meters/{code}/ladder/approve", params(("code" = String, Path)),
    responses((status = 200, body = LadderReceipt)))]
pub async fn approve(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
) -> Result<Json<LadderReceipt>, ApiError> {
    state.write(who, move |tx| limits::approve(tx, &code).map(Json)).await
}

/// Takes back or turns down the version that waits for a second engineer.
#[utoipa::path(delete, path = "/meters/{code}/ladder/proposed", params(("code" = String, Path)),
    responses((status = 204)))]
pub async fn turn_down(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
) -> Result<StatusCode, ApiError> {
    state.write(who, move |tx| limits::turn_down(tx, &code)).await?;
    Ok(StatusCode::NO_CONTENT)
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct ChangesParams {
    /// Number of the earlier version; 0 is no ladder at all.
    from: i64,
    to: i64,
}

/// What differs between two versions, rung by rung.
#[utoipa::path(get, path = "/meters/{code}/ladder/changes", params(("code" = String, Path), ChangesParams),
    responses((status = 200, body = LadderChanges)))]
pub async fn changes(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Params(params): Params<ChangesParams>,
) -> Result<Json<LadderChanges>, ApiError> {
    state
        .look(who, Topic::Meters, move |view| Ok(Json(limits::changes_between(view, &code, params.from, params.to)?)))
        .await
}

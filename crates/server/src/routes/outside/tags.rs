//! Names that outside systems have for meters.

use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Body, Segment, Who},
    },
};
use axum::{Json, extract::State, http::StatusCode};
use tally_core::access::seen::Topic;
use tally_store::outside::{
    tags,
    tags::{NewTag, TagRow},
};

/// Names that outside systems have for meters.
#[utoipa::path(get, path = "/tags", responses((status = 200, body = Vec<TagRow>)))]
pub async fn tags(State(state): State<AppState>, who: Who) -> Result<Json<Vec<TagRow>>, ApiError> {
    state.look(who, Topic::Office, |view| Ok(Json(tags::list(view)?))).await
}

/// Sets what a tag stands for.
#[utoipa::path(put, path = "/tags", request_body = NewTag, responses((status = 200, body = NewTag)))]
pub async fn set_tag(
    State(state): State<AppState>,
    who: Who,
    Body(body): Body<NewTag>,
) -> Result<Json<NewTag>, ApiError> {
    state.write(who, move |tx| tags::set(tx, &body).map(|()| Json(body))).await
}

/// Takes a tag away.
#[utoipa::path(delete, path = "/tags/{tag}", params(("tag" = String, Path)), responses((status = 204)))]
pub async fn remove_tag(
    State(state): State<AppState>,
    who: Who,
    Segment(tag): Segment<String>,
) -> Result<StatusCode, ApiError> {
    state.write(who, move |tx| tags::remove(tx, &tag)).await?;
    Ok(StatusCode::NO_CONTENT)
}

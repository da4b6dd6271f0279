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
    plant::values::{NewValue, ValueKind},
};
use tally_store::plant::{values, values::ValueRow};
use utoipa::{IntoParams, ToSchema};

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct ValuesParams {
    #[param(inline)]
    kind: ValueKind,
}

/// Values that are set for assets or crews from a day on.
#[utoipa::path(get, path = "/values", params(ValuesParams), responses((status = 200, body = Vec<ValueRow>)))]
pub async fn list(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<ValuesParams>,
) -> Result<Json<Vec<ValueRow>>, ApiError> {
    state.look(who, Topic::Office, move |view| Ok(Json(values::list(view, params.kind)?))).await
}

/// A value that was set.
#[derive(Debug, Serialize, ToSchema)]
pub struct ValueSet {
    id: i64,
}

/// Sets a value from a day on; the same for the same day is replaced.
#[utoipa::path(post, path = "/values", request_body = NewValue, responses((status = 201, body = ValueSet)))]
pub async fn set(
    State(state): State<AppState>,
    who: Who,
    Body(body): Body<NewValue>,
) -> Result<(StatusCode, Json<ValueSet>), ApiError> {
    let id = state.write(who, move |tx| values::set(tx, &body)).await?;
    Ok((StatusCode::CREATED, Json(ValueSet { id })))
}

/// Takes a value away.
#[utoipa::path(delete, path = "/values/{id}", params(("id" = i64, Path)), responses((status = 204)))]
pub async fn remove(
    State(state): State<AppState>,
    who: Who,
    Segment(id): Segment<i64>,
) -> Result<StatusCode, ApiError> {
    state.write(who, move |tx| values::remove(tx, id)).await?;
    Ok(StatusCode::NO_CONTENT)
}

//! Keys of gateways and scripts, and codes with which people set a password.

use crate::{
    AppState,
    access::secrets,
    ground::{
        error::ApiError,
        extract::{Body, Segment, Who},
        threads::blocking,
    },
};
use axum::{Json, extract::State, http::StatusCode};
use serde::Serialize;
use tally_core::{
    access::roles::{Action, may},
    ground::time::Instant,
};
use tally_store::{
    StoreError,
    access::{
        keys::{self, KeyRow, NewKey},
        passwords,
    },
};
use utoipa::ToSchema;

/// The keys there are, without what they are.
#[utoipa::path(get, path = "/keys", responses((status = 200, body = Vec<KeyRow>)))]
pub async fn list(State(state): State<AppState>, who: Who) -> Result<Json<Vec<KeyRow>>, ApiError> {
    may(who.actor.role, Action::ChangeKeys).map_err(StoreError::from)?;
    blocking(move || {
        let now = state.clock.now();
        Ok(Json(state.store.read(now, |view| keys::list(view, now))?))
    })
    .await
}

/// A key, shown this once.
#[derive(Debug, Serialize, ToSchema)]
pub struct MadeKey {
    pub name: String,
    /// To be sent as `Authorization: Bearer …`.
    pub key: String,
}

/// Makes a key. It is in this answer and nowhere else.
#[utoipa::path(post, path = "/keys", request_body = NewKey, responses((status = 201, body = MadeKey)))]
pub async fn add(
    State(state): State<AppState>,
    who: Who,
    Body(body): Body<NewKey>,
) -> Result<(StatusCode, Json<MadeKey>), ApiError> {
    let (key, name) = (secrets::key(), body.name.trim().to_owned());
    let hash = secrets::hash(&key);
    state.write(who, move |tx| keys::add(tx, &body, &hash)).await?;
    Ok((StatusCode::CREATED, Json(MadeKey { name, key })))
}

/// Revokes a key: from this moment on it is refused.
#[utoipa::path(delete, path = "/keys/{name}", params(("name" = String, Path)), responses((status = 204)))]
pub async fn revoke(
    State(state): State<AppState>,
    who: Who,
    Segment(name): Segment<String>,
) -> Result<StatusCode, ApiError> {
    state.write(who, move |tx| keys::revoke(tx, &name)).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// A code with which a person sets a password, shown this once.
#[derive(Debug, Serialize, ToSchema)]
pub struct ResetCode {
    pub code: String,
    /// Until when it works, once.
    pub until: Instant,
}

/// Makes a code with which that person sets a password, once and within an hour.
#[utoipa::path(post, path = "/people/{code}/reset-code", params(("code" = String, Path)),
    responses((status = 201, body = ResetCode)))]
pub async fn reset_code(
    State(state): State<AppState>,
    who: Who,
    Segment(person): Segment<String>,
) -> Result<(StatusCode, Json<ResetCode>), ApiError> {
    let code = secrets::code();
    let hash = secrets::code_hash(&code);
    let until = state.write(who, move |tx| passwords::reset(tx, &person, &hash)).await?;
    Ok((StatusCode::CREATED, Json(ResetCode { code, until })))
}

use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{BasedOn, Body, Params, Who},
    },
};
use axum::{Json, extract::State};
use tally_core::{access::seen::Topic, plant::settings::Settings};
use tally_store::{
    Tx,
    ground::{base, base::Edited},
    plant::{settings, settings::SettingsView},
};

/// What holds for the whole installation.
#[utoipa::path(get, path = "/settings", responses((status = 200, body = SettingsView)))]
pub async fn get(State(state): State<AppState>, who: Who) -> Result<Json<SettingsView>, ApiError> {
    state.look(who, Topic::Plant, |view| Ok(Json(settings::view(view)?))).await
}

/// Replaces it. That danger rungs need no second engineer any more is only proposed.
#[utoipa::path(put, path = "/settings", params(BasedOn), request_body = Settings, responses((status = 200, body = SettingsView)))]
pub async fn put(
    State(state): State<AppState>,
    who: Who,
    Params(based): Params<BasedOn>,
    Body(body): Body<Settings>,
) -> Result<Json<SettingsView>, ApiError> {
    let set = move |tx: &mut Tx| {
        base::require(tx, Edited::Settings, based.based_on)?;
        settings::set(tx, &body)?;
        settings::view(tx).map(Json)
    };
    state.write(who, set).await
}

/// A second engineer's yes to that danger rungs need none any more.
#[utoipa::path(post, path = "/settings/second-approval/approve", responses((status = 200, body = SettingsView)))]
pub async fn approve_off(State(state): State<AppState>, who: Who) -> Result<Json<SettingsView>, ApiError> {
    let approve = |tx: &mut Tx| {
        settings::approve_off(tx)?;
        settings::view(tx).map(Json)
    };
    state.write(who, approve).await
}

/// Takes that proposal back, or turns it down.
#[utoipa::path(delete, path = "/settings/second-approval/proposed", responses((status = 200, body = SettingsView)))]
pub async fn turn_down_off(State(state): State<AppState>, who: Who) -> Result<Json<SettingsView>, ApiError> {
    let turn_down = |tx: &mut Tx| {
        settings::turn_down_off(tx)?;
        settings::view(tx).map(Json)
    };
    state.write(who, turn_down).await
}

use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Body, Who},
    },
};
use axum::{Json, extract::State};
use serde::{Deserialize, Serialize};
use tally_core::ground::time::Instant;
use tally_store::StoreError;
use utoipa::ToSchema;

/// The instant the server takes for now.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
pub struct ClockBody {
    pub now: Instant,
}

/// What time it is.
#[derive(Debug, Serialize, ToSchema)]
pub struct ClockView {
    pub now: Instant,
    /// It goes on; in tests it may stand.
    pub runs: bool,
}

/// What time it is here: the demo has a day of its own.
#[utoipa::path(get, path = "/clock", responses((status = 200, body = ClockView)))]
pub async fn get(State(state): State<AppState>) -> Json<ClockView> {
    Json(ClockView { now: state.clock.now(), runs: state.clock.runs() })
}

/// Sets the clock of a server that was started with a standing one.
#[utoipa::path(put, path = "/clock", request_body = ClockBody, responses((status = 200, body = ClockBody)))]
pub async fn set(
    State(state): State<AppState>,
    _who: Who,
    Body(body): Body<ClockBody>,
) -> Result<Json<ClockBody>, ApiError> {
    if state.clock.set(body.now) {
        state.tick().await?;
        Ok(Json(ClockBody { now: state.clock.now() }))
    } else {
        Err(StoreError::Conflict("this server's clock runs by itself".into()).into())
    }
}

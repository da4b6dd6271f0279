use crate::{
    AppState,
    ground::{error::ApiError, extract::Who},
};
use axum::{Json, extract::State};
use tally_core::access::seen::Topic;
use tally_store::lists::{start, start::Start};

/// What a visitor sees first: how far the installation is set up, a risk that stands, a failure nothing warned of.
#[utoipa::path(get, path = "/start", responses((status = 200, body = Start)))]
pub async fn get(State(state): State<AppState>, who: Who) -> Result<Json<Start>, ApiError> {
    state.look(who, Topic::Plant, |view| Ok(Json(start::start(view)?))).await
}

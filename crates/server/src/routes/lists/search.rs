use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Params, Who},
    },
};
use axum::{Json, extract::State};
use serde::Deserialize;
use tally_core::access::seen::Topic;
use tally_store::lists::{search, search::Hit};
use utoipa::IntoParams;

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct SearchParams {
    /// A few letters of a code, a name or a title, or a number.
    q: String,
}

/// Hits of each kind at the most.
const MOST: usize = 6;

/// Assets, meters, work orders and codebooks by a few letters.
#[utoipa::path(get, path = "/search", params(SearchParams), responses((status = 200, body = Vec<Hit>)))]
pub async fn find(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<SearchParams>,
) -> Result<Json<Vec<Hit>>, ApiError> {
    state.look(who, Topic::Plant, move |view| Ok(Json(search::find(view, &params.q, MOST)?))).await
}

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
use tally_store::work::bought::{Bought, names};
use utoipa::IntoParams;

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct NamesParams {
    /// Letters of the name.
    text: Option<String>,
}

/// Names told at the most.
const MOST: usize = 20;

/// What was bought so far, by its letters.
#[utoipa::path(get, path = "/items", params(NamesParams), responses((status = 200, body = Vec<String>)))]
pub async fn items(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<NamesParams>,
) -> Result<Json<Vec<String>>, ApiError> {
    let letters = params.text.unwrap_or_default();
    state.look(who, Topic::Work, move |view| Ok(Json(names(view, Bought::Item, &letters, MOST)?))).await
}

/// Who sold something so far, by its letters.
#[utoipa::path(get, path = "/suppliers", params(NamesParams), responses((status = 200, body = Vec<String>)))]
pub async fn suppliers(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<NamesParams>,
) -> Result<Json<Vec<String>>, ApiError> {
    let letters = params.text.unwrap_or_default();
    state.look(who, Topic::Work, move |view| Ok(Json(names(view, Bought::Supplier, &letters, MOST)?))).await
}

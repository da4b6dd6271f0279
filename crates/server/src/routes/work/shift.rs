//! A shift: the line of time of whoever does the work.

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
use tally_store::work::{
    shift::{Shift, Whose, shift},
    taken_along::{TakenAlong, taken_along},
};
use utoipa::IntoParams;

#[derive(Debug, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
pub struct ShiftParams {
    /// Code of a person; whoever looks without it.
    person: Option<String>,
    /// Code of a crew, in place of a person.
    crew: Option<String>,
}

/// What whoever looks takes along to where there is no network: the line of time, and the orders of the coming days with their check
/// sheets and codebooks.
#[utoipa::path(get, path = "/shift/taken-along", responses((status = 200, body = TakenAlong)))]
pub async fn taken(State(state): State<AppState>, who: Who) -> Result<Json<TakenAlong>, ApiError> {
    state.look(who, Topic::Work, |view| Ok(Json(taken_along(view)?))).await
}

/// The work of one person, or of a crew, on one line of time: what is late, under way, to be done today and later, and what was
/// finished today.
#[utoipa::path(get, path = "/shift", params(ShiftParams), responses((status = 200, body = Shift)))]
pub async fn line(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<ShiftParams>,
) -> Result<Json<Shift>, ApiError> {
    let look = move |view: &tally_store::View| {
        let said = |text: &'_ Option<String>| text.clone().filter(|text| !text.is_empty());
        let whose = match (said(&params.person), said(&params.crew)) {
            (Some(_), Some(_)) => return Err(ApiError::bad("crew", "say a person or a crew, not both")),
            (Some(person), None) => shift(view, Whose::Person(&person))?,
            (None, Some(crew)) => shift(view, Whose::Crew(&crew))?,
            (None, None) => shift(view, Whose::Own)?,
        };
        Ok(Json(whose))
    };
    state.look(who, Topic::Work, look).await
}

//! The week by crew and day, and orders put on it.

use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Body, Params, Segment, Who},
    },
};
use axum::{Json, extract::State};
use jiff::civil::Date;
use serde::Deserialize;
use tally_core::{
    access::seen::Topic,
    ground::ids::WorkOrderId,
    work::week::{Placing, monday},
};
use tally_store::{
    plant::settings,
    work::{SeveralDone, week, week::WeekBoard},
};
use utoipa::IntoParams;

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct WeekParams {
    /// Code of an asset, with all below it; everything without it.
    scope: Option<String>,
    /// A day of the week, as `2026-03-02`; today without it.
    day: Option<String>,
}

/// What is scheduled in a week, by crew and day, beside what each can do; and what waits for nothing and has no day.
#[utoipa::path(get, path = "/work/week", params(WeekParams), responses((status = 200, body = WeekBoard)))]
pub async fn board(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<WeekParams>,
) -> Result<Json<WeekBoard>, ApiError> {
    let look = move |view: &tally_store::View| {
        let day = match params.day.as_deref().filter(|day| !day.is_empty()) {
            Some(day) => day.parse::<Date>().map_err(|error| ApiError::bad("day", error))?,
            None => view.now.in_zone(&settings::time_zone(view)?).date(),
        };
        Ok(Json(week::week(view, params.scope.as_deref(), monday(day))?))
    };
    state.look(who, Topic::Work, look).await
}

/// Puts an order on a crew's day, or takes it off the board. It can be put back as a change of several.
#[utoipa::path(post, path = "/work-orders/{number}/place", params(("number" = i64, Path)), request_body = Placing,
    responses((status = 200, body = SeveralDone)))]
pub async fn place(
    State(state): State<AppState>,
    who: Who,
    Segment(number): Segment<WorkOrderId>,
    Body(body): Body<Placing>,
) -> Result<Json<SeveralDone>, ApiError> {
    state.write(who, move |tx| week::place(tx, number, &body).map(Json)).await
}

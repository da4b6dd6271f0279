use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Body, Segment, Who},
    },
};
use axum::{Json, extract::State, http::StatusCode};
use serde::{Deserialize, Serialize};
use tally_core::{access::seen::Topic, ground::time::Instant};
use tally_store::plant::{
    calendars,
    calendars::{CalendarView, NewCalendar},
};
use utoipa::ToSchema;

/// Adds an operating calendar.
#[utoipa::path(post, path = "/calendars", request_body = NewCalendar, responses((status = 201, body = NewCalendar)))]
pub async fn add(
    State(state): State<AppState>,
    who: Who,
    Body(body): Body<NewCalendar>,
) -> Result<(StatusCode, Json<NewCalendar>), ApiError> {
    state.write(who, move |tx| calendars::add(tx, &body).map(|_| (StatusCode::CREATED, Json(body)))).await
}

/// The operating calendars there are.
#[utoipa::path(get, path = "/calendars", responses((status = 200, body = Vec<CalendarView>)))]
pub async fn list(State(state): State<AppState>, who: Who) -> Result<Json<Vec<CalendarView>>, ApiError> {
    state.look(who, Topic::Plant, |view| Ok(Json(calendars::list(view)?))).await
}

/// Writes a calendar anew, for all time.
#[utoipa::path(put, path = "/calendars/{code}", params(("code" = String, Path)), request_body = NewCalendar,
    responses((status = 200, body = NewCalendar)))]
pub async fn change(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Body(body): Body<NewCalendar>,
) -> Result<Json<NewCalendar>, ApiError> {
    state.write(who, move |tx| calendars::change(tx, &code, &body).map(|()| Json(body))).await
}

/// A calendar for an asset and all below it, from an instant on.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
pub struct Assign {
    calendar: String,
    from: Instant,
}

/// Gives an asset a calendar.
#[utoipa::path(put, path = "/assets/{code}/calendar", params(("code" = String, Path)), request_body = Assign,
    responses((status = 200, body = Assign)))]
pub async fn assign(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Body(body): Body<Assign>,
) -> Result<Json<Assign>, ApiError> {
    state.write(who, move |tx| calendars::assign(tx, &code, &body.calendar, body.from).map(|()| Json(body))).await
}

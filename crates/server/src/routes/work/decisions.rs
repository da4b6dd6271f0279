//! Decisions on risk: those that are open, and answering one.

use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Body, Segment, Who},
    },
};
use axum::{Json, extract::State};
use tally_core::{
    access::seen::Topic,
    ground::ids::WorkOrderId,
    work::{NewRiskAnswer, NewWithdrawal},
};
use tally_store::work::{decisions, decisions::OpenDecisions};

/// Decisions that rungs handed up and nobody answered yet, the oldest first.
#[utoipa::path(get, path = "/decisions", responses((status = 200, body = OpenDecisions)))]
pub async fn open(State(state): State<AppState>, who: Who) -> Result<Json<OpenDecisions>, ApiError> {
    state.look(who, Topic::Work, |view| Ok(Json(decisions::open(view)?))).await
}

/// Answers a decision on an order: the work is done now, the asset runs on until a date, or it is stopped. While it runs on, the
/// same changes the answer, with a reason.
#[utoipa::path(post, path = "/work-orders/{number}/decisions/{id}", params(("number" = i64, Path), ("id" = i64, Path)),
    request_body = NewRiskAnswer, responses((status = 200, body = NewRiskAnswer)))]
pub async fn answer(
    State(state): State<AppState>,
    who: Who,
    Segment((number, id)): Segment<(WorkOrderId, i64)>,
    Body(body): Body<NewRiskAnswer>,
) -> Result<Json<NewRiskAnswer>, ApiError> {
    state.write(who, move |tx| decisions::answer(tx, number, id, &body).map(|()| Json(body))).await
}

/// Withdraws a decision to run on, with a reason: whoever decides is asked anew.
#[utoipa::path(delete, path = "/work-orders/{number}/decisions/{id}", params(("number" = i64, Path), ("id" = i64, Path)),
    request_body = NewWithdrawal, responses((status = 200, body = NewWithdrawal)))]
pub async fn withdraw(
    State(state): State<AppState>,
    who: Who,
    Segment((number, id)): Segment<(WorkOrderId, i64)>,
    Body(body): Body<NewWithdrawal>,
) -> Result<Json<NewWithdrawal>, ApiError> {
    state.write(who, move |tx| decisions::withdraw(tx, number, id, &body).map(|()| Json(body))).await
}

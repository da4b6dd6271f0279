//! Mail to people.

use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Params, Who},
    },
};
use axum::{Json, extract::State};
use serde::Deserialize;
use tally_core::{access::seen::Topic, ground::ids::WorkOrderId};
use tally_store::outside::{outbox, outbox::MessagePage};
use utoipa::IntoParams;

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct OutboxParams {
    /// Only what tells of this work order.
    work_order: Option<i64>,
    cursor: Option<i64>,
    limit: Option<usize>,
}

/// Mail to people, newest first.
#[utoipa::path(get, path = "/outbox", params(OutboxParams), responses((status = 200, body = MessagePage)))]
pub async fn outbox(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<OutboxParams>,
) -> Result<Json<MessagePage>, ApiError> {
    state
        .look(who, Topic::Office, move |view| {
            let (work, limit) = (params.work_order.map(WorkOrderId), params.limit.unwrap_or(50).clamp(1, 500));
            Ok(Json(outbox::list(view, work, params.cursor, limit)?))
        })
        .await
}

use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Body, Params, Segment, Who},
        look,
    },
};
use axum::{Json, extract::State, http::StatusCode};
use serde::Deserialize;
use tally_core::{access::seen::Topic, watch::limits::family::FamilyLadder};
use tally_store::{
    Tx,
    ground::{base, base::Edited},
    watch::{
        families,
        families::{FamilyReceipt, FamilyRow, FamilyView},
    },
};
use utoipa::IntoParams;

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct ListParams {
    scope: Option<String>,
}

/// Meters of one name on assets of one equipment class, as families.
#[utoipa::path(get, path = "/families", params(ListParams), responses((status = 200, body = Vec<FamilyRow>)))]
pub async fn list(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<ListParams>,
) -> Result<Json<Vec<FamilyRow>>, ApiError> {
    state
        .look(who, Topic::Meters, move |view| {
            let scope = look::scope(view, params.scope.as_deref())?;
            Ok(Json(families::list(view, scope.as_deref())?))
        })
        .await
}

/// A family with its ladder; meters that deviate say in what.
#[utoipa::path(get, path = "/families/{class}/{name}", params(("class" = String, Path), ("name" = String, Path)),
    responses((status = 200, body = FamilyView)))]
pub async fn one(
    State(state): State<AppState>,
    who: Who,
    Segment((class, name)): Segment<(String, String)>,
) -> Result<Json<FamilyView>, ApiError> {
    state.look(who, Topic::Meters, move |view| Ok(Json(families::view(view, &class, &name)?))).await
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct PutParams {
    /// Only say what would change on which meters; nothing is kept.
    #[serde(default)]
    dry_run: bool,
    /// The number of the last version that was seen: where there is a newer one, the answer is 409 and says whose.
    based_on: Option<i64>,
}

/// Writes a ladder for a family; meters with one of their own keep it unless they are named.
#[utoipa::path(put, path = "/families/{class}/{name}",
    params(("class" = String, Path), ("name" = String, Path), PutParams), request_body = FamilyLadder,
    responses((status = 200, body = FamilyReceipt)))]
pub async fn put(
    State(state): State<AppState>,
    who: Who,
    Segment((class, name)): Segment<(String, String)>,
    Params(params): Params<PutParams>,
    Body(body): Body<FamilyLadder>,
) -> Result<Json<FamilyReceipt>, ApiError> {
    let set = move |tx: &mut Tx| {
        base::require(tx, Edited::Family(&class, &name), params.based_on)?;
        families::set(tx, &class, &name, &body).map(Json)
    };
    state.tx(who, params.dry_run, set).await
}

/// A second engineer's yes to the family's ladder that waits for it: its meters get their new versions.
#[utoipa::path(post, path = "/families/{class}/{name}/approve",
    params(("class" = String, Path), ("name" = String, Path)), responses((status = 200, body = FamilyReceipt)))]
pub async fn approve(
    State(state): State<AppState>,
    who: Who,
    Segment((class, name)): Segment<(String, String)>,
) -> Result<Json<FamilyReceipt>, ApiError> {
    state.write(who, move |tx| families::approve(tx, &class, &name).map(Json)).await
}

/// Takes back or turns down the family's ladder that waits for a second engineer.
#[utoipa::path(delete, path = "/families/{class}/{name}/proposed",
    params(("class" = String, Path), ("name" = String, Path)), responses((status = 204)))]
pub async fn turn_down(
    State(state): State<AppState>,
    who: Who,
    Segment((class, name)): Segment<(String, String)>,
) -> Result<StatusCode, ApiError> {
    state.write(who, move |tx| families::turn_down(tx, &class, &name)).await?;
    Ok(StatusCode::NO_CONTENT)
}

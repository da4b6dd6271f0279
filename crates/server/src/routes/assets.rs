use crate::{
    AppState,
    error::ApiError,
    extract::{Body, Params, Segment, Who},
};
use axum::{Json, extract::State, http::StatusCode};
use serde::{Deserialize, Serialize};
use tally_store::assets::{self, AssetDetail, AssetNode, Move, NewAsset};
use utoipa::{IntoParams, ToSchema};

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct TreeParams {
    /// Code of the asset to begin at; the roots without it.
    scope: Option<String>,
    /// Levels below it; 1 without it.
    depth: Option<u32>,
}

/// The tree or a part of it, parents before children.
#[utoipa::path(get, path = "/assets", params(TreeParams), responses((status = 200, body = Vec<AssetNode>)))]
pub async fn list(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<TreeParams>,
) -> Result<Json<Vec<AssetNode>>, ApiError> {
    state
        .look(who, move |look| {
            let depth = params.depth.unwrap_or(1);
            Ok(Json(assets::nodes(look.conn, look.snapshot, params.scope.as_deref(), depth, look.now)?))
        })
        .await
}

/// Adds an asset.
#[utoipa::path(post, path = "/assets", request_body = NewAsset, responses((status = 201, body = NewAsset)))]
pub async fn add(
    State(state): State<AppState>,
    who: Who,
    Body(body): Body<NewAsset>,
) -> Result<(StatusCode, Json<NewAsset>), ApiError> {
    state.write(who, move |act| assets::add(act, &body).map(|_| (StatusCode::CREATED, Json(body)))).await
}

/// One asset.
#[utoipa::path(get, path = "/assets/{code}", params(("code" = String, Path)), responses((status = 200, body = AssetDetail)))]
pub async fn one(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
) -> Result<Json<AssetDetail>, ApiError> {
    state.look(who, move |look| Ok(Json(assets::detail(look.conn, look.snapshot, &code, look.now)?))).await
}

/// Moves an asset, now or from a past instant on.
#[utoipa::path(post, path = "/assets/{code}/move", params(("code" = String, Path)), request_body = Move,
    responses((status = 200, body = Move)))]
pub async fn relocate(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Body(body): Body<Move>,
) -> Result<Json<Move>, ApiError> {
    state.write(who, move |act| assets::relocate(act, &code, &body).map(|()| Json(body))).await
}

/// An equipment class to add.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
pub struct NewClass {
    code: String,
    name: String,
}

/// Adds an equipment class.
#[utoipa::path(post, path = "/equipment-classes", request_body = NewClass, responses((status = 201, body = NewClass)))]
pub async fn add_class(
    State(state): State<AppState>,
    who: Who,
    Body(body): Body<NewClass>,
) -> Result<(StatusCode, Json<NewClass>), ApiError> {
    state
        .write(who, move |act| {
            assets::add_class(act, &body.code, &body.name).map(|()| (StatusCode::CREATED, Json(body)))
        })
        .await
}

use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Body, Params, Segment, Who},
    },
};
use axum::{
    Json,
    body::Bytes,
    extract::State,
    http::{StatusCode, header},
    response::{IntoResponse, Response},
};
use serde::{Deserialize, Serialize};
use tally_core::{access::seen::Topic, ground::time::Instant, plant::assets::ParentEffect};
use tally_store::plant::{
    assets,
    assets::{AssetDetail, AssetNode, Move, NewAsset},
    pictures,
};
use utoipa::{IntoParams, ToSchema};

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct TreeParams {
    /// Code of the asset to begin at; the roots without it.
    scope: Option<String>,
    /// Levels below it; 1 without it.
    depth: Option<u32>,
    /// Codes of assets that stand open further down, with commas between: what is right below them comes too.
    open: Option<String>,
}

/// Assets that stand open further down, at the most.
const MOST_OPEN: usize = 500;

/// The tree or a part of it, parents before children.
#[utoipa::path(get, path = "/assets", params(TreeParams), responses((status = 200, body = Vec<AssetNode>)))]
pub async fn list(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<TreeParams>,
) -> Result<Json<Vec<AssetNode>>, ApiError> {
    state
        .look(who, Topic::Plant, move |view| {
            let (depth, scope) = (params.depth.unwrap_or(1), params.scope.as_deref());
            let open = params.open.as_deref().unwrap_or_default();
            let open: Vec<&str> = open.split(',').filter(|code| !code.is_empty()).collect();
            if open.len() > MOST_OPEN {
                return Err(ApiError::bad("open", format!("at most {MOST_OPEN} codes")));
            }
            Ok(Json(assets::nodes(view, scope, depth, &open)?))
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
    state.write(who, move |tx| assets::add(tx, &body).map(|_| (StatusCode::CREATED, Json(body)))).await
}

/// One asset.
#[utoipa::path(get, path = "/assets/{code}", params(("code" = String, Path)), responses((status = 200, body = AssetDetail)))]
pub async fn one(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
) -> Result<Json<AssetDetail>, ApiError> {
    state.look(who, Topic::Plant, move |view| Ok(Json(assets::detail(view, &code)?))).await
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
    state.write(who, move |tx| assets::relocate(tx, &code, &body).map(|()| Json(body))).await
}

/// What an asset's being down does to its parent, from an instant on.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
pub struct EffectBody {
    effect: ParentEffect,
    from: Instant,
}

/// Says what the asset's being down does to its parent from an instant on.
#[utoipa::path(put, path = "/assets/{code}/parent-effect", params(("code" = String, Path)), request_body = EffectBody,
    responses((status = 200, body = EffectBody)))]
pub async fn set_parent_effect(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Body(body): Body<EffectBody>,
) -> Result<Json<EffectBody>, ApiError> {
    state.write(who, move |tx| assets::set_parent_effect(tx, &code, &body.effect, body.from).map(|()| Json(body))).await
}

/// The picture of an asset.
#[utoipa::path(get, path = "/assets/{code}/picture", params(("code" = String, Path)),
    responses((status = 200, body = Vec<u8>, content_type = "image/*")))]
pub async fn picture(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
) -> Result<Response, ApiError> {
    let (media_type, bytes) = state.look(who, Topic::Plant, move |view| Ok(pictures::get(view, &code)?)).await?;
    Ok(([(header::CONTENT_TYPE, media_type), (header::CACHE_CONTROL, "no-cache".into())], bytes).into_response())
}

/// The asset whose picture was kept or taken away.
#[derive(Debug, Serialize, ToSchema)]
pub struct Pictured {
    code: String,
}

/// Keeps a picture of an asset: PNG, JPEG, WebP or GIF.
#[utoipa::path(put, path = "/assets/{code}/picture", params(("code" = String, Path)),
    request_body(content = Vec<u8>, content_type = "image/*"), responses((status = 200, body = Pictured)))]
pub async fn put_picture(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    body: Bytes,
) -> Result<Json<Pictured>, ApiError> {
    state.write(who, move |tx| pictures::put(tx, &code, &body).map(|()| Json(Pictured { code }))).await
}

/// Takes the picture of an asset away.
#[utoipa::path(delete, path = "/assets/{code}/picture", params(("code" = String, Path)),
    responses((status = 200, body = Pictured)))]
pub async fn remove_picture(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
) -> Result<Json<Pictured>, ApiError> {
    state.write(who, move |tx| pictures::remove(tx, &code).map(|()| Json(Pictured { code }))).await
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
        .write(who, move |tx| assets::add_class(tx, &body.code, &body.name).map(|()| (StatusCode::CREATED, Json(body))))
        .await
}

//! Photos and papers that stand with work: sent first, then attached.

use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Body, Params, Segment, Who},
        threads::blocking,
    },
};
use axum::{
    Json,
    body::Bytes,
    extract::State,
    http::{HeaderMap, StatusCode, header},
    response::{IntoResponse, Response},
};
use serde::Deserialize;
use tally_core::{access::seen::Topic, ground::ids::WorkOrderId, work::Attaching};
use tally_store::{
    ground::files::Size,
    outside::photos,
    work::{
        attachments,
        attachments::{AttachedFile, StoredFile},
    },
};
use utoipa::IntoParams;

/// Sends a photo or a PDF, to be attached to something. Photos are turned upright, made no larger than anybody looks at, and
/// say nothing any more of where and with what they were taken. What is attached to nothing for long goes.
#[utoipa::path(post, path = "/files", request_body(content = Vec<u8>, content_type = "image/*"),
    responses((status = 201, body = StoredFile)))]
pub async fn send(
    State(state): State<AppState>,
    who: Who,
    body: Bytes,
) -> Result<(StatusCode, Json<StoredFile>), ApiError> {
    let preparing = state.clone();
    // A few at a time: a small file can be a large picture.
    let room = state.photos.clone().acquire_owned().await;
    let prepared = blocking(move || {
        let _room = room;
        let prepared = photos::prepare(body.into())?;
        preparing.store.files().put(&prepared.bytes, prepared.small.as_deref())?;
        Ok(prepared)
    });
    let (prepared, files) = (prepared.await?, state.store.files());
    let kept = state.write(who, move |tx| attachments::keep(tx, &files, &prepared)).await?;
    Ok((StatusCode::CREATED, Json(kept)))
}

/// Attaches what was sent before.
#[utoipa::path(post, path = "/work-orders/{number}/attachments", params(("number" = i64, Path)), request_body = Attaching,
    responses((status = 204)))]
pub async fn attach(
    State(state): State<AppState>,
    who: Who,
    Segment(number): Segment<WorkOrderId>,
    Body(body): Body<Attaching>,
) -> Result<StatusCode, ApiError> {
    state.write(who, move |tx| attachments::attach(tx, number, &body)).await?;
    Ok(StatusCode::NO_CONTENT)
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct PictureParams {
    /// The small picture of a photo.
    #[serde(default)]
    small: bool,
}

/// A photo, or a paper to be kept elsewhere.
#[utoipa::path(get, path = "/work-orders/{number}/attachments/{id}",
    params(("number" = i64, Path), ("id" = i64, Path), PictureParams),
    responses((status = 200, body = Vec<u8>, content_type = "image/*")))]
pub async fn one(
    State(state): State<AppState>,
    who: Who,
    Segment((number, id)): Segment<(WorkOrderId, i64)>,
    Params(params): Params<PictureParams>,
    headers: HeaderMap,
) -> Result<Response, ApiError> {
    let found = state.look(who, Topic::Work, move |view| Ok(attachments::file_of(view, number, id)?)).await?;
    handed_out(&state, found, params, &headers).await
}

/// A file as it is handed out: photos are shown, papers kept elsewhere.
pub(super) async fn handed_out(
    state: &AppState,
    found: AttachedFile,
    params: PictureParams,
    headers: &HeaderMap,
) -> Result<Response, ApiError> {
    let AttachedFile { file, media_type, name } = found;
    let is_photo = media_type.starts_with("image/");
    let size = if params.small && is_photo { Size::Small } else { Size::Whole };
    // What lies under a name never changes: the browser asks whether it may still show it, and shows what it has.
    let tag = format!("\"{file}{}\"", if size == Size::Small { "-small" } else { "" });
    let kept = [(header::ETAG, tag.clone()), (header::CACHE_CONTROL, "private, no-cache".into())];
    if headers.get(header::IF_NONE_MATCH).is_some_and(|has| has.as_bytes() == tag.as_bytes()) {
        return Ok((StatusCode::NOT_MODIFIED, kept).into_response());
    }
    let files = state.store.files();
    let bytes = blocking(move || Ok(files.get(&file, size)?)).await?;
    let shown = if is_photo { "inline" } else { "attachment" };
    let name = percent_encoding::utf8_percent_encode(&name, percent_encoding::NON_ALPHANUMERIC).to_string();
    let disposition = format!("{shown}; filename*=UTF-8''{name}");
    let headers = [(header::CONTENT_TYPE, media_type), (header::CONTENT_DISPOSITION, disposition)];
    Ok((kept, headers, bytes).into_response())
}

/// Takes an attachment away from its order.
#[utoipa::path(delete, path = "/work-orders/{number}/attachments/{id}",
    params(("number" = i64, Path), ("id" = i64, Path)), responses((status = 204)))]
pub async fn take_away(
    State(state): State<AppState>,
    who: Who,
    Segment((number, id)): Segment<(WorkOrderId, i64)>,
) -> Result<StatusCode, ApiError> {
    state.write(who, move |tx| attachments::take_away(tx, number, id, false)).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Puts an attachment back that was taken away.
#[utoipa::path(post, path = "/work-orders/{number}/attachments/{id}/put-back",
    params(("number" = i64, Path), ("id" = i64, Path)), responses((status = 204)))]
pub async fn put_back(
    State(state): State<AppState>,
    who: Who,
    Segment((number, id)): Segment<(WorkOrderId, i64)>,
) -> Result<StatusCode, ApiError> {
    state.write(who, move |tx| attachments::take_away(tx, number, id, true)).await?;
    Ok(StatusCode::NO_CONTENT)
}

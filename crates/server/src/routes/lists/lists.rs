use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Body, Params, Segment, Who},
    },
    outside::{format::Format, listed, listed::List},
    routes::tally::figures,
};
use axum::{
    Json,
    body::Body as Stream,
    extract::State,
    http::{StatusCode, header},
    response::{IntoResponse, Response},
};
use serde::{Deserialize, Serialize};
use tally_core::lists::{Answer, Asked, NewView, SubjectDef, SubjectId};
use tally_store::{
    View,
    access::trail,
    lists::{answer, views, views::KeptView},
};
use tokio_util::io::ReaderStream;
use utoipa::{IntoParams, ToSchema};

/// What can be listed, with its columns.
#[utoipa::path(get, path = "/lists", responses((status = 200, body = Vec<SubjectDef>)))]
pub async fn subjects() -> Json<Vec<SubjectDef>> {
    Json(SubjectId::ALL.into_iter().map(SubjectId::definition).collect())
}

/// Rows of a subject as they are asked for: filtered, grouped, sorted, in parts, with totals and the values of columns.
#[utoipa::path(post, path = "/lists/{subject}", params(("subject" = SubjectId, Path)), request_body = Asked,
    responses((status = 200, body = Answer)))]
pub async fn list(
    State(state): State<AppState>,
    who: Who,
    Segment(subject): Segment<SubjectId>,
    Body(asked): Body<Asked>,
) -> Result<Json<Answer>, ApiError> {
    let list = move |view: &View| {
        let counted = figures::counted(view, subject, &asked)?;
        Ok(Json(answer::answer(view, subject, &asked, counted)?))
    };
    state.look(who, subject.topic(), list).await
}

/// Views of a subject: one's own, and those that others share.
#[utoipa::path(get, path = "/lists/{subject}/views", params(("subject" = SubjectId, Path)),
    responses((status = 200, body = Vec<KeptView>)))]
pub async fn kept_views(
    State(state): State<AppState>,
    who: Who,
    Segment(subject): Segment<SubjectId>,
) -> Result<Json<Vec<KeptView>>, ApiError> {
    state.look(who, subject.topic(), move |view| Ok(Json(views::of(view, subject)?))).await
}

/// A view that was kept.
#[derive(Debug, Serialize, ToSchema)]
pub struct ViewKept {
    id: i64,
}

/// Keeps a view under a name; one's own of the same name goes.
#[utoipa::path(post, path = "/lists/{subject}/views", params(("subject" = SubjectId, Path)), request_body = NewView,
    responses((status = 201, body = ViewKept)))]
pub async fn keep_view(
    State(state): State<AppState>,
    who: Who,
    Segment(subject): Segment<SubjectId>,
    Body(body): Body<NewView>,
) -> Result<(StatusCode, Json<ViewKept>), ApiError> {
    let id = state.write(who, move |tx| views::keep(tx, subject, &body)).await?;
    Ok((StatusCode::CREATED, Json(ViewKept { id })))
}

/// Forgets a view of one's own.
#[utoipa::path(delete, path = "/lists/{subject}/views/{id}", params(("subject" = SubjectId, Path), ("id" = i64, Path)),
    responses((status = 204)))]
pub async fn forget_view(
    State(state): State<AppState>,
    who: Who,
    Segment((subject, id)): Segment<(SubjectId, i64)>,
) -> Result<StatusCode, ApiError> {
    state.write(who, move |tx| views::forget(tx, subject, id)).await?;
    Ok(StatusCode::NO_CONTENT)
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct FileParams {
    /// What is asked for, as JSON.
    ask: Option<String>,
}

/// All rows of a list as a file, or its groups where it is grouped: `work.csv`, `entries.xlsx`.
#[utoipa::path(get, path = "/lists/{file}/file", params(("file" = String, Path), FileParams),
    responses((status = 200, body = String, content_type = "text/csv")))]
pub async fn file(
    State(state): State<AppState>,
    who: Who,
    Segment(file): Segment<String>,
    Params(params): Params<FileParams>,
) -> Result<Response, ApiError> {
    let (subject, form) = file.split_once('.').unwrap_or((&file, "csv"));
    let subject = SubjectId::parse(subject)
        .ok_or_else(|| ApiError::bad("file", format!("there is no list called {subject:?}")))?;
    let form = Format::of_ending(form)
        .ok_or_else(|| ApiError::bad("file", format!("{form:?} is none of csv, json, ndjson, xlsx")))?;
    let asked: Asked = match params.ask.as_deref().filter(|ask| !ask.is_empty()) {
        Some(ask) => serde_json::from_str(ask).map_err(|error| ApiError::bad("ask", error))?,
        None => Asked::default(),
    };
    let write = move |view: &View| {
        let counted = figures::counted(view, subject, &asked)?;
        Ok(listed::written(view, List { subject, asked, counted }, form)?)
    };
    let written = state.look_long(who.clone(), subject.topic(), write).await?;
    let taken = file.clone();
    state.note(who.actor, move |tx| trail::note_taken(tx, &taken));
    let body = Stream::from_stream(ReaderStream::new(tokio::fs::File::from_std(written)));
    let disposition = format!("attachment; filename=\"{file}\"");
    let headers = [(header::CONTENT_TYPE, form.media_type().to_owned()), (header::CONTENT_DISPOSITION, disposition)];
    Ok((headers, body).into_response())
}

//! Check sheets, and filling them in.

use super::attachments::{PictureParams, handed_out};
use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{BasedOn, Body, Params, Segment, Who},
    },
};
use axum::{
    Json,
    extract::State,
    http::{HeaderMap, StatusCode},
    response::Response,
};
use serde::{Deserialize, Serialize};
use tally_core::{
    access::seen::Topic,
    ground::ids::{CheckId, WorkOrderId},
    work::check_sheets::{CheckSheet, GivenAnswer, Judged, LibraryQuestion},
};
use tally_store::{
    StoreError, Tx,
    ground::{base, base::Edited},
    work::{
        attachments::AttachedFile,
        checks,
        checks::{Answering, CheckSheetRow, CheckSheetView, CheckView, FinishedCheck, NewCheck},
    },
};
use utoipa::{IntoParams, ToSchema};

/// The check sheets there are.
#[utoipa::path(get, path = "/check-sheets", responses((status = 200, body = Vec<CheckSheetRow>)))]
pub async fn list(State(state): State<AppState>, who: Who) -> Result<Json<Vec<CheckSheetRow>>, ApiError> {
    state.look(who, Topic::Work, |view| Ok(Json(checks::list(view)?))).await
}

/// One check sheet, in its newest version.
#[utoipa::path(get, path = "/check-sheets/{code}", params(("code" = String, Path)),
    responses((status = 200, body = CheckSheetView)))]
pub async fn sheet(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
) -> Result<Json<CheckSheetView>, ApiError> {
    state.look(who, Topic::Work, move |view| Ok(Json(checks::sheet(view, &code)?))).await
}

/// Writes a check sheet: a new version of it.
#[utoipa::path(put, path = "/check-sheets/{code}", params(("code" = String, Path), BasedOn), request_body = CheckSheet,
    responses((status = 200, body = CheckSheet)))]
pub async fn put(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Params(based): Params<BasedOn>,
    Body(body): Body<CheckSheet>,
) -> Result<Json<CheckSheet>, ApiError> {
    let put = move |tx: &mut Tx| {
        base::require(tx, Edited::CheckSheet(&code), based.based_on)?;
        checks::put(tx, &code, &body).map(|()| Json(body))
    };
    state.write(who, put).await
}

#[derive(Debug, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
pub struct QuestionSearch {
    /// Words of the question, or of what helps to answer it.
    #[serde(default)]
    text: String,
}

/// Questions that check sheets ask already, fifty at the most: those first that most of them ask.
#[utoipa::path(get, path = "/check-questions", params(QuestionSearch), responses((status = 200, body = Vec<LibraryQuestion>)))]
pub async fn questions(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<QuestionSearch>,
) -> Result<Json<Vec<LibraryQuestion>>, ApiError> {
    state.look(who, Topic::Work, move |view| Ok(Json(checks::questions(view, &params.text)?))).await
}

/// A picture that helps to answer a question of a check sheet.
#[utoipa::path(get, path = "/check-sheets/{code}/pictures/{file}",
    params(("code" = String, Path), ("file" = String, Path), PictureParams),
    responses((status = 200, body = Vec<u8>, content_type = "image/*")))]
pub async fn picture(
    State(state): State<AppState>,
    who: Who,
    Segment((code, file)): Segment<(String, String)>,
    Params(params): Params<PictureParams>,
    headers: HeaderMap,
) -> Result<Response, ApiError> {
    let (asked, wanted, name) = (state.clone(), file.clone(), code.clone());
    let media_type = asked.look(who, Topic::Work, move |view| Ok(checks::picture_of(view, &code, &wanted)?)).await?;
    handed_out(&state, AttachedFile { name, file, media_type }, params, &headers).await
}

/// A check sheet to be tried with answers.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TriedSheet {
    sheet: CheckSheet,
    #[serde(default)]
    answers: Vec<GivenAnswer>,
}

/// What would follow from answers on a check sheet; nothing is kept.
#[utoipa::path(post, path = "/check-sheets/try", request_body = TriedSheet, responses((status = 200, body = Judged)))]
pub async fn attempt(
    State(state): State<AppState>,
    who: Who,
    Body(TriedSheet { sheet, answers }): Body<TriedSheet>,
) -> Result<Json<Judged>, ApiError> {
    state
        .look(who, Topic::Work, move |_| {
            sheet.check().map_err(StoreError::from)?;
            Ok(Json(sheet.judge(&answers, |_| String::new()).map_err(StoreError::from)?))
        })
        .await
}

/// A check sheet that was put beside an order.
#[derive(Debug, Serialize, ToSchema)]
pub struct AddedCheck {
    id: CheckId,
}

/// Puts a check sheet beside an order.
#[utoipa::path(post, path = "/work-orders/{number}/checks", params(("number" = i64, Path)), request_body = NewCheck,
    responses((status = 201, body = AddedCheck)))]
pub async fn add(
    State(state): State<AppState>,
    who: Who,
    Segment(number): Segment<WorkOrderId>,
    Body(body): Body<NewCheck>,
) -> Result<(StatusCode, Json<AddedCheck>), ApiError> {
    let id = state.write(who, move |tx| checks::add(tx, number, &body)).await?;
    Ok((StatusCode::CREATED, Json(AddedCheck { id })))
}

/// A check sheet of an order, as it is filled in or was.
#[utoipa::path(get, path = "/work-orders/{number}/checks/{id}", params(("number" = i64, Path), ("id" = i64, Path)),
    responses((status = 200, body = CheckView)))]
pub async fn one(
    State(state): State<AppState>,
    who: Who,
    Segment((number, id)): Segment<(WorkOrderId, CheckId)>,
) -> Result<Json<CheckView>, ApiError> {
    state.look(who, Topic::Work, move |view| Ok(Json(checks::view(view, number, id)?))).await
}

/// Takes a check sheet away that nobody began.
#[utoipa::path(delete, path = "/work-orders/{number}/checks/{id}", params(("number" = i64, Path), ("id" = i64, Path)),
    responses((status = 204)))]
pub async fn leave_out(
    State(state): State<AppState>,
    who: Who,
    Segment((number, id)): Segment<(WorkOrderId, CheckId)>,
) -> Result<StatusCode, ApiError> {
    state.write(who, move |tx| checks::leave_out(tx, number, id)).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Answers some questions; what follows from all answers there are.
#[utoipa::path(post, path = "/work-orders/{number}/checks/{id}/answers",
    params(("number" = i64, Path), ("id" = i64, Path)), request_body = Answering, responses((status = 200, body = Judged)))]
pub async fn answer(
    State(state): State<AppState>,
    who: Who,
    Segment((number, id)): Segment<(WorkOrderId, CheckId)>,
    Body(body): Body<Answering>,
) -> Result<Json<Judged>, ApiError> {
    state.write(who, move |tx| checks::answer(tx, number, id, &body).map(Json)).await
}

/// Finishes a check sheet: readings go to their meters, answers raise work, the result stays with the asset.
#[utoipa::path(post, path = "/work-orders/{number}/checks/{id}/finish",
    params(("number" = i64, Path), ("id" = i64, Path)), request_body = Answering,
    responses((status = 200, body = FinishedCheck)))]
pub async fn finish(
    State(state): State<AppState>,
    who: Who,
    Segment((number, id)): Segment<(WorkOrderId, CheckId)>,
    Body(body): Body<Answering>,
) -> Result<Json<FinishedCheck>, ApiError> {
    state.write(who, move |tx| checks::finish(tx, number, id, &body).map(Json)).await
}

/// A photo or signature that answers a question.
#[utoipa::path(get, path = "/work-orders/{number}/checks/{id}/files/{file}",
    params(("number" = i64, Path), ("id" = i64, Path), ("file" = String, Path), PictureParams),
    responses((status = 200, body = Vec<u8>, content_type = "image/*")))]
pub async fn file(
    State(state): State<AppState>,
    who: Who,
    Segment((number, id, file)): Segment<(WorkOrderId, CheckId, String)>,
    Params(params): Params<PictureParams>,
    headers: HeaderMap,
) -> Result<Response, ApiError> {
    let (asked, wanted) = (state.clone(), file.clone());
    let media_type = asked.look(who, Topic::Work, move |view| Ok(checks::file_of(view, number, id, &wanted)?)).await?;
    handed_out(&state, AttachedFile { name: format!("check-{id}"), file, media_type }, params, &headers).await
}

use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{BasedOn, Body, Params, Segment, Who},
    },
};
use axum::{Json, extract::State};
use tally_core::{access::seen::Topic, codes::codebooks::Codebook};
use tally_store::{
    Tx,
    codes::{
        codebooks,
        codebooks::{CodebookRow, CodebookView},
    },
    ground::{base, base::Edited},
};

/// The codebooks there are.
#[utoipa::path(get, path = "/codebooks", responses((status = 200, body = Vec<CodebookRow>)))]
pub async fn list(State(state): State<AppState>, who: Who) -> Result<Json<Vec<CodebookRow>>, ApiError> {
    state.look(who, Topic::Codes, |view| Ok(Json(codebooks::list(view)?))).await
}

/// One codebook: its problems, their causes and remedies, and how often each was used.
#[utoipa::path(get, path = "/codebooks/{code}", params(("code" = String, Path)),
    responses((status = 200, body = CodebookView)))]
pub async fn one(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
) -> Result<Json<CodebookView>, ApiError> {
    state.look(who, Topic::Codes, move |view| Ok(Json(codebooks::view(view, &code)?))).await
}

/// Writes a codebook whole.
#[utoipa::path(put, path = "/codebooks/{code}", params(("code" = String, Path), BasedOn), request_body = Codebook,
    responses((status = 200, body = Codebook)))]
pub async fn put(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Params(based): Params<BasedOn>,
    Body(body): Body<Codebook>,
) -> Result<Json<Codebook>, ApiError> {
    let put = move |tx: &mut Tx| {
        base::require(tx, Edited::Codebook(&code), based.based_on)?;
        codebooks::put(tx, &code, &body).map(|()| Json(body))
    };
    state.write(who, put).await
}

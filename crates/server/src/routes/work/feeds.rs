//! Addresses under which calendar programs read work.

use crate::{
    AppState,
    access::secrets,
    ground::{
        error::ApiError,
        extract::{Body, Params, Segment, Who},
        threads::blocking,
    },
    outside::calendar,
};
use axum::{
    Json,
    extract::State,
    http::{StatusCode, header},
    response::{IntoResponse, Response},
};
use serde::Serialize;
use tally_core::access::seen::Topic;
use tally_store::{
    StoreError,
    plant::settings,
    work::{
        feeds,
        feeds::{FeedOf, FeedRow},
    },
};
use utoipa::{IntoParams, ToSchema};

/// Whose work there is an address for.
#[utoipa::path(get, path = "/work/feeds", responses((status = 200, body = Vec<FeedRow>)))]
pub async fn list(State(state): State<AppState>, who: Who) -> Result<Json<Vec<FeedRow>>, ApiError> {
    state.look(who, Topic::Work, |view| Ok(Json(feeds::list(view)?))).await
}

/// An address, shown this once.
#[derive(Debug, Serialize, ToSchema)]
pub struct MadeFeed {
    /// Below the host, without it.
    pub path: String,
}

/// Makes an address; the one there was for the same work is no more.
#[utoipa::path(post, path = "/work/feeds", request_body = FeedOf, responses((status = 201, body = MadeFeed)))]
pub async fn renew(
    State(state): State<AppState>,
    who: Who,
    Body(body): Body<FeedOf>,
) -> Result<(StatusCode, Json<MadeFeed>), ApiError> {
    let secret = secrets::session();
    let hash = secrets::hash(&secret);
    state.write(who, move |tx| feeds::renew(tx, &body, &hash)).await?;
    Ok((StatusCode::CREATED, Json(MadeFeed { path: format!("/api/v1/feeds/{secret}/work.ics") })))
}

#[derive(Debug, serde::Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct FeedParams {
    /// Code of a crew; without it one's own work.
    crew: Option<String>,
}

/// Takes an address away.
#[utoipa::path(delete, path = "/work/feeds", params(FeedParams), responses((status = 204)))]
pub async fn take_away(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<FeedParams>,
) -> Result<StatusCode, ApiError> {
    state.write(who, move |tx| feeds::take_away(tx, &FeedOf { crew: params.crew })).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Work as a calendar program reads it (RFC 5545), for whoever has the address.
#[utoipa::path(get, path = "/feeds/{secret}/work.ics", params(("secret" = String, Path)),
    responses((status = 200, body = String, content_type = "text/calendar")))]
pub async fn read(State(state): State<AppState>, Segment(secret): Segment<String>) -> Result<Response, ApiError> {
    let (asked, hash) = (state.clone(), secrets::hash(&secret));
    let found = blocking(move || Ok(asked.store.read(asked.clock.now(), |view| feeds::of_hash(view, &hash))?)).await?;
    let (actor, crew) = found.ok_or_else(|| StoreError::not_found("calendar", "under this address"))?;
    let who = Who { actor, key: None, named: None };
    let text = state.look(who, Topic::Work, move |view| {
        let name = settings::get(view)?.name;
        Ok(calendar::text(&name, &feeds::events(view, crew)?, view.now))
    });
    Ok(([(header::CONTENT_TYPE, "text/calendar; charset=utf-8")], text.await?).into_response())
}

//! Addresses that are told of events.

use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Body, Segment, Who},
    },
};
use axum::{
    Json,
    extract::State,
    http::{StatusCode, Uri},
};
use serde::Serialize;
use std::net::{IpAddr, SocketAddr};
use tally_core::access::seen::Topic;
use tally_store::{
    StoreError, Tx,
    outside::{
        webhooks,
        webhooks::{DeliveryRow, NewWebhook, WebhookRow},
    },
};
use utoipa::ToSchema;

/// Addresses that are told of events, and what became of it.
#[derive(Debug, Serialize, ToSchema)]
pub struct Webhooks {
    pub webhooks: Vec<WebhookRow>,
    /// Newest first.
    pub deliveries: Vec<DeliveryRow>,
}

/// Addresses that are told of events, with the newest deliveries.
#[utoipa::path(get, path = "/webhooks", responses((status = 200, body = Webhooks)))]
pub async fn webhooks(State(state): State<AppState>, who: Who) -> Result<Json<Webhooks>, ApiError> {
    state
        .look(who, Topic::Webhooks, |view| {
            Ok(Json(Webhooks { webhooks: webhooks::list(view)?, deliveries: webhooks::log(view, 200)? }))
        })
        .await
}

/// What was made.
#[derive(Debug, Serialize, ToSchema)]
pub struct Made {
    pub id: i64,
}

/// Adds an address that is told of events.
#[utoipa::path(post, path = "/webhooks", request_body = NewWebhook, responses((status = 201, body = Made)))]
pub async fn add_webhook(
    State(state): State<AppState>,
    who: Who,
    Body(body): Body<NewWebhook>,
) -> Result<(StatusCode, Json<Made>), ApiError> {
    if state.address.is_some_and(|own| leads_to(&body.url, own)) {
        return Err(
            StoreError::invalid("url", "is this server itself, which would tell itself of what it tells").into()
        );
    }
    let outgoing = state.outgoing.clone();
    let add = move |tx: &mut Tx| {
        let id = webhooks::add(tx, &body)?;
        outgoing.allowed().check_url(&body.url).map_err(|reason| StoreError::invalid("url", reason))?;
        Ok((StatusCode::CREATED, Json(Made { id })))
    };
    state.write(who, add).await
}

/// Whether an address is the server's own: its port on this machine, by whatever name.
fn leads_to(url: &str, own: SocketAddr) -> bool {
    let Some(asked) = url.trim().parse::<Uri>().ok().filter(|asked| asked.port_u16().unwrap_or(80) == own.port())
    else {
        return false;
    };
    let host = asked.host().unwrap_or_default().trim_matches(['[', ']']).to_ascii_lowercase();
    let is_here = |ip: IpAddr| ip.is_loopback() || ip.is_unspecified() || ip == own.ip();
    host == "localhost" || host.ends_with(".localhost") || host.parse::<IpAddr>().is_ok_and(is_here)
}

/// Tells an address nothing any more.
#[utoipa::path(delete, path = "/webhooks/{id}", params(("id" = i64, Path)), responses((status = 204)))]
pub async fn stop_webhook(
    State(state): State<AppState>,
    who: Who,
    Segment(id): Segment<i64>,
) -> Result<StatusCode, ApiError> {
    state.write(who, move |tx| webhooks::stop(tx, id)).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// How many deliveries go out again.
#[derive(Debug, Serialize, ToSchema)]
pub struct SentAgain {
    pub deliveries: usize,
}

/// Sends everything again that was given up on for an address.
#[utoipa::path(post, path = "/webhooks/{id}/resend", params(("id" = i64, Path)),
    responses((status = 200, body = SentAgain)))]
pub async fn resend_failed(
    State(state): State<AppState>,
    who: Who,
    Segment(id): Segment<i64>,
) -> Result<Json<SentAgain>, ApiError> {
    state.write(who, move |tx| webhooks::resend_failed(tx, id).map(|deliveries| Json(SentAgain { deliveries }))).await
}

/// Sends a delivery again.
#[utoipa::path(post, path = "/deliveries/{id}/resend", params(("id" = i64, Path)),
    responses((status = 200, body = Made)))]
pub async fn resend(
    State(state): State<AppState>,
    who: Who,
    Segment(id): Segment<i64>,
) -> Result<Json<Made>, ApiError> {
    state.write(who, move |tx| webhooks::resend(tx, id).map(|()| Json(Made { id }))).await
}

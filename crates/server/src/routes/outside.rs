//! The ways to the outside: mail, webhooks, tags, and what browsers are told as it happens.

use crate::{
    AppState,
    error::ApiError,
    extract::{Body, Params, Segment, Who},
    state::blocking,
};
use axum::{
    Json,
    extract::State,
    http::{StatusCode, Uri},
    response::sse::{Event, KeepAlive, Sse},
};
use serde::{Deserialize, Serialize};
use std::{
    convert::Infallible,
    net::{IpAddr, SocketAddr},
};
use tally_core::{access::seen::Topic, ground::ids::WorkOrderId};
use tally_store::{
    StoreError,
    outside::{
        outbox,
        outbox::MessagePage,
        tags,
        tags::{NewTag, TagRow},
        webhooks,
        webhooks::{DeliveryRow, NewWebhook, WebhookRow},
    },
};
use tokio_stream::{Stream, StreamExt, wrappers::BroadcastStream};
use utoipa::{IntoParams, ToSchema};

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
        .look(who, Topic::Office, move |look| {
            let (work, limit) = (params.work_order.map(WorkOrderId), params.limit.unwrap_or(50).clamp(1, 500));
            Ok(Json(outbox::list(look.conn, work, params.cursor, limit)?))
        })
        .await
}

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
        .look(who, Topic::Webhooks, |look| {
            Ok(Json(Webhooks { webhooks: webhooks::list(look.conn)?, deliveries: webhooks::log(look.conn, 200)? }))
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
    state.write(who, move |tx| webhooks::add(tx, &body).map(|id| (StatusCode::CREATED, Json(Made { id })))).await
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

/// Names that outside systems have for meters.
#[utoipa::path(get, path = "/tags", responses((status = 200, body = Vec<TagRow>)))]
pub async fn tags(State(state): State<AppState>, who: Who) -> Result<Json<Vec<TagRow>>, ApiError> {
    state.look(who, Topic::Office, |look| Ok(Json(tags::list(look.conn)?))).await
}

/// Sets what a tag stands for.
#[utoipa::path(put, path = "/tags", request_body = NewTag, responses((status = 200, body = NewTag)))]
pub async fn set_tag(
    State(state): State<AppState>,
    who: Who,
    Body(body): Body<NewTag>,
) -> Result<Json<NewTag>, ApiError> {
    state.write(who, move |tx| tags::set(tx, &body).map(|()| Json(body))).await
}

/// Takes a tag away.
#[utoipa::path(delete, path = "/tags/{tag}", params(("tag" = String, Path)), responses((status = 204)))]
pub async fn remove_tag(
    State(state): State<AppState>,
    who: Who,
    Segment(tag): Segment<String>,
) -> Result<StatusCode, ApiError> {
    state.write(who, move |tx| tags::remove(tx, &tag)).await?;
    Ok(StatusCode::NO_CONTENT)
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct LiveParams {
    /// Code of the person who listens: a browser's event source sends no headers of its own.
    person: Option<String>,
}

/// What changes as it happens, as server-sent events: `{meters, alarms, work, setup}`. An event `missed` says that some were
/// left out because the listener was too slow.
#[utoipa::path(get, path = "/live", params(LiveParams),
    responses((status = 200, content_type = "text/event-stream", body = String)))]
pub async fn live(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<LiveParams>,
) -> Result<Sse<impl Stream<Item = Result<Event, Infallible>>>, ApiError> {
    let person = params.person.filter(|code| !code.is_empty());
    // A browser's event source can't say who listens but by the address.
    let who = match person {
        Some(code) => {
            let asking = state.clone();
            Who(blocking(move || asking.person(Some(&code))).await?)
        }
        None => who,
    };
    state.look(who, Topic::Plant, |_| Ok(())).await?;
    let events = BroadcastStream::new(state.live.subscribe()).map(|news| {
        Ok(match news {
            Ok(news) => {
                Event::default().json_data(&news).unwrap_or_else(|_unwritable| Event::default().event("missed"))
            }
            Err(_lagged) => Event::default().event("missed").data("{}"),
        })
    });
    Ok(Sse::new(events).keep_alive(KeepAlive::default()))
}

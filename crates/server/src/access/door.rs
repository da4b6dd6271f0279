//! The one door: from where a request comes, who makes it, whether they may, and how much they send. All of it is asked before
//! a lock is taken or a body is taken apart.

use crate::{
    AppState,
    access::{again, origin, places, places::Place, rights, signed::Signed},
    ground::{
        error::{ApiError, Needs},
        extract::{From, Who},
        serve::Peer,
    },
    outside::format::is_of_kind,
};
use axum::{
    body::{Body, to_bytes},
    extract::{MatchedPath, Request, State},
    http::{HeaderMap, HeaderValue, Method, StatusCode, header, request::Parts},
    middleware::Next,
    response::{IntoResponse, Response},
};
use rights::Asks;
use std::{net::IpAddr, time::Duration};
use tally_core::access::{roles::may, seen::may_see};
use tally_store::{Actor, StoreError, access::trail, outside::photos};

/// How long a body may take to arrive.
const BODY_WITHIN: Duration = Duration::from_secs(120);

/// The largest body of a batch or a file: a million readings as JSON fit.
pub const LARGEST_BATCH: usize = 64 << 20;
/// The largest body that changes many things: a codebook, rows of a table.
const LARGEST_LIST: usize = 8 << 20;
/// The largest body of anything else.
const LARGEST_FORM: usize = 1 << 20;

/// What a page may do: nothing that is not its own, and nobody frames it.
const PAGE_POLICY: &str = "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; \
    object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'";

/// Refuses what comes under another host's name, or from another site's page; and says what pages may do.
pub async fn from_here(State(state): State<AppState>, request: Request, next: Next) -> Result<Response, ApiError> {
    origin::check(&state.hosts, request.method(), request.headers())?;
    let mut response = next.run(request).await;
    let headers = response.headers_mut();
    for (name, value) in [
        (header::CONTENT_SECURITY_POLICY, PAGE_POLICY),
        (header::REFERRER_POLICY, "same-origin"),
        (header::X_CONTENT_TYPE_OPTIONS, "nosniff"),
        (header::X_FRAME_OPTIONS, "DENY"),
    ] {
        headers.insert(name, HeaderValue::from_static(value));
    }
    if state.access.over_tls {
        // A year: who came over TLS once comes over nothing else (RFC 6797).
        headers.insert(header::STRICT_TRANSPORT_SECURITY, HeaderValue::from_static("max-age=31536000"));
    }
    Ok(response)
}

/// The address a request comes from: the other end of the connection, or what a proxy that is trusted says of it.
fn address(state: &AppState, parts: &Parts) -> String {
    let Some(Peer(peer)) = parts.extensions.get::<Peer>() else { return "unknown".into() };
    let forwarded = parts.headers.get_all("x-forwarded-for").iter().next_back().and_then(|value| value.to_str().ok());
    match forwarded.and_then(|all| all.rsplit(',').next()).map(str::trim) {
        Some(said) if state.access.proxies.contains(peer) && said.parse::<IpAddr>().is_ok() => said.into(),
        _ => peer.to_string(),
    }
}

/// Whether the one who signed may ask this at all.
fn check_may(state: &AppState, signed: &Signed, parts: &Parts, path: &str, asks: Asks) -> Result<(), ApiError> {
    let role = signed.somebody.actor.role;
    match asks {
        Asks::Open | Asks::Nothing => {}
        Asks::Person if signed.is_person() => {}
        Asks::Person => return Err(StoreError::NotTheirs("a key has no session and no password".into()).into()),
        Asks::Look(topic) => may_see(role, topic).map_err(StoreError::from)?,
        Asks::AnyOf(actions) => {
            let refusals = actions.iter().map(|action| may(role, *action)).collect::<Vec<_>>();
            if let (false, Some(Err(refusal))) = (refusals.iter().any(Result::is_ok), refusals.first().cloned()) {
                return Err(StoreError::from(refusal).into());
            }
        }
    }
    let is_fresh = signed.is_fresh(state.clock.now()) || state.access.is_demo;
    if !is_fresh && rights::asks_fresh(&parts.method, path, asks) {
        let reason = "this is only done shortly after the password was given; give it again";
        return Err(ApiError::unsigned(Needs::Password, reason));
    }
    Ok(())
}

/// How much a route takes, by the path it is described by.
fn largest(path: &str) -> usize {
    match path {
        "/readings" | "/import/{kind}" => LARGEST_BATCH,
        "/files" => photos::LARGEST,
        "/assets/{code}/picture" | "/master/{kind}" | "/codebooks/{code}" => LARGEST_LIST,
        _ => LARGEST_FORM,
    }
}

/// The kinds of body a route takes.
fn media_types(path: &str) -> &'static [&'static str] {
    match path {
        "/readings" => &["application/json", "application/x-ndjson", "text/csv"],
        "/import/{kind}" => &[
            "text/csv",
            "application/json",
            "application/x-ndjson",
            "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
        ],
        "/assets/{code}/picture" => &["image/png", "image/jpeg", "image/webp", "image/gif"],
        "/files" => &["image/png", "image/jpeg", "image/webp", "image/gif", "application/pdf"],
        _ => &["application/json"],
    }
}

/// Refuses a body whose kind is not said, or is another one: what a page of another site may send without asking is
/// `text/plain` and forms.
fn check_kind(headers: &HeaderMap, wanted: &[&str]) -> Result<(), ApiError> {
    let given = headers.get(header::CONTENT_TYPE).and_then(|kind| kind.to_str().ok()).unwrap_or_default();
    if wanted.iter().any(|one| is_of_kind(given, one)) {
        return Ok(());
    }
    let kind = given.split(';').next().unwrap_or_default().trim();
    let said = if kind.is_empty() { "no content type".to_owned() } else { format!("the content type {kind}") };
    let reason = format!("{said} is not taken here; send {}", wanted.join(", "));
    Err(ApiError::request(StatusCode::UNSUPPORTED_MEDIA_TYPE, reason))
}

/// Lets a request of the API in; its answer stays in no cache, and who is refused stands in the log.
pub async fn enter(State(state): State<AppState>, matched: MatchedPath, request: Request, next: Next) -> Response {
    let path = matched.as_str().strip_prefix("/api/v1").unwrap_or(matched.as_str()).to_owned();
    let method = request.method().clone();
    let mut by = By::default();
    let mut response = let_in(state.clone(), path.clone(), request, next, &mut by).await.into_response();
    if matches!(response.status(), StatusCode::UNAUTHORIZED | StatusCode::FORBIDDEN | StatusCode::TOO_MANY_REQUESTS) {
        let code = by.actor.as_ref().map_or("nobody", |actor| actor.code.as_str());
        tracing::warn!(%method, path, code, address = by.address, status = response.status().as_u16(), "refused");
    }
    if response.status() == StatusCode::FORBIDDEN {
        take_down(&state, by, &method, &path);
    }
    response.headers_mut().entry(header::CACHE_CONTROL).or_insert(HeaderValue::from_static("no-store"));
    response
}

/// Who asked, as far as it came to be known.
#[derive(Debug, Default)]
struct By {
    actor: Option<Actor>,
    address: String,
}

/// Takes down, while the answer goes out, that somebody who is signed in was refused something.
fn take_down(state: &AppState, by: By, method: &Method, path: &str) {
    let (Some(actor), now) = (by.actor, state.clock.now()) else { return };
    if !state.access.refusals.is_new(actor.id, method, path, now) {
        return;
    }
    let what = format!("{method} {path}");
    state.note(actor, move |tx| trail::note_refused(tx, &what, &by.address));
}

/// Known who, whether they may by their role, and with a body of the right kind and size.
async fn let_in(
    state: AppState,
    path: String,
    request: Request,
    next: Next,
    by: &mut By,
) -> Result<Response, ApiError> {
    let (mut parts, body) = request.into_parts();
    by.address = address(&state, &parts);
    parts.extensions.insert(From(by.address.clone()));
    let signed = Signed::of_request(&state, &parts.headers).await?;
    by.actor = signed.as_ref().map(|signed| signed.somebody.actor.clone());
    let asks = rights::asks(&parts.method, &path, parts.uri.path());
    let nobodys = || ApiError::request(StatusCode::FORBIDDEN, format!("nobody may do this at {path} yet"));
    match (asks.ok_or_else(nobodys)?, &signed) {
        (Asks::Open, None) => {}
        (_, None) => return Err(ApiError::nobody()),
        (asks, Some(signed)) => check_may(&state, signed, &parts, &path, asks)?,
    }
    let actor = signed.as_ref().map(|signed| signed.somebody.actor.clone());
    let named = match places::place(&parts.method, &path, parts.uri.path()) {
        Place::At(named) => Some(named),
        Place::Nowhere | Place::Within => None,
        Place::Whole => {
            actor.as_ref().map_or(Ok(()), |actor| actor.bounds.require_whole()).map_err(StoreError::from)?;
            None
        }
    };
    // Held until the answer is there.
    let _share = actor.as_ref().map(|actor| state.access.asking.one_more(actor.id)).transpose()?;
    if let Some(signed) = signed {
        signed.note(&state);
        parts.extensions.insert(signed);
    }
    if matches!(parts.method, Method::GET | Method::HEAD) {
        if let Some(actor) = actor {
            parts.extensions.insert(Who { actor, key: None, named });
        }
        return Ok(next.run(Request::from_parts(parts, Body::empty())).await);
    }
    let most = largest(&path);
    let too_large =
        || ApiError::request(StatusCode::PAYLOAD_TOO_LARGE, format!("more than {most} bytes are not taken here"));
    let length =
        parts.headers.get(header::CONTENT_LENGTH).and_then(|length| length.to_str().ok()?.parse::<usize>().ok());
    if length.is_some_and(|length| length > most) {
        return Err(too_large());
    }
    let kinds = if parts.method == Method::DELETE { &["application/json"] } else { media_types(&path) };
    if length.is_some_and(|length| length > 0) || parts.headers.contains_key(header::TRANSFER_ENCODING) {
        check_kind(&parts.headers, kinds)?;
    }
    let read = tokio::time::timeout(BODY_WITHIN, to_bytes(body, most)).await;
    let slow = || ApiError::request(StatusCode::REQUEST_TIMEOUT, "the body did not arrive in time".into());
    let bytes = read.map_err(|_elapsed| slow())?.map_err(|_beyond| too_large())?;
    if !bytes.is_empty() {
        check_kind(&parts.headers, kinds)?;
    }
    let key = again::key(&path, &parts, &bytes)?;
    if let Some(actor) = actor.clone() {
        parts.extensions.insert(Who { actor, key: key.clone(), named });
    }
    let request = Request::from_parts(parts, Body::from(bytes));
    match (key, actor) {
        (Some(key), Some(actor)) => again::once(state, actor, key, next.run(request)).await,
        _ => Ok(next.run(request).await),
    }
}

//! The one door: from where a request comes, who makes it, whether they may, and how much they send. All of it is asked before
//! a lock is taken or a body is taken apart.

use crate::{
    AppState,
    access::{again, origin, rights},
    ground::{error::ApiError, extract::Who},
    outside::format::is_of_kind,
    state::blocking,
};
use axum::{
    body::{Body, to_bytes},
    extract::{MatchedPath, Request, State},
    http::{HeaderMap, HeaderValue, Method, StatusCode, header},
    middleware::Next,
    response::Response,
};
use rights::Asks;
use std::time::Duration;
use tally_core::access::{roles::may, seen::may_see};
use tally_store::StoreError;

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
    Ok(response)
}

/// Code of the person on whose behalf a request is made, from the header `x-person`; none without the header.
fn person(headers: &HeaderMap) -> Result<Option<String>, ApiError> {
    let mut given = headers.get_all("x-person").iter();
    let (Some(code), another) = (given.next(), given.next()) else { return Ok(None) };
    let code = code.to_str().ok().map(str::trim).filter(|code| !code.is_empty() && another.is_none());
    let unreadable = || ApiError::bad("x-person", "names nobody: give one code, in plain letters");
    code.map(|code| Some(code.to_owned())).ok_or_else(unreadable)
}

/// How much a route takes, by the path it is described by.
fn largest(path: &str) -> usize {
    match path {
        "/readings" | "/import/{kind}" => LARGEST_BATCH,
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

/// Lets a request of the API in: known who, whether they may by their role, and with a body of the right kind and size.
pub async fn enter(
    State(state): State<AppState>,
    matched: MatchedPath,
    request: Request,
    next: Next,
) -> Result<Response, ApiError> {
    let (mut parts, body) = request.into_parts();
    let path = matched.as_str().strip_prefix("/api/v1").unwrap_or(matched.as_str()).to_owned();
    let code = person(&parts.headers)?;
    let asking = state.clone();
    let actor = blocking(move || asking.person(code.as_deref())).await?;
    let called = parts.uri.path();
    match rights::asks(&parts.method, &path, called) {
        Some(Asks::Nothing) => {}
        Some(Asks::Look(topic)) => may_see(actor.role, topic).map_err(StoreError::from)?,
        Some(Asks::AnyOf(actions)) => {
            let refusals = actions.iter().map(|action| may(actor.role, *action)).collect::<Vec<_>>();
            if let (false, Some(Err(refusal))) = (refusals.iter().any(Result::is_ok), refusals.first().cloned()) {
                return Err(StoreError::from(refusal).into());
            }
        }
        None => return Err(ApiError::request(StatusCode::FORBIDDEN, format!("nobody may do this at {path} yet"))),
    }
    if matches!(parts.method, Method::GET | Method::HEAD) {
        parts.extensions.insert(Who(actor, None));
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
    parts.extensions.insert(Who(actor.clone(), key.clone()));
    let request = Request::from_parts(parts, Body::from(bytes));
    match key {
        Some(key) => again::once(state, actor, key, next.run(request)).await,
        None => Ok(next.run(request).await),
    }
}

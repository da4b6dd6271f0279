//! Writes that are sent again: a client that never heard the answer may ask once more under the same key, and what is done
//! is not done twice. The header is that of the IETF's draft *The Idempotency-Key HTTP Header Field*.

use super::rights;
use crate::{
    AppState,
    ground::{error::ApiError, threads::blocking},
};
use axum::{
    body::{Body, Bytes, to_bytes},
    http::{HeaderValue, StatusCode, header, request::Parts},
    response::{IntoResponse, Response},
};
use sha2::{Digest, Sha256};
use std::future::Future;
use tally_store::{
    Actor, StoreError,
    ground::keys::{self, Known, WriteKey},
};

const HEADER: &str = "idempotency-key";
/// Letters of a key.
const LONGEST_KEY: usize = 100;
/// The largest answer that is kept.
const LARGEST_ANSWER: usize = 256 << 10;

/// The key of a write, with what is sent under it; none where its client gave none, for readings and files, whose rows are
/// known by themselves, and for secrets, of which nothing is kept.
pub(super) fn key(path: &str, parts: &Parts, body: &Bytes) -> Result<Option<WriteKey>, ApiError> {
    let keeps = !matches!(path, "/readings" | "/import/{kind}") && !rights::holds_secrets(path);
    let Some(given) = parts.headers.get(HEADER).filter(|_| keeps) else {
        return Ok(None);
    };
    let key = given.to_str().ok().map(str::trim).filter(|key| (1..=LONGEST_KEY).contains(&key.len()));
    let key = key.ok_or_else(|| ApiError::bad(HEADER, "must be 1 to 100 plain letters"))?.to_owned();
    let mut digest = Sha256::new();
    digest.update(parts.method.as_str());
    digest.update(parts.uri.to_string());
    digest.update(body);
    Ok(Some(WriteKey { key, fingerprint: hex::encode(digest.finalize()) }))
}

/// Lets a write be done, unless it was: then its answer goes out again.
pub(super) async fn once(
    state: AppState,
    actor: Actor,
    key: WriteKey,
    write: impl Future<Output = Response>,
) -> Result<Response, ApiError> {
    let (asking, person, asked) = (state.clone(), actor.id, key.clone());
    let known =
        blocking(move || Ok(asking.store.read(asking.clock.now(), |view| keys::known(view, person, &asked))?));
    match known.await? {
        Known::New => {}
        Known::Answered { status, body } => return Ok(told(status, body.into())),
        Known::Unanswered => return Err(StoreError::Done.into()),
        Known::Another => {
            let reason = "names another request that was sent before: give each its own";
            return Err(StoreError::invalid(HEADER, reason).into());
        }
    }
    let response = write.await;
    if !response.status().is_success() {
        return Ok(response);
    }
    let (parts, body) = response.into_parts();
    let bytes = to_bytes(body, LARGEST_ANSWER).await.map_err(|_beyond| {
        ApiError::request(StatusCode::INTERNAL_SERVER_ERROR, "it is done, and the answer is too long to be kept".into())
    })?;
    if let Ok(text) = String::from_utf8(bytes.to_vec()) {
        let status = parts.status.as_u16();
        blocking(move || {
            let now = state.clock.now();
            Ok(state.store.write(actor, now, |tx| keys::answered(tx, &key, status, &text))?)
        })
        .await?;
    }
    Ok(Response::from_parts(parts, Body::from(bytes)))
}

/// An answer that went out before.
fn told(status: u16, body: Bytes) -> Response {
    let status = StatusCode::from_u16(status).unwrap_or(StatusCode::OK);
    let mut response = (status, body).into_response();
    response.headers_mut().insert(header::CONTENT_TYPE, HeaderValue::from_static("application/json"));
    response
}

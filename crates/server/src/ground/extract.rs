//! Extractors whose refusals are problem details.

use crate::ground::error::ApiError;
use axum::{
    body::Bytes,
    extract::{FromRequest, FromRequestParts, Request},
    http::request::Parts,
};
use serde::{Deserialize, de::DeserializeOwned};
use serde_json::Value;
use std::convert::Infallible;
use tally_core::ground::texts;
use tally_store::{
    Actor, StoreError,
    ground::{keys::WriteKey, reach::Named},
};
use utoipa::IntoParams;

/// A JSON body whose texts may stand where they go.
#[derive(Debug)]
pub struct Body<T>(pub T);

impl<T: DeserializeOwned, S: Send + Sync> FromRequest<S> for Body<T> {
    type Rejection = ApiError;

    async fn from_request(request: Request, state: &S) -> Result<Self, ApiError> {
        let bytes = Bytes::from_request(request, state).await?;
        let found = axum::Json::<T>::from_bytes(&bytes)?;
        check_texts("", &serde_json::from_slice(&bytes).unwrap_or_default())?;
        Ok(Self(found.0))
    }
}

/// Every text of a body by its field's name: one line, unless the field is for more.
fn check_texts(path: &str, value: &Value) -> Result<(), ApiError> {
    match value {
        Value::String(text) => texts::check(path, text).map_err(|error| StoreError::invalid(path, error).into()),
        Value::Array(values) => {
            values.iter().enumerate().try_for_each(|(place, value)| check_texts(&format!("{path}[{place}]"), value))
        }
        Value::Object(fields) => fields.iter().try_for_each(|(name, value)| {
            let dot = if path.is_empty() { "" } else { "." };
            check_texts(&format!("{path}{dot}{name}"), value)
        }),
        _ => Ok(()),
    }
}

/// Query parameters.
#[derive(Debug, FromRequestParts)]
#[from_request(via(axum::extract::Query), rejection(ApiError))]
pub struct Params<T>(pub T);

/// Parts of the path.
#[derive(Debug, FromRequestParts)]
#[from_request(via(axum::extract::Path), rejection(ApiError))]
pub struct Segment<T>(pub T);

/// On whose behalf the request is made, as the door let them in.
#[derive(Debug, Clone)]
pub struct Who {
    pub actor: Actor,
    /// The key that the client gave a write.
    pub key: Option<WriteKey>,
    /// What its path names: refused where the actor does not reach it.
    pub named: Option<Named>,
}

impl<S: Sync> FromRequestParts<S> for Who {
    type Rejection = ApiError;

    async fn from_request_parts(parts: &mut Parts, _: &S) -> Result<Self, ApiError> {
        parts.extensions.get::<Self>().cloned().ok_or_else(ApiError::nobody)
    }
}

/// The address a request comes from, as far as it is known.
#[derive(Debug, Clone)]
pub struct From(pub String);

impl<S: Sync> FromRequestParts<S> for From {
    type Rejection = Infallible;

    async fn from_request_parts(parts: &mut Parts, _: &S) -> Result<Self, Infallible> {
        Ok(parts.extensions.get::<Self>().cloned().unwrap_or_else(|| Self("unknown".into())))
    }
}

/// What the client would rather have, from the header `accept`.
#[derive(Debug)]
pub struct Accept(String);

impl Accept {
    /// Whether it asks for CSV.
    pub fn csv(&self) -> bool {
        self.0.contains("text/csv")
    }
}

impl<S: Sync> FromRequestParts<S> for Accept {
    type Rejection = Infallible;

    async fn from_request_parts(parts: &mut Parts, _: &S) -> Result<Self, Infallible> {
        let accept = parts.headers.get(axum::http::header::ACCEPT).and_then(|value| value.to_str().ok());
        Ok(Self(accept.unwrap_or_default().into()))
    }
}

/// On which change a write is based, where it says so.
#[derive(Debug, Clone, Copy, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct BasedOn {
    /// The number of the last change that was seen: where there is a newer one, the answer is 409 and says whose.
    pub based_on: Option<i64>,
}

//! Extractors whose refusals are problem details.

use crate::error::ApiError;
use axum::{
    extract::{FromRequest, FromRequestParts},
    http::request::Parts,
};
use std::convert::Infallible;

/// A JSON body.
#[derive(Debug, FromRequest)]
#[from_request(via(axum::Json), rejection(ApiError))]
pub struct Body<T>(pub T);

/// Query parameters.
#[derive(Debug, FromRequestParts)]
#[from_request(via(axum::extract::Query), rejection(ApiError))]
pub struct Params<T>(pub T);

/// Parts of the path.
#[derive(Debug, FromRequestParts)]
#[from_request(via(axum::extract::Path), rejection(ApiError))]
pub struct Segment<T>(pub T);

/// Code of the person on whose behalf the request is made, from the header `x-person`; without it, the first
/// administrator acts.
#[derive(Debug, Clone)]
pub struct Who(pub Option<String>);

impl<S: Sync> FromRequestParts<S> for Who {
    type Rejection = Infallible;

    async fn from_request_parts(parts: &mut Parts, _: &S) -> Result<Self, Infallible> {
        let code = parts.headers.get("x-person").and_then(|value| value.to_str().ok());
        Ok(Self(code.map(str::trim).filter(|code| !code.is_empty()).map(String::from)))
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

//! The web application, embedded in the binary.

use crate::ground::error;
use axum::{
    http::{Method, StatusCode, Uri, header},
    response::{IntoResponse, Response},
};
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
#[allow_missing = true]
struct Dist;

/// A file of the web application; any other path is a screen of it.
pub async fn file(method: Method, uri: Uri) -> Response {
    if !matches!(method, Method::GET | Method::HEAD) {
        return error::no_such_method(method, uri).await.into_response();
    }
    let path = uri.path().trim_start_matches('/');
    match Dist::get(path) {
        Some(file) if !path.is_empty() => {
            // Names of built files hold a hash of their content.
            let cache = if path.starts_with("assets/") { "public, max-age=31536000, immutable" } else { "no-cache" };
            let kind = file.metadata.mimetype().to_owned();
            ([(header::CONTENT_TYPE, kind), (header::CACHE_CONTROL, cache.into())], file.data).into_response()
        }
        _ if path.starts_with("assets/") => (StatusCode::NOT_FOUND, "no such file").into_response(),
        _ => match Dist::get("index.html") {
            Some(page) => {
                let headers = [(header::CONTENT_TYPE, "text/html; charset=utf-8"), (header::CACHE_CONTROL, "no-cache")];
                (headers, page.data).into_response()
            }
            None => (StatusCode::NOT_FOUND, "the web application is not built: run cargo xtask build").into_response(),
        },
    }
}

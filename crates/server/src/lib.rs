//! The server: routes, static files, the generated description of the API. Handlers extract, call and map the error;
//! the rules are in `tally-core`, the rows in `tally-store`.

pub mod clock;
pub mod clockwork;
mod error;
mod extract;
pub mod files;
pub mod gateway;
pub mod incoming;
pub mod jobs;
mod look;
pub mod openapi;
pub mod receiver;
mod routes;
mod state;
mod web;

pub use clock::Clock;
pub use state::AppState;

use axum::{Router, extract::DefaultBodyLimit, http::HeaderValue, routing::get};
use tower_http::{compression::CompressionLayer, set_header::SetResponseHeaderLayer, trace::TraceLayer};

/// The largest body that is read: a million readings as JSON fit.
pub const LARGEST_BODY: usize = 64 << 20;

/// Everything the server answers.
pub fn app(state: AppState) -> Router {
    let (api, description) = openapi::routes();
    let description = serde_json::to_value(&description).unwrap_or_default();
    Router::new()
        .merge(api)
        .route("/api/v1/openapi.json", get(move || std::future::ready(axum::Json(description))))
        .route("/api/{*rest}", axum::routing::any(error::no_such_route))
        .route("/healthz", get(routes::health::healthz))
        .fallback(get(web::file))
        .layer(DefaultBodyLimit::max(LARGEST_BODY))
        .layer(CompressionLayer::new())
        .layer(SetResponseHeaderLayer::if_not_present(
            axum::http::header::X_CONTENT_TYPE_OPTIONS,
            HeaderValue::from_static("nosniff"),
        ))
        .layer(TraceLayer::new_for_http())
        .with_state(state)
}

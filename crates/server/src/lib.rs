//! The server: routes, static files, the generated description of the API. Handlers extract, call and map the error;
//! the rules are in `tally-core`, the rows in `tally-store`.

mod access;
pub mod duties;
mod ground;
pub mod openapi;
pub mod outside;
mod routes;
mod state;

use access::door;
pub use access::{Access, door::LARGEST_BATCH, origin::Hosts, secrets};
pub use ground::{clock::Clock, serve, tls};
use ground::{error, web};
pub use state::AppState;

use axum::{
    Router, extract::DefaultBodyLimit, http::header, middleware::from_fn_with_state, response::IntoResponse,
    routing::get,
};
use tower_http::{catch_panic::CatchPanicLayer, compression::CompressionLayer, trace::TraceLayer};

/// Everything the server answers.
pub fn app(state: AppState) -> Router {
    let (api, _) = openapi::routes();
    // Written once: a route is cloned for every connection.
    let description = axum::body::Bytes::from(openapi::description().to_string());
    let json = [(header::CONTENT_TYPE, "application/json")];
    Router::new()
        .merge(api.route_layer(from_fn_with_state(state.clone(), door::enter)))
        .route("/api/v1/openapi.json", get(move || std::future::ready((json, description.clone()).into_response())))
        .route("/api/{*rest}", axum::routing::any(error::no_such_route))
        .route("/healthz", get(routes::ground::health::healthz))
        .route("/readyz", get(routes::ground::health::readyz))
        .route("/metrics", get(routes::ground::metrics::get))
        .fallback(web::file)
        .method_not_allowed_fallback(error::no_such_method)
        // The door bounds what it reads, by route.
        .layer(DefaultBodyLimit::disable())
        .layer(CompressionLayer::new())
        .layer(from_fn_with_state(state.clone(), routes::ground::metrics::count))
        .layer(from_fn_with_state(state.clone(), door::from_here))
        .layer(CatchPanicLayer::custom(error::defect))
        .layer(TraceLayer::new_for_http())
        .with_state(state)
}

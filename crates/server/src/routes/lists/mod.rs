//! Lists, search, and the first page.

#[allow(clippy::module_inception, reason = "lists are what it is about")]
pub mod lists;
pub mod search;
pub mod start;

use crate::AppState;
use utoipa_axum::{router::OpenApiRouter, routes};

/// Its routes.
pub fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(start::get))
        .routes(routes!(search::find))
        .routes(routes!(lists::subjects))
        .routes(routes!(lists::list))
        .routes(routes!(lists::file))
        .routes(routes!(lists::kept_views, lists::keep_view))
        .routes(routes!(lists::forget_view))
}

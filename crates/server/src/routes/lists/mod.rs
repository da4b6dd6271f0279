//! Search, and the first page.

pub mod search;
pub mod start;

use crate::AppState;
use utoipa_axum::{router::OpenApiRouter, routes};

/// Its routes.
pub fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(start::get)).routes(routes!(search::find))
}

//! The clock, and whether all is well.

pub mod clock;
pub mod health;

use crate::AppState;
use utoipa_axum::{router::OpenApiRouter, routes};

/// Its routes.
pub fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(clock::get, clock::set))
}

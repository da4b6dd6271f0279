//! The clock, whether all is well, and what is counted.

pub mod clock;
pub mod health;
pub mod metrics;

use crate::AppState;
use utoipa_axum::{router::OpenApiRouter, routes};

/// Its routes.
pub fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(clock::get, clock::set))
}

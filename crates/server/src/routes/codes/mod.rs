//! Codebooks.

pub mod codebooks;

use crate::AppState;
use utoipa_axum::{router::OpenApiRouter, routes};

/// Its routes.
pub fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(codebooks::list)).routes(routes!(codebooks::one, codebooks::put))
}

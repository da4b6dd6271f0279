//! Figures for any asset in any period.

pub mod figures;
pub mod period;

use crate::AppState;
use utoipa_axum::{router::OpenApiRouter, routes};

/// Its routes.
pub fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(period::get)).routes(routes!(figures::indicators)).routes(routes!(figures::get))
}

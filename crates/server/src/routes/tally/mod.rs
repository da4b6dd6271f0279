//! Figures for any asset in any period, and what they are taken apart into.

pub mod asked;
pub mod backlog;
pub mod changed;
pub mod downtime;
pub mod figures;
pub mod forecast;
pub mod headlines;
pub mod held;
pub mod period;
pub mod ranking;

use crate::AppState;
use utoipa_axum::{router::OpenApiRouter, routes};

/// Its routes.
pub fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(period::get))
        .routes(routes!(figures::indicators))
        .routes(routes!(figures::get))
        .routes(routes!(ranking::get))
        .routes(routes!(changed::get))
        .routes(routes!(backlog::get))
        .routes(routes!(downtime::get))
        .routes(routes!(forecast::get))
        .routes(routes!(headlines::get))
}

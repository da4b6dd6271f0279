//! People and crews.

pub mod people;

use crate::AppState;
use utoipa_axum::{router::OpenApiRouter, routes};

/// Its routes.
pub fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(people::list, people::add)).routes(routes!(people::crews, people::add_crew))
}

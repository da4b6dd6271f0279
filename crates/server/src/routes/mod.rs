//! Handlers, by the folders of the house and by resource in them.
//!
//! To add one: a function with its `utoipa::path`, its request and answer beside it, and a line in its folder's `routes`.

mod access;
mod codes;
pub mod ground;
mod lists;
mod outside;
mod plant;
mod tally;
mod watch;
mod work;

use crate::AppState;
use utoipa_axum::router::OpenApiRouter;

/// All routes of the API.
pub fn routes() -> OpenApiRouter<AppState> {
    let all = [
        ground::routes(),
        access::routes(),
        plant::routes(),
        watch::routes(),
        work::routes(),
        codes::routes(),
        tally::routes(),
        lists::routes(),
        outside::routes(),
    ];
    all.into_iter().fold(OpenApiRouter::new(), OpenApiRouter::merge)
}

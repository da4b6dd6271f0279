//! Files in and out, mail, webhooks, tags, backups, and what happens as it happens.

pub mod backups;
pub mod files;
pub mod live;
pub mod mail;
pub mod tags;
pub mod webhooks;

use crate::AppState;
use utoipa_axum::{router::OpenApiRouter, routes};

/// Its routes.
pub fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(files::import))
        .routes(routes!(files::progress, files::cancel))
        .routes(routes!(files::export))
        .routes(routes!(mail::outbox))
        .routes(routes!(webhooks::webhooks, webhooks::add_webhook))
        .routes(routes!(webhooks::stop_webhook))
        .routes(routes!(webhooks::resend))
        .routes(routes!(webhooks::resend_failed))
        .routes(routes!(tags::tags, tags::set_tag))
        .routes(routes!(tags::remove_tag))
        .routes(routes!(live::live))
        .routes(routes!(backups::list, backups::make))
}

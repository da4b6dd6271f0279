//! The plant: assets and where they stand, calendars, downtime, settings, values by date, and its tables as rows of text.

pub mod assets;
pub mod calendars;
pub mod downtime;
pub mod master;
pub mod settings;
pub mod values;

use crate::AppState;
use utoipa_axum::{router::OpenApiRouter, routes};

/// Its routes.
pub fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(settings::get, settings::put))
        .routes(routes!(settings::approve_off))
        .routes(routes!(settings::turn_down_off))
        .routes(routes!(assets::list, assets::add))
        .routes(routes!(assets::one))
        .routes(routes!(assets::relocate))
        .routes(routes!(assets::set_parent_effect))
        .routes(routes!(assets::picture, assets::put_picture, assets::remove_picture))
        .routes(routes!(master::list, master::take))
        .routes(routes!(master::history))
        .routes(routes!(assets::add_class))
        .routes(routes!(calendars::list, calendars::add))
        .routes(routes!(calendars::change))
        .routes(routes!(calendars::assign))
        .routes(routes!(downtime::add_to_asset))
        .routes(routes!(downtime::end))
        .routes(routes!(downtime::correct, downtime::remove))
        .routes(routes!(downtime::put_back))
        .routes(routes!(downtime::odd))
        .routes(routes!(values::list, values::set))
        .routes(routes!(values::remove))
}

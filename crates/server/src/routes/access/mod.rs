//! People and crews, how they sign in, and the keys of gateways and scripts.

pub mod keys;
pub mod passkeys;
pub mod people;
pub mod pins;
pub mod session;

use crate::AppState;
use utoipa_axum::{router::OpenApiRouter, routes};

/// Its routes.
pub fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(people::list, people::add))
        .routes(routes!(people::crews, people::add_crew))
        .routes(routes!(session::who, session::sign_in, session::sign_out))
        .routes(routes!(session::by_code))
        .routes(routes!(session::demo))
        .routes(routes!(session::again))
        .routes(routes!(session::change_password))
        .routes(routes!(session::own, session::end_others))
        .routes(routes!(session::end))
        .routes(routes!(session::end_of))
        .routes(routes!(passkeys::ask_to_sign))
        .routes(routes!(passkeys::sign_in))
        .routes(routes!(passkeys::own, passkeys::add))
        .routes(routes!(passkeys::ask_to_make))
        .routes(routes!(passkeys::remove))
        .routes(routes!(pins::sign_in, pins::set, pins::forget))
        .routes(routes!(pins::devices, pins::share))
        .routes(routes!(pins::unshare))
        .routes(routes!(keys::list, keys::add))
        .routes(routes!(keys::revoke))
        .routes(routes!(keys::reset_code))
}

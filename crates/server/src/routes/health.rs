use crate::{AppState, error::ApiError, extract::Who};

/// Says that the server is up and can read its data.
pub async fn healthz(axum::extract::State(state): axum::extract::State<AppState>) -> Result<&'static str, ApiError> {
    state.look(Who(None), tally_core::people::Topic::Plant, |_| Ok("ok")).await
}

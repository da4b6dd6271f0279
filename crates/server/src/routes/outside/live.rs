//! What browsers are told as it happens.

use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Params, Who},
    },
    state::blocking,
};
use axum::{
    extract::State,
    response::sse::{Event, KeepAlive, Sse},
};
use serde::Deserialize;
use std::convert::Infallible;
use tally_core::access::seen::Topic;
use tokio_stream::{Stream, StreamExt, wrappers::BroadcastStream};
use utoipa::IntoParams;

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct LiveParams {
    /// Code of the person who listens: a browser's event source sends no headers of its own.
    person: Option<String>,
}

/// What changes as it happens, as server-sent events: `{meters, alarms, work, setup}`. An event `missed` says that some were
/// left out because the listener was too slow.
#[utoipa::path(get, path = "/live", params(LiveParams),
    responses((status = 200, content_type = "text/event-stream", body = String)))]
pub async fn live(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<LiveParams>,
) -> Result<Sse<impl Stream<Item = Result<Event, Infallible>>>, ApiError> {
    let person = params.person.filter(|code| !code.is_empty());
    // A browser's event source can't say who listens but by the address.
    let who = match person {
        Some(code) => {
            let asking = state.clone();
            Who(blocking(move || asking.person(Some(&code))).await?, None)
        }
        None => who,
    };
    state.look(who, Topic::Plant, |_| Ok(())).await?;
    let events = BroadcastStream::new(state.live.subscribe()).map(|news| {
        Ok(match news {
            Ok(news) => {
                Event::default().json_data(&news).unwrap_or_else(|_unwritable| Event::default().event("missed"))
            }
            Err(_lagged) => Event::default().event("missed").data("{}"),
        })
    });
    Ok(Sse::new(events).keep_alive(KeepAlive::default()))
}

//! What browsers are told as it happens.

use crate::{
    AppState,
    access::signed::Signed,
    ground::{error::ApiError, extract::Who, threads::blocking},
};
use axum::{
    extract::State,
    response::sse::{Event, KeepAlive, Sse},
};
use std::{convert::Infallible, time::Duration};
use tally_core::access::{bounds::Bounds, seen::Topic};
use tally_store::{News, ground::reach};
use tokio_stream::{
    Stream, StreamExt,
    wrappers::{BroadcastStream, IntervalStream, errors::BroadcastStreamRecvError},
};

/// How often it is looked whether a session still holds, where nothing happens.
const LOOK_EVERY: Duration = Duration::from_secs(5);

/// What changes as it happens, as server-sent events: `{meters, alarms, work, setup}`. An event `missed` says that some were
/// left out because the listener was too slow, `ended` that the session has ended; then the stream ends too.
#[utoipa::path(get, path = "/live", responses((status = 200, content_type = "text/event-stream", body = String)))]
pub async fn live(
    State(state): State<AppState>,
    who: Who,
    signed: Signed,
) -> Result<Sse<impl Stream<Item = Result<Event, Infallible>>>, ApiError> {
    state.look(who.clone(), Topic::Plant, |_| Ok(())).await?;
    let listening = state.access.listening.one_more(who.actor.id)?;
    let news = BroadcastStream::new(state.live.subscribe()).map(Heard::from);
    let looks = IntervalStream::new(tokio::time::interval(LOOK_EVERY)).map(|_| Heard::Nothing);
    let events = news.merge(looks).then(move |heard| {
        let (state, signed) = (state.clone(), signed.clone());
        async move {
            let asking = (state.clone(), signed.clone());
            let holds =
                !heard.may_end() || blocking(move || Ok(asking.1.still_holds(&asking.0)?)).await.unwrap_or(false);
            if holds { heard.bounded_by(&state, signed.somebody.actor.bounds).await } else { Heard::Ended }
        }
    });
    let mut has_ended = false;
    let until_it_ends = events.take_while(move |heard| {
        let goes_on = !has_ended;
        has_ended |= matches!(heard, Heard::Ended);
        goes_on
    });
    let told = until_it_ends.filter_map(move |heard| {
        let _listens_as_long = &listening;
        heard.told().map(Ok)
    });
    Ok(Sse::new(told).keep_alive(KeepAlive::default()))
}

/// What a listener hears of.
enum Heard {
    News(News),
    Missed,
    /// Time has passed.
    Nothing,
    Ended,
}

impl From<Result<News, BroadcastStreamRecvError>> for Heard {
    fn from(news: Result<News, BroadcastStreamRecvError>) -> Self {
        news.map_or(Self::Missed, Self::News)
    }
}

impl Heard {
    /// Whether the session may have ended with it: sessions, people and keys are set up.
    fn may_end(&self) -> bool {
        !matches!(self, Self::News(news) if !news.setup)
    }

    /// The same without meters beyond what the listener reaches.
    async fn bounded_by(self, state: &AppState, bounds: Bounds) -> Self {
        match self {
            Self::News(mut news) if bounds.is_bounded() && !news.meters.is_empty() => {
                let (state, meters) = (state.clone(), std::mem::take(&mut news.meters));
                let now = state.clock.now();
                let reached = move || Ok(state.store.read(now, |view| reach::meters(view, &bounds, meters))?);
                blocking(reached).await.map_or(Self::Missed, |meters| Self::News(News { meters, ..news }))
            }
            heard => heard,
        }
    }

    fn told(self) -> Option<Event> {
        match self {
            Self::News(news) => Event::default().json_data(&news).ok().or_else(|| Self::Missed.told()),
            Self::Missed => Some(Event::default().event("missed").data("{}")),
            Self::Ended => Some(Event::default().event("ended").data("{}")),
            Self::Nothing => None,
        }
    }
}

//! What every handler has: the store and the clock.

use crate::{Clock, error::ApiError, extract::Who, jobs::Jobs, look::Look};
use std::sync::Arc;
use tally_core::people::{Topic, may_see};
use tally_store::{Act, Actor, News, Store, StoreError, people};
use tokio::sync::broadcast;

/// Shared by all handlers.
#[derive(Debug, Clone)]
pub struct AppState {
    pub store: Arc<Store>,
    pub clock: Arc<Clock>,
    pub jobs: Jobs,
    /// What kept transactions changed, for whoever listens.
    pub live: broadcast::Sender<News>,
}

/// News that a slow listener may be behind by, before it misses some.
const LIVE_BACKLOG: usize = 256;

fn actor(store: &Store, who: &Who) -> Result<Actor, StoreError> {
    store.read(|conn| match &who.0 {
        Some(code) => people::by_code(conn, code).map_err(|error| match error {
            StoreError::NotFound { .. } => StoreError::NotTheirs(format!("x-person names nobody: {code:?}")),
            other => other,
        }),
        None => people::first_administrator(conn),
    })
}

impl AppState {
    /// The state a server starts with.
    #[must_use]
    pub fn new(store: Arc<Store>, clock: Clock) -> Self {
        let (live, _) = broadcast::channel(LIVE_BACKLOG);
        let tell = live.clone();
        // Nobody may be listening.
        store.tell(move |news| drop(tell.send(news)));
        Self { store, clock: Arc::new(clock), jobs: Jobs::default(), live }
    }

    /// Looks on a thread that may block, if the person may look at that at all.
    pub async fn look<T: Send + 'static>(
        &self,
        who: Who,
        topic: Topic,
        look: impl FnOnce(&Look) -> Result<T, ApiError> + Send + 'static,
    ) -> Result<T, ApiError> {
        let state = self.clone();
        blocking(move || {
            let actor = actor(&state.store, &who)?;
            may_see(actor.role, topic).map_err(StoreError::from)?;
            let now = state.clock.now();
            let histories = state.store.histories();
            state.store.tally(|conn, snapshot| look(&Look { conn, snapshot, now, actor: &actor, histories }))
        })
        .await
    }

    /// Writes in one transaction on a thread that may block.
    pub async fn write<T: Send + 'static>(
        &self,
        who: Who,
        work: impl FnOnce(&mut Act) -> Result<T, StoreError> + Send + 'static,
    ) -> Result<T, ApiError> {
        self.act(who, false, work).await
    }

    /// Writes, or does it and takes it back: a trial run by the very code that does it.
    pub async fn act<T: Send + 'static>(
        &self,
        who: Who,
        trial: bool,
        work: impl FnOnce(&mut Act) -> Result<T, StoreError> + Send + 'static,
    ) -> Result<T, ApiError> {
        let state = self.clone();
        blocking(move || {
            let actor = actor(&state.store, &who)?;
            let now = state.clock.now();
            Ok(if trial { state.store.trial(actor, now, work) } else { state.store.write(actor, now, work) }?)
        })
        .await
    }
}

pub(crate) async fn blocking<T: Send + 'static>(
    work: impl FnOnce() -> Result<T, ApiError> + Send + 'static,
) -> Result<T, ApiError> {
    match tokio::task::spawn_blocking(work).await {
        Ok(answer) => answer,
        // The handler's own panic: the connection is closed and the log says where.
        Err(panicked) => std::panic::resume_unwind(panicked.into_panic()),
    }
}

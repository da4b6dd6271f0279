//! What every handler has: the store and the clock.

use crate::{
    Clock,
    access::{Access, origin::Hosts},
    duties::standing::Duties,
    ground::{error::ApiError, extract::Who, metrics::Metrics, threads::blocking},
    outside::{
        backups::Backups,
        imports::Imports,
        outgoing::{Allowed, Outgoing},
    },
};
use std::{future::Future, net::SocketAddr, sync::Arc, time::Duration};
use tally_core::access::seen::Topic;
use tally_store::{
    Actor, Looker, News, Stop, Store, StoreError, Tx, View, Viewer,
    ground::{keys, reach, reach::Named},
};
use tokio::sync::{Semaphore, broadcast};

/// Shared by all handlers.
#[derive(Debug, Clone)]
pub struct AppState {
    pub store: Arc<Store>,
    pub clock: Arc<Clock>,
    pub imports: Imports,
    pub duties: Arc<Duties>,
    pub backups: Arc<Backups>,
    pub metrics: Arc<Metrics>,
    pub access: Arc<Access>,
    pub outgoing: Outgoing,
    /// Where it listens, once it does.
    pub address: Option<SocketAddr>,
    /// Names by which this server may be asked.
    pub hosts: Arc<Hosts>,
    /// What kept transactions changed, for whoever listens.
    pub live: broadcast::Sender<News>,
    /// Room for long looks, which have connections of their own.
    long: Arc<Semaphore>,
    /// Room for photos that are made ready, each of which takes much memory.
    pub photos: Arc<Semaphore>,
}

/// News that a slow listener may be behind by, before it misses some.
const LIVE_BACKLOG: usize = 256;

/// How long a look may take.
const LOOK_WITHIN: Duration = Duration::from_secs(30);

/// How long a long look may take: a file of everything.
const LONG_WITHIN: Duration = Duration::from_secs(600);

/// Photos made ready at one time.
const PHOTOS: usize = 2;

/// Long looks at one time.
const LONG_LOOKS: usize = 2;

/// Ends a look when it is dropped: its time is up, or its client has gone.
struct WhileWanted(Stop);

impl Drop for WhileWanted {
    fn drop(&mut self) {
        self.0.set();
    }
}

/// Waits for a look as long as it may take, and as long as somebody waits for it.
async fn wanted<T>(
    within: Duration,
    stop: Stop,
    look: impl Future<Output = Result<T, ApiError>>,
) -> Result<T, ApiError> {
    let _wanted = WhileWanted(stop);
    tokio::time::timeout(within, look).await.unwrap_or_else(|_elapsed| Err(StoreError::Stopped.into()))
}

impl AppState {
    /// The state a server starts with.
    #[must_use]
    pub fn new(store: Arc<Store>, clock: Clock) -> Self {
        let (live, _) = broadcast::channel(LIVE_BACKLOG);
        let (heard, tell) = (store.hear(), live.clone());
        // Ends with the store. Nobody may be listening.
        std::thread::spawn(move || heard.into_iter().for_each(|news| drop(tell.send(news))));
        let (imports, duties, hosts, metrics) = (Imports::default(), Arc::default(), Arc::default(), Arc::default());
        let backups = Arc::new(Backups::beside(&store));
        let (clock, long, access) = (Arc::new(clock), Arc::new(Semaphore::new(LONG_LOOKS)), Arc::default());
        let photos = Arc::new(Semaphore::new(PHOTOS));
        let outgoing = Outgoing::to(Allowed::default());
        Self {
            store,
            clock,
            imports,
            duties,
            backups,
            metrics,
            access,
            outgoing,
            address: None,
            hosts,
            live,
            long,
            photos,
        }
    }

    fn looker(&self, who: &Who, stop: Stop) -> Looker {
        Looker { viewer: Viewer::from(&who.actor), now: self.clock.now(), stop }
    }

    /// Looks, where what the path names is reached.
    fn look_at<T>(
        named: Option<Named>,
        look: impl FnOnce(&View) -> Result<T, ApiError>,
    ) -> impl FnOnce(&View) -> Result<T, ApiError> {
        move |view| {
            named.map_or(Ok(()), |named| reach::require(view, view.viewer.bounds(), &named))?;
            look(view)
        }
    }

    /// Looks on a thread that may block, if the person may look at that at all.
    pub async fn look<T: Send + 'static>(
        &self,
        who: Who,
        topic: Topic,
        look: impl FnOnce(&View) -> Result<T, ApiError> + Send + 'static,
    ) -> Result<T, ApiError> {
        let (state, stop) = (self.clone(), Stop::default());
        let looker = self.looker(&who, stop.clone());
        let work = move || {
            looker.viewer.require_topic(topic)?;
            state.store.look(looker, Self::look_at(who.named, look))
        };
        wanted(LOOK_WITHIN, stop, blocking(work)).await
    }

    /// As [`Self::look`], for looks at much: few at a time, each on a connection of its own, so that they hold up none of
    /// the others.
    pub async fn look_long<T: Send + 'static>(
        &self,
        who: Who,
        topic: Topic,
        look: impl FnOnce(&View) -> Result<T, ApiError> + Send + 'static,
    ) -> Result<T, ApiError> {
        let (state, stop) = (self.clone(), Stop::default());
        let ended = stop.clone();
        let work = async move {
            Viewer::from(&who.actor).require_topic(topic)?;
            let room = state.long.clone().acquire_owned().await;
            blocking(move || {
                let _room = room;
                state.store.look_aside(state.looker(&who, stop), Self::look_at(who.named, look))
            })
            .await
        };
        wanted(LONG_WITHIN, ended, work).await
    }

    /// Writes in one transaction on a thread that may block.
    pub async fn write<T: Send + 'static>(
        &self,
        who: Who,
        work: impl FnOnce(&mut Tx) -> Result<T, StoreError> + Send + 'static,
    ) -> Result<T, ApiError> {
        self.tx(who, false, work).await
    }

    /// Notes something in the trail, while what it is about goes on: nobody waits for that, and it needs no room on the disk.
    pub fn note(&self, actor: Actor, note: impl FnOnce(&mut Tx) -> Result<(), StoreError> + Send + 'static) {
        let state = self.clone();
        tokio::spawn(async move {
            if let Err(error) = state.write(Who { actor, key: None, named: None }, note).await {
                tracing::warn!(?error, "something is missing in the trail");
            }
        });
    }

    /// Writes, or does it and takes it back: a trial run by the very code that does it.
    pub async fn tx<T: Send + 'static>(
        &self,
        who: Who,
        trial: bool,
        work: impl FnOnce(&mut Tx) -> Result<T, StoreError> + Send + 'static,
    ) -> Result<T, ApiError> {
        let state = self.clone();
        blocking(move || {
            let now = state.clock.now();
            let Who { actor, key, named } = who;
            let key = key.filter(|_| !trial);
            let work = |tx: &mut Tx| {
                named.map_or(Ok(()), |named| reach::require(tx, &tx.actor.bounds, &named))?;
                key.as_ref().map_or(Ok(()), |key| keys::take(tx, key))?;
                work(tx)
            };
            Ok(if trial { state.store.trial(actor, now, work) } else { state.store.write(actor, now, work) }?)
        })
        .await
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use tally_core::ground::time::Instant;

    /// The look goes on until it is told that nobody waits any more.
    #[tokio::test]
    async fn a_look_ends_when_its_client_has_gone() {
        let folder = tempfile::tempdir().unwrap();
        let now = Instant::from_ms(0);
        let state = AppState::new(Arc::new(Store::open(folder.path(), now).unwrap()), Clock::standing_at(now));
        let admin = state.store.read(now, |view| tally_store::access::people::first_administrator(view)).unwrap();
        let who = Who { actor: admin, key: None, named: None };
        for is_long in [false, true] {
            let (begun, has_begun) = tokio::sync::oneshot::channel();
            let (ended, has_ended) = tokio::sync::oneshot::channel();
            let look = move |view: &View| {
                begun.send(()).unwrap();
                // As a loop between one meter and the next would.
                let mut counted = Ok(());
                while counted.is_ok() {
                    counted = view.go_on();
                    std::thread::yield_now();
                }
                ended.send(counted.unwrap_err()).unwrap();
                Ok(())
            };
            let asked = state.clone();
            let who = who.clone();
            let client = tokio::spawn(async move {
                if is_long {
                    asked.look_long(who, Topic::Plant, look).await
                } else {
                    asked.look(who, Topic::Plant, look).await
                }
            });
            has_begun.await.unwrap();
            client.abort();
            assert!(matches!(has_ended.await.unwrap(), StoreError::Stopped));
        }
    }
}

//! What happens by the clock and not by a request: alarms that are due answer again, silent meters are noticed, mail and
//! webhooks go out, old readings are sealed.

mod mail;
mod webhook;

pub use webhook::{SIGNATURE, signature};

use crate::{AppState, error::ApiError, state::blocking};
use std::time::Duration;
use tally_core::time::Instant;
use tally_store::{Act, Actor, Store, StoreError, alarms, people, readings};

/// How often the clock is looked at.
const EVERY: Duration = Duration::from_secs(1);

/// How often silent meters are looked for: one seek a meter.
const SILENCE_EVERY: u32 = 15;

/// Between two blocks, so that requests get at the writer.
const BREATH: Duration = Duration::from_millis(20);

/// Blocks sealed at one go.
const BLOCKS_AT_ONCE: usize = 50;

/// The first administrator acts for the clock.
fn act<T>(store: &Store, now: Instant, work: impl FnOnce(&mut Act) -> Result<T, StoreError>) -> Result<T, StoreError> {
    let actor: Actor = store.read(people::first_administrator)?;
    store.write(actor, now, work)
}

fn answer_due(store: &Store, now: Instant) -> Result<(), StoreError> {
    let due = store.read(alarms::next_due)?;
    if due.is_some_and(|due| due <= now) {
        let receipt = act(store, now, alarms::answer_due)?;
        tracing::info!(work_orders = ?receipt.work_orders, "alarms answered again");
    }
    Ok(())
}

/// What stands on meters and assets that are retired by now ends.
fn end_retired(store: &Store, now: Instant) -> Result<(), StoreError> {
    if store.read(|conn| alarms::retired_stand(conn, now))? {
        act(store, now, alarms::end_retired)?;
    }
    Ok(())
}

fn notice_silence(store: &Store, now: Instant) -> Result<(), StoreError> {
    let silent = store.read(|conn| alarms::fell_silent(conn, now))?;
    if !silent.is_empty() {
        let meters = act(store, now, |act| alarms::note_silence(act, &silent))?;
        tracing::info!(meters, "meters fell silent");
    }
    Ok(())
}

/// Seals old rows block by block; each is a transaction of its own.
fn seal(store: &Store, now: Instant) -> Result<(), StoreError> {
    let meters = store.read(|conn| readings::to_seal(conn, BLOCKS_AT_ONCE))?;
    for meter in meters {
        act(store, now, |act| readings::seal(act, meter))?;
        std::thread::sleep(BREATH);
    }
    Ok(())
}

impl AppState {
    /// Does what is due by the clock at this moment. Used when the clock is set, and by [`run`].
    ///
    /// # Errors
    /// What the store answers.
    pub async fn tick(&self) -> Result<(), ApiError> {
        let state = self.clone();
        blocking(move || {
            let now = state.clock.now();
            end_retired(&state.store, now)?;
            answer_due(&state.store, now)?;
            notice_silence(&state.store, now)?;
            mail::send(&state.store, now)?;
            Ok(())
        })
        .await
    }
}

/// Runs until the server ends. What goes wrong is logged, and tried again.
pub async fn run(state: AppState) {
    let client = reqwest::Client::builder().timeout(Duration::from_secs(10)).build().unwrap_or_default();
    let mut ticks: u32 = 0;
    let mut every = tokio::time::interval(EVERY);
    every.set_missed_tick_behavior(tokio::time::MissedTickBehavior::Delay);
    loop {
        every.tick().await;
        let (state_of_tick, silence) = (state.clone(), ticks.is_multiple_of(SILENCE_EVERY));
        let done = blocking(move || {
            let (store, now) = (&state_of_tick.store, state_of_tick.clock.now());
            end_retired(store, now)?;
            answer_due(store, now)?;
            if silence {
                notice_silence(store, now)?;
            }
            mail::send(store, now)?;
            seal(store, now)?;
            Ok(())
        })
        .await;
        if let Err(error) = done {
            tracing::error!(?error, "what is due by the clock failed; it is tried again");
        }
        if let Err(error) = webhook::deliver(&state, &client).await {
            tracing::error!(?error, "delivering events failed; it is tried again");
        }
        ticks = ticks.wrapping_add(1);
    }
}

//! What happens by the clock and not by a request: alarms that are due answer again, silent meters are noticed, mail and
//! webhooks go out, upkeep is raised, old readings are sealed. Each duty is a task of its own, so that one that waits or fails holds up no other.

mod mail;
pub(crate) mod standing;
mod webhook;

pub use standing::{Duties, DutyStanding};
pub use webhook::{SIGNATURE, is_signed, signature};

use crate::{
    AppState,
    ground::{error::ApiError, threads::blocking},
};
use std::time::Duration;
use tally_core::ground::time::Instant;
use tally_store::{
    Actor, Store, StoreError, Tx,
    access::{people, people::Program, sessions},
    ground::keys,
    watch::{alarms, readings},
    work::{attachments, upkeep},
};

/// Between two pieces of long work on the writer, so that requests get at it.
pub const BREATH: Duration = Duration::from_millis(20);

/// Blocks sealed at one go.
const BLOCKS_AT_ONCE: usize = 50;

/// The log is written into the database file when it is larger than that.
const LARGEST_LOG: u64 = 64 << 20;

/// Something that is done again and again.
struct Duty {
    name: &'static str,
    every: Duration,
    work: Work,
}

enum Work {
    /// On a thread that may block.
    Store(fn(&Store, Instant) -> Result<(), StoreError>),
    Backups,
    Webhooks,
}

/// All there are.
const DUTIES: [Duty; 13] = [
    Duty { name: "end what is retired", every: Duration::from_secs(1), work: Work::Store(end_retired) },
    Duty { name: "answer again", every: Duration::from_secs(1), work: Work::Store(answer_due) },
    // One seek a meter.
    Duty { name: "notice silence", every: Duration::from_secs(15), work: Work::Store(notice_silence) },
    // One seek a counter of a plan, and a pass over the plans.
    Duty { name: "raise upkeep", every: Duration::from_secs(30), work: Work::Store(raise_upkeep) },
    Duty { name: "send mail", every: Duration::from_secs(1), work: Work::Store(mail::send) },
    Duty { name: "seal readings", every: Duration::from_secs(1), work: Work::Store(seal) },
    Duty { name: "empty the log", every: Duration::from_secs(60), work: Work::Store(empty_log) },
    Duty { name: "write the column file", every: Duration::from_secs(60), work: Work::Store(write_column_file) },
    Duty { name: "forget keys", every: Duration::from_secs(600), work: Work::Store(forget_keys) },
    Duty { name: "forget files", every: Duration::from_secs(600), work: Work::Store(forget_files) },
    Duty { name: "forget sessions", every: Duration::from_secs(600), work: Work::Store(forget_sessions) },
    Duty { name: "back up", every: Duration::from_secs(60), work: Work::Backups },
    Duty { name: "deliver events", every: Duration::from_secs(1), work: Work::Webhooks },
];

/// The clock acts, and no person.
fn tx<T>(store: &Store, now: Instant, work: impl FnOnce(&mut Tx) -> Result<T, StoreError>) -> Result<T, StoreError> {
    let actor: Actor = store.read(now, |view| people::program(view, Program::Clock))?;
    store.write(actor, now, work)
}

fn answer_due(store: &Store, now: Instant) -> Result<(), StoreError> {
    let due = store.read(now, |view| alarms::next_due(view))?;
    if due.is_some_and(|due| due <= now) {
        let receipt = tx(store, now, alarms::answer_due)?;
        tracing::info!(work_orders = ?receipt.work_orders, "alarms answered again");
    }
    Ok(())
}

/// What stands on meters and assets that are retired by now ends.
fn end_retired(store: &Store, now: Instant) -> Result<(), StoreError> {
    if store.read(now, alarms::retired_stand)? {
        tx(store, now, alarms::end_retired)?;
    }
    Ok(())
}

fn notice_silence(store: &Store, now: Instant) -> Result<(), StoreError> {
    let silent = store.read(now, alarms::fell_silent)?;
    if !silent.is_empty() {
        let meters = tx(store, now, |tx| alarms::note_silence(tx, &silent))?;
        tracing::info!(meters, "meters fell silent");
    }
    Ok(())
}

/// Counters looked at, and plans settled, in one go.
const COUNTERS_AT_ONCE: usize = 100;
const PLANS_AT_ONCE: usize = 100;

/// Upkeep that is due is raised; what is missed is noted. In pieces, so that others write in between.
fn raise_upkeep(store: &Store, now: Instant) -> Result<(), StoreError> {
    for counters in store.read(now, |view| upkeep::stale_counters(view, now))?.chunks(COUNTERS_AT_ONCE) {
        let looks = store.read(now, |view| upkeep::look_at_counters(view, counters, now))?;
        tx(store, now, |tx| upkeep::keep_counters(tx, &looks))?;
        std::thread::sleep(BREATH);
    }
    let due = store.read(now, |view| upkeep::due(view, now))?;
    let mut raised = 0;
    for due in due.chunks(PLANS_AT_ONCE) {
        raised += tx(store, now, |tx| upkeep::settle(tx, due))?.len();
        std::thread::sleep(BREATH);
    }
    if raised > 0 {
        tracing::info!(raised, "upkeep was raised");
    }
    Ok(())
}

/// Seals old rows block by block; each is a transaction of its own. A meter whose rows can't be read is passed over.
fn seal(store: &Store, now: Instant) -> Result<(), StoreError> {
    let meters = store.read(now, |view| readings::to_seal(view, BLOCKS_AT_ONCE))?;
    let mut failed = None;
    for meter in meters {
        if let Err(error) = tx(store, now, |tx| readings::seal(tx, meter)) {
            tracing::error!(?meter, ?error, "readings can't be sealed");
            failed = Some(error);
        }
        std::thread::sleep(BREATH);
    }
    failed.map_or(Ok(()), Err)
}

fn empty_log(store: &Store, _: Instant) -> Result<(), StoreError> {
    let log = store.path().with_extension("db-wal");
    if std::fs::metadata(log).is_ok_and(|log| log.len() > LARGEST_LOG) {
        store.checkpoint()?;
    }
    Ok(())
}

/// The next start reads facts from it.
fn write_column_file(store: &Store, now: Instant) -> Result<(), StoreError> {
    if store.wants_column_file(now)? {
        store.write_column_file(now)?;
        tracing::info!("the column file was written");
    }
    Ok(())
}

/// Keys of writes are known for as long as they may be sent again.
fn forget_keys(store: &Store, now: Instant) -> Result<(), StoreError> {
    if store.read(now, |view| keys::any_old(view, now))? {
        tx(store, now, |tx| keys::forget_old(tx))?;
    }
    Ok(())
}

/// Photos that were sent and never used go.
fn forget_files(store: &Store, now: Instant) -> Result<(), StoreError> {
    while store.read(now, |view| attachments::any_unnamed(view, now))? {
        let files = store.files();
        tx(store, now, |tx| attachments::forget_unnamed(tx, &files))?;
        std::thread::sleep(BREATH);
    }
    Ok(())
}

/// Sessions that ended by themselves let nobody in any more, and are forgotten.
fn forget_sessions(store: &Store, now: Instant) -> Result<(), StoreError> {
    if store.read(now, |view| sessions::any_over(view, now))? {
        tx(store, now, |tx| sessions::forget_over(tx))?;
    }
    Ok(())
}

impl Duty {
    async fn once(&self, state: &AppState) -> Result<(), ApiError> {
        match self.work {
            Work::Webhooks => webhook::deliver(state).await,
            Work::Backups => {
                let state = state.clone();
                blocking(move || Ok(state.backups.by_night(&state.store, state.clock.now())?)).await
            }
            Work::Store(work) => {
                let state = state.clone();
                blocking(move || Ok(work(&state.store, state.clock.now())?)).await
            }
        }
    }

    /// Does it until the server ends. What fails, or panics, is said and tried again.
    async fn again_and_again(&'static self, state: AppState) {
        let mut every = tokio::time::interval(self.every);
        every.set_missed_tick_behavior(tokio::time::MissedTickBehavior::Delay);
        loop {
            every.tick().await;
            let doing = state.clone();
            let done = match tokio::spawn(async move { self.once(&doing).await }).await {
                Ok(Ok(())) => Ok(()),
                Ok(Err(error)) => Err(format!("{error:?}")),
                Err(panicked) => Err(panicked.to_string()),
            };
            if let Err(error) = &done {
                tracing::error!(duty = self.name, error, "a duty failed; it is tried again");
            }
            state.duties.note(self.name, done, state.clock.now());
        }
    }
}

impl AppState {
    /// Does what is due by the clock at this moment. Used when the clock is set.
    ///
    /// # Errors
    /// What the store answers.
    pub async fn tick(&self) -> Result<(), ApiError> {
        for duty in DUTIES.iter().filter(|duty| matches!(duty.work, Work::Store(_))) {
            if !matches!(duty.name, "seal readings" | "empty the log") {
                duty.once(self).await?;
            }
        }
        Ok(())
    }
}

/// Begins every duty; they end with the runtime.
pub fn begin(state: &AppState) {
    for duty in &DUTIES {
        state.duties.begin(duty.name, duty.every);
        tokio::spawn(duty.again_and_again(state.clone()));
    }
}

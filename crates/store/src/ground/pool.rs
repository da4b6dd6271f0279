//! Connections that only look, and a way to end a look from outside.

use crate::ground::error::{Result, StoreError};
use rusqlite::{Connection, OpenFlags};
use std::{
    path::{Path, PathBuf},
    sync::{
        Arc, Condvar, Mutex, MutexGuard, PoisonError,
        atomic::{AtomicBool, Ordering},
    },
    time::Duration,
};

/// How long a connection waits for a lock another process holds, such as a backup.
const BUSY: Duration = Duration::from_secs(5);

/// Kilobytes of pages that a reader keeps, as SQLite counts them: most of what is looked at stands in the facts.
const READER_CACHE: i32 = -4_000;

/// Between two questions whether a look is still wanted: about a millisecond of SQLite's work.
const STEPS_BETWEEN: i32 = 20_000;

/// Whether a look is no longer wanted: its time is up, or who asked has gone.
#[derive(Debug, Clone, Default)]
pub struct Stop(Arc<AtomicBool>);

impl Stop {
    /// Ends what looks with it: its SQL at once, its computation at the next [`Self::check`].
    pub fn set(&self) {
        self.0.store(true, Ordering::Relaxed);
    }

    /// Whether it was set.
    #[must_use]
    pub fn is_set(&self) -> bool {
        self.0.load(Ordering::Relaxed)
    }

    /// # Errors
    /// [`StoreError::Stopped`] once it was set.
    pub fn check(&self) -> Result<()> {
        if self.is_set() { Err(StoreError::Stopped) } else { Ok(()) }
    }
}

/// A panic while a lock was held leaves no half-done write: the transaction went back when it was dropped.
pub(crate) fn lock<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}

/// So many readers of one database.
#[derive(Debug)]
pub(crate) struct Pool {
    path: PathBuf,
    free: Mutex<Vec<Connection>>,
    one_is_free: Condvar,
}

impl Pool {
    pub(crate) fn new(path: &Path, readers: usize) -> Result<Self> {
        let free = (0..readers).map(|_| reader(path)).collect::<Result<Vec<_>>>()?;
        Ok(Self { path: path.into(), free: Mutex::new(free), one_is_free: Condvar::new() })
    }

    /// A free reader, waited for.
    pub(crate) fn take(&self) -> Reader<'_> {
        let mut free = lock(&self.free);
        loop {
            match free.pop() {
                Some(conn) => return Reader { pool: self, conn: Some(conn) },
                None => free = self.one_is_free.wait(free).unwrap_or_else(PoisonError::into_inner),
            }
        }
    }

    /// A reader, where one is free now.
    pub(crate) fn take_free(&self) -> Option<Reader<'_>> {
        lock(&self.free).pop().map(|conn| Reader { pool: self, conn: Some(conn) })
    }

    /// A connection of its own, beside the others.
    pub(crate) fn another(&self) -> Result<Connection> {
        reader(&self.path)
    }
}

/// Looks at one state of the data, for as long as it is wanted.
pub(crate) fn look<T, E: From<StoreError>>(
    conn: &Connection,
    stop: &Stop,
    look: impl FnOnce(&Connection) -> Result<T, E>,
) -> Result<T, E> {
    let ended = stop.clone();
    let watch = move || ended.is_set();
    conn.progress_handler(STEPS_BETWEEN, Some(watch)).map_err(StoreError::from)?;
    // One snapshot for all that is looked at.
    let begun = conn.execute_batch("BEGIN").map_err(StoreError::from);
    let answer = begun.map_err(E::from).and_then(|()| look(conn));
    conn.progress_handler(0, None::<fn() -> bool>).map_err(StoreError::from)?;
    if !conn.is_autocommit() {
        conn.execute_batch("COMMIT").map_err(StoreError::from)?;
    }
    answer
}

/// A reader that goes back to the others when it is dropped, also when the look panicked.
pub(crate) struct Reader<'a> {
    pool: &'a Pool,
    // Some until it is dropped.
    conn: Option<Connection>,
}

impl std::ops::Deref for Reader<'_> {
    type Target = Connection;

    fn deref(&self) -> &Connection {
        self.conn.as_ref().expect("a reader has its connection until it is dropped")
    }
}

impl Drop for Reader<'_> {
    fn drop(&mut self) {
        if let Some(conn) = self.conn.take() {
            // A look that panicked, or whose end failed, leaves its transaction open.
            if !conn.is_autocommit() {
                conn.execute_batch("ROLLBACK").ok();
            }
            lock(&self.pool.free).push(conn);
            self.pool.one_is_free.notify_one();
        }
    }
}

/// What every connection is told at first.
pub(crate) fn prepare(conn: &Connection) -> Result<()> {
    conn.busy_timeout(BUSY)?;
    conn.pragma_update(None, "foreign_keys", true)?;
    conn.pragma_update(None, "synchronous", "FULL")?;
    conn.pragma_update(None, "cache_size", -64_000)?;
    conn.pragma_update(None, "temp_store", "MEMORY")?;
    conn.set_prepared_statement_cache_capacity(128);
    rusqlite::vtab::array::load_module(conn)?;
    Ok(())
}

/// A connection that only looks.
pub(crate) fn reader(path: &Path) -> Result<Connection> {
    let conn = Connection::open_with_flags(path, OpenFlags::SQLITE_OPEN_READ_WRITE | OpenFlags::SQLITE_OPEN_NO_MUTEX)?;
    prepare(&conn)?;
    conn.pragma_update(None, "cache_size", READER_CACHE)?;
    conn.pragma_update(None, "query_only", true)?;
    Ok(conn)
}

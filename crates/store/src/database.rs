//! The database file: opening, migrating, one writer and several readers.

use crate::{
    act::{Act, Actor, News},
    error::{Result, StoreError},
    meter_states::MeterStates,
    migrations, people,
    readings::Histories,
    tally,
};
use rusqlite::{Connection, OpenFlags, TransactionBehavior};
use std::{
    path::{Path, PathBuf},
    sync::{Condvar, Mutex, MutexGuard, OnceLock, PoisonError, RwLock},
    time::Duration,
};
use tally_core::{tally::Snapshot, time::Instant};

/// How many readers may look at once.
const READERS: usize = 4;

/// How long a connection waits for a lock another process holds, such as a backup.
const BUSY: Duration = Duration::from_secs(5);

/// The data of one installation.
#[derive(Debug)]
pub struct Store {
    writer: Mutex<Writer>,
    readers: Mutex<Vec<Connection>>,
    reader_free: Condvar,
    /// Read at the first question, then kept current.
    snapshot: RwLock<Option<Snapshot>>,
    histories: Histories,
    /// Who is told what a kept transaction changed.
    tell: OnceLock<Tell>,
    path: PathBuf,
}

/// Told after a transaction was kept.
struct Tell(Box<dyn Fn(News) + Send + Sync>);

impl std::fmt::Debug for Tell {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("Tell")
    }
}

#[derive(Debug)]
struct Writer {
    conn: Connection,
    meters: MeterStates,
    /// SQLite's count of what other processes wrote: what is remembered of meters is true for one of them.
    others: i64,
}

/// A panic while a lock was held leaves no half-done write: the transaction went back when it was dropped.
fn lock<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}

impl Store {
    /// Opens the data in `folder`, making both where there are none, and brings an older database up to date. A database
    /// without people gets its first administrator.
    ///
    /// # Errors
    /// [`StoreError::Newer`] for a database of a newer version, [`StoreError::Folder`] when the folder can't be made.
    pub fn open(folder: &Path, now: Instant) -> Result<Self> {
        std::fs::create_dir_all(folder)
            .map_err(|source| StoreError::Folder { path: folder.display().to_string(), source })?;
        let path = folder.join("fair-tally.db");
        let mut conn = Connection::open(&path)?;
        prepare(&conn)?;
        conn.pragma_update(None, "journal_mode", "WAL")?;
        migrations::to_latest(&mut conn)?;
        // The snapshot is read whole at start, so what changed before is of no use to it.
        conn.execute("DELETE FROM changes WHERE seq < (SELECT max(seq) FROM changes)", [])?;
        people::ensure_administrator(&conn, now)?;
        let writer = Mutex::new(Writer { conn, meters: MeterStates::default(), others: 0 });
        let readers = (0..READERS).map(|_| reader(&path)).collect::<Result<Vec<_>>>()?;
        Ok(Self {
            writer,
            readers: Mutex::new(readers),
            reader_free: Condvar::new(),
            snapshot: RwLock::new(None),
            histories: Histories::default(),
            tell: OnceLock::new(),
            path,
        })
    }

    /// Where the database file is.
    #[must_use]
    pub fn path(&self) -> &Path {
        &self.path
    }

    /// From now on tells `tell` what each kept transaction changed. The first one to be told stays.
    pub fn tell(&self, tell: impl Fn(News) + Send + Sync + 'static) {
        self.tell.set(Tell(Box::new(tell))).ok();
    }

    /// Histories that were looked at.
    #[must_use]
    pub fn histories(&self) -> &Histories {
        &self.histories
    }

    /// Does `work` in one transaction. When it answers `Ok`, all of it survives a crash at any moment after; when it
    /// answers an error, or panics, nothing of it is kept.
    ///
    /// # Errors
    /// What `work` answers, or SQLite's own.
    pub fn write<T, E: From<StoreError>>(
        &self,
        actor: Actor,
        now: Instant,
        work: impl FnOnce(&mut Act) -> Result<T, E>,
    ) -> Result<T, E> {
        let mut writer = lock(&self.writer);
        let Writer { conn, meters, others } = &mut *writer;
        // What is remembered of meters is true for kept transactions only: it comes back when this one is kept.
        let mut remembered = std::mem::take(meters);
        let tx = conn.transaction_with_behavior(TransactionBehavior::Immediate).map_err(StoreError::from)?;
        let version = tx.pragma_query_value(None, "data_version", |row| row.get(0)).map_err(StoreError::from)?;
        if std::mem::replace(others, version) != version {
            remembered = MeterStates::default();
        }
        let mut act = Act { conn: &tx, meters: &mut remembered, news: News::default(), actor, now };
        let done = work(&mut act)?;
        let news = act.news;
        tx.commit().map_err(StoreError::from)?;
        *meters = remembered;
        drop(writer);
        if !news.is_empty()
            && let Some(tell) = self.tell.get()
        {
            tell.0(news);
        }
        Ok(done)
    }

    /// Does `work` and takes all of it back: a trial run by the very code that does it.
    ///
    /// # Errors
    /// What `work` answers, or SQLite's own.
    pub fn trial<T, E: From<StoreError>>(
        &self,
        actor: Actor,
        now: Instant,
        work: impl FnOnce(&mut Act) -> Result<T, E>,
    ) -> Result<T, E> {
        let mut writer = lock(&self.writer);
        let tx = writer.conn.transaction_with_behavior(TransactionBehavior::Immediate).map_err(StoreError::from)?;
        // What the trial remembers of meters never was: it has a memory of its own, which goes with it.
        let done = {
            let meters = &mut MeterStates::default();
            work(&mut Act { conn: &tx, meters, news: News::default(), actor, now })?
        };
        tx.rollback().map_err(StoreError::from)?;
        Ok(done)
    }

    /// Looks with the tally's snapshot at hand, as current as the database.
    ///
    /// # Errors
    /// What `look` answers, or SQLite's own.
    pub fn tally<T, E: From<StoreError>>(
        &self,
        look: impl FnOnce(&Connection, &Snapshot) -> Result<T, E>,
    ) -> Result<T, E> {
        self.read(|conn| {
            let newest = tally::newest_change(conn)?;
            let is_behind = |kept: &Option<Snapshot>| kept.as_ref().is_none_or(|snapshot| snapshot.change < newest);
            let behind = is_behind(&self.snapshot.read().unwrap_or_else(PoisonError::into_inner));
            if behind {
                let mut kept = self.snapshot.write().unwrap_or_else(PoisonError::into_inner);
                match kept.as_mut() {
                    Some(snapshot) => tally::refresh(conn, snapshot)?,
                    None => *kept = Some(tally::load(conn)?),
                }
            }
            let kept = self.snapshot.read().unwrap_or_else(PoisonError::into_inner);
            let snapshot = kept.as_ref().ok_or_else(|| StoreError::corrupt("changes", "the snapshot is gone"))?;
            look(conn, snapshot)
        })
    }

    /// Looks, with a connection that cannot write.
    ///
    /// # Errors
    /// What `look` answers, or SQLite's own.
    pub fn read<T, E: From<StoreError>>(&self, look: impl FnOnce(&Connection) -> Result<T, E>) -> Result<T, E> {
        let conn = self.reader();
        // One snapshot for all that is looked at.
        conn.execute_batch("BEGIN").map_err(StoreError::from)?;
        let answer = look(&conn);
        conn.execute_batch("COMMIT").map_err(StoreError::from)?;
        answer
    }

    /// A free reader, waited for.
    fn reader(&self) -> Reader<'_> {
        let mut free = lock(&self.readers);
        loop {
            match free.pop() {
                Some(conn) => return Reader { store: self, conn: Some(conn) },
                None => free = self.reader_free.wait(free).unwrap_or_else(PoisonError::into_inner),
            }
        }
    }
}

/// A reader that goes back to the others when it is dropped, also when the look panicked.
struct Reader<'a> {
    store: &'a Store,
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
            lock(&self.store.readers).push(conn);
            self.store.reader_free.notify_one();
        }
    }
}

/// How carefully the writer's commits are kept: 2 is FULL, which survives a crash of the machine.
///
/// # Errors
/// SQLite's own.
pub fn synchronous(act: &Act) -> Result<i64> {
    Ok(act.conn.pragma_query_value(None, "synchronous", |row| row.get(0))?)
}

fn prepare(conn: &Connection) -> Result<()> {
    conn.busy_timeout(BUSY)?;
    conn.pragma_update(None, "foreign_keys", true)?;
    conn.pragma_update(None, "synchronous", "FULL")?;
    conn.pragma_update(None, "cache_size", -64_000)?;
    conn.pragma_update(None, "temp_store", "MEMORY")?;
    conn.set_prepared_statement_cache_capacity(128);
    rusqlite::vtab::array::load_module(conn)?;
    Ok(())
}

fn reader(path: &Path) -> Result<Connection> {
    let conn = Connection::open_with_flags(path, OpenFlags::SQLITE_OPEN_READ_WRITE | OpenFlags::SQLITE_OPEN_NO_MUTEX)?;
    prepare(&conn)?;
    conn.pragma_update(None, "query_only", true)?;
    Ok(conn)
}

#[cfg(test)]
mod tests {
    use super::*;
    use tally_core::people::Role;

    fn open(folder: &Path) -> Store {
        Store::open(folder, Instant::from_ms(0)).unwrap()
    }

    fn administrator(store: &Store) -> Actor {
        store.read(people::first_administrator).unwrap()
    }

    #[test]
    fn an_empty_folder_starts_with_an_administrator_and_full_synchronous() {
        let folder = tempfile::tempdir().unwrap();
        let store = open(folder.path());
        let admin = administrator(&store);
        assert_eq!(admin.role, Role::Administrator);
        let level = store.write(admin, Instant::from_ms(0), |act| synchronous(act)).unwrap();
        assert_eq!(level, 2, "FULL");
    }

    #[test]
    fn a_reader_cannot_write_and_a_failed_write_leaves_nothing() {
        let folder = tempfile::tempdir().unwrap();
        let store = open(folder.path());
        let refused = store.read(|conn| Ok::<_, StoreError>(conn.execute("DELETE FROM people", [])?));
        assert!(matches!(refused, Err(StoreError::Sqlite(_))), "{refused:?}");
        let admin = administrator(&store);
        let failed: Result<()> = store.write(admin, Instant::from_ms(0), |act| {
            act.conn.execute("INSERT INTO settings (key, value) VALUES ('x', '1')", [])?;
            Err(StoreError::Conflict("on second thought".into()))
        });
        assert!(failed.is_err());
        let kept: i64 = store
            .read(|conn| Ok::<_, StoreError>(conn.query_row("SELECT count(*) FROM settings", [], |r| r.get(0))?))
            .unwrap();
        assert_eq!(kept, 0);
    }

    #[test]
    fn looks_that_panic_leave_the_readers_free() {
        let folder = tempfile::tempdir().unwrap();
        let store = open(folder.path());
        for _ in 0..=READERS {
            let look = || store.read(|_| -> Result<()> { panic!("a defect") });
            assert!(std::panic::catch_unwind(std::panic::AssertUnwindSafe(look)).is_err());
        }
        assert_eq!(administrator(&store).code, "admin");
    }

    #[test]
    fn a_database_of_a_newer_version_is_refused() {
        let folder = tempfile::tempdir().unwrap();
        drop(open(folder.path()));
        let conn = Connection::open(folder.path().join("fair-tally.db")).unwrap();
        conn.pragma_update(None, "user_version", 99).unwrap();
        drop(conn);
        let error = Store::open(folder.path(), Instant::from_ms(0)).unwrap_err();
        assert_eq!(
            error.to_string(),
            "this data folder was written by a newer version of Fair Tally; use that version or a newer one"
        );
    }
}

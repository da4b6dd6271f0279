//! The database: one writer and several readers, and the facts that are kept in memory beside it.

use crate::{
    access::people,
    facts::{self, ColumnFile, Written},
    ground::{
        error::{Result, StoreError},
        files::Files,
        folder,
        folder::Folder,
        in_memory::InMemory,
        memory::Memory,
        migrations, pool,
        pool::{Pool, lock, prepare},
        tx::{Actor, News, Tx},
        view::{Looker, Shared, View},
    },
    outside::backup,
};
use rusqlite::{Connection, TransactionBehavior, backup::Backup};
use std::{
    path::Path,
    sync::{
        Arc, Mutex,
        atomic::{AtomicBool, AtomicUsize, Ordering},
        mpsc::{self, Receiver, Sender},
    },
};
use tally_core::{
    facts::{AsOf, Snapshot},
    ground::time::Instant,
};

/// How many readers may look at once.
const READERS: usize = 4;

/// The data of one installation.
#[derive(Debug)]
pub struct Store {
    writer: Mutex<Writer>,
    readers: Pool,
    /// Read at the first question, then kept current. Looks take a handle and let go.
    snapshot: Mutex<Option<Arc<Snapshot>>>,
    has_facts: AtomicBool,
    writing: AtomicUsize,
    /// As they were at the past instant that was asked for last.
    past: Mutex<Option<(AsOf, Arc<Snapshot>)>>,
    in_memory: InMemory,
    /// Who hears what kept transactions changed.
    hearing: Mutex<Vec<Sender<News>>>,
    folder: Folder,
}

/// A copy of a store, on disk as long as it is held.
#[derive(Debug)]
pub struct Aside {
    pub store: Store,
    _folder: tempfile::TempDir,
}

#[derive(Debug)]
struct Writer {
    conn: Connection,
    memory: Memory,
    /// SQLite's count of what other processes wrote: what is remembered is true for one of them.
    others: i64,
}

impl Store {
    /// Opens the data in `folder`, making both where there are none, and brings an older database up to date. A database
    /// without people gets its first administrator.
    ///
    /// # Errors
    /// [`StoreError::Newer`] for a database of a newer version, [`StoreError::Folder`] when the folder can't be made,
    /// [`StoreError::Empty`] and [`StoreError::WithoutLog`] for a file that is not the whole of it.
    pub fn open(folder: &Path, now: Instant) -> Result<Self> {
        Self::enter(Folder::enter(folder)?, now)
    }

    /// As [`Self::open`], for a server: no other one may be in the folder.
    ///
    /// # Errors
    /// As [`Self::open`], and [`StoreError::InUse`].
    pub fn open_alone(folder: &Path, now: Instant) -> Result<Self> {
        let entered = Folder::enter(folder)?;
        if !entered.is_ours() {
            return Err(StoreError::InUse { path: folder.display().to_string() });
        }
        Self::enter(entered, now)
    }

    fn enter(folder: Folder, now: Instant) -> Result<Self> {
        let mut conn = folder.connect()?;
        prepare(&conn)?;
        conn.pragma_update(None, "journal_mode", "WAL")?;
        backup::before_upgrade(&folder, &conn, now)?;
        migrations::to_latest(&mut conn)?;
        if folder.is_ours() {
            sweep(&conn, &folder)?;
        }
        people::ensure_administrator(&conn, now)?;
        people::ensure_programs(&conn)?;
        folder.mark(&conn)?;
        let readers = Pool::new(folder.database(), READERS)?;
        let writer = Mutex::new(Writer { conn, memory: Memory::default(), others: 0 });
        let (snapshot, past, in_memory) = (Mutex::default(), Mutex::default(), InMemory::default());
        let (has_facts, writing) = (AtomicBool::default(), AtomicUsize::default());
        Ok(Self { writer, readers, snapshot, has_facts, writing, past, in_memory, hearing: Mutex::default(), folder })
    }

    /// Writes everything into the database file, so that it is whole without its log until somebody writes again.
    ///
    /// # Errors
    /// SQLite's own.
    pub fn close(&self) -> Result<()> {
        self.folder.leave(&lock(&self.writer).conn)
    }

    /// A copy of all there is, to try things on; it goes when it is dropped.
    ///
    /// # Errors
    /// SQLite's own, and [`StoreError::Folder`].
    pub fn copy(&self, now: Instant) -> Result<Aside> {
        let beside = self.path().parent().unwrap_or(Path::new("."));
        let failed = |source| StoreError::Folder { path: beside.display().to_string(), source };
        let folder = tempfile::Builder::new().prefix("trial-").tempdir_in(beside).map_err(failed)?;
        let mut to = Connection::open(folder.path().join("fair-tally.db"))?;
        let from = self.readers.another()?;
        // In one step, which sees one state of the data however much is written meanwhile.
        Backup::new(&from, &mut to)?.step(-1)?;
        folder::unmark(&to)?;
        drop(to);
        Ok(Aside { store: Self::open(folder.path(), now)?, _folder: folder })
    }

    /// Writes the log into the database file, so that it does not grow for ever under looks that overlap.
    ///
    /// # Errors
    /// SQLite's own.
    pub fn checkpoint(&self) -> Result<()> {
        let conn = Connection::open(self.folder.database())?;
        prepare(&conn)?;
        folder::checkpoint(&conn)
    }

    /// Whether the facts that figures are made of have been read.
    #[must_use]
    pub fn has_facts(&self) -> bool {
        self.has_facts.load(Ordering::Relaxed)
    }

    /// Whether the next start is much quicker for a new column file: facts are many, and there is none, or much has changed since.
    /// False for who is not the first in the folder, and before facts have been read.
    ///
    /// # Errors
    /// SQLite's own.
    pub fn wants_column_file(&self, now: Instant) -> Result<bool> {
        if !self.folder.is_ours() || !self.has_facts() {
            return Ok(false);
        }
        self.read(now, |view| {
            let facts = view.facts()?;
            let file = ColumnFile::of(view.conn, self.path())?;
            Ok(facts::is_worth_a_file(facts, file.as_ref()))
        })
    }

    /// Writes facts into the column file, while others look and write.
    ///
    /// # Errors
    /// [`StoreError::Folder`] and [`StoreError::Full`] when it can't be written, SQLite's own.
    pub fn write_column_file(&self, now: Instant) -> Result<()> {
        let written = self.look_aside(Looker::all(now), |view| Written::of(view.facts()?, view.conn, self.path()))?;
        written.count(&lock(&self.writer).conn)
    }

    /// How many wait for the writer, or have it.
    #[must_use]
    pub fn writing(&self) -> usize {
        self.writing.load(Ordering::Relaxed)
    }

    /// Where the database file is.
    #[must_use]
    pub fn path(&self) -> &Path {
        self.folder.database()
    }

    /// The files that lie beside the database.
    #[must_use]
    pub fn files(&self) -> Files {
        Files::beside(self.path())
    }

    /// What each transaction changed that is kept from now on, until the store is gone.
    pub fn hear(&self) -> Receiver<News> {
        let (tell, heard) = mpsc::channel();
        lock(&self.hearing).push(tell);
        heard
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
        work: impl FnOnce(&mut Tx) -> Result<T, E>,
    ) -> Result<T, E> {
        let _counted = Counted::one_more(&self.writing);
        let mut writer = lock(&self.writer);
        let Writer { conn, memory, others } = &mut *writer;
        // What is remembered is true for kept transactions only. A panic forgets all of it.
        let mut remembered = std::mem::take(memory);
        let open = conn.transaction_with_behavior(TransactionBehavior::Immediate).map_err(StoreError::from)?;
        let version = open.pragma_query_value(None, "data_version", |row| row.get(0)).map_err(StoreError::from)?;
        if std::mem::replace(others, version) != version {
            remembered = Memory::default();
        }
        remembered.begin();
        note_write(&open, now)?;
        let mut tx = Tx::new(&open, &mut remembered, actor, now);
        let done = work(&mut tx).map(|done| (done, tx.news()));
        let kept = match done {
            Ok(done) => open.commit().map(|()| done).map_err(|error| StoreError::from(error).into()),
            Err(error) => {
                drop(open);
                Err(error)
            }
        };
        if kept.is_err() {
            remembered.take_back();
        }
        *memory = remembered;
        let (done, news) = kept?;
        drop(writer);
        if !news.is_empty() {
            // Who does not listen any more is let go.
            lock(&self.hearing).retain(|tell| tell.send(news.clone()).is_ok());
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
        work: impl FnOnce(&mut Tx) -> Result<T, E>,
    ) -> Result<T, E> {
        let mut writer = lock(&self.writer);
        let open = writer.conn.transaction_with_behavior(TransactionBehavior::Immediate).map_err(StoreError::from)?;
        note_write(&open, now)?;
        // What the trial remembers never was: it has a memory of its own, which goes with it.
        let done = work(&mut Tx::new(&open, &mut Memory::default(), actor, now))?;
        open.rollback().map_err(StoreError::from)?;
        Ok(done)
    }

    /// Looks, with a connection that cannot write, as one that sees everything at that instant.
    ///
    /// # Errors
    /// What `look` answers, or SQLite's own.
    pub fn read<T, E: From<StoreError>>(&self, now: Instant, look: impl FnOnce(&View) -> Result<T, E>) -> Result<T, E> {
        self.look(Looker::all(now), look)
    }

    /// The same where a reader is free now; none where it would have to be waited for.
    pub fn read_if_free<T, E: From<StoreError>>(
        &self,
        now: Instant,
        look: impl FnOnce(&View) -> Result<T, E>,
    ) -> Option<Result<T, E>> {
        let reader = self.readers.take_free()?;
        Some(self.through(&reader, Looker::all(now), look))
    }

    /// Looks for somebody, as long as it is wanted.
    ///
    /// # Errors
    /// What `look` answers, SQLite's own, and [`StoreError::Stopped`].
    pub fn look<T, E: From<StoreError>>(
        &self,
        looker: Looker,
        look: impl FnOnce(&View) -> Result<T, E>,
    ) -> Result<T, E> {
        self.through(&self.readers.take(), looker, look)
    }

    /// As [`Self::look`], on a connection of its own: for long looks, so that they take none away from short ones.
    ///
    /// # Errors
    /// As [`Self::look`].
    pub fn look_aside<T, E: From<StoreError>>(
        &self,
        looker: Looker,
        look: impl FnOnce(&View) -> Result<T, E>,
    ) -> Result<T, E> {
        self.through(&self.readers.another()?, looker, look)
    }

    fn through<T, E: From<StoreError>>(
        &self,
        conn: &Connection,
        looker: Looker,
        look: impl FnOnce(&View) -> Result<T, E>,
    ) -> Result<T, E> {
        let stop = looker.stop.clone();
        pool::look(conn, &stop, |conn| look(&View::new(conn, &self.in_memory, self, looker)))
    }
}

/// Counts somebody as long as it is held.
struct Counted<'a>(&'a AtomicUsize);

impl<'a> Counted<'a> {
    fn one_more(count: &'a AtomicUsize) -> Self {
        count.fetch_add(1, Ordering::Relaxed);
        Self(count)
    }
}

impl Drop for Counted<'_> {
    fn drop(&mut self) {
        self.0.fetch_sub(1, Ordering::Relaxed);
    }
}

/// Notes when the open transaction is, for what keeps rows as they were known.
fn note_write(conn: &Connection, now: Instant) -> Result<()> {
    conn.prepare_cached("UPDATE newest_write SET at = ?1")?.execute([now])?;
    Ok(())
}

/// What changed before facts are read is of no use to them, but for what changed after their file was written.
fn sweep(conn: &Connection, folder: &Folder) -> Result<()> {
    let kept = ColumnFile::of(conn, folder.database())?.map_or(i64::MAX, |file| file.change());
    conn.execute("DELETE FROM changes WHERE seq < (SELECT max(seq) FROM changes) AND seq <= ?1", [kept])?;
    Ok(())
}

impl Store {
    /// From the column file; else read by two, or by one where somebody writes so often that two never see the same.
    fn first_facts(&self, conn: &Connection) -> Result<Snapshot> {
        if let Some(facts) = facts::load_by_file(conn, self.path())? {
            return Ok(facts);
        }
        match facts::load_by_two(conn, self.readers.another()?)? {
            Some(facts) => Ok(facts),
            None => facts::load(conn),
        }
    }
}

impl Shared for Store {
    /// Where a look still has the facts before, they stay as they are for it.
    fn facts(&self, conn: &Connection) -> Result<Arc<Snapshot>> {
        let newest = facts::newest_change(conn)?;
        let mut kept = lock(&self.snapshot);
        let current = match kept.take() {
            Some(snapshot) if snapshot.change >= newest => snapshot,
            Some(mut snapshot) => {
                facts::refresh(conn, Arc::make_mut(&mut snapshot))?;
                snapshot
            }
            None => Arc::new(self.first_facts(conn)?),
        };
        self.has_facts.store(true, Ordering::Relaxed);
        Ok(kept.insert(current).clone())
    }

    /// Made without a lock: who asks for another instant meanwhile waits for nobody.
    fn past(&self, conn: &Connection, facts: &Snapshot, then: AsOf) -> Result<Arc<Snapshot>> {
        let kept = lock(&self.past).clone();
        if let Some((_, past)) = kept.filter(|(of, past)| *of == then && past.change == facts.change) {
            return Ok(past);
        }
        let past = Arc::new(facts::as_of(conn, facts, then)?);
        *lock(&self.past) = Some((then, past.clone()));
        Ok(past)
    }
}

impl Drop for Store {
    fn drop(&mut self) {
        // A mark that stays is no harm: the log stays with it.
        self.close().ok();
    }
}

/// Lets the database grow to so many pages and no further: what a full disk does.
///
/// # Errors
/// SQLite's own.
pub fn bound(tx: &Tx, pages: u32) -> Result<()> {
    Ok(tx.conn.query_row(&format!("PRAGMA max_page_count = {pages}"), [], |_| Ok(()))?)
}

/// How carefully the writer's commits are kept: 2 is FULL, which survives a crash of the machine.
///
/// # Errors
/// SQLite's own.
pub fn synchronous(tx: &Tx) -> Result<i64> {
    Ok(tx.conn.pragma_query_value(None, "synchronous", |row| row.get(0))?)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::ground::pool::Stop;
    use tally_core::access::roles::Role;

    fn open(folder: &Path) -> Store {
        Store::open(folder, Instant::from_ms(0)).unwrap()
    }

    fn administrator(store: &Store) -> Actor {
        store.read(Instant::LATEST, |view| people::first_administrator(view)).unwrap()
    }

    #[test]
    fn an_empty_folder_starts_with_an_administrator_and_full_synchronous() {
        let folder = tempfile::tempdir().unwrap();
        let store = open(folder.path());
        let admin = administrator(&store);
        assert_eq!(admin.role, Role::Administrator);
        let level = store.write(admin, Instant::from_ms(0), |tx| synchronous(tx)).unwrap();
        assert_eq!(level, 2, "FULL");
    }

    #[test]
    fn a_reader_cannot_write_and_a_failed_write_leaves_nothing() {
        let folder = tempfile::tempdir().unwrap();
        let store = open(folder.path());
        let refused = store
            .read(Instant::LATEST, |View { conn, .. }| Ok::<_, StoreError>(conn.execute("DELETE FROM people", [])?));
        assert!(matches!(refused, Err(StoreError::Sqlite(_))), "{refused:?}");
        let admin = administrator(&store);
        let failed: Result<()> = store.write(admin, Instant::from_ms(0), |tx| {
            tx.conn.execute("INSERT INTO settings (key, value) VALUES ('x', '1')", [])?;
            Err(StoreError::Conflict("on second thought".into()))
        });
        assert!(failed.is_err());
        let kept: i64 = store
            .read(Instant::LATEST, |View { conn, .. }| {
                Ok::<_, StoreError>(conn.query_row("SELECT count(*) FROM settings WHERE key = 'x'", [], |r| r.get(0))?)
            })
            .unwrap();
        assert_eq!(kept, 0);
    }

    #[test]
    fn looks_that_panic_leave_the_readers_free() {
        let folder = tempfile::tempdir().unwrap();
        let store = open(folder.path());
        for _ in 0..=READERS {
            let look = || store.read(Instant::LATEST, |_| -> Result<()> { panic!("a defect") });
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

    /// The mark is in the file as long as the store is open, so a copy of the file alone says that its log is missing.
    #[test]
    fn a_copy_without_its_log_is_refused_and_after_a_clean_end_the_file_is_all() {
        let folder = tempfile::tempdir().unwrap();
        let store = open(folder.path());
        let admin = administrator(&store);
        let add = |tx: &mut Tx| -> Result<()> {
            tx.conn.execute("INSERT INTO crews (code, name, department) VALUES ('day', 'Day', '')", [])?;
            Ok(())
        };
        store.write(admin, Instant::from_ms(0), add).unwrap();
        let copied = |files: &[&str]| {
            let copy = tempfile::tempdir().unwrap();
            for file in files {
                std::fs::copy(folder.path().join(file), copy.path().join(file)).unwrap();
            }
            let crews = Store::open(copy.path(), Instant::from_ms(0)).and_then(|store| {
                store.read(Instant::LATEST, |View { conn, .. }| {
                    Ok(conn.query_row("SELECT count(*) FROM crews", [], |row| row.get::<_, i64>(0))?)
                })
            });
            crews.map_err(|error| error.to_string())
        };
        let refused = copied(&["fair-tally.db"]).unwrap_err();
        assert!(refused.contains("was copied while a server used it"), "{refused}");
        assert_eq!(copied(&["fair-tally.db", "fair-tally.db-wal"]), Ok(1));
        drop(store);
        assert_eq!(copied(&["fair-tally.db"]), Ok(1));
        std::fs::write(folder.path().join("fair-tally.db"), "").unwrap();
        let refused = copied(&["fair-tally.db"]).unwrap_err();
        assert!(refused.contains("is empty"), "{refused}");
    }

    #[test]
    fn one_server_a_folder() {
        let folder = tempfile::tempdir().unwrap();
        let first = Store::open_alone(folder.path(), Instant::from_ms(0)).unwrap();
        let second = Store::open_alone(folder.path(), Instant::from_ms(0)).unwrap_err().to_string();
        assert!(second.contains("another Fair Tally is at work in"), "{second}");
        // The command line looks in all the same, and takes no mark away.
        drop(open(folder.path()));
        let mark = first.read(Instant::LATEST, |View { conn, .. }| {
            Ok::<_, StoreError>(
                conn.query_row("SELECT value FROM settings WHERE key = 'in_use'", [], |row| row.get::<_, String>(0))?,
            )
        });
        assert_eq!(mark.unwrap(), "true");
        drop(first);
        drop(Store::open_alone(folder.path(), Instant::from_ms(0)).unwrap());
    }

    /// Fifty quick looks and a write are done while a slow look that began before them still looks.
    #[test]
    fn nobody_waits_for_a_slow_look() {
        let folder = tempfile::tempdir().unwrap();
        let store = open(folder.path());
        let admin = administrator(&store);
        let (begun, has_begun) = std::sync::mpsc::channel();
        let (done, is_done) = std::sync::mpsc::channel::<()>();
        let quick = std::thread::scope(|scope| {
            let slow = scope.spawn({
                let store = &store;
                move || {
                    store.read(Instant::LATEST, |view| -> Result<i64> {
                        let snapshot = view.facts()?;
                        begun.send(()).unwrap();
                        is_done
                            .recv_timeout(std::time::Duration::from_secs(60))
                            .expect("the others waited for this one");
                        Ok(snapshot.change)
                    })
                }
            });
            has_begun.recv().unwrap();
            let add = |tx: &mut Tx| crate::plant::assets::add_class(tx, "pump", "Pumps");
            store.write(admin.clone(), Instant::from_ms(0), add).unwrap();
            let change = |tx: &mut Tx| -> Result<()> {
                tx.conn.execute("INSERT INTO changes (kind, id) VALUES ('tree', 0)", [])?;
                Ok(())
            };
            store.write(admin, Instant::from_ms(0), change).unwrap();
            let looks: Vec<_> = (0..50)
                .map(|_| {
                    scope.spawn(|| {
                        store
                            .read(Instant::LATEST, |view| {
                                let snapshot = view.facts()?;
                                Ok::<_, StoreError>(snapshot.change)
                            })
                            .unwrap()
                    })
                })
                .collect();
            let quick: Vec<i64> = looks.into_iter().map(|look| look.join().unwrap()).collect();
            done.send(()).unwrap();
            (slow.join().unwrap().unwrap(), quick)
        });
        assert!(quick.1.iter().all(|change| *change > quick.0), "the quick ones see the write, the slow one does not");
    }

    #[test]
    fn a_refused_write_forgets_only_the_meters_it_touched() {
        let folder = tempfile::tempdir().unwrap();
        let store = open(folder.path());
        let admin = administrator(&store);
        let now = Instant::from_ms(0);
        store
            .write(admin.clone(), now, |tx| {
                let asset = |code: &str| serde_json::json!({"code": code, "name": code, "level": "site"});
                crate::plant::assets::add(tx, &serde_json::from_value(asset("SITE")).unwrap())?;
                for code in ["A", "B"] {
                    let meter =
                        serde_json::json!({"code": code, "asset": "SITE", "kind": "measurement", "unit": "bar"});
                    crate::watch::meters::add(tx, &serde_json::from_value(meter).unwrap())?;
                }
                Ok::<_, StoreError>(())
            })
            .unwrap();
        let touch = |codes: &[&str], fails: bool| {
            store.write(admin.clone(), now, |tx| {
                for code in codes {
                    tx.meter(code)?;
                }
                if fails { Err(StoreError::Cancelled) } else { Ok(()) }
            })
        };
        touch(&["A", "B"], false).unwrap();
        touch(&["B"], true).unwrap_err();
        let remembered = |code| lock(&store.writer).memory.of::<crate::watch::meter_states::MeterStates>().knows(code);
        assert!(remembered("A") && !remembered("B"));
    }

    #[test]
    fn a_look_that_is_not_wanted_any_more_ends() {
        let folder = tempfile::tempdir().unwrap();
        let store = open(folder.path());
        let stop = Stop::default();
        let counted = |view: &View| -> Result<i64> {
            stop.set();
            let endless = "WITH RECURSIVE n(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM n) SELECT count(*) FROM n";
            Ok(view.conn.query_row(endless, [], |row| row.get(0))?)
        };
        assert!(matches!(
            store.look(Looker { stop: stop.clone(), ..Looker::all(Instant::LATEST) }, counted),
            Err(StoreError::Stopped)
        ));
        assert_eq!(administrator(&store).code, "admin", "the reader is as good as before");
    }
}

//! The folder of the data: whose it is, and whether what lies in it is whole.
//!
//! While a store is open, much of what it holds is in SQLite's log beside the database file. So that nobody takes a copy of
//! the file alone for all of it, the file is marked *in use* as long, and one that is marked but has no log is refused.

use crate::ground::error::{Result, StoreError};
use rusqlite::{Connection, OptionalExtension};
use std::{
    fs::{File, OpenOptions, TryLockError},
    path::{Path, PathBuf},
};

/// Key of the mark among the settings.
const IN_USE: &str = "in_use";

/// The log is cut to this many bytes when it could be emptied.
const LARGEST_LOG: i64 = 64 << 20;

/// A folder of data.
#[derive(Debug)]
pub(crate) struct Folder {
    database: PathBuf,
    /// Held as long as this process is the first in the folder.
    lock: Option<File>,
}

#[cfg(unix)]
fn private(options: &mut OpenOptions) -> &mut OpenOptions {
    std::os::unix::fs::OpenOptionsExt::mode(options, 0o600)
}

#[cfg(not(unix))]
fn private(options: &mut OpenOptions) -> &mut OpenOptions {
    options
}

/// Makes a folder that only its owner looks into, where there is none.
///
/// # Errors
/// [`StoreError::Folder`].
pub fn make_private(folder: &Path) -> Result<()> {
    let mut builder = std::fs::DirBuilder::new();
    builder.recursive(true);
    #[cfg(unix)]
    std::os::unix::fs::DirBuilderExt::mode(&mut builder, 0o700);
    builder.create(folder).map_err(|source| StoreError::Folder { path: folder.display().to_string(), source })
}

/// Opens a file for writing, from its beginning, that only its owner reads; makes it where there is none.
///
/// # Errors
/// [`StoreError::Folder`].
pub fn private_file(path: &Path) -> Result<File> {
    private(OpenOptions::new().write(true).create(true).truncate(true))
        .open(path)
        .map_err(|source| StoreError::Folder { path: path.display().to_string(), source })
}

impl Folder {
    /// Goes into a folder, and says whether another process is in it already.
    pub(crate) fn enter(folder: &Path) -> Result<Self> {
        make_private(folder)?;
        let failed = |source| StoreError::Folder { path: folder.display().to_string(), source };
        let mut options = OpenOptions::new();
        let options = private(options.write(true).create(true).truncate(false));
        let file = options.open(folder.join("fair-tally.lock")).map_err(failed)?;
        let lock = match file.try_lock() {
            Ok(()) => Some(file),
            Err(TryLockError::WouldBlock) => None,
            Err(TryLockError::Error(source)) => return Err(failed(source)),
        };
        Ok(Self { database: folder.join("fair-tally.db"), lock })
    }

    /// Whether no other process was in it before.
    pub(crate) fn is_ours(&self) -> bool {
        self.lock.is_some()
    }

    pub(crate) fn database(&self) -> &Path {
        &self.database
    }

    /// Opens the database, or makes it.
    pub(crate) fn connect(&self) -> Result<Connection> {
        let is_there = self.database.exists();
        if is_there && std::fs::metadata(&self.database).is_ok_and(|file| file.len() == 0) {
            return Err(StoreError::Empty { path: self.database.display().to_string() });
        }
        if !is_there {
            drop(private_file(&self.database)?);
        }
        // Looking at the database makes a log where there is none.
        let has_log = self.database.with_extension("db-wal").exists();
        let conn = Connection::open(&self.database)?;
        if is_there && self.is_ours() && !has_log && is_marked(&conn)? {
            return Err(StoreError::WithoutLog { path: self.database.display().to_string() });
        }
        conn.pragma_update(None, "journal_size_limit", LARGEST_LOG)?;
        Ok(conn)
    }

    /// Marks the database as in use, in the file itself.
    pub(crate) fn mark(&self, conn: &Connection) -> Result<()> {
        if self.is_ours() {
            conn.execute(
                "INSERT INTO settings (key, value) VALUES (?1, 'true') ON CONFLICT (key) DO NOTHING",
                [IN_USE],
            )?;
            checkpoint(conn)?;
        }
        Ok(())
    }

    /// Writes all of the log into the file, and takes the mark away.
    pub(crate) fn leave(&self, conn: &Connection) -> Result<()> {
        if self.is_ours() {
            unmark(conn)?;
            checkpoint(conn)?;
        }
        Ok(())
    }
}

pub(crate) fn unmark(conn: &Connection) -> Result<()> {
    conn.execute("DELETE FROM settings WHERE key = ?1", [IN_USE])?;
    Ok(())
}

fn is_marked(conn: &Connection) -> Result<bool> {
    let has_settings: bool = conn.query_row(
        "SELECT EXISTS (SELECT 1 FROM sqlite_schema WHERE type = 'table' AND name = 'settings')",
        [],
        |row| row.get(0),
    )?;
    if !has_settings {
        return Ok(false);
    }
    let mark = conn.query_row("SELECT 1 FROM settings WHERE key = ?1", [IN_USE], |_| Ok(())).optional()?;
    Ok(mark.is_some())
}

/// Writes the log into the file and empties it, as far as nobody looks at it.
pub(crate) fn checkpoint(conn: &Connection) -> Result<()> {
    Ok(conn.query_row("PRAGMA wal_checkpoint(TRUNCATE)", [], |_| Ok(()))?)
}

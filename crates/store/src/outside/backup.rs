//! Backups: one archive (ZIP) with all there is at one moment, with checksums, made while others write; and the way back.
//!
//! The database comes by `VACUUM INTO`, which reads one state of the data however much is written meanwhile. While it does the
//! log can't be emptied: it grows by what is written in that time, and is emptied afterwards.

use super::pace::{Pace, take_away, written_through};
use crate::ground::{
    error::{Result, StoreError, failed},
    files,
    files::{Files, Size},
    folder::{Folder, make_private, private_file, unmark},
    migrations, pool,
    sql::Rows,
    tx::Tx,
};
use rusqlite::{Connection, OpenFlags, OptionalExtension};
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use std::{
    fs::File,
    io::{self, BufReader, Read, Seek, Write},
    path::{Path, PathBuf},
    time::Duration,
};
use tally_core::{access::roles::Action, ground::time::Instant};
use zip::{CompressionMethod, ZipArchive, ZipWriter, write::SimpleFileOptions};

/// What an archive says of itself.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Manifest {
    /// The form of the archive.
    pub format: u32,
    pub made_at: Instant,
    /// The version of the schema.
    pub schema: usize,
    /// The number of the last change that is in it.
    pub change: i64,
    /// Bytes of the database and their SHA-256, in hexadecimal digits.
    pub bytes: u64,
    pub sha256: String,
    /// Files beside the database that are in it, and how many were lost before it was made.
    #[serde(default)]
    pub files: usize,
    #[serde(default)]
    pub lost: usize,
}

/// Since 2 with the files beside the database.
const FORMAT: u32 = 2;
const DATABASE: &str = "fair-tally.db";
const MANIFEST: &str = "manifest.json";

fn no_backup(path: &Path, reason: impl ToString) -> StoreError {
    StoreError::invalid(path.display().to_string(), reason)
}

/// Copies all bytes, and says how many there were, with their checksum.
fn copy(from: &mut impl Read, to: &mut impl Write, mut pace: Pace) -> io::Result<(u64, String)> {
    let (mut digest, mut bytes, mut piece) = (Sha256::new(), 0, vec![0; 1 << 20]);
    loop {
        let read = from.read(&mut piece)?;
        if read == 0 {
            return Ok((bytes, hex::encode(digest.finalize())));
        }
        digest.update(&piece[..read]);
        to.write_all(&piece[..read])?;
        bytes += read as u64;
        pace.rest();
    }
}

fn only_looking(database: &Path) -> Result<Connection> {
    Ok(Connection::open_with_flags(database, OpenFlags::SQLITE_OPEN_READ_ONLY | OpenFlags::SQLITE_OPEN_NO_MUTEX)?)
}

/// Writes a backup of a database to a file, which is there in whole or not at all. The copy is looked through before it counts.
/// It takes half of the machine at the most: others wait for answers.
///
/// # Errors
/// [`StoreError::Conflict`] for a file that is there already, [`StoreError::Folder`] and [`StoreError::Full`] when it can't be
/// written, [`StoreError::Corrupt`] for a database that is not sound, SQLite's own.
pub fn make(database: &Path, to: &Path, now: Instant) -> Result<Manifest> {
    make_at(Pace::with_rests(), database, to, now)
}

fn make_at(pace: Pace, database: &Path, to: &Path, now: Instant) -> Result<Manifest> {
    if to.exists() {
        return Err(StoreError::Conflict(format!("{} is there already: choose another name", to.display())));
    }
    let folder = to.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    make_private(folder)?;
    clear_torn(folder);
    let beside = tempfile::Builder::new().prefix(TORN).tempdir_in(folder).map_err(failed(folder))?;
    let copied = beside.path().join(DATABASE);
    drop(private_file(&copied)?);
    let from = pool::reader(database)?;
    from.pragma_update(None, "query_only", false)?;
    // It goes when the archive is there.
    from.pragma_update(None, "synchronous", "OFF")?;
    pace.keep(&from)?;
    written_through(&copied, || from.execute("VACUUM INTO ?1", [copied.display().to_string()]))?;
    drop(from);
    let conn = Connection::open(&copied)?;
    unmark(&conn)?;
    pace.keep(&conn)?;
    let broken = super::check::sound(&conn, true)?;
    if let Some(first) = broken.first() {
        return Err(StoreError::corrupt("the database", first));
    }
    let (schema, change) = (migrations::version(&conn)?, crate::facts::newest_change(&conn)?);
    let named = files_named(&conn)?;
    drop(conn);
    let part = beside.path().join("archive");
    let mut archive = ZipWriter::new(private_file(&part)?);
    let torn = |error: zip::result::ZipError| failed(to)(error.into());
    // The least work that still makes it much smaller.
    let options = SimpleFileOptions::default().large_file(true).compression_method(CompressionMethod::Deflated);
    archive.start_file(DATABASE, options.compression_level(Some(1))).map_err(torn)?;
    let mut source = File::open(&copied).map_err(failed(&copied))?;
    let (bytes, sha256) = written_through(&part, || copy(&mut source, &mut archive, pace)).map_err(failed(to))?;
    drop(source);
    take_away(&copied, pace).map_err(failed(&copied))?;
    let stored = SimpleFileOptions::default().compression_method(CompressionMethod::Stored);
    let (beside, mut files, mut lost) = (Files::beside(database), 0, 0);
    // Photos can't be made smaller: they come as they are. What is lost is told, and holds up nothing.
    let mut put = |name: &str| -> Result<bool> {
        let Ok(whole) = beside.get(name, Size::Whole) else { return Ok(false) };
        for (bytes, end) in [(Some(whole), ""), (beside.get(name, Size::Small).ok(), files::SMALL)] {
            let Some(bytes) = bytes else { continue };
            archive.start_file(format!("{}/{name}{end}", files::FOLDER), stored).map_err(torn)?;
            archive.write_all(&bytes).map_err(failed(to))?;
        }
        Ok(true)
    };
    written_through(&part, || {
        for name in named {
            *(if put(&name)? { &mut files } else { &mut lost }) += 1;
        }
        Ok::<(), StoreError>(())
    })?;
    let manifest = Manifest { format: FORMAT, made_at: now, schema, change, bytes, sha256, files, lost };
    archive.start_file(MANIFEST, options).map_err(torn)?;
    serde_json::to_writer_pretty(&mut archive, &manifest).map_err(|error| failed(to)(error.into()))?;
    archive.finish().map_err(torn)?.sync_all().map_err(failed(to))?;
    std::fs::rename(&part, to).map_err(failed(to))?;
    File::open(folder).and_then(|folder| folder.sync_all()).map_err(failed(folder))?;
    Ok(manifest)
}

/// Names of the files that rows of a database name. One of an older version has none.
fn files_named(conn: &Connection) -> Result<Vec<String>> {
    if !migrations::has_table(conn, "files")? {
        return Ok(Vec::new());
    }
    let mut select = conn.prepare("SELECT name FROM files ORDER BY id")?;
    let names = select.query_map([], |row| row.get(0))?;
    Ok(names.collect::<rusqlite::Result<_>>()?)
}

/// Puts the files of an archive into a folder, each under the checksum of what it holds.
fn put_files(file: &Path, archive: &mut ZipArchive<impl Read + Seek>, folder: &Path) -> Result<()> {
    let beside = Files::beside(&folder.join(DATABASE));
    let names: Vec<String> = archive.file_names().map(str::to_owned).collect();
    let begin = format!("{}/", files::FOLDER);
    for entry in names.iter().filter(|name| name.starts_with(&begin)) {
        let name = &entry[begin.len()..];
        let (name, size) = name.strip_suffix(files::SMALL).map_or((name, Size::Whole), |name| (name, Size::Small));
        let is_name = name.len() == 64 && name.bytes().all(|byte| byte.is_ascii_hexdigit());
        let torn = |reason: &str| no_backup(file, format!("was changed or is torn: {entry} {reason}"));
        if !is_name {
            return Err(torn("is no file of ours"));
        }
        let mut bytes = Vec::new();
        let read = archive.by_name(entry).map_err(|error| torn(&error.to_string()))?;
        read.take(LARGEST_FILE).read_to_end(&mut bytes).map_err(|error| torn(&error.to_string()))?;
        if size == Size::Whole && Files::name(&bytes) != name {
            return Err(torn("holds something else"));
        }
        files::write(&beside.path(name, size), &bytes)?;
    }
    Ok(())
}

/// No file beside the database is larger, in bytes.
const LARGEST_FILE: u64 = 64 << 20;

/// How folders begin in which a backup is being made.
const TORN: &str = "backup-";

/// After so long nobody is making one in there any more.
const TORN_AFTER: Duration = Duration::from_secs(24 * 3_600);

/// Takes away what backups left behind that were killed: as much as the database, each. What can't be taken away stays.
fn clear_torn(folder: &Path) {
    let entries = std::fs::read_dir(folder).into_iter().flatten().flatten();
    for entry in entries.filter(|entry| entry.file_name().to_string_lossy().starts_with(TORN)) {
        let changed = entry.metadata().and_then(|entry| entry.modified()).ok();
        if changed.and_then(|changed| changed.elapsed().ok()).is_some_and(|age| age > TORN_AFTER) {
            std::fs::remove_dir_all(entry.path()).ok();
        }
    }
}

/// What an archive says of itself; its contents are not looked at.
///
/// # Errors
/// [`StoreError::Invalid`] for a file that is no backup, or one of a newer version; [`StoreError::Folder`].
pub fn manifest(file: &Path) -> Result<Manifest> {
    told(file, &mut open(file)?)
}

fn open(file: &Path) -> Result<ZipArchive<BufReader<File>>> {
    let opened = File::open(file).map_err(failed(file))?;
    ZipArchive::new(BufReader::new(opened)).map_err(|error| no_backup(file, format!("is no backup: {error}")))
}

fn told(file: &Path, archive: &mut ZipArchive<impl Read + Seek>) -> Result<Manifest> {
    let entry = archive.by_name(MANIFEST).map_err(|error| no_backup(file, format!("is no backup: {error}")))?;
    // A manifest is a few lines.
    let read: Result<Manifest, _> = serde_json::from_reader(entry.take(1 << 16));
    let manifest = read.map_err(|error| no_backup(file, format!("its manifest can't be read: {error}")))?;
    if manifest.format > FORMAT || manifest.schema > migrations::latest() {
        return Err(StoreError::Newer);
    }
    Ok(manifest)
}

/// Puts a backup into a folder that holds no data, and looks it through. Nothing is left behind when it is not whole.
///
/// # Errors
/// [`StoreError::Conflict`] for a folder that holds something, [`StoreError::Invalid`] for a file that is no backup or was
/// changed, [`StoreError::Newer`], [`StoreError::Folder`] and [`StoreError::Full`].
pub fn restore(file: &Path, folder: &Path) -> Result<Manifest> {
    let mut archive = open(file)?;
    let manifest = told(file, &mut archive)?;
    let holds = |folder: &Path| std::fs::read_dir(folder).is_ok_and(|mut entries| entries.next().is_some());
    if holds(folder) {
        let reason = format!("{} is not empty: a backup goes into a folder of its own", folder.display());
        return Err(StoreError::Conflict(reason));
    }
    make_private(folder)?;
    let put = tempfile::Builder::new().prefix("restore-").tempdir_in(folder).map_err(failed(folder))?;
    let part = put.path().join(DATABASE);
    let mut to = private_file(&part)?;
    let mut entry = archive.by_name(DATABASE).map_err(|error| no_backup(file, format!("has no database: {error}")))?;
    // Not a byte more than it says it has.
    let copied = copy(&mut (&mut entry).take(manifest.bytes + 1), &mut to, Pace::AtOnce);
    let (bytes, sha256) = copied.map_err(|error| match error.kind() {
        io::ErrorKind::InvalidData | io::ErrorKind::InvalidInput | io::ErrorKind::UnexpectedEof => {
            no_backup(file, format!("was changed or is torn: {error}"))
        }
        _ => failed(&part)(error),
    })?;
    if (bytes, &sha256) != (manifest.bytes, &manifest.sha256) {
        return Err(no_backup(file, "was changed or is torn: its checksum is another"));
    }
    to.sync_all().map_err(failed(&part))?;
    let broken = super::check::sound(&only_looking(&part)?, false)?;
    if let Some(first) = broken.first() {
        return Err(StoreError::corrupt("the backup", first));
    }
    sign_all_out(&part)?;
    to.sync_all().map_err(failed(&part))?;
    drop((to, entry));
    put_files(file, &mut archive, put.path())?;
    let (put_there, kept) = (put.path().join(files::FOLDER), folder.join(files::FOLDER));
    if put_there.exists() {
        std::fs::rename(put_there, &kept).map_err(failed(&kept))?;
    }
    let database = folder.join(DATABASE);
    std::fs::rename(&part, &database).map_err(failed(&database))?;
    drop(put);
    File::open(folder).and_then(|folder| folder.sync_all()).map_err(failed(folder))?;
    Ok(manifest)
}

/// Ends the sessions and the codes that were open when a backup was made: what was ended since must not come back with it. One
/// of an older version has none.
fn sign_all_out(database: &Path) -> Result<()> {
    let conn = Connection::open(database)?;
    if migrations::has_table(&conn, "sessions")? {
        conn.execute_batch("DELETE FROM sessions; DELETE FROM reset_codes;")?;
    }
    Ok(())
}

/// Why a backup was made.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum BackupFor {
    /// By the clock.
    Night,
    /// By hand.
    Hand,
    /// Before a newer version took the data over.
    Upgrade,
}

impl BackupFor {
    const ALL: [Self; 3] = [Self::Night, Self::Hand, Self::Upgrade];

    /// The first word of its file's name.
    fn word(self) -> &'static str {
        match self {
            Self::Night => "night",
            Self::Hand => "hand",
            Self::Upgrade => "upgrade",
        }
    }

    /// The name of its file, by when it is made.
    #[must_use]
    pub fn name(self, at: Instant) -> String {
        let at: String = at.to_string().chars().filter(|one| *one != ':').collect();
        format!("{}-{at}.zip", self.word())
    }
}

/// A backup in the folder of backups.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Backup {
    pub name: String,
    pub made_for: BackupFor,
    pub made_at: Instant,
    /// How large its file is.
    pub bytes: u64,
}

/// The backups of a folder, the newest first. What is none is passed over.
///
/// # Errors
/// [`StoreError::Folder`].
pub fn list(folder: &Path) -> Result<Vec<Backup>> {
    if !folder.exists() {
        return Ok(Vec::new());
    }
    let mut found = Vec::new();
    for entry in std::fs::read_dir(folder).map_err(failed(folder))? {
        let entry = entry.map_err(failed(folder))?;
        let name = entry.file_name().to_string_lossy().into_owned();
        let made_for = BackupFor::ALL.into_iter().find(|one| name.starts_with(&format!("{}-", one.word())));
        let (Some(made_for), true) = (made_for, name.ends_with(".zip")) else { continue };
        let Ok(Manifest { made_at, .. }) = manifest(&entry.path()) else { continue };
        let bytes = entry.metadata().map_err(failed(folder))?.len();
        found.push(Backup { name, made_for, made_at, bytes });
    }
    found.sort_by(|a, b| (b.made_at, &b.name).cmp(&(a.made_at, &a.name)));
    Ok(found)
}

/// Since when there is something to keep.
///
/// # Errors
/// SQLite's own.
pub fn began(rows: &dyn Rows) -> Result<Option<Instant>> {
    let mut first = rows.sql().conn.prepare_cached("SELECT at FROM audit ORDER BY id LIMIT 1")?;
    Ok(first.query_row([], |row| row.get(0)).optional()?)
}

/// Notes that somebody asks for one.
///
/// # Errors
/// [`StoreError::MayNot`].
pub fn ask(tx: &mut Tx, name: &str) -> Result<()> {
    tx.require(Action::BackUp)?;
    tx.audit("asked for", "backup", name, &())
}

/// Before a newer version changes an older database: a backup of it, beside it.
pub(crate) fn before_upgrade(folder: &Folder, conn: &Connection, now: Instant) -> Result<Option<PathBuf>> {
    let version = migrations::version(conn)?;
    if !folder.is_ours() || version == 0 || version >= migrations::latest() {
        return Ok(None);
    }
    let beside = folder.database().parent().unwrap_or(Path::new(".")).join(FOLDER);
    let to = beside.join(BackupFor::Upgrade.name(now));
    if !to.exists() {
        make_at(Pace::AtOnce, folder.database(), &to, now)?;
    }
    Ok(Some(to))
}

/// Where backups go without another place being named: a folder in that of the data.
pub const FOLDER: &str = "backups";

//! What happened as columns, in a file beside the database: a start reads it, and of the database what else there is and what changed
//! since.
//!
//! It holds pieces, one for each part; their [`Index`]; and where that stands. The database knows by a word which file was written
//! of it last. One that has another word, was written by another program or is torn counts for nothing: then all is read from the
//! database, which is what holds. A database that was put back, or copied, knows a word only if it has all that the file has.

use crate::ground::{
    error::{Result, failed},
    folder::private_file,
};
use rayon::prelude::*;
use rusqlite::{Connection, OptionalExtension};
use serde::{Deserialize, Serialize};
use std::{
    fs::File,
    io::{self, BufWriter, Read, Seek, SeekFrom, Write},
    path::{Path, PathBuf},
    time::UNIX_EPOCH,
};
use tally_core::{
    facts::{
        Entered, Happened, Snapshot,
        columns::{Columns, Part},
    },
    plant::assets::Tree,
};

/// Bytes with their place in the file and their sum.
#[derive(Debug, Clone, Copy, Serialize, Deserialize)]
struct Piece {
    at: u64,
    len: u32,
    sum: u32,
}

/// Parts of one kind of row.
#[derive(Debug, Serialize, Deserialize)]
struct Kind {
    last_id: i64,
    parts: Vec<Piece>,
}

/// What the file says of itself.
#[derive(Debug, Serialize, Deserialize)]
struct Index {
    program: String,
    word: String,
    change: i64,
    /// Ids of assets and names of departments by the numbers that rows call them by.
    assets: Vec<i64>,
    departments: Vec<String>,
    /// In the order in which they are written and read.
    kinds: Vec<Kind>,
}

/// Bytes of a [`Piece`] at the end of the file: where the index stands.
const END: usize = 16;

/// The file of a database.
fn beside(database: &Path) -> PathBuf {
    database.with_extension("columns")
}

/// Which program writes and reads: another one may understand the same bytes, or the same rows of the database, otherwise.
fn program() -> io::Result<String> {
    let file = std::env::current_exe()?.metadata()?;
    let since = file.modified()?.duration_since(UNIX_EPOCH).map_err(io::Error::other)?;
    Ok(format!("{} {} {}", env!("CARGO_PKG_VERSION"), file.len(), since.as_nanos()))
}

fn ids(tree: &Tree) -> Vec<i64> {
    (0..tree.len()).map(|index| tree.node(index).id.0).collect()
}

fn torn() -> io::Error {
    io::ErrorKind::InvalidData.into()
}

fn bytes_of(value: &impl Serialize) -> io::Result<Vec<u8>> {
    postcard::to_stdvec(value).map_err(io::Error::other)
}

fn value_of<'a, T: Deserialize<'a>>(bytes: &'a [u8]) -> io::Result<T> {
    postcard::from_bytes(bytes).map_err(io::Error::other)
}

fn piece(file: &mut File, Piece { at, len, sum }: Piece) -> io::Result<Vec<u8>> {
    let mut bytes = vec![0; len as usize];
    file.seek(SeekFrom::Start(at))?;
    file.read_exact(&mut bytes)?;
    if crc32fast::hash(&bytes) == sum { Ok(bytes) } else { Err(torn()) }
}

/// The index of a file, where it can be read.
fn index(path: &Path) -> io::Result<Index> {
    let mut file = File::open(path)?;
    let mut end = [0; END];
    file.seek(SeekFrom::End(-(END as i64)))?;
    file.read_exact(&mut end)?;
    let number = |from: usize| u32::from_le_bytes([0, 1, 2, 3].map(|byte| end[from + byte]));
    let at = u64::from(number(0)) | u64::from(number(4)) << 32;
    let place = Piece { at, len: number(8), sum: number(12) };
    if u64::from(place.len) > file.metadata()?.len() {
        return Err(torn());
    }
    value_of(&piece(&mut file, place)?)
}

struct Writing {
    out: BufWriter<File>,
    at: u64,
    kinds: Vec<Kind>,
}

impl Writing {
    fn piece(&mut self, bytes: &[u8]) -> io::Result<Piece> {
        let len = u32::try_from(bytes.len()).map_err(io::Error::other)?;
        let piece = Piece { at: self.at, len, sum: crc32fast::hash(bytes) };
        self.out.write_all(bytes)?;
        self.at += u64::from(len);
        Ok(piece)
    }

    fn kind<P: Part>(&mut self, columns: &Columns<P>) -> io::Result<()> {
        let parts = columns.parts().map(|part| self.piece(&bytes_of(part)?)).collect::<io::Result<_>>()?;
        self.kinds.push(Kind { last_id: columns.last_id(), parts });
        Ok(())
    }

    fn end(mut self, facts: &Snapshot, word: &str) -> io::Result<()> {
        let index = Index {
            program: program()?,
            word: word.into(),
            change: facts.change,
            assets: ids(&facts.tree),
            departments: facts.names.departments.clone(),
            kinds: std::mem::take(&mut self.kinds),
        };
        let Piece { at, len, sum } = self.piece(&bytes_of(&index)?)?;
        self.out.write_all(&at.to_le_bytes())?;
        self.out.write_all(&len.to_le_bytes())?;
        self.out.write_all(&sum.to_le_bytes())?;
        self.out.flush()
    }
}

fn written(facts: &Snapshot, word: &str, file: File) -> io::Result<()> {
    let mut to = Writing { out: BufWriter::new(file), at: 0, kinds: Vec::new() };
    to.kind(&facts.entries)?;
    to.kind(&facts.spent)?;
    to.kind(&facts.downtimes)?;
    to.kind(&facts.failures)?;
    to.kind(&facts.works)?;
    to.kind(&facts.moves)?;
    to.kind(&facts.fields)?;
    to.kind(&facts.steps)?;
    to.kind(&facts.alarms)?;
    to.kind(&facts.cycles)?;
    to.end(facts, word)
}

struct Reading<'a> {
    path: &'a Path,
    kinds: std::slice::Iter<'a, Kind>,
}

impl Reading<'_> {
    fn kind<P: Part>(&mut self) -> io::Result<Columns<P>> {
        let kind = self.kinds.next().ok_or_else(torn)?;
        let open = || File::open(self.path);
        let parts = kind.parts.par_iter().map_init(open, |file, place| {
            let file = file.as_mut().map_err(|error| io::Error::from(error.kind()))?;
            let part: P = value_of(&piece(file, *place)?)?;
            if part.is_empty() { Err(torn()) } else { Ok(part) }
        });
        Ok(Columns::of_parts(parts.collect::<io::Result<_>>()?, kind.last_id))
    }
}

/// The file of a database.
#[derive(Debug)]
pub(crate) struct ColumnFile {
    path: PathBuf,
    index: Index,
}

impl ColumnFile {
    /// That of a database, where it counts.
    ///
    /// # Errors
    /// SQLite's own.
    pub(crate) fn of(conn: &Connection, database: &Path) -> Result<Option<Self>> {
        let mut select = conn.prepare_cached("SELECT word, change FROM column_file")?;
        let known: Option<(String, i64)> = select.query_row([], |row| Ok((row.get(0)?, row.get(1)?))).optional()?;
        let Some((word, change)) = known else { return Ok(None) };
        let path = beside(database);
        let (Ok(index), Ok(program)) = (index(&path), program()) else { return Ok(None) };
        let counts = index.word == word && index.change == change && index.program == program;
        Ok(counts.then_some(Self { path, index }))
    }

    /// The change that it is true for.
    pub(crate) fn change(&self) -> i64 {
        self.index.change
    }

    /// Whether it calls assets by the numbers that they have in a tree; there may be more of them by now.
    pub(super) fn has_numbers_of(&self, tree: &Tree) -> bool {
        ids(tree).starts_with(&self.index.assets)
    }

    /// Names of departments, by the numbers that it calls them by.
    pub(super) fn departments(&self) -> &[String] {
        &self.index.departments
    }

    /// What happened up to its change; none where it is torn.
    pub(super) fn happened(&self) -> Option<Happened> {
        let read = || {
            let mut from = Reading { path: &self.path, kinds: self.index.kinds.iter() };
            Ok::<_, io::Error>(Happened {
                entered: Entered::kept(from.kind()?, from.kind()?),
                downtimes: from.kind()?,
                failures: from.kind()?,
                works: from.kind()?,
                moves: from.kind()?,
                fields: from.kind()?,
                steps: from.kind()?,
                alarms: from.kind()?,
                cycles: from.kind()?,
            })
        };
        read().ok()
    }
}

/// Fewer entries and moves than that are read at once anyway.
const MANY: usize = 500_000;

/// So many changes are read from the database at start in some tenths of a second.
const FEW_CHANGES: i64 = 20_000;

/// Whether a start is much quicker for a new file than for the one there is.
pub(crate) fn is_worth_a_file(facts: &Snapshot, file: Option<&ColumnFile>) -> bool {
    let are_many = facts.entries.len() + facts.moves.len() >= MANY;
    are_many && file.is_none_or(|file| facts.change - file.change() > FEW_CHANGES)
}

/// A file that was written and does not count yet.
#[derive(Debug)]
pub(crate) struct Written {
    beside: PathBuf,
    path: PathBuf,
    word: String,
    change: i64,
}

impl Written {
    /// Writes facts beside the file that their database has.
    ///
    /// # Errors
    /// [`StoreError::Folder`] and [`StoreError::Full`] when it can't be written; nothing of it is left then.
    pub(crate) fn of(facts: &Snapshot, conn: &Connection, database: &Path) -> Result<Self> {
        let path = beside(database);
        let beside = path.with_extension("columns-new");
        let word: String = conn.query_row("SELECT lower(hex(randomblob(16)))", [], |row| row.get(0))?;
        written(facts, &word, private_file(&beside)?).map_err(|error| {
            std::fs::remove_file(&beside).ok();
            failed(&beside)(error)
        })?;
        Ok(Self { beside, path, word, change: facts.change })
    }

    /// From now on it is the file of its database: of one that ends in between, none is.
    ///
    /// # Errors
    /// SQLite's own, and [`StoreError::Folder`].
    pub(crate) fn count(self, writer: &Connection) -> Result<()> {
        let Self { beside, path, word, change } = self;
        let note = "INSERT INTO column_file (one, word, change) VALUES (1, ?1, ?2)
            ON CONFLICT (one) DO UPDATE SET word = excluded.word, change = excluded.change";
        writer.execute(note, (word, change))?;
        std::fs::rename(&beside, &path).map_err(failed(&path))
    }
}

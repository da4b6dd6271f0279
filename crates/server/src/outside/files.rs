//! Files in and out: which kinds there are, and what becomes of a file's bytes. Used by the routes and the command line.

use crate::{
    Clock,
    duties::BREATH,
    outside::{
        format::{FileRead, Format},
        incoming,
        readings_file::{ReadingsTaken, ReadingsTaking},
        source,
        workbook::WorkbookOut,
    },
};
use clap::ValueEnum;
use jiff::tz::TimeZone;
use serde::{Deserialize, Serialize};
use std::{
    fs::File,
    io::{BufWriter, Seek, SeekFrom, Write},
};
use tally_core::{
    ground::{
        ids::AssetId,
        time::{Instant, Span},
    },
    outside::files::{CsvOut, Decimal, JsonOut, NUMBERS, RowSink, Table},
};
use tally_store::{
    Actor, Store, StoreError, View,
    codes::codebooks,
    plant::{
        master,
        master::{Given, GivenRow, InPieces, MasterReceipt, Query, Watch},
        settings,
    },
    watch::{limits, readings},
    work,
};
use utoipa::ToSchema;

/// What a file holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema, ValueEnum)]
#[serde(rename_all = "kebab-case")]
pub enum FileKind {
    EquipmentClasses,
    Crews,
    UpkeepPlans,
    Storeroom,
    People,
    Assets,
    Meters,
    Codebooks,
    Limits,
    Readings,
    WorkOrders,
    WorkEntries,
}

impl FileKind {
    /// As files of it are called.
    fn name(self) -> &'static str {
        match self {
            Self::EquipmentClasses => "equipment-classes",
            Self::Crews => "crews",
            Self::UpkeepPlans => "upkeep-plans",
            Self::Storeroom => "storeroom",
            Self::People => "people",
            Self::Assets => "assets",
            Self::Meters => "meters",
            Self::Codebooks => "codebooks",
            Self::Limits => "limits",
            Self::Readings => "readings",
            Self::WorkOrders => "work-orders",
            Self::WorkEntries => "work-entries",
        }
    }

    /// The table of master data it fills, if it is one.
    fn master(self) -> Option<master::Kind> {
        match self {
            Self::EquipmentClasses => Some(master::Kind::EquipmentClasses),
            Self::Crews => Some(master::Kind::Crews),
            Self::UpkeepPlans => Some(master::Kind::UpkeepPlans),
            Self::Storeroom => Some(master::Kind::Storeroom),
            Self::People => Some(master::Kind::People),
            Self::Assets => Some(master::Kind::Assets),
            Self::Meters => Some(master::Kind::Meters),
            Self::Codebooks | Self::Limits | Self::Readings | Self::WorkOrders | Self::WorkEntries => None,
        }
    }
}

/// How far an import is, in rows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
pub struct Progress {
    pub done: usize,
    /// 0 before it is known.
    pub all: usize,
}

/// What became, or would become, of a file.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct ImportReceipt {
    #[serde(flatten)]
    pub receipt: MasterReceipt,
    /// For CSV.
    pub file: Option<FileRead>,
    /// For readings.
    pub readings: Option<ReadingsTaken>,
    /// How far it was when it was cancelled. What was taken is kept; sent again, the file goes on from there.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub stopped: Option<Progress>,
}

/// How to take a file.
#[derive(Debug, Clone)]
pub struct Import {
    pub kind: FileKind,
    pub format: Format,
    /// Of times without an offset.
    pub zone: Option<TimeZone>,
    /// The file's name.
    pub name: Option<String>,
}

/// A file taken apart, before anything is locked.
#[derive(Debug)]
pub struct Parsed {
    /// For CSV.
    file: Option<FileRead>,
    rows: ParsedRows,
}

#[derive(Debug)]
enum ParsedRows {
    Readings(incoming::Rows),
    Table { columns: Vec<String>, rows: Vec<GivenRow>, decimal: Decimal },
}

/// Rows above which a trial is run on a copy of the data, so that nobody waits for it.
const TRIED_ASIDE: usize = 2_000;

impl Parsed {
    /// Takes a file apart.
    ///
    /// # Errors
    /// [`StoreError::Invalid`] for a file that can't be read at all.
    pub fn of(import: &Import, bytes: &[u8]) -> Result<Self, StoreError> {
        if import.kind == FileKind::Readings {
            let file = match import.format {
                Format::Csv => Table::open(bytes).ok().map(|table| FileRead::of(&table)),
                _ => None,
            };
            let rows = incoming::parse(import.format, bytes, import.zone.as_ref(), master::MOST_REFUSED)?;
            return Ok(Self { file, rows: ParsedRows::Readings(rows) });
        }
        source::read(import.format, bytes, |source| {
            let rows = source.lines.map(|(line, cells)| GivenRow { line, cells, was: vec![] }).collect();
            let (columns, decimal) = (source.columns.to_vec(), source.decimal);
            Ok(Self { file: source.file, rows: ParsedRows::Table { columns, rows, decimal } })
        })
    }

    fn len(&self) -> usize {
        match &self.rows {
            ParsedRows::Readings(found) => found.rows.len(),
            ParsedRows::Table { rows, .. } => rows.len(),
        }
    }
}

/// On whose behalf a file is taken, and by which clock.
#[derive(Debug)]
pub struct Doing<'a> {
    pub actor: Actor,
    pub clock: &'a Clock,
}

/// Takes a file: what is good of it, with what became of every line; or says what would become of it.
///
/// It is taken in pieces, assets from the root down and readings from the oldest on, each kept when it is done, so that
/// others write in between; where it is cancelled, what was taken until then stays, and the file can be sent again. A trial
/// of many rows is run on a copy.
///
/// # Errors
/// What the rows' own functions answer; [`StoreError::Cancelled`] when `watch` says so before anything is kept.
pub fn import(
    store: &Store,
    doing: &Doing,
    import: &Import,
    parsed: Parsed,
    trial: bool,
    watch: &mut Watch,
) -> Result<ImportReceipt, StoreError> {
    if trial && parsed.len() > TRIED_ASIDE {
        let aside = store.copy(doing.clock.now())?;
        return take(&aside.store, doing, import, parsed, false, watch);
    }
    take(store, doing, import, parsed, trial, watch)
}

fn take(
    store: &Store,
    doing: &Doing,
    import: &Import,
    parsed: Parsed,
    trial: bool,
    watch: &mut Watch,
) -> Result<ImportReceipt, StoreError> {
    let file = parsed.file;
    let source = || import.name.as_deref().map_or_else(|| "a file".to_owned(), |name| format!("file {name}"));
    let mut run = Run { store, doing, trial, watch };
    let (stopped, receipt) = match (parsed.rows, import.kind.master()) {
        (ParsedRows::Readings(found), _) => {
            let mut taking = ReadingsTaking::of(found, import.name.as_deref());
            let stopped = run.pieces(&mut taking)?;
            let readings = Some(taking.set_off());
            return Ok(ImportReceipt { receipt: taking.receipt(), file, readings, stopped });
        }
        (ParsedRows::Table { columns, rows, decimal }, Some(kind)) => {
            let (zone, source) = (import.zone.as_ref(), &*source());
            let given = Given { columns: &columns, rows, decimal, zone, source };
            run.receipt(store.read(doing.clock.now(), |view| master::Taking::of(view, kind, given))?)?
        }
        (ParsedRows::Table { columns, rows, decimal }, None) if import.kind == FileKind::Limits => {
            run.receipt(limits::file::Taking::of(&columns, rows, decimal, &source())?)?
        }
        (ParsedRows::Table { columns, rows, decimal }, None) if is_of_work(import.kind) => {
            let digits = store.read(doing.clock.now(), |view| settings::get(view))?.minor_digits;
            let given = Given { columns: &columns, rows, decimal, zone: import.zone.as_ref(), source: &source() };
            match import.kind {
                FileKind::WorkEntries => run.receipt(work::file::entries::Taking::of(given, digits)?)?,
                _ => run.receipt(work::file::orders::Taking::of(given, digits)?)?,
            }
        }
        (ParsedRows::Table { columns, rows, .. }, None) => run.receipt(codebooks::file::Taking::of(&columns, rows)?)?,
    };
    Ok(ImportReceipt { receipt, file, readings: None, stopped })
}

/// Whether a file is of orders, or of what was spent on them.
fn is_of_work(kind: FileKind) -> bool {
    matches!(kind, FileKind::WorkOrders | FileKind::WorkEntries)
}

/// Takes pieces.
struct Run<'a, 'w> {
    store: &'a Store,
    doing: &'a Doing<'a>,
    trial: bool,
    watch: &'a mut Watch<'w>,
}

impl Run<'_, '_> {
    /// Answers how far it was when it was cancelled.
    fn pieces(&mut self, taking: &mut impl InPieces) -> Result<Option<Progress>, StoreError> {
        let acting = || (self.doing.actor.clone(), self.doing.clock.now());
        if self.trial {
            let (actor, now) = acting();
            self.store.trial(actor, now, |tx| master::whole(tx, taking, self.watch))?;
            return Ok(None);
        }
        loop {
            let progress = Progress { done: taking.done(), all: taking.all() };
            if !(self.watch)(progress.done, progress.all) {
                return if progress.done == 0 { Err(StoreError::Cancelled) } else { Ok(Some(progress)) };
            }
            if progress.done == progress.all {
                return Ok(None);
            }
            let (actor, now) = acting();
            self.store.write(actor, now, |tx| taking.piece(tx))?;
            // Who waits for the writer gets at it before the next piece.
            std::thread::sleep(BREATH);
        }
    }

    fn receipt(&mut self, mut taking: impl InPieces) -> Result<(Option<Progress>, MasterReceipt), StoreError> {
        let stopped = self.pieces(&mut taking)?;
        Ok((stopped, taking.receipt()))
    }
}

/// Which rows to write out.
#[derive(Debug, Clone, Default)]
pub struct Export {
    /// Ids of assets; all without it.
    pub scope: Option<Vec<AssetId>>,
    /// Of readings; all without it.
    pub span: Option<Span>,
}

/// Writes all rows of a kind. Answers the codes of meters of which something can't be read; all else is written.
///
/// # Errors
/// SQLite's own, and the sink's.
pub fn export(view: &View, kind: FileKind, which: &Export, to: &mut dyn RowSink) -> Result<Vec<String>, StoreError> {
    match kind.master() {
        Some(kind) => {
            let query = Query { scope: which.scope.clone(), all: true, ..Query::default() };
            master::export(view, kind, &query, to)?;
        }
        None if kind == FileKind::Codebooks => codebooks::file::export(view, to)?,
        None if kind == FileKind::Limits => limits::file::export(view, to)?,
        None if kind == FileKind::WorkOrders => work::file::export_orders(view, which.scope.as_deref(), to)?,
        None if kind == FileKind::WorkEntries => {
            work::file::entries::export(view, which.scope.as_deref(), settings::get(view)?.minor_digits, to)?;
        }
        None => {
            to.row(&["meter", "at", NUMBERS])?;
            let line = |meter: &str, at: Instant, value: &str| Ok(to.row(&[meter, &at.to_string(), value])?);
            return readings::each(view, which.scope.as_deref(), which.span.unwrap_or(Span::ALWAYS), line);
        }
    }
    Ok(Vec::new())
}

/// What was written out.
#[derive(Debug)]
pub struct Exported {
    /// From its beginning.
    pub file: File,
    /// Codes of meters of which something can't be read.
    pub unreadable: Vec<String>,
}

/// Writes all rows of a kind into a file without a name, so that no look stays open as long as a client takes to read it.
///
/// # Errors
/// As [`export`]; [`StoreError::Invalid`] for more rows than the form has room for.
pub fn export_aside(view: &View, kind: FileKind, which: &Export, form: Format) -> Result<Exported, StoreError> {
    let (file, unreadable) = write_aside(form, kind.name(), |sink| export(view, kind, which, sink))?;
    Ok(Exported { file, unreadable })
}

/// Writes rows into a file without a name, which is answered from its beginning.
///
/// # Errors
/// What `write` answers, and the file's.
pub fn write_aside<T>(
    form: Format,
    sheet: &str,
    write: impl FnOnce(&mut dyn RowSink) -> Result<T, StoreError>,
) -> Result<(File, T), StoreError> {
    let failed = |error: std::io::Error| StoreError::File(error.to_string());
    let mut file = tempfile::tempfile().map_err(failed)?;
    let mut to = BufWriter::new(&file);
    let told = match form {
        Format::Csv => {
            let mut sink = CsvOut::new(&mut to);
            let told = write(&mut sink)?;
            sink.flush().map_err(failed)?;
            told
        }
        Format::Json | Format::NdJson => {
            let mut sink = JsonOut::new(&mut to, form == Format::NdJson);
            let told = write(&mut sink)?;
            sink.finish().map_err(failed)?;
            told
        }
        Format::Xlsx => {
            let mut sink = WorkbookOut::new(sheet)?;
            let told = write(&mut sink)?;
            sink.save(file.try_clone().map_err(failed)?)?;
            told
        }
    };
    to.flush().map_err(failed)?;
    drop(to);
    file.seek(SeekFrom::Start(0)).map_err(failed)?;
    Ok((file, told))
}

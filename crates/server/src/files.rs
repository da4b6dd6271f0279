//! Files in and out: which kinds there are, and what becomes of a file's bytes. Used by the routes and the command line.

use crate::incoming::{self, Format};
use clap::ValueEnum;
use jiff::tz::TimeZone;
use serde::{Deserialize, Serialize};
use std::io::Write;
use tally_core::{
    files::{Encoding, Table},
    ids::WorkOrderId,
    readings::Source,
    time::Span,
};
use tally_store::{
    Act, Connection, StoreError, codebooks, limits,
    master::{self, FieldReason, Given, GivenRow, MasterReceipt, Outcome, Query, RowReport, Watch},
    readings::{self, Batch},
};
use utoipa::ToSchema;

/// What a file holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema, ValueEnum)]
#[serde(rename_all = "kebab-case")]
pub enum FileKind {
    EquipmentClasses,
    Crews,
    People,
    Assets,
    Meters,
    Codebooks,
    Limits,
    Readings,
}

impl FileKind {
    /// The table of master data it fills, if it is one.
    fn master(self) -> Option<master::Kind> {
        match self {
            Self::EquipmentClasses => Some(master::Kind::EquipmentClasses),
            Self::Crews => Some(master::Kind::Crews),
            Self::People => Some(master::Kind::People),
            Self::Assets => Some(master::Kind::Assets),
            Self::Meters => Some(master::Kind::Meters),
            Self::Codebooks | Self::Limits | Self::Readings => None,
        }
    }
}

/// How the file turned out to be written.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
pub struct FileRead {
    pub encoding: Encoding,
    /// `,`, `;` or a tab.
    #[schema(value_type = String)]
    pub delimiter: char,
}

/// What readings of a file set off.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, ToSchema)]
pub struct ReadingsTaken {
    pub late: usize,
    pub quarantined: usize,
    pub alarms: usize,
    pub work_orders: Vec<WorkOrderId>,
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

/// Takes a file: what is good of it, with what became of every line.
///
/// # Errors
/// [`StoreError::Invalid`] for a file that can't be read at all, and what the rows' own functions answer.
pub fn import(act: &mut Act, import: &Import, bytes: &[u8], watch: &mut Watch) -> Result<ImportReceipt, StoreError> {
    let source = import.name.as_deref().map_or_else(|| "a file".to_owned(), |name| format!("file {name}"));
    if import.kind == FileKind::Readings {
        return import_readings(act, import, bytes, watch);
    }
    let table = Table::open(bytes).map_err(|error| StoreError::invalid("file", error))?;
    let file = Some(FileRead { encoding: table.encoding, delimiter: table.delimiter });
    let rows = table.lines().map(|(line, cells)| GivenRow { line, cells: cells.map(|line| line.cells), was: vec![] });
    let receipt = match import.kind.master() {
        Some(kind) => {
            let (decimal, zone) = (table.decimal(), import.zone.as_ref());
            let given = Given { columns: &table.columns, rows, decimal, zone, source: &source };
            master::take(act, kind, given, watch)?
        }
        None if import.kind == FileKind::Limits => {
            limits::file::take(act, &table.columns, rows, table.decimal(), &source, watch)?
        }
        None => codebooks::file::take(act, &table.columns, rows, watch)?,
    };
    Ok(ImportReceipt { receipt, file, readings: None })
}

fn import_readings(
    act: &mut Act,
    import: &Import,
    bytes: &[u8],
    watch: &mut Watch,
) -> Result<ImportReceipt, StoreError> {
    let file = (import.format == Format::Csv).then(|| Table::open(bytes).ok()).flatten();
    let file = file.map(|table| FileRead { encoding: table.encoding, delimiter: table.delimiter });
    let found = incoming::parse(import.format, bytes, import.zone.as_ref(), master::MOST_REFUSED)?;
    let batch = Batch { source: Source::File, name: import.name.as_deref(), strict: false };
    let taken = readings::ingest_watched(act, &found.rows, batch, watch)?;
    let mut receipt = MasterReceipt { added: taken.accepted, unchanged: taken.duplicates, ..MasterReceipt::default() };
    for refused in &taken.refused {
        let code = found.rows[refused.index].as_ref().map_or("", |row| row.meter.as_str());
        receipt.note(RowReport {
            line: found.lines[refused.index],
            code: code.into(),
            outcome: Outcome::Refused,
            changes: vec![],
            reasons: vec![FieldReason { field: String::new(), reason: refused.reason.clone() }],
        });
    }
    (receipt.rows, receipt.given_up) = (found.rows.len(), found.given_up);
    let readings = ReadingsTaken {
        late: taken.late,
        quarantined: taken.quarantined,
        alarms: taken.alarms.len(),
        work_orders: taken.work_orders,
    };
    Ok(ImportReceipt { receipt, file, readings: Some(readings) })
}

/// Which rows to write out.
#[derive(Debug, Clone, Default)]
pub struct Export {
    /// Ids of assets; all without it.
    pub scope: Option<Vec<i64>>,
    /// Of readings; all without it.
    pub span: Option<Span>,
}

/// Writes all rows of a kind as CSV.
///
/// # Errors
/// SQLite's own, and the writer's.
pub fn export(conn: &Connection, kind: FileKind, which: &Export, to: &mut impl Write) -> Result<(), StoreError> {
    match kind.master() {
        Some(kind) => {
            let query = Query { scope: which.scope.clone(), all: true, ..Query::default() };
            master::export(conn, kind, &query, to)
        }
        None if kind == FileKind::Codebooks => codebooks::file::export(conn, to),
        None if kind == FileKind::Limits => limits::file::export(conn, to),
        None => {
            let failed = |error: csv::Error| StoreError::File(error.to_string());
            let mut csv = csv::Writer::from_writer(to);
            csv.write_record(["meter", "at", "value"]).map_err(failed)?;
            readings::each(conn, which.scope.as_deref(), which.span.unwrap_or(Span::ALWAYS), |meter, at, value| {
                csv.write_record([meter, at.to_string().as_str(), value]).map_err(failed)
            })?;
            csv.flush().map_err(|error| StoreError::File(error.to_string()))
        }
    }
}

/// A CSV text as JSON rows: a list of objects, or one object a line.
///
/// # Errors
/// The writer's.
pub fn csv_to_json(csv: &[u8], lines: bool, to: &mut impl Write) -> Result<(), StoreError> {
    let failed = |error: std::io::Error| StoreError::File(error.to_string());
    let table = Table::open(csv).map_err(|error| StoreError::File(error.to_string()))?;
    let is_number = |column: &str| matches!(column, "value");
    if !lines {
        to.write_all(b"[").map_err(failed)?;
    }
    for (place, (_, line)) in table.lines().enumerate() {
        let line = line.map_err(StoreError::File)?;
        let cells = table.columns.iter().zip(line.cells).map(|(column, cell)| {
            let number = is_number(column).then(|| cell.parse().ok().and_then(serde_json::Number::from_f64)).flatten();
            let value = number.map_or_else(|| serde_json::Value::String(cell), serde_json::Value::Number);
            (column.clone(), value)
        });
        let object: serde_json::Map<String, serde_json::Value> = cells.collect();
        if place > 0 && !lines {
            to.write_all(b",\n").map_err(failed)?;
        }
        serde_json::to_writer(&mut *to, &object).map_err(|error| StoreError::File(error.to_string()))?;
        if lines {
            to.write_all(b"\n").map_err(failed)?;
        }
    }
    if !lines {
        to.write_all(b"]\n").map_err(failed)?;
    }
    Ok(())
}

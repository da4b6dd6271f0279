//! What two people may edit at once, and who changed it last: nobody writes over what they have not seen.

use crate::ground::{
    error::{Result, StoreError},
    sql::Rows,
    tx::Tx,
};
use rusqlite::{Connection, OptionalExtension, params};
use tally_core::ground::{ids::WorkOrderId, time::Instant};

/// What the audit trail calls the settings.
pub(crate) const SETTINGS: &str = "installation";

/// Something that is written as a whole, or moved on.
#[derive(Debug, Clone, Copy)]
pub enum Edited<'a> {
    /// The ladder of the meter of that code.
    Ladder(&'a str),
    /// The ladder of a family: the equipment class and the meters' name.
    Family(&'a str, &'a str),
    Codebook(&'a str),
    JobSheet(&'a str),
    CheckSheet(&'a str),
    Settings,
    /// The state of a work order.
    State(WorkOrderId),
}

struct Last {
    version: i64,
    by: String,
    at: Instant,
}

fn last(conn: &Connection, edited: Edited) -> Result<Option<Last>> {
    let of_audit = "SELECT a.id AS version, p.name AS by_name, a.at FROM audit a JOIN people p ON p.id = a.person_id
         WHERE a.subject_kind = ?1 AND a.subject = ?2 ORDER BY a.id DESC LIMIT 1";
    let (sql, of, also): (&str, String, &str) = match edited {
        Edited::Ladder(meter) => (
            "SELECT v.number AS version, p.name AS by_name, v.recorded_at AS at FROM ladder_versions v
             JOIN people p ON p.id = v.recorded_by WHERE v.meter_id = (SELECT id FROM meters WHERE code = ?1 AND ?2 = '')
             ORDER BY v.number DESC LIMIT 1",
            meter.into(),
            "",
        ),
        Edited::Family(class, name) => (
            "SELECT f.number AS version, p.name AS by_name, f.recorded_at AS at FROM family_ladders f
             JOIN people p ON p.id = f.recorded_by
             WHERE f.class_id = (SELECT id FROM equipment_classes WHERE code = ?1) AND f.meter_name = ?2
             ORDER BY f.number DESC LIMIT 1",
            class.into(),
            name,
        ),
        Edited::Codebook(code) => (of_audit, "codebook".into(), code),
        Edited::JobSheet(code) => (of_audit, "job sheet".into(), code),
        Edited::CheckSheet(code) => (of_audit, "check sheet".into(), code),
        Edited::Settings => (of_audit, "settings".into(), SETTINGS),
        Edited::State(work) => (
            "SELECT s.id AS version, p.name AS by_name, s.recorded_at AS at FROM state_changes s
             JOIN people p ON p.id = s.recorded_by WHERE s.work_order = CAST(?1 AS INTEGER) AND ?2 = ''
             ORDER BY s.id DESC LIMIT 1",
            work.to_string(),
            "",
        ),
    };
    let mut select = conn.prepare_cached(sql)?;
    let found = select.query_row(params![of, also], |row| {
        Ok(Last { version: row.get("version")?, by: row.get("by_name")?, at: row.get("at")? })
    });
    Ok(found.optional()?)
}

/// The number of its last change, to be given back as what a write is based on; 0 where there was none.
///
/// # Errors
/// SQLite's own.
pub fn version(rows: &dyn Rows, edited: Edited) -> Result<i64> {
    let conn = rows.sql().conn;
    Ok(last(conn, edited)?.map_or(0, |last| last.version))
}

/// Refuses a write that is based on an older change than the last. One that says nothing of it is let through.
///
/// # Errors
/// [`StoreError::Conflict`], saying who changed it and when.
pub fn require(tx: &Tx, edited: Edited, based_on: Option<i64>) -> Result<()> {
    let Some(based_on) = based_on else { return Ok(()) };
    match last(tx.conn, edited)? {
        Some(last) if last.version > based_on => Err(StoreError::Conflict(format!(
            "{} changed this at {}, after you began; look at what it is now, then write yours again",
            last.by, last.at
        ))),
        _ => Ok(()),
    }
}

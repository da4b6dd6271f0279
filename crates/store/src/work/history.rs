//! What happened to a work order, from its state changes and the audit trail.

use crate::ground::{error::Result, sql::Rows};
use rusqlite::Connection;
use serde::Serialize;
use tally_core::{
    ground::{ids::WorkOrderId, time::Instant},
    work::WorkState,
};
use utoipa::ToSchema;

/// A line of history.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Event {
    /// When it was so.
    pub at: Instant,
    /// When it became known.
    pub recorded_at: Instant,
    pub person: String,
    /// `state` for a move, otherwise what was done.
    pub action: String,
    /// The state moved to, for a move.
    pub to_state: Option<String>,
    pub note: Option<String>,
}

/// The lines of one work order, in order of time.
pub(crate) fn of_work(conn: &Connection, work: WorkOrderId) -> Result<Vec<Event>> {
    let mut select = conn.prepare_cached(
        "SELECT s.at, s.recorded_at, p.name AS person, 'state' AS action, s.to_state, s.note, s.id
         FROM state_changes s JOIN people p ON p.id = s.recorded_by WHERE s.work_order = ?1
         UNION ALL
         SELECT t.at, t.at, p.name, t.action, NULL, NULL, t.id FROM audit t JOIN people p ON p.id = t.person_id
         WHERE t.subject_kind = 'work order' AND t.subject = ?2
         ORDER BY 1, 7",
    )?;
    let rows = select.query_map(rusqlite::params![work, work.to_string()], |row| {
        Ok(Event {
            at: row.get("at")?,
            recorded_at: row.get("recorded_at")?,
            person: row.get("person")?,
            action: row.get("action")?,
            to_state: row.get("to_state")?,
            note: row.get("note")?,
        })
    })?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

/// The steps of one work order through the states, in the order in which they count.
pub(crate) fn steps(conn: &Connection, work: WorkOrderId) -> Result<Vec<(Instant, WorkState)>> {
    let mut select =
        conn.prepare_cached("SELECT at, to_state FROM state_changes WHERE work_order = ?1 ORDER BY at, id")?;
    let rows = select.query_map([work], |row| Ok((row.get(0)?, row.get(1)?)))?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

/// When the last line of the audit trail or of a work order's states was written.
///
/// # Errors
/// SQLite's own.
pub fn last_recorded(rows: &dyn Rows) -> Result<Option<Instant>> {
    let conn = rows.sql().conn;
    let last: Option<i64> = conn.query_row(
        "SELECT max(at) FROM (SELECT max(at) AS at FROM audit UNION ALL SELECT max(recorded_at) FROM state_changes
             UNION ALL SELECT max(recorded_at) FROM batches UNION ALL SELECT max(recorded_at) FROM entries)",
        [],
        |row| row.get(0),
    )?;
    Ok(last.map(Instant::from_ms))
}

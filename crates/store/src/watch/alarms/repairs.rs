//! Repairs that were finished, and the first reading after them that alarms wait for.

use super::subject::Subject;
use crate::{
    ground::{
        error::Result,
        rows::{from_json, word},
        tx::Tx,
    },
    plant::assets::NamedAsset,
    watch::{meters, readings::history},
};
use rusqlite::{Connection, OptionalExtension, params};
use serde::Serialize;
use tally_core::{
    ground::{
        ids::{MeterId, WorkOrderId},
        severity::Severity,
        time::Instant,
    },
    watch::limits::waits_for_a_reading,
};
use utoipa::ToSchema;

/// Where a rung would answer by the clock or from an older reading (`read_at`): the work of its side that was finished since
/// that reading, and when.
pub(super) fn unread_since_finished(
    tx: &Tx,
    subject: &Subject,
    rung: usize,
    read_at: Option<Instant>,
    at: Instant,
) -> Result<Option<(WorkOrderId, Instant)>> {
    let Some(read_at) = read_at else { return Ok(None) };
    let mut select = tx.conn.prepare_cached(
        "SELECT w.number, s.at FROM work_orders w JOIN state_changes s ON s.work_order = w.number
         WHERE w.source_meter_id = ?1 AND w.source_side = ?2 AND s.to_state = 'done' AND s.at <= ?3
           AND w.state IN ('done', 'returned', 'closed')
         ORDER BY s.at DESC, w.number DESC LIMIT 1",
    )?;
    let side = word(&subject.ladder.rungs[rung].side);
    let finished = select.query_row(params![subject.id, side, at], |row| Ok((row.get(0)?, row.get(1)?))).optional()?;
    Ok(finished.filter(|(_, finished)| waits_for_a_reading(Some(*finished), Some(read_at))))
}

/// The writer looks at the alarms of that meter with its next readings.
pub(super) fn expect_reading(tx: &mut Tx, meter: MeterId) -> Result<()> {
    let code = meters::code_of(tx.conn, meter)?;
    tx.meter(&code)?.awaits = true;
    Ok(())
}

/// A repair whose meter has still to be read: its rung stands, and work on it is finished.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct RepairRow {
    pub meter: String,
    pub meter_name: String,
    pub unit: String,
    pub grades: Vec<String>,
    pub asset: NamedAsset,
    /// The worst that stands.
    pub severity: Severity,
    pub work_order: WorkOrderId,
    pub title: String,
    pub finished_at: Instant,
    /// The newest reading, from before it was finished.
    pub last_at: Option<Instant>,
    pub last_value: Option<f64>,
}

pub(super) const REPAIRS: &str =
    "SELECT m.code AS meter, m.name AS meter_name, m.unit, m.grades, m.id AS meter_id, a.code AS asset,
        a.name AS asset_name, max(al.severity) AS severity, max(al.finished_at) AS finished_at, w.number, w.title
     FROM alarms al JOIN meters m ON m.id = al.meter_id JOIN assets a ON a.id = m.asset_id
     JOIN work_orders w ON w.number = al.waits_work
     WHERE al.left_at IS NULL AND al.finished_at IS NOT NULL";

pub(super) fn repairs(conn: &Connection, mut rows: rusqlite::Rows) -> Result<Vec<RepairRow>> {
    let mut found = Vec::new();
    while let Some(row) = rows.next()? {
        let last = history::last_before(conn, row.get("meter_id")?, Instant::LATEST)?;
        found.push(RepairRow {
            meter: row.get("meter")?,
            meter_name: row.get("meter_name")?,
            unit: row.get("unit")?,
            grades: from_json("meters", &row.get::<_, String>("grades")?)?,
            asset: NamedAsset { code: row.get("asset")?, name: row.get("asset_name")? },
            severity: row.get("severity")?,
            work_order: row.get("number")?,
            title: row.get("title")?,
            finished_at: row.get("finished_at")?,
            last_at: last.map(|last| last.at),
            last_value: last.map(|last| last.value),
        });
    }
    Ok(found)
}

/// A meter that waits for the first reading after a work order is finished.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct WaitingMeter {
    pub meter: String,
    pub meter_name: String,
    pub unit: String,
    pub grades: Vec<String>,
    /// When the work was finished; none while it is not.
    pub finished_at: Option<Instant>,
}

/// Meters with a standing alarm that waits for this work.
pub(crate) fn waiting_meters(conn: &Connection, work: WorkOrderId) -> Result<Vec<WaitingMeter>> {
    let mut select = conn.prepare_cached(
        "SELECT m.code, m.name, m.unit, m.grades, max(al.finished_at) AS finished_at
         FROM alarms al JOIN meters m ON m.id = al.meter_id
         WHERE al.left_at IS NULL AND al.waits_work = ?1 GROUP BY m.id ORDER BY m.code",
    )?;
    let mut rows = select.query([work])?;
    let mut found = Vec::new();
    while let Some(row) = rows.next()? {
        found.push(WaitingMeter {
            meter: row.get(0)?,
            meter_name: row.get(1)?,
            unit: row.get(2)?,
            grades: from_json("meters", &row.get::<_, String>(3)?)?,
            finished_at: row.get("finished_at")?,
        });
    }
    Ok(found)
}

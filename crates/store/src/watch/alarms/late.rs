//! What came late: readings beyond a rung that a person judges, and alarms of the past whose reading was voided.

use crate::{
    ground::{
        error::{Result, StoreError},
        rows::list_of,
        sql::Rows,
        tx::Tx,
    },
    plant::assets::NamedAsset,
};
use rusqlite::params;
use serde::{Deserialize, Serialize};
use tally_core::{
    access::roles::Action,
    ground::{
        ids::{AssetId, MeterId},
        severity::Severity,
        time::Instant,
    },
    watch::{limits::Rung, readings::Reading},
};
use utoipa::ToSchema;

/// What is to be judged of the past.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum LateKind {
    /// A late reading lies beyond a rung.
    Beyond,
    /// A reading was voided after the alarm it made had been left.
    Voided,
}

tally_core::kept_as_words!(LateKind);

/// A late reading beyond a rung, or an alarm of the past whose reading was voided.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct LateRow {
    pub id: i64,
    pub what: LateKind,
    pub meter: String,
    pub meter_name: String,
    pub unit: String,
    pub asset: NamedAsset,
    pub at: Instant,
    pub value: f64,
    /// As it is called, such as `alert high`.
    pub rung: String,
    pub severity: Severity,
    pub recorded_at: Instant,
}

/// What a person makes of a late reading.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct Judgement {
    pub judgement: String,
}

/// Puts a late reading onto the list.
///
/// # Errors
/// SQLite's own.
pub fn note_late(tx: &Tx, meter: MeterId, reading: Reading, rung: &Rung, what: LateKind) -> Result<()> {
    let mut insert = tx.conn.prepare_cached(
        "INSERT INTO late_beyond (meter_id, at, value, rung, severity, recorded_at, what)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7)",
    )?;
    let strokes = rung.severity.strokes();
    let (at, now) = (reading.at.ms(), tx.now.ms());
    insert.execute(params![meter, at, reading.value, rung.name(), strokes, now, what])?;
    Ok(())
}

/// Late readings beyond a rung that nobody has judged, the worst and newest first.
///
/// # Errors
/// SQLite's own.
pub fn late(rows: &dyn Rows, scope: Option<&[AssetId]>, limit: usize) -> Result<Vec<LateRow>> {
    let conn = rows.sql().conn;
    let ids = list_of(scope.unwrap_or_default().iter().copied());
    let mut select = conn.prepare_cached(
        "SELECT l.*, m.code AS meter, m.name AS meter_name, m.unit, a.code AS asset, a.name AS asset_name
         FROM late_beyond l JOIN meters m ON m.id = l.meter_id JOIN assets a ON a.id = m.asset_id
         WHERE l.judged_at IS NULL AND (?1 OR m.asset_id IN rarray(?2)) ORDER BY l.severity DESC, l.at DESC LIMIT ?3",
    )?;
    let mut rows = select.query(params![scope.is_none(), ids, limit])?;
    let mut late = Vec::new();
    while let Some(row) = rows.next()? {
        late.push(LateRow {
            id: row.get("id")?,
            what: row.get("what")?,
            meter: row.get("meter")?,
            meter_name: row.get("meter_name")?,
            unit: row.get("unit")?,
            asset: NamedAsset { code: row.get("asset")?, name: row.get("asset_name")? },
            at: row.get("at")?,
            value: row.get("value")?,
            rung: row.get("rung")?,
            severity: row.get("severity")?,
            recorded_at: row.get("recorded_at")?,
        });
    }
    Ok(late)
}

/// Takes a late reading off the list, with what the person makes of it.
///
/// # Errors
/// [`StoreError::Invalid`] without words, [`StoreError::NotFound`] for one that is not on the list.
pub fn judge_late(tx: &mut Tx, id: i64, judged: &Judgement) -> Result<()> {
    tx.require(Action::AcknowledgeAlarms)?;
    let judgement = judged.judgement.trim();
    if judgement.is_empty() {
        return Err(StoreError::invalid("judgement", "say what you make of it"));
    }
    let done = tx.conn.execute(
        "UPDATE late_beyond SET judgement = ?2, judged_at = ?3, judged_by = ?4 WHERE id = ?1 AND judged_at IS NULL",
        params![id, judgement, tx.now, tx.actor.id],
    )?;
    if done == 0 {
        return Err(StoreError::not_found("late reading", id));
    }
    tx.audit("judged", "late reading", &id.to_string(), judged)
}

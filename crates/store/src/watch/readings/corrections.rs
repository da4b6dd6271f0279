//! A reading is never edited: a person voids it with a reason, or releases one that was kept apart.

use super::{
    history, ingest,
    kept::{KeptReading, QUARANTINED},
};
use crate::{
    ground::{
        error::{Result, StoreError},
        rows::list_of,
        sql::Rows,
        tx::Tx,
    },
    watch::{alarms, meters},
};
use rusqlite::params;
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use tally_core::{
    access::roles::Action,
    ground::{ids::MeterId, time::Instant},
    watch::{
        batch::Receipt,
        readings::{Reading, Source},
    },
};
use utoipa::ToSchema;

/// Why a reading does not hold.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct Voiding {
    pub at: Instant,
    pub reason: String,
}

/// Which reading holds after all.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct Release {
    pub at: Instant,
}

/// A reading that was voided.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct VoidedRow {
    pub at: Instant,
    pub value: f64,
    pub reason: String,
    pub by: String,
    pub voided_at: Instant,
}

/// Voids a reading: it goes from the chart and from every replay. An alarm that only it made and that still stands ends as
/// *voided*; its work stays. Sent again, the value stays voided.
///
/// # Errors
/// [`StoreError::Invalid`] without a reason or for an instant without a reading.
pub fn void(tx: &mut Tx, code: &str, voiding: &Voiding) -> Result<()> {
    tx.require(Action::CorrectReadings)?;
    let meter = meters::require(tx.conn, code)?;
    let reason = voiding.reason.trim();
    if reason.is_empty() {
        return Err(StoreError::invalid("reason", "say why the reading does not hold"));
    }
    let (kept, batch) = take(tx, code, meter, voiding.at)?;
    tx.conn.execute(
        "INSERT INTO voided_readings (meter_id, at, value, batch_id, flags, reason, voided_at, voided_by)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8)",
        params![meter, kept.at, kept.value, batch, kept.flags, reason, tx.now, tx.actor.id],
    )?;
    tx.conn.execute(
        "UPDATE late_beyond SET judgement = ?3, judged_at = ?4, judged_by = ?5
         WHERE meter_id = ?1 AND at = ?2 AND judged_at IS NULL",
        params![meter, kept.at, format!("voided: {reason}"), tx.now, tx.actor.id],
    )?;
    tx.audit("voided a reading", "meter", code, voiding)?;
    tx.news.read(code);
    if kept.flags & QUARANTINED != 0 {
        return Ok(());
    }
    let voided = Reading { at: kept.at, value: kept.value };
    alarms::remake(tx, code, alarms::Cause::Voided(voided), &mut Receipt::default())?;
    ingest::remake_suspended_by(tx, code, voided.at)
}

/// Takes a reading away, for good or to put it back otherwise.
fn take(tx: &mut Tx, code: &str, meter: MeterId, at: Instant) -> Result<(KeptReading, i64)> {
    let taken = history::take_away(tx, meter, at)?
        .ok_or_else(|| StoreError::invalid("at", format!("{code} has no reading at {at}")))?;
    tx.conn
        .prepare_cached(
            "INSERT INTO changes (kind, id) SELECT 'running', id FROM meters WHERE id = ?1 AND running_hours = 1",
        )?
        .execute([meter])?;
    tx.forget_meter(code);
    Ok(taken)
}

/// Releases a reading that was kept apart: it counts, and goes through the ladder as if it had just come.
///
/// # Errors
/// [`StoreError::Invalid`] for an instant without a reading, or with one that was not kept apart.
pub fn release(tx: &mut Tx, code: &str, released: &Release) -> Result<Receipt> {
    tx.require(Action::CorrectReadings)?;
    let meter = meters::require(tx.conn, code)?;
    let (kept, batch) = take(tx, code, meter, released.at)?;
    if kept.flags & QUARANTINED == 0 {
        return Err(StoreError::invalid("at", "this reading was not kept apart"));
    }
    let receipt = ingest::released(tx, code, kept, batch)?;
    ingest::remake_suspended_by(tx, code, released.at)?;
    tx.audit("released a reading", "meter", code, released)?;
    Ok(receipt)
}

/// A reading with what is to be said of it.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ReadingRow {
    pub at: Instant,
    pub value: f64,
    pub late: bool,
    pub quarantined: bool,
    pub source: Option<Source>,
    /// Such as a file's name.
    pub batch: Option<String>,
    pub by: Option<String>,
    pub recorded_at: Option<Instant>,
}

/// Readings of a meter before an instant, newest first, at most `limit`, wherever they are kept; only those kept apart where
/// `apart`.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown meter.
pub fn newest(rows: &dyn Rows, code: &str, before: Instant, apart: bool, limit: usize) -> Result<Vec<ReadingRow>> {
    let conn = rows.sql().conn;
    let meter = meters::require(conn, code)?;
    let found = history::newest_before(conn, meter, before, apart, limit)?;
    let ids = list_of(found.iter().map(|(_, batch)| *batch));
    let mut select = conn.prepare_cached(
        "SELECT b.id, b.source, b.name, b.recorded_at, p.name AS person FROM batches b
         LEFT JOIN people p ON p.id = b.recorded_by WHERE b.id IN rarray(?1)",
    )?;
    let mut rows = select.query([ids])?;
    let mut batches: HashMap<i64, FromBatch> = HashMap::new();
    while let Some(row) = rows.next()? {
        let batch = FromBatch {
            source: row.get("source")?,
            name: row.get("name")?,
            by: row.get("person")?,
            recorded_at: row.get("recorded_at")?,
        };
        batches.insert(row.get("id")?, batch);
    }
    let reading = |(kept, batch): (KeptReading, i64)| {
        let batch = batches.get(&batch);
        ReadingRow {
            at: kept.at,
            value: kept.value,
            late: kept.is_late(),
            quarantined: kept.flags & QUARANTINED != 0,
            source: batch.map(|batch| batch.source),
            batch: batch.and_then(|batch| batch.name.clone()),
            by: batch.and_then(|batch| batch.by.clone()),
            recorded_at: batch.map(|batch| batch.recorded_at),
        }
    };
    Ok(found.into_iter().map(reading).collect())
}

/// Where a reading came from.
struct FromBatch {
    source: Source,
    name: Option<String>,
    by: Option<String>,
    recorded_at: Instant,
}

/// Voided readings of a meter, the last voided first, at most `limit`.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown meter.
pub fn voided(rows: &dyn Rows, code: &str, limit: usize) -> Result<Vec<VoidedRow>> {
    let conn = rows.sql().conn;
    let meter = meters::require(conn, code)?;
    let mut select = conn.prepare_cached(
        "SELECT v.at, v.value, v.reason, p.name, v.voided_at FROM voided_readings v JOIN people p ON p.id = v.voided_by
         WHERE v.meter_id = ?1 ORDER BY v.voided_at DESC, v.at DESC LIMIT ?2",
    )?;
    let rows = select.query_map(params![meter, limit], |row| {
        Ok(VoidedRow {
            at: row.get("at")?,
            value: row.get(1)?,
            reason: row.get(2)?,
            by: row.get(3)?,
            voided_at: row.get("voided_at")?,
        })
    })?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

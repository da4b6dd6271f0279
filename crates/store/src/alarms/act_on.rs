//! What people do about alarms: say that they have seen them, and judge what came late.

use super::again;
use crate::{
    act::Act,
    assets::NamedAsset,
    error::{Result, StoreError},
};
use rusqlite::{Connection, params, types::Value};
use serde::{Deserialize, Serialize};
use std::rc::Rc;
use tally_core::{
    ids::{AlarmId, MeterId},
    limits::Rung,
    people::Action,
    readings::Reading,
    severity::Severity,
    time::{Instant, SECOND},
};
use utoipa::ToSchema;

/// Says that alarms have been seen; says of how many that was new.
///
/// # Errors
/// [`StoreError::NotFound`] for the first that there is not.
pub fn acknowledge(act: &mut Act, alarms: &[AlarmId]) -> Result<usize> {
    act.require(Action::AcknowledgeAlarms)?;
    let mut seen = 0;
    for alarm in alarms {
        again::require(act.conn, *alarm)?;
        let was_new = act.conn.execute(
            "UPDATE alarms SET acknowledged_at = ?2, acknowledged_by = ?3 WHERE id = ?1 AND acknowledged_at IS NULL",
            params![alarm, act.now, act.actor.id],
        )?;
        if was_new > 0 {
            act.audit("acknowledged", "alarm", &alarm.to_string(), &())?;
        }
        seen += was_new;
    }
    Ok(seen)
}

/// How long who acknowledged an alarm can take that back.
const TAKEN_BACK_WITHIN: i64 = 10 * 60 * SECOND;

/// Takes back what this person acknowledged a short while ago, all or none.
///
/// # Errors
/// [`StoreError::NotFound`] for the first alarm that there is not, [`StoreError::Conflict`] for the first that this person
/// did not acknowledge just now.
pub fn take_back(act: &mut Act, alarms: &[AlarmId]) -> Result<()> {
    act.require(Action::AcknowledgeAlarms)?;
    let since = act.now.plus(-TAKEN_BACK_WITHIN).ms();
    for alarm in alarms {
        again::require(act.conn, *alarm)?;
        let taken = act.conn.execute(
            "UPDATE alarms SET acknowledged_at = NULL, acknowledged_by = NULL
             WHERE id = ?1 AND acknowledged_by = ?2 AND acknowledged_at >= ?3",
            params![alarm, act.actor.id, since],
        )?;
        if taken == 0 {
            return Err(StoreError::Conflict(format!(
                "alarm {alarm} was not acknowledged by you in the last ten minutes"
            )));
        }
        act.audit("acknowledgement taken back", "alarm", &alarm.to_string(), &())?;
    }
    Ok(())
}

/// What is to be judged of the past.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum LateKind {
    /// A late reading lies beyond a rung.
    Beyond,
    /// A reading was voided after the alarm it made had been left.
    Voided,
}

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
pub fn note_late(act: &Act, meter: MeterId, reading: Reading, rung: &Rung, what: LateKind) -> Result<()> {
    let mut insert = act.conn.prepare_cached(
        "INSERT INTO late_beyond (meter_id, at, value, rung, severity, recorded_at, what)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7)",
    )?;
    let strokes = rung.severity.strokes();
    let (at, now) = (reading.at.ms(), act.now.ms());
    insert.execute(params![meter, at, reading.value, rung.name(), strokes, now, what])?;
    Ok(())
}

/// Late readings beyond a rung that nobody has judged, the worst and newest first.
///
/// # Errors
/// SQLite's own.
pub fn late(conn: &Connection, scope: Option<&[i64]>, limit: usize) -> Result<Vec<LateRow>> {
    let ids: Rc<Vec<Value>> = Rc::new(scope.unwrap_or_default().iter().map(|id| Value::from(*id)).collect());
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
pub fn judge_late(act: &mut Act, id: i64, judged: &Judgement) -> Result<()> {
    act.require(Action::AcknowledgeAlarms)?;
    let judgement = judged.judgement.trim();
    if judgement.is_empty() {
        return Err(StoreError::invalid("judgement", "say what you make of it"));
    }
    let done = act.conn.execute(
        "UPDATE late_beyond SET judgement = ?2, judged_at = ?3, judged_by = ?4 WHERE id = ?1 AND judged_at IS NULL",
        params![id, judgement, act.now, act.actor.id],
    )?;
    if done == 0 {
        return Err(StoreError::not_found("late reading", id));
    }
    act.audit("judged", "late reading", &id.to_string(), judged)
}

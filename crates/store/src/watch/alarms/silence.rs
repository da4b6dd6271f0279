//! Meters that fall silent: an alarm of its own, found by a job and ended by the next reading.

use crate::ground::{error::Result, tx::Tx, view::View};
use rusqlite::{Connection, params};
use tally_core::ground::{
    ids::MeterId,
    severity::Severity,
    time::{Instant, SECOND},
};

/// What a silent meter counts as. Own choice: nothing is known to be wrong but the knowing.
const SEVERITY: Severity = Severity::Notice;

/// A meter that has been silent for longer than it may be.
#[derive(Debug, Clone, PartialEq)]
pub struct Silent {
    meter: MeterId,
    code: String,
    /// When its longest silence was over.
    since: Instant,
    value: Option<f64>,
}

/// Meters that are silent now and have no alarm for it yet. One seek a meter that has a longest silence.
///
/// # Errors
/// SQLite's own.
pub fn fell_silent(view: &View) -> Result<Vec<Silent>> {
    silent(view.conn, view.now)
}

fn silent(conn: &Connection, now: Instant) -> Result<Vec<Silent>> {
    let mut select = conn.prepare_cached(
        "SELECT m.id, m.code, m.longest_silence_s, m.recorded_at, r.at, r.value
         FROM meters m JOIN assets a ON a.id = m.asset_id
         LEFT JOIN readings r ON r.meter_id = m.id
              AND r.at = (SELECT at FROM readings WHERE meter_id = m.id ORDER BY at DESC LIMIT 1)
         WHERE m.longest_silence_s IS NOT NULL AND m.retired_at IS NULL AND a.retired_at IS NULL
           AND NOT EXISTS (SELECT 1 FROM alarms WHERE meter_id = m.id AND left_at IS NULL AND kind = 'silent')",
    )?;
    let mut rows = select.query([])?;
    let mut silent = Vec::new();
    while let Some(row) = rows.next()? {
        let (longest, recorded): (i64, i64) = (row.get(2)?, row.get(3)?);
        let last = row.get::<_, Option<i64>>(4)?.unwrap_or(recorded);
        let since = Instant::from_ms(last).plus(longest * SECOND);
        if since <= now {
            silent.push(Silent { meter: row.get(0)?, code: row.get(1)?, since, value: row.get(5)? });
        }
    }
    Ok(silent)
}

/// Writes the alarms of silent meters; says of how many. Each is looked at again: it may have been read since.
///
/// # Errors
/// SQLite's own.
pub fn note_silence(tx: &mut Tx, silent: &[Silent]) -> Result<usize> {
    let mut noted = 0;
    for one in self::silent(tx.conn, tx.now)?.iter().filter(|one| silent.contains(one)) {
        tx.conn
            .prepare_cached(
                "INSERT INTO alarms (meter_id, kind, severity, entered_at, value, response, answered_at, recorded_at)
                 VALUES (?1, 'silent', ?2, ?3, ?4, 'record', ?3, ?5)",
            )?
            .execute(params![one.meter, SEVERITY.strokes(), one.since, one.value, tx.now])?;
        tx.forget_meter(&one.code);
        tx.news.alarms = true;
        noted += 1;
    }
    Ok(noted)
}

/// A silent meter was read again: its silence ends with the newest reading, unless that is itself longer ago than it may be.
/// Says whether it ended.
pub(crate) fn heard(conn: &Connection, meter: MeterId, newest: Instant, now: Instant) -> Result<bool> {
    let ended = conn
        .prepare_cached(
            "UPDATE alarms SET left_at = max(?2, entered_at), left_by = 'readings'
             WHERE meter_id = ?1 AND left_at IS NULL AND kind = 'silent'
               AND ?2 + (SELECT ifnull(longest_silence_s, 0) FROM meters WHERE id = ?1) * 1000 > ?3",
        )?
        .execute(params![meter, newest, now])?;
    Ok(ended > 0)
}

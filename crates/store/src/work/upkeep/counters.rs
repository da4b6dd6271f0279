//! The counters that plans go by: what they read, counted on across exchanges and rollovers, and how much they are used.

use super::courses::WEEK;
use crate::{
    ground::{error::Result, sql::Rows, tx::Tx},
    plant::settings,
    watch::{
        meters,
        readings::{Lookup, usage},
    },
};
use rusqlite::{Connection, OptionalExtension, params};
use tally_core::{
    ground::{
        ids::MeterId,
        time::{Instant, Span},
    },
    work::plans::{UsePerDay, WEEKS_OF_USE, use_per_day},
};

/// Counters of plans that make work, with new readings since they were looked at, or whose use is of another day.
///
/// # Errors
/// SQLite's own.
pub fn stale(rows: &dyn Rows, now: Instant) -> Result<Vec<MeterId>> {
    let conn = rows.sql().conn;
    let today = now.in_zone(&settings::time_zone(rows)?).date().to_string();
    let mut select = conn.prepare_cached(
        "WITH p AS (SELECT * FROM upkeep_plans WHERE status = 'active' AND every_units IS NOT NULL),
             of_assets AS (SELECT p.asset_id AS id FROM p WHERE p.meter_id IS NULL AND p.asset_id IS NOT NULL
                 UNION SELECT a.id FROM p JOIN assets a ON a.class_id = p.class_id WHERE p.meter_id IS NULL),
             of_plans AS (SELECT p.meter_id AS id FROM p WHERE p.meter_id IS NOT NULL
                 UNION SELECT m.id FROM of_assets JOIN meters m ON m.asset_id = of_assets.id WHERE m.running_hours = 1)
         SELECT m.id, u.at, u.used_on FROM of_plans JOIN meters m ON m.id = of_plans.id
         LEFT JOIN upkeep_counters u ON u.meter_id = m.id WHERE m.retired_at IS NULL AND m.kind = 'counter'",
    )?;
    let mut rows = select.query([])?;
    let mut found = Vec::new();
    while let Some(row) = rows.next()? {
        let (meter, at): (MeterId, Option<Instant>) = (row.get(0)?, row.get(1)?);
        let newest = Lookup::new(conn, meter).before(now.plus(1))?.map(|reading| reading.at);
        let used_on: Option<String> = row.get(2)?;
        if newest.is_some() && (newest > at || used_on.as_ref() != Some(&today)) {
            found.push(meter);
        }
    }
    Ok(found)
}

/// What a counter reads by now, and its use.
#[derive(Debug, Clone, Copy)]
pub struct LookedAt {
    meter: MeterId,
    at: Instant,
    /// When it was looked at before, on which its count goes on.
    since: Option<Instant>,
    count: f64,
    told: UsePerDay,
}

/// Looks at these counters. It takes a while where there are many readings, so it is done on a look and kept afterwards.
///
/// # Errors
/// SQLite's own.
pub fn look(rows: &dyn Rows, counters: &[MeterId], now: Instant) -> Result<Vec<LookedAt>> {
    let looks = counters.iter().map(|meter| looked(rows.sql().conn, *meter, now));
    looks.filter_map(Result::transpose).collect()
}

/// Keeps what counters read, and takes down what they read when work of their plans was done. A counter that was looked at again
/// meanwhile stays as it is.
///
/// # Errors
/// SQLite's own.
pub fn keep(tx: &mut Tx, looks: &[LookedAt]) -> Result<()> {
    let today = tx.now.in_zone(&settings::time_zone(tx)?).date().to_string();
    for LookedAt { meter, at, since, count, told } in looks.iter().copied() {
        let newest: Option<Instant> = tx
            .conn
            .prepare_cached("SELECT at FROM upkeep_counters WHERE meter_id = ?1")?
            .query_row([meter], |row| row.get(0))
            .optional()?;
        if newest != since {
            continue;
        }
        tx.conn
            .prepare_cached(
                "INSERT INTO upkeep_counters (meter_id, at, count, per_day, low, high, used_on)
                 VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7)
                 ON CONFLICT (meter_id) DO UPDATE SET at = ?2, count = ?3, per_day = ?4, low = ?5, high = ?6, used_on = ?7",
            )?
            .execute(params![meter, at, count, told.mean, told.low, told.high, today])?;
        note_done(tx.conn, meter, at, count)?;
    }
    Ok(())
}

fn looked(conn: &Connection, meter: MeterId, now: Instant) -> Result<Option<LookedAt>> {
    let code = meters::code_of(conn, meter)?;
    let Some(newest) = Lookup::new(conn, meter).before(now.plus(1))? else { return Ok(None) };
    let used = |from: Instant, to: Instant| match Span::new(from, to) {
        Ok(span) => usage(conn, &code, span),
        Err(_empty) => Ok(0.0),
    };
    let before: Option<(Instant, f64)> = conn
        .prepare_cached("SELECT at, count FROM upkeep_counters WHERE meter_id = ?1")?
        .query_row([meter], |row| Ok((row.get(0)?, row.get(1)?)))
        .optional()?;
    let count = match before {
        Some((at, count)) => count + used(at, newest.at)?,
        None => newest.value,
    };
    // Whole weeks until the newest reading, as far back as there are readings.
    let first = crate::watch::readings::history::first(conn, meter)?.unwrap_or(newest.at);
    let weeks = (1..=WEEKS_OF_USE as i64).map(|week| newest.at.plus(-week * WEEK)).take_while(|start| *start >= first);
    let weekly = weeks.map(|start| used(start, start.plus(WEEK))).collect::<Result<Vec<f64>>>()?;
    let since = before.map(|(at, _)| at);
    Ok(Some(LookedAt { meter, at: newest.at, since, count, told: use_per_day(&weekly) }))
}

/// What the counter read when work of plans that go by it was done.
fn note_done(conn: &Connection, meter: MeterId, at: Instant, count: f64) -> Result<()> {
    let mut select = conn.prepare_cached(
        "SELECT c.plan_id, c.asset_id, c.number,
             (SELECT max(s.at) FROM state_changes s WHERE s.work_order = c.work_order AND s.to_state = 'done') AS done_at
         FROM (SELECT id, NULL AS asset_id FROM upkeep_plans WHERE meter_id = ?1 AND every_units IS NOT NULL
             UNION ALL SELECT p.id, m.asset_id FROM meters m JOIN upkeep_plans p ON p.meter_id IS NULL AND p.every_units IS NOT NULL
             WHERE m.id = ?1 AND m.running_hours = 1) p
         JOIN upkeep_cycles c ON c.plan_id = p.id AND (p.asset_id IS NULL OR c.asset_id = p.asset_id)
         JOIN work_orders w ON w.number = c.work_order
         WHERE c.done_count IS NULL AND w.state IN ('done', 'returned', 'closed')",
    )?;
    let code = meters::code_of(conn, meter)?;
    let mut rows = select.query([meter])?;
    while let Some(row) = rows.next()? {
        let Some(done_at) = row.get::<_, Option<Instant>>(3)? else { continue };
        let since = Span::new(done_at, at).map_or(Ok(0.0), |span| usage(conn, &code, span))?;
        conn.prepare_cached(
            "UPDATE upkeep_cycles SET done_count = ?4 WHERE plan_id = ?1 AND asset_id = ?2 AND number = ?3",
        )?
        .execute(params![
            row.get::<_, i64>(0)?,
            row.get::<_, i64>(1)?,
            row.get::<_, i64>(2)?,
            count - since
        ])?;
    }
    Ok(())
}

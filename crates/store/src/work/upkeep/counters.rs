//! The counters that plans go by: what they read, counted on across exchanges and rollovers, and how much they are used.

use super::courses::WEEK;
use crate::{
    ground::{error::Result, sql::Rows, tx::Tx},
    plant::settings,
    watch::{
        meters,
        readings::{Lookup, exchanges, usage},
    },
};
use rusqlite::{Connection, OptionalExtension, params};
use tally_core::{
    ground::{
        ids::MeterId,
        time::{Instant, Span},
    },
    watch::readings::Reading,
    work::plans::{UsePerDay, WEEKS_OF_USE, use_per_day},
};

/// Counters of plans that make work, with readings that are new or were corrected since they were looked at, or whose use is of
/// another day.
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
         SELECT m.id, u.at, u.used_on, u.revised IS NOT ifnull(c.revised, 0) FROM of_plans JOIN meters m ON m.id = of_plans.id
         LEFT JOIN upkeep_counters u ON u.meter_id = m.id
         LEFT JOIN reading_counts c ON c.meter_id = m.id WHERE m.retired_at IS NULL AND m.kind = 'counter'",
    )?;
    let mut rows = select.query([])?;
    let mut found = Vec::new();
    while let Some(row) = rows.next()? {
        let (meter, at): (MeterId, Option<Instant>) = (row.get(0)?, row.get(1)?);
        let newest = Lookup::new(conn, meter).before(now.plus(1))?.map(|reading| reading.at);
        let used_on: Option<String> = row.get(2)?;
        let is_revised: bool = row.get(3)?;
        if newest.is_some() && (newest > at || is_revised || used_on.as_ref() != Some(&today)) {
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
    /// As it was kept when it was looked at before.
    before: Option<Before>,
    /// The reading that it counts on from: that of this instant, or the last before it that holds.
    since: Instant,
    /// The revision of its readings.
    revised: i64,
    count: f64,
    told: UsePerDay,
}

/// A counter as it was kept.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Before {
    at: Instant,
    since: Instant,
    /// What it counts beyond what it read then.
    ahead: f64,
    revised: i64,
    count: f64,
}

fn kept(conn: &Connection, meter: MeterId) -> Result<Option<Before>> {
    let mut select =
        conn.prepare_cached("SELECT at, since, ahead, revised, count FROM upkeep_counters WHERE meter_id = ?1")?;
    let before = select.query_row([meter], |row| {
        Ok(Before { at: row.get(0)?, since: row.get(1)?, ahead: row.get(2)?, revised: row.get(3)?, count: row.get(4)? })
    });
    Ok(before.optional()?)
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
    for LookedAt { meter, at, before, since, revised, count, told } in looks.iter().copied() {
        if kept(tx.conn, meter)? != before {
            continue;
        }
        tx.conn
            .prepare_cached(
                "INSERT INTO upkeep_counters (meter_id, at, count, per_day, low, high, used_on, since, revised)
                 VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9)
                 ON CONFLICT (meter_id) DO UPDATE SET at = ?2, count = ?3, per_day = ?4, low = ?5, high = ?6, used_on = ?7,
                     revised = ?9",
            )?
            .execute(params![meter, at, count, told.mean, told.low, told.high, today, since, revised])?;
        if let Some(before) = before.filter(|before| before.count > count) {
            take_back(tx, meter, count, before.count)?;
        }
        note_done(tx.conn, meter, at, count, before.is_some_and(|before| before.revised != revised))?;
    }
    Ok(())
}

/// Cycles that only readings made due which were voided since: what was missed so was not, and what was raised so counts for none.
fn take_back(tx: &Tx, meter: MeterId, count: f64, counted: f64) -> Result<()> {
    let of_counter = "plan_id IN (SELECT id FROM upkeep_plans WHERE every_units IS NOT NULL AND (meter_id = ?1
            OR meter_id IS NULL AND EXISTS (SELECT 1 FROM meters m WHERE m.id = ?1 AND m.running_hours = 1
                AND m.asset_id = upkeep_cycles.asset_id)))
        AND mark > ?2 AND mark <= ?3";
    let not_by_days = "plan_id IN (SELECT id FROM upkeep_plans WHERE every_days IS NULL)";
    tx.conn.execute(
        &format!("DELETE FROM upkeep_cycles WHERE outcome = 'missed' AND {of_counter} AND {not_by_days}"),
        params![meter, count, counted],
    )?;
    tx.conn.execute(
        &format!("UPDATE upkeep_cycles SET mark = NULL WHERE outcome IS NOT NULL AND {of_counter}"),
        params![meter, count, counted],
    )?;
    Ok(())
}

/// The reading that a counter counts on from: the last until then that holds, or the first after it; where the device was exchanged
/// in between, what the new one began with.
fn base(conn: &Connection, meter: MeterId, since: Instant) -> Result<Option<Reading>> {
    let mut lookup = Lookup::new(conn, meter);
    let Some(before) = lookup.before(since.plus(1))? else { return lookup.after(since) };
    let exchanges = exchanges::of(conn, meter)?;
    let last = exchanges.iter().rev().find(|one| before.at < one.at && one.at <= since);
    Ok(Some(last.map_or(before, |one| Reading { at: one.at, value: one.first })))
}

fn looked(conn: &Connection, meter: MeterId, now: Instant) -> Result<Option<LookedAt>> {
    let code = meters::code_of(conn, meter)?;
    let Some(newest) = Lookup::new(conn, meter).before(now.plus(1))? else { return Ok(None) };
    let used = |from: Instant, to: Instant| match Span::new(from, to) {
        Ok(span) => usage(conn, &code, span),
        Err(_empty) => Ok(0.0),
    };
    let before = kept(conn, meter)?;
    let since = before.map_or(newest.at, |before| before.since);
    let from = base(conn, meter, since)?.unwrap_or(newest);
    let count = from.value + before.map_or(0.0, |before| before.ahead) + used(from.at, newest.at)?;
    let revised = conn
        .prepare_cached("SELECT revised FROM reading_counts WHERE meter_id = ?1")?
        .query_row([meter], |row| row.get(0))
        .optional()?
        .unwrap_or(0);
    // Whole weeks until the newest reading, as far back as there are readings.
    let first = crate::watch::readings::history::first(conn, meter)?.unwrap_or(newest.at);
    let weeks = (1..=WEEKS_OF_USE as i64).map(|week| newest.at.plus(-week * WEEK)).take_while(|start| *start >= first);
    let weekly = weeks.map(|start| used(start, start.plus(WEEK))).collect::<Result<Vec<f64>>>()?;
    Ok(Some(LookedAt { meter, at: newest.at, before, since, revised, count, told: use_per_day(&weekly) }))
}

/// What the counter read when work of plans that go by it was done; anew, where its readings were corrected.
fn note_done(conn: &Connection, meter: MeterId, at: Instant, count: f64, anew: bool) -> Result<()> {
    let mut select = conn.prepare_cached(
        "SELECT c.plan_id, c.asset_id, c.number,
             (SELECT max(s.at) FROM state_changes s WHERE s.work_order = c.work_order AND s.to_state = 'done') AS done_at
         FROM (SELECT id, NULL AS asset_id FROM upkeep_plans WHERE meter_id = ?1 AND every_units IS NOT NULL
             UNION ALL SELECT p.id, m.asset_id FROM meters m JOIN upkeep_plans p ON p.meter_id IS NULL AND p.every_units IS NOT NULL
             WHERE m.id = ?1 AND m.running_hours = 1) p
         JOIN upkeep_cycles c ON c.plan_id = p.id AND (p.asset_id IS NULL OR c.asset_id = p.asset_id)
         JOIN work_orders w ON w.number = c.work_order
         WHERE (c.done_count IS NULL OR ?2) AND w.state IN ('done', 'returned', 'closed')",
    )?;
    let code = meters::code_of(conn, meter)?;
    let mut rows = select.query(params![meter, anew])?;
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

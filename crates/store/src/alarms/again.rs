//! Rungs that stay entered answer again: by the clock, when their shelf or interval has ended or their work is done.

use super::respond::{Entered, Subject, answer};
use crate::{
    act::Act,
    error::{Result, StoreError},
    readings::Receipt,
};
use rusqlite::{Connection, OptionalExtension, params};
use tally_core::{
    ids::{AlarmId, MeterId, WorkOrderId},
    limits::responding_again,
    time::Instant,
    work::WorkState,
};

/// When the next standing alarm is due to answer again.
///
/// # Errors
/// SQLite's own.
pub fn next_due(conn: &Connection) -> Result<Option<Instant>> {
    let mut least =
        conn.prepare_cached("SELECT min(due_at) FROM alarms WHERE left_at IS NULL AND due_at IS NOT NULL")?;
    Ok(least.query_row([], |row| row.get::<_, Option<i64>>(0))?.map(Instant::from_ms))
}

/// Lets every alarm answer that is due by now; says what came of it.
///
/// # Errors
/// SQLite's own.
pub fn answer_due(act: &mut Act) -> Result<Receipt> {
    let mut receipt = Receipt::default();
    let by_now = act.now.plus(1);
    let mut due = act.conn.prepare(
        "SELECT DISTINCT m.code FROM alarms a JOIN meters m ON m.id = a.meter_id
         WHERE a.left_at IS NULL AND a.due_at < ?1 ORDER BY a.due_at",
    )?;
    let meters = due.query_map([by_now.ms()], |row| row.get(0))?.collect::<rusqlite::Result<Vec<String>>>()?;
    drop(due);
    for code in meters {
        before(act, &code, by_now, &mut receipt)?;
    }
    Ok(receipt)
}

/// Lets the alarms of one meter answer that are due before an instant, in order of time.
pub(crate) fn before(act: &mut Act, code: &str, at: Instant, receipt: &mut Receipt) -> Result<()> {
    loop {
        let meter = act.meters.get(act.conn, code)?;
        let (id, last) = (meter.id, meter.last);
        let Some(due) = first_due(act.conn, id, at)? else { return Ok(()) };
        let Some(subject) = Subject::of(act, code)? else { return Ok(()) };
        act.news.alarms = true;
        let standing = due_at(act.conn, id, due)?;
        act.conn
            .prepare_cached("UPDATE alarms SET due_at = NULL WHERE meter_id = ?1 AND left_at IS NULL AND due_at = ?2")?
            .execute(params![id.0, due.ms()])?;
        let rungs = standing.iter().map(|(_, entered)| entered.rung).collect();
        for rung in responding_again(&subject.ladder.rungs, rungs, subject.ladder.separate_work) {
            let Some((alarm, entered)) = standing.iter().find(|(_, entered)| entered.rung == rung) else { continue };
            put_away(act, *alarm)?;
            // What is said is what is known by now, not what was read when the rung was entered.
            let value = last.map_or(entered.value, |last| last.value);
            let now_at = Entered { at: due, value, ..*entered };
            let answered = answer(act, &subject, now_at, receipt)?;
            answered.write(act, *alarm, due)?;
        }
    }
}

fn first_due(conn: &Connection, meter: MeterId, before: Instant) -> Result<Option<Instant>> {
    let mut least = conn.prepare_cached(
        "SELECT min(due_at) FROM alarms WHERE meter_id = ?1 AND left_at IS NULL AND due_at IS NOT NULL AND due_at < ?2",
    )?;
    Ok(least.query_row(params![meter.0, before.ms()], |row| row.get::<_, Option<i64>>(0))?.map(Instant::from_ms))
}

fn due_at(conn: &Connection, meter: MeterId, due: Instant) -> Result<Vec<(AlarmId, Entered)>> {
    let mut select = conn.prepare_cached(
        "SELECT id, rung, value, looked_at FROM alarms WHERE meter_id = ?1 AND left_at IS NULL AND due_at = ?2",
    )?;
    let rows = select.query_map(params![meter.0, due.ms()], |row| {
        let entered = Entered { rung: row.get(1)?, at: due, value: row.get(2)?, looked_at: row.get(3)? };
        Ok((AlarmId(row.get(0)?), entered))
    })?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

/// The answer so far goes to the earlier ones.
fn put_away(act: &Act, alarm: AlarmId) -> Result<()> {
    let mut keep = act.conn.prepare_cached(
        "INSERT OR REPLACE INTO earlier_answers (alarm_id, at, response, held_by, work_order)
         SELECT id, answered_at, response, held_by, work_order FROM alarms WHERE id = ?1",
    )?;
    keep.execute([alarm.0])?;
    Ok(())
}

/// Work was done or dropped, or taken up again: its alarms that still stand answer again, or wait on.
pub(crate) fn work_moved(act: &Act, work: WorkOrderId, from: WorkState, to: WorkState, at: Instant) -> Result<()> {
    let due = match (from.is_open(), to.is_open()) {
        (true, false) => Some(at.ms()),
        (false, true) => None,
        _ => return Ok(()),
    };
    act.conn
        .prepare_cached("UPDATE alarms SET due_at = max(?2, answered_at) WHERE work_order = ?1 AND left_at IS NULL")?
        .execute(params![work.0, due])?;
    Ok(())
}

/// The end of a shelf was moved: alarms that it holds are due with it.
pub(super) fn shelf_moved(act: &Act, meter: MeterId, end: Instant) -> Result<()> {
    act.conn
        .prepare_cached(
            "UPDATE alarms SET due_at = max(?2, answered_at) WHERE meter_id = ?1 AND left_at IS NULL
               AND response = 'held' AND json_extract(held_by, '$.kind') = 'shelf'",
        )?
        .execute(params![meter.0, end.ms()])?;
    Ok(())
}

/// Whether an alarm exists.
pub(super) fn require(conn: &Connection, alarm: AlarmId) -> Result<()> {
    let found: Option<i64> =
        conn.prepare_cached("SELECT 1 FROM alarms WHERE id = ?1")?.query_row([alarm.0], |row| row.get(0)).optional()?;
    found.map(|_| ()).ok_or_else(|| StoreError::not_found("alarm", alarm))
}

//! Rungs that stay entered answer again: by the clock, when their shelf, spell or interval has ended; by a reading, when it
//! is the first after their work was finished and still beyond.

use super::respond::{Entered, Subject, answer_together};
use crate::{
    act::Act,
    error::{Result, StoreError},
    meter_states::{LookedAt, looked_at},
    readings::{Receipt, history},
    rows::word,
};
use rusqlite::{Connection, OptionalExtension, params};
use tally_core::{
    ids::{AlarmId, MeterId, WorkOrderId},
    limits::{Waits, waits_for_a_reading},
    readings::Reading,
    time::{HOUR, Instant},
    work::WorkState,
};

/// When the next standing alarm is due to answer again by the clock.
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

/// A standing alarm that waits for an instant or a reading.
struct Standing {
    alarm: AlarmId,
    rung: usize,
    value: f64,
    looked_at: Option<f64>,
    waits: Waits,
    /// When the work that it waits for was finished.
    finished_at: Option<Instant>,
}

impl Standing {
    fn entered(&self, at: Instant, reading: Option<Reading>, after: Option<WorkOrderId>) -> Entered {
        // What is said is what is known by then, not what was read when the rung was entered.
        let value = reading.map_or(self.value, |reading| reading.value);
        Entered { rung: self.rung, at, value, looked_at: self.looked_at, alarm: Some(self.alarm), after }
    }
}

fn standing(conn: &Connection, meter: MeterId) -> Result<Vec<Standing>> {
    let mut select = conn.prepare_cached(
        "SELECT id, rung, value, looked_at, due_at, waits_work, finished_at FROM alarms
         WHERE meter_id = ?1 AND left_at IS NULL AND (due_at IS NOT NULL OR finished_at IS NOT NULL)",
    )?;
    let rows = select.query_map([meter], |row| {
        let (work, due): (Option<WorkOrderId>, Option<Instant>) = (row.get(5)?, row.get(4)?);
        Ok(Standing {
            alarm: row.get(0)?,
            rung: row.get(1)?,
            value: row.get(2)?,
            looked_at: row.get(3)?,
            waits: work.map(Waits::Work).or(due.map(Waits::Until)).unwrap_or(Waits::Never),
            finished_at: row.get(6)?,
        })
    })?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

/// The readings after the earliest finish that some alarm waits on.
fn after_finishes(
    act: &mut Act,
    subject: &Subject,
    standing: &[Standing],
    before: Instant,
) -> Result<Option<LookedAt>> {
    let Some(from) = standing.iter().filter_map(|one| one.finished_at).min() else { return Ok(None) };
    let conn = act.conn;
    let code_of_meter = act.meters.code_of(conn, subject.id)?;
    let meter = act.meters.get(conn, &code_of_meter)?;
    let Some(running) = &meter.ladder else { return Ok(None) };
    looked_at(conn, subject.id, &subject.rules, running, subject.gate, (from, before)).map(Some)
}

/// What is due of one alarm before an instant: when, and whether by a reading.
fn due_of(
    act: &Act,
    subject: &Subject,
    one: &Standing,
    seen: Option<&LookedAt>,
    before: Instant,
) -> Result<Option<(Instant, bool)>> {
    match (one.waits, one.finished_at, seen) {
        (Waits::Until(due), ..) if due < before => {
            let runs = match subject.gate {
                Some(gate) => gate.runs_from(act.conn, due, before)?,
                None => Some(due),
            };
            if runs.is_none() && before.since(due) > HOUR {
                // Suspended all the time: it need not be looked through again.
                act.conn
                    .prepare_cached("UPDATE alarms SET due_at = ?2 WHERE id = ?1")?
                    .execute(params![one.alarm, before.plus(-1).ms()])?;
            }
            Ok(runs.filter(|at| *at < before).map(|at| (at, false)))
        }
        (Waits::Work(_), Some(after), Some(seen)) => {
            let part = 0..seen.columns.len();
            let beyond = subject.machine.first_beyond(one.rung, seen.series(), part, after, before);
            Ok(beyond.map(|at| (at, true)))
        }
        _ => Ok(None),
    }
}

/// Lets the alarms of one meter answer that are due before an instant, in order of time.
pub(crate) fn before(act: &mut Act, code: &str, at: Instant, receipt: &mut Receipt) -> Result<()> {
    loop {
        let id = act.meters.get(act.conn, code)?.id;
        let all = standing(act.conn, id)?;
        act.meters.get(act.conn, code)?.awaits = all.iter().any(|one| one.finished_at.is_some());
        if all.is_empty() {
            return Ok(());
        }
        let Some(subject) = Subject::of(act, code)? else { return Ok(()) };
        let seen = after_finishes(act, &subject, &all, at)?;
        let mut due = Vec::new();
        for one in &all {
            due.extend(due_of(act, &subject, one, seen.as_ref(), at)?.map(|due| (due, one)));
        }
        // At one instant a reading comes before the clock.
        let Some((first, is_reading)) = due.iter().map(|(due, _)| *due).min_by_key(|due| (due.0, !due.1)) else {
            return Ok(());
        };
        let reading = history::last_before(act.conn, id, first.plus(1))?;
        let mut answering = Vec::new();
        for (_, one) in due.iter().filter(|(due, _)| *due == (first, is_reading)) {
            match one.waits {
                Waits::Work(work) => answering.push(one.entered(first, reading, Some(work))),
                _ => answering.push(one.entered(first, reading, None)),
            }
        }
        let read_at = if is_reading { None } else { Some(reading.map_or(Instant::EARLIEST, |reading| reading.at)) };
        answer_again(act, &subject, answering, read_at, receipt)?;
    }
}

/// Those that wait for a reading first do so without another answer; the others answer.
fn answer_again(
    act: &mut Act,
    subject: &Subject,
    answering: Vec<Entered>,
    read_at: Option<Instant>,
    receipt: &mut Receipt,
) -> Result<()> {
    let mut ready = Vec::with_capacity(answering.len());
    for entered in answering {
        let unread = unread_since_finished(act, subject, entered.rung, read_at, entered.at)?;
        match (unread, entered.alarm) {
            (Some((work, finished_at)), Some(alarm)) => {
                act.conn
                    .prepare_cached("UPDATE alarms SET due_at = NULL, waits_work = ?2, finished_at = ?3 WHERE id = ?1")?
                    .execute(params![alarm, work, finished_at])?;
                expect_reading(act, subject.id)?;
            }
            _ => ready.push(entered),
        }
    }
    answer_together(act, subject, &ready, None, receipt)
}

/// Alarms that wait for a reading after their work was finished, and that this reading decides on: it is still beyond.
pub(super) fn decided_at(act: &mut Act, subject: &Subject, reading: Reading) -> Result<Vec<Entered>> {
    let mut waiting = standing(act.conn, subject.id)?;
    waiting.retain(|one| one.finished_at.is_some_and(|finished| finished < reading.at));
    let after = reading.at.plus(1);
    let seen = after_finishes(act, subject, &waiting, after)?;
    let mut decided = Vec::new();
    for one in &waiting {
        if due_of(act, subject, one, seen.as_ref(), after)? == Some((reading.at, true))
            && let Waits::Work(work) = one.waits
        {
            decided.push(one.entered(reading.at.max(subject.starts_at), Some(reading), Some(work)));
        }
    }
    Ok(decided)
}

/// Where a rung would answer by the clock or from an older reading (`read_at`): the work of its side that was finished since
/// that reading, and when.
pub(super) fn unread_since_finished(
    act: &Act,
    subject: &Subject,
    rung: usize,
    read_at: Option<Instant>,
    at: Instant,
) -> Result<Option<(WorkOrderId, Instant)>> {
    let Some(read_at) = read_at else { return Ok(None) };
    let mut select = act.conn.prepare_cached(
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
pub(super) fn expect_reading(act: &mut Act, meter: MeterId) -> Result<()> {
    let code = act.meters.code_of(act.conn, meter)?;
    act.meters.get(act.conn, &code)?.awaits = true;
    Ok(())
}

/// Whether some alarm of a meter waits for the first reading after a finished repair.
pub(crate) fn awaits_reading(conn: &Connection, meter: MeterId) -> Result<bool> {
    let mut find = conn
        .prepare_cached("SELECT 1 FROM alarms WHERE meter_id = ?1 AND left_at IS NULL AND finished_at IS NOT NULL")?;
    Ok(find.exists([meter])?)
}

/// Work was done, dropped, or taken up again: alarms that wait for it wait for a reading, for nothing, or on.
pub(crate) fn work_moved(act: &mut Act, work: WorkOrderId, from: WorkState, to: WorkState, at: Instant) -> Result<()> {
    let change = match (from.is_open(), to.is_open(), to) {
        (true, false, WorkState::Dropped) => "waits_work = NULL, finished_at = NULL, due_at = NULL",
        (true, false, _) => "finished_at = ?2",
        (false, true, _) => "finished_at = NULL",
        _ => return Ok(()),
    };
    let mut waiting = act.conn.prepare_cached(
        "SELECT DISTINCT m.code FROM alarms a JOIN meters m ON m.id = a.meter_id
         WHERE a.waits_work = ?1 AND a.left_at IS NULL",
    )?;
    let meters = waiting.query_map([work], |row| row.get(0))?.collect::<rusqlite::Result<Vec<String>>>()?;
    act.conn
        .prepare_cached(&format!("UPDATE alarms SET {change} WHERE waits_work = ?1 AND left_at IS NULL AND ?2 = ?2"))?
        .execute(params![work, at])?;
    for code in meters {
        act.news.alarms = true;
        act.meters.forget(&code);
        // What was read since may have been sent already.
        before(act, &code, act.now.plus(1), &mut Receipt::default())?;
    }
    Ok(())
}

/// The end of a shelf, or of a spell out of use, was moved: alarms of the meters that it holds are due with it.
pub(super) fn end_moved(act: &mut Act, meters: &[MeterId], kind: &str, end: Option<Instant>) -> Result<()> {
    let mut update = act.conn.prepare_cached(
        "UPDATE alarms SET due_at = max(?2, answered_at),
             held_by = CASE WHEN ?2 IS NULL THEN json_remove(held_by, '$.until')
                            ELSE json_set(held_by, '$.until', ?4) END
         WHERE meter_id = ?1 AND left_at IS NULL AND json_extract(held_by, '$.kind') = ?3
           AND ifnull(due_at, ?5 + 1) > ?5",
    )?;
    // What an earlier one held, and is due by now, is not held by this one yet.
    for meter in meters {
        let said = end.map(|end| end.to_string());
        update.execute(params![meter, end, kind, said, act.now])?;
    }
    act.news.alarms = true;
    Ok(())
}

/// Whether an alarm exists.
pub(super) fn require(conn: &Connection, alarm: AlarmId) -> Result<()> {
    let found: Option<i64> =
        conn.prepare_cached("SELECT 1 FROM alarms WHERE id = ?1")?.query_row([alarm], |row| row.get(0)).optional()?;
    found.map(|_| ()).ok_or_else(|| StoreError::not_found("alarm", alarm))
}

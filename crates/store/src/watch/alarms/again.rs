//! Rungs that stay entered answer again: by the clock, when their shelf, spell or interval has ended; by a reading, when it
//! is the first after their work was finished and still beyond.

use super::{
    answer::answer_together,
    repairs::{expect_reading, unread_since_finished},
    subject::{Entered, Subject},
};
use crate::{
    ground::{error::Result, sql::Rows, tx::Tx},
    watch::{
        meter_states::{LookedAt, looked_at},
        meters,
        readings::history,
    },
    work::run_on,
};
use rusqlite::{Connection, params};
use tally_core::{
    ground::{
        ids::{AlarmId, MeterId, WorkOrderId},
        time::{HOUR, Instant},
    },
    watch::{batch::Receipt, limits::Waits, readings::Reading},
    work::WorkState,
};

/// When the next standing alarm is due to answer again by the clock.
///
/// # Errors
/// SQLite's own.
pub fn next_due(rows: &dyn Rows) -> Result<Option<Instant>> {
    let conn = rows.sql().conn;
    let mut least =
        conn.prepare_cached("SELECT min(due_at) FROM alarms WHERE left_at IS NULL AND due_at IS NOT NULL")?;
    Ok(least.query_row([], |row| row.get::<_, Option<i64>>(0))?.map(Instant::from_ms))
}

/// Lets every alarm answer that is due by now; says what came of it.
///
/// # Errors
/// SQLite's own.
pub fn answer_due(tx: &mut Tx) -> Result<Receipt> {
    let mut receipt = Receipt::default();
    let by_now = tx.now.plus(1);
    let mut due = tx.conn.prepare(
        "SELECT DISTINCT m.code FROM alarms a JOIN meters m ON m.id = a.meter_id
         WHERE a.left_at IS NULL AND a.due_at < ?1 ORDER BY a.due_at",
    )?;
    let meters = due.query_map([by_now.ms()], |row| row.get(0))?.collect::<rusqlite::Result<Vec<String>>>()?;
    drop(due);
    for code in meters {
        before(tx, &code, by_now, &mut receipt)?;
    }
    Ok(receipt)
}

/// A standing alarm that waits for an instant or a reading.
struct WaitingAlarm {
    alarm: AlarmId,
    rung: usize,
    value: f64,
    looked_at: Option<f64>,
    waits: Waits,
    /// When the work that it waits for was finished.
    finished_at: Option<Instant>,
}

impl WaitingAlarm {
    fn entered(&self, at: Instant, reading: Option<Reading>, after: Option<WorkOrderId>) -> Entered {
        // What is said is what is known by then, not what was read when the rung was entered.
        let value = reading.map_or(self.value, |reading| reading.value);
        Entered { rung: self.rung, at, value, looked_at: self.looked_at, alarm: Some(self.alarm), after }
    }
}

fn standing(conn: &Connection, meter: MeterId) -> Result<Vec<WaitingAlarm>> {
    let mut select = conn.prepare_cached(
        "SELECT id, rung, value, looked_at, due_at, waits_work, finished_at FROM alarms
         WHERE meter_id = ?1 AND left_at IS NULL AND (due_at IS NOT NULL OR finished_at IS NOT NULL)",
    )?;
    let rows = select.query_map([meter], |row| {
        let (work, due): (Option<WorkOrderId>, Option<Instant>) = (row.get(5)?, row.get(4)?);
        Ok(WaitingAlarm {
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
    tx: &mut Tx,
    subject: &Subject,
    standing: &[WaitingAlarm],
    before: Instant,
) -> Result<Option<LookedAt>> {
    let Some(from) = standing.iter().filter_map(|one| one.finished_at).min() else { return Ok(None) };
    let conn = tx.conn;
    let code_of_meter = meters::code_of(tx.conn, subject.id)?;
    let meter = tx.meter(&code_of_meter)?;
    let Some(running) = &meter.ladder else { return Ok(None) };
    looked_at(conn, subject.id, &subject.rules, running, subject.gate, (from, before)).map(Some)
}

/// What is due of one alarm before an instant: when, and whether by a reading.
fn due_of(
    tx: &Tx,
    subject: &Subject,
    one: &WaitingAlarm,
    seen: Option<&LookedAt>,
    before: Instant,
) -> Result<Option<(Instant, bool)>> {
    match (one.waits, one.finished_at, seen) {
        (Waits::Until(due), ..) if due < before => {
            let runs = match subject.gate {
                Some(gate) => gate.runs_from(tx.conn, due, before)?,
                None => Some(due),
            };
            if runs.is_none() && before.since(due) > HOUR {
                // Suspended all the time: it need not be looked through again.
                tx.conn
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
pub(crate) fn before(tx: &mut Tx, code: &str, at: Instant, receipt: &mut Receipt) -> Result<()> {
    loop {
        let id = tx.meter(code)?.id;
        let all = standing(tx.conn, id)?;
        tx.meter(code)?.awaits = all.iter().any(|one| one.finished_at.is_some());
        if all.is_empty() {
            return Ok(());
        }
        let Some(subject) = Subject::of(tx, code)? else { return Ok(()) };
        let seen = after_finishes(tx, &subject, &all, at)?;
        let mut due = Vec::new();
        for one in &all {
            due.extend(due_of(tx, &subject, one, seen.as_ref(), at)?.map(|due| (due, one)));
        }
        // At one instant a reading comes before the clock.
        let Some((first, is_reading)) = due.iter().map(|(due, _)| *due).min_by_key(|due| (due.0, !due.1)) else {
            return Ok(());
        };
        let reading = history::last_before(tx.conn, id, first.plus(1))?;
        let mut answering = Vec::new();
        for (_, one) in due.iter().filter(|(due, _)| *due == (first, is_reading)) {
            match one.waits {
                Waits::Work(work) => answering.push(one.entered(first, reading, Some(work))),
                _ => answering.push(one.entered(first, reading, None)),
            }
        }
        let read_at = if is_reading { None } else { Some(reading.map_or(Instant::EARLIEST, |reading| reading.at)) };
        answer_again(tx, &subject, answering, read_at, receipt)?;
    }
}

/// Those that wait for a reading first do so without another answer; the others answer.
fn answer_again(
    tx: &mut Tx,
    subject: &Subject,
    answering: Vec<Entered>,
    read_at: Option<Instant>,
    receipt: &mut Receipt,
) -> Result<()> {
    let mut ready = Vec::with_capacity(answering.len());
    for entered in answering {
        let unread = unread_since_finished(tx, subject, entered.rung, read_at, entered.at)?;
        match (unread, entered.alarm) {
            (Some((work, finished_at)), Some(alarm)) => {
                tx.conn
                    .prepare_cached("UPDATE alarms SET due_at = NULL, waits_work = ?2, finished_at = ?3 WHERE id = ?1")?
                    .execute(params![alarm, work, finished_at])?;
                expect_reading(tx, subject.id)?;
            }
            _ => ready.push(entered),
        }
    }
    answer_together(tx, subject, &ready, None, receipt)
}

/// Alarms that wait for a reading after their work was finished, and that this reading decides on: it is still beyond.
pub(super) fn decided_at(tx: &mut Tx, subject: &Subject, reading: Reading) -> Result<Vec<Entered>> {
    let mut waiting = standing(tx.conn, subject.id)?;
    waiting.retain(|one| one.finished_at.is_some_and(|finished| finished < reading.at));
    let after = reading.at.plus(1);
    let seen = after_finishes(tx, subject, &waiting, after)?;
    let mut decided = Vec::new();
    for one in &waiting {
        if due_of(tx, subject, one, seen.as_ref(), after)? == Some((reading.at, true))
            && let Waits::Work(work) = one.waits
        {
            decided.push(one.entered(reading.at.max(subject.starts_at), Some(reading), Some(work)));
        }
    }
    Ok(decided)
}

/// Work was done, dropped, or taken up again: alarms that wait for it wait for a reading, for nothing, or on.
pub(crate) fn work_moved(tx: &mut Tx, work: WorkOrderId, from: WorkState, to: WorkState, at: Instant) -> Result<()> {
    let change = match (from.is_open(), to.is_open(), to) {
        (true, false, WorkState::Dropped) => "waits_work = NULL, finished_at = NULL, due_at = NULL",
        (true, false, _) => "finished_at = ?2",
        (false, true, _) => "finished_at = NULL",
        _ => return Ok(()),
    };
    let mut waiting = tx.conn.prepare_cached(
        "SELECT DISTINCT m.code FROM alarms a JOIN meters m ON m.id = a.meter_id
         WHERE a.waits_work = ?1 AND a.left_at IS NULL",
    )?;
    let meters = waiting.query_map([work], |row| row.get(0))?.collect::<rusqlite::Result<Vec<String>>>()?;
    tx.conn
        .prepare_cached(&format!("UPDATE alarms SET {change} WHERE waits_work = ?1 AND left_at IS NULL AND ?2 = ?2"))?
        .execute(params![work, at])?;
    // What the same work's decision to run on held back is due as well.
    let mut decided = tx
        .conn
        .prepare_cached("SELECT DISTINCT meter_id FROM risk_decisions WHERE work_order = ?1 AND answer = 'run_on'")?;
    let quiet = decided.query_map([work], |row| row.get(0))?.collect::<rusqlite::Result<Vec<MeterId>>>()?;
    drop(decided);
    for meter in quiet {
        run_on::release(tx, meter, at)?;
    }
    for code in meters {
        tx.news.alarms = true;
        tx.forget_meter(&code);
        // What was read since may have been sent already.
        before(tx, &code, tx.now.plus(1), &mut Receipt::default())?;
    }
    Ok(())
}

/// The end of a shelf, or of a spell out of use, was moved: alarms of the meters that it holds are due with it.
pub(super) fn end_moved(tx: &mut Tx, meters: &[MeterId], kind: &str, end: Option<Instant>) -> Result<()> {
    let mut update = tx.conn.prepare_cached(
        "UPDATE alarms SET due_at = max(?2, answered_at),
             held_by = CASE WHEN ?2 IS NULL THEN json_remove(held_by, '$.until')
                            ELSE json_set(held_by, '$.until', ?4) END
         WHERE meter_id = ?1 AND left_at IS NULL AND json_extract(held_by, '$.kind') = ?3
           AND ifnull(due_at, ?5 + 1) > ?5",
    )?;
    // What an earlier one held, and is due by now, is not held by this one yet.
    for meter in meters {
        let said = end.map(|end| end.to_string());
        update.execute(params![meter, end, kind, said, tx.now])?;
    }
    tx.news.alarms = true;
    Ok(())
}

//! A meter's machine made anew from its readings, because what it had gone through was voided, released or came late. What
//! stands afterwards is what a replay finds standing; the past stays as it was, and what differs in it is listed for a
//! person.

use super::{
    late::{LateKind, note_late},
    set_off::stand,
    subject::Subject,
};
use crate::{
    ground::{error::Result, tx::Tx, view::View},
    watch::meter_states::looked_at,
};
use rusqlite::{Connection, params};
use std::collections::HashMap;
use tally_core::{
    ground::{
        ids::{AlarmId, LadderVersionId, MeterId},
        time::Instant,
    },
    watch::{
        batch::Receipt,
        limits::{Change, RungState},
        readings::Reading,
    },
};

/// What made it necessary.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) enum Cause {
    /// The reading of that instant was voided.
    Voided(Reading),
    /// A reading came late, or was released after it had been kept apart.
    Came,
}

/// A rung as the readings have it: whether it stands, and since which reading.
#[derive(Debug, Clone, Copy)]
struct Course {
    entered: Option<(Reading, f64)>,
}

/// An alarm of the running version as it is kept.
struct KeptAlarm {
    id: AlarmId,
    rung: usize,
    entered_at: Instant,
    value: f64,
    left_at: Option<Instant>,
}

/// Makes the machine of a meter anew and settles what stands: an alarm that stands no more ends, as *voided* where the
/// voided reading made it; a rung that stands without an alarm gets one, dated by now, and answers once.
pub(crate) fn remake(tx: &mut Tx, code: &str, cause: Cause, receipt: &mut Receipt) -> Result<()> {
    let Some(subject) = Subject::of(tx, code)? else { return Ok(()) };
    let conn = tx.conn;
    let meter = tx.meter(code)?;
    let Some(running) = &mut meter.ladder else { return Ok(()) };
    let seen =
        looked_at(conn, subject.id, &subject.rules, running, subject.gate, (subject.starts_at, Instant::LATEST))?;
    let mut states: Vec<RungState> = subject.machine.at_rest();
    let mut courses = vec![Course { entered: None }; states.len()];
    // Every entering the readings speak of, dated as live evaluation would have.
    let mut entered: HashMap<(usize, Instant), f64> = HashMap::new();
    let series = seen.series();
    subject.machine.run(&mut states, series, 0..seen.columns.len(), &mut |at, changed| {
        for transition in changed {
            let place = seen.columns.at().partition_point(|one| *one < at.ms());
            let reading = series.reading(place);
            match transition.change {
                Change::Entered => {
                    entered.insert((transition.rung, at.max(subject.starts_at)), transition.looked_at);
                    courses[transition.rung].entered = Some((reading, transition.looked_at));
                }
                Change::Left => courses[transition.rung].entered = None,
            }
        }
    });
    running.stand(states);
    running.keep(conn, subject.id)?;
    let kept = kept(conn, subject.id, subject.version)?;
    settle(tx, &subject, cause, &kept, &courses)?;
    if let Cause::Voided(voided) = cause {
        let gone = kept.iter().filter(|alarm| {
            alarm.left_at.is_some()
                && alarm.entered_at == voided.at.max(subject.starts_at)
                && !entered.contains_key(&(alarm.rung, alarm.entered_at))
        });
        for alarm in gone {
            let reading = Reading { at: voided.at, value: alarm.value };
            note_late(tx, subject.id, reading, &subject.ladder.rungs[alarm.rung], LateKind::Voided)?;
        }
    }
    let standing: Vec<usize> = kept.iter().filter(|alarm| alarm.left_at.is_none()).map(|alarm| alarm.rung).collect();
    let new: Vec<(usize, Reading, f64)> = courses
        .iter()
        .enumerate()
        .filter(|(rung, _)| !standing.contains(rung))
        .filter_map(|(rung, course)| course.entered.map(|(reading, looked_at)| (rung, reading, looked_at)))
        .collect();
    // What is said is what was read last, and that is also how old the news is.
    let newest = seen.columns.len().checked_sub(1).map(|place| series.reading(place));
    let new: Vec<_> =
        new.into_iter().map(|(rung, reading, looked_at)| (rung, newest.unwrap_or(reading), looked_at)).collect();
    stand(tx, &subject, &new, receipt)
}

fn kept(conn: &Connection, meter: MeterId, version: LadderVersionId) -> Result<Vec<KeptAlarm>> {
    let mut select = conn.prepare_cached(
        "SELECT id, rung, entered_at, value, left_at FROM alarms
         WHERE meter_id = ?1 AND version_id = ?2 AND kind = 'limit' AND ifnull(left_by, '') <> 'voided'",
    )?;
    let mut rows = select.query(params![meter, version])?;
    let mut kept = Vec::new();
    while let Some(row) = rows.next()? {
        kept.push(KeptAlarm {
            id: row.get("id")?,
            rung: row.get("rung")?,
            entered_at: row.get("entered_at")?,
            value: row.get("value")?,
            left_at: row.get("left_at")?,
        });
    }
    Ok(kept)
}

/// Alarms that stand no more end now.
fn settle(tx: &mut Tx, subject: &Subject, cause: Cause, kept: &[KeptAlarm], courses: &[Course]) -> Result<()> {
    let mut end = tx.conn.prepare_cached(
        "UPDATE alarms SET left_at = max(?2, entered_at), left_by = ?3, due_at = NULL, waits_work = NULL,
             finished_at = NULL WHERE id = ?1",
    )?;
    for alarm in kept.iter().filter(|alarm| alarm.left_at.is_none() && courses[alarm.rung].entered.is_none()) {
        let by = match cause {
            Cause::Voided(voided) if voided.at.max(subject.starts_at) <= alarm.entered_at => "voided",
            Cause::Voided(_) | Cause::Came => "readings",
        };
        end.execute(params![alarm.id, tx.now, by])?;
        tx.news.alarms = true;
    }
    Ok(())
}

/// Ends what stands on meters that are retired, or whose asset is; says of how many alarms.
///
/// # Errors
/// SQLite's own.
pub fn end_retired(tx: &mut Tx) -> Result<usize> {
    let mut standing = tx.conn.prepare_cached(RETIRED)?;
    let rows = standing.query_map([tx.now.ms()], |row| Ok((row.get::<_, i64>(0)?, row.get::<_, i64>(1)?)))?;
    let found = rows.collect::<rusqlite::Result<Vec<_>>>()?;
    let mut end = tx.conn.prepare_cached(
        "UPDATE alarms SET left_at = max(?2, entered_at), left_by = 'retired', due_at = NULL, waits_work = NULL,
             finished_at = NULL WHERE id = ?1",
    )?;
    for (alarm, at) in &found {
        end.execute(params![alarm, at])?;
    }
    tx.news.alarms |= !found.is_empty();
    Ok(found.len())
}

const RETIRED: &str = "SELECT al.id, min(ifnull(m.retired_at, a.retired_at), ifnull(a.retired_at, m.retired_at))
     FROM alarms al JOIN meters m ON m.id = al.meter_id JOIN assets a ON a.id = m.asset_id
     WHERE al.left_at IS NULL AND (m.retired_at <= ?1 OR a.retired_at <= ?1)";

/// Whether something stands on a meter that is retired, or whose asset is.
///
/// # Errors
/// SQLite's own.
pub fn retired_stand(view: &View) -> Result<bool> {
    let conn = view.conn;
    let now = view.now;
    Ok(conn.prepare_cached(RETIRED)?.exists([now.ms()])?)
}

//! What a reading sets off: rungs that it left end, rungs that it entered answer.

use super::{
    again,
    answer::answer_together,
    subject::{Entered, Subject},
};
use crate::{
    ground::{error::Result, tx::Tx},
    work::run_on::release,
};
use rusqlite::params;
use tally_core::{
    ground::time::Instant,
    watch::{
        batch::Receipt,
        limits::{Change, RungOn, Transition},
        readings::Reading,
    },
};

/// Writes what changed at a reading, and does what the responding rungs ask for. It is dated by the reading, but never
/// before its version began. What was due before it answers first.
pub(crate) fn set_off(
    tx: &mut Tx,
    code: &str,
    reading: Reading,
    changed: &[Transition],
    receipt: &mut Receipt,
) -> Result<()> {
    if changed.is_empty() {
        return Ok(());
    }
    again::before(tx, code, reading.at, receipt)?;
    let Some(subject) = Subject::of(tx, code)? else { return Ok(()) };
    let at = reading.at.max(subject.starts_at);
    let mut answering = Vec::new();
    for transition in changed {
        match transition.change {
            Change::Left => leave(tx, &subject, transition.rung, at)?,
            Change::Entered => {
                let on_value = subject.ladder.rungs[transition.rung].on() == RungOn::Value;
                answering.push(Entered {
                    rung: transition.rung,
                    at,
                    value: reading.value,
                    looked_at: (!on_value).then_some(transition.looked_at),
                    alarm: None,
                    after: None,
                });
            }
        }
    }
    // Repairs that this very reading decides on answer with what it entered.
    answering.extend(again::decided_at(tx, &subject, reading)?);
    let older = (at > reading.at).then_some(reading.at);
    answer_together(tx, &subject, &answering, older, receipt)?;
    // What was left, or is worse now, may have ended a decision that held others back.
    release(tx, subject.id, at)
}

fn leave(tx: &Tx, subject: &Subject, rung: usize, at: Instant) -> Result<()> {
    let mut update = tx.conn.prepare_cached(
        "UPDATE alarms SET left_at = max(?3, entered_at), left_by = 'readings', due_at = NULL, waits_work = NULL,
             finished_at = NULL
         WHERE meter_id = ?1 AND rung = ?2 AND left_at IS NULL AND kind = 'limit'",
    )?;
    update.execute(params![subject.id, rung, at])?;
    Ok(())
}

/// Rungs that stand though nobody wrote it, found when the machine was made anew: alarms dated by now.
pub(super) fn stand(
    tx: &mut Tx,
    subject: &Subject,
    rungs: &[(usize, Reading, f64)],
    receipt: &mut Receipt,
) -> Result<()> {
    let newest = rungs.iter().map(|(_, reading, _)| reading.at).max();
    let entered = |&(rung, reading, looked_at): &(usize, Reading, f64)| Entered {
        rung,
        at: tx.now,
        value: reading.value,
        looked_at: (subject.ladder.rungs[rung].on() != RungOn::Value).then_some(looked_at),
        alarm: None,
        after: None,
    };
    let answering: Vec<Entered> = rungs.iter().map(entered).collect();
    answer_together(tx, subject, &answering, newest, receipt)
}

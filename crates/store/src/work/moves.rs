//! Moves between states, and what closing needs.

use super::{
    current::{Current, Logged, log_state, mover, standing, state},
    missing::to_close,
    parts::release_all,
    running_time::stop_all,
};
use crate::{
    access::people,
    ground::{
        error::{Result, StoreError},
        tx::Tx,
    },
    outside::webhooks,
    plant::downtime,
    watch::{alarms, readings},
};
use rusqlite::params;
use tally_core::{
    ground::{ids::WorkOrderId, time::Instant},
    watch::{
        batch::{Batch, Incoming, Receipt},
        readings::Source,
    },
    work,
    work::{CheckedMove, MovedFrom, ReadingAfter, StateMove, WorkState},
};

/// Moves work to another state.
///
/// # Errors
/// [`StoreError::Conflict`] where there is no such move, [`StoreError::NotTheirs`] where it is another role's,
/// [`StoreError::Invalid`] for what the state needs and lacks.
pub fn set_state(tx: &mut Tx, work: WorkOrderId, to: &StateMove) -> Result<()> {
    tx.require_seen(work)?;
    let current = state(tx.conn, work)?;
    let from = MovedFrom {
        state: current.state,
        since: current.state_since,
        waiting_for: current.waiting_for,
        expected_until: current.expected_until,
        has_downtime: downtime::is_on(tx.conn, work)?,
    };
    let CheckedMove { at, note, question } = to.check(from, mover(tx.actor.role, tx.actor.id, &current), tx.now)?;
    // Whoever works on it works on it no more; their hours come before it is settled.
    if current.state == WorkState::UnderWay {
        stop_all(tx, work, at)?;
    }
    let mut asked = None;
    match to.to {
        WorkState::Returned => {
            if let Some(person) = to.asked.as_deref() {
                asked = Some(people::require_person(tx.conn, person, "asked")?.id.0);
            }
        }
        WorkState::Closed => close(tx, work, &current, at)?,
        WorkState::Dropped => {
            settle(tx, work, at)?;
            to.downtime.map_or(Ok(()), |becomes| downtime::dropped(tx, work, becomes, at, note.unwrap_or_default()))?;
        }
        _ => {}
    }
    // What was due before answers to the work as it was then.
    if let Some(meter) = standing(tx.conn, work)?.source_meter {
        alarms::answer_before(tx, &meter, at, &mut Receipt::default())?;
    }
    let waiting = to.to == WorkState::Waiting;
    // For another reason it still goes back to where it came from.
    let from = current.waiting_from.filter(|_| current.state == WorkState::Waiting).unwrap_or(current.state);
    tx.conn.execute(
        "UPDATE work_orders SET state = ?2, state_since = ?3, waiting_from = ?4, waiting_for = ?5, expected_until = ?6,
             question = ?7, asked_id = ?8, verdict = ifnull(?9, verdict) WHERE number = ?1",
        params![
            work,
            to.to,
            at,
            waiting.then_some(from),
            to.waiting_for.filter(|_| waiting),
            to.expected_until.filter(|_| waiting),
            if to.to == WorkState::Returned { question } else { None },
            asked,
            to.verdict,
        ],
    )?;
    tx.news.work = true;
    webhooks::emit(tx, "work_state", &serde_json::json!({ "number": work, "from": current.state, "to": to.to }))?;
    let waiting_for = to.waiting_for.filter(|_| waiting);
    log_state(tx, work, to.to, at, &Logged { from: Some(current.state), waiting_for, note: note.or(question) })?;
    alarms::work_moved(tx, work, current.state, to.to, at)?;
    read_after(tx, &to.readings, at)
}

/// Takes the readings that finishing asks for.
fn read_after(tx: &mut Tx, after: &[ReadingAfter], finished: Instant) -> Result<()> {
    if after.is_empty() {
        return Ok(());
    }
    let mut rows = Vec::with_capacity(after.len());
    for reading in after {
        let at = reading.at.unwrap_or(tx.now.max(finished.plus(1)));
        rows.push(Ok(Incoming { meter: reading.meter.clone(), at, value: reading.value.clone() }));
    }
    let batch = Batch { source: Source::Entered, name: None, strict: true };
    match readings::ingest(tx, &rows, batch) {
        Ok(_) => Ok(()),
        Err(StoreError::Strict(receipt)) => {
            let refused = receipt.refused.into_iter().next();
            let (place, reason) = refused.map_or((0, String::new()), |refused| (refused.index, refused.reason));
            Err(StoreError::invalid(format!("readings[{place}].value"), reason))
        }
        Err(error) => Err(error),
    }
}

/// What closing needs and does: nothing is missing, and the entries are settled.
fn close(tx: &Tx, work: WorkOrderId, current: &Current, at: Instant) -> Result<()> {
    work::check_close(current.kind, current.verdict, to_close(tx.conn, work)?)
        .map_err(|error| StoreError::invalid(error.field(), error))?;
    settle(tx, work, at)
}

/// What was spent is settled with the end of the work, whichever it is.
fn settle(tx: &Tx, work: WorkOrderId, at: Instant) -> Result<()> {
    tx.conn.execute(
        "UPDATE entries SET settled_at = ?2 WHERE work_order = ?1 AND settled_at IS NULL",
        params![work, at],
    )?;
    release_all(tx, work)
}

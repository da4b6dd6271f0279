//! Time of one or more people begins or ends by a press, or is typed.

use super::timers::{labour, of_person, start, stop};
use crate::{
    access::people,
    ground::{
        error::{Result, StoreError},
        tx::Tx,
    },
    work::{current::state, entries, moves::set_state},
};
use tally_core::{
    access::{refusal::said_at, roles::Action},
    ground::ids::{PersonId, WorkOrderId},
    work::{NewHours, StateMove, TimeChange, WorkState},
};

/// Somebody whose hours are meant.
struct Worker {
    id: PersonId,
    code: String,
    name: String,
}

/// Those who are named, or whoever says it. Each has a rate: else their hours would cost nobody knows what.
fn workers(tx: &Tx, codes: &[String]) -> Result<Vec<Worker>> {
    let mut own = tx.conn.prepare_cached("SELECT code FROM people WHERE id = ?1")?;
    let codes = match codes {
        [] => vec![own.query_row([tx.actor.id], |row| row.get(0))?],
        some => some.to_vec(),
    };
    let mut name = tx.conn.prepare_cached("SELECT name FROM people WHERE id = ?1")?;
    let mut workers: Vec<Worker> = Vec::with_capacity(codes.len());
    for (place, code) in codes.into_iter().enumerate() {
        let field = format!("people[{place}]");
        let id = people::require_person(tx.conn, &code, &field)?.id;
        let name: String = name.query_row([id], |row| row.get(0))?;
        if people::rate(tx.conn, id)?.is_none() {
            return Err(StoreError::invalid(field, format!("{name} has no rate: hours of theirs have no cost")));
        }
        if workers.iter().all(|other| other.id != id) {
            workers.push(Worker { id, code, name });
        }
    }
    Ok(workers)
}

/// Time of some people on an order begins, and the work with it; or it ends, and becomes an entry each. Whose time runs on another
/// order works there no more: it ends there.
///
/// # Errors
/// [`StoreError::Invalid`] by field, [`StoreError::Conflict`] where the order can't be worked on, or no time runs.
pub fn change(tx: &mut Tx, work: WorkOrderId, wanted: &TimeChange) -> Result<()> {
    tx.require(Action::ReportOnWork)?;
    tx.require_seen(work)?;
    let at = said_at("at", wanted.at, tx.now)?;
    let workers = workers(tx, &wanted.people)?;
    if !wanted.running {
        for worker in workers {
            let timer = of_person(tx.conn, worker.id)?.filter(|timer| timer.work == work);
            let none = || StoreError::Conflict(format!("no time of {} runs on this order", worker.name));
            stop(tx, &timer.ok_or_else(none)?, Some(at))?;
        }
        return Ok(());
    }
    if state(tx.conn, work)?.state != WorkState::UnderWay {
        set_state(tx, work, &StateMove { at: Some(at), ..StateMove::to(WorkState::UnderWay) })?;
    }
    for worker in workers {
        match of_person(tx.conn, worker.id)? {
            Some(timer) if timer.work == work => continue,
            Some(timer) => stop(tx, &timer, Some(at))?,
            None => {}
        }
        start(tx, work, worker.id, at)?;
    }
    Ok(())
}

/// Hours of some people on an order, an entry each.
///
/// # Errors
/// As [`entries::add`].
pub fn add_hours(tx: &mut Tx, work: WorkOrderId, new: &NewHours) -> Result<()> {
    tx.require_seen(work)?;
    let at = said_at("at", new.at, tx.now)?;
    for worker in workers(tx, &new.people)? {
        entries::add(tx, work, &labour(&worker.code, new.hours, at, &new.description)).map_err(
            |error| match error {
                StoreError::Invalid { field, reason } if field == "quantity" => StoreError::invalid("hours", reason),
                other => other,
            },
        )?;
    }
    Ok(())
}

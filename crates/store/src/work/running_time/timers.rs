//! Time that runs, and its end.

use crate::{
    ground::{
        error::{Result, StoreError},
        tx::Tx,
        view::View,
    },
    work::entries,
};
use rusqlite::{Connection, OptionalExtension, params};
use rust_decimal::Decimal;
use serde::Serialize;
use tally_core::{
    ground::{
        ids::{PersonId, WorkOrderId},
        time::Instant,
    },
    work::{
        check_stop,
        entries::{EntryKind, NewEntry},
    },
};
use utoipa::ToSchema;

/// Somebody's time that runs on an order.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct RunningTime {
    /// Code and name.
    pub person: String,
    pub name: String,
    pub since: Instant,
}

/// Whoever looks has time that runs on an order.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct OwnTime {
    pub work_order: WorkOrderId,
    pub title: String,
    pub since: Instant,
}

/// A person's time that runs.
pub(super) struct Timer {
    pub person: PersonId,
    pub code: String,
    pub name: String,
    pub work: WorkOrderId,
    pub started: Instant,
}

/// Timers under a condition on `t` with one number, in the order in which they began.
fn select(conn: &Connection, condition: &str, of: i64) -> Result<Vec<Timer>> {
    let mut select = conn.prepare_cached(&format!(
        "SELECT t.person_id, p.code, p.name, t.work_order, t.started_at FROM running_time t JOIN people p ON p.id = t.person_id
         WHERE {condition} ORDER BY t.started_at, p.name"
    ))?;
    let rows = select.query_map([of], |row| {
        Ok(Timer { person: row.get(0)?, code: row.get(1)?, name: row.get(2)?, work: row.get(3)?, started: row.get(4)? })
    })?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

/// Time that runs on an order.
pub(in crate::work) fn of_work(conn: &Connection, work: WorkOrderId) -> Result<Vec<RunningTime>> {
    let timers = select(conn, "t.work_order = ?1", work.0)?.into_iter();
    Ok(timers.map(|Timer { code, name, started, .. }| RunningTime { person: code, name, since: started }).collect())
}

pub(super) fn of_person(conn: &Connection, person: PersonId) -> Result<Option<Timer>> {
    Ok(select(conn, "t.person_id = ?1", person.0)?.pop())
}

/// The time of whoever looks.
pub(in crate::work) fn own(view: &View) -> Result<Option<OwnTime>> {
    let mut select = view.conn.prepare_cached(
        "SELECT t.work_order, w.title, t.started_at FROM running_time t JOIN work_orders w ON w.number = t.work_order
         WHERE t.person_id = ?1",
    )?;
    let found = select.query_row([view.viewer.person().0], |row| {
        Ok(OwnTime { work_order: row.get(0)?, title: row.get(1)?, since: row.get(2)? })
    });
    Ok(found.optional()?)
}

/// Time ends, and becomes an entry.
pub(super) fn stop(tx: &mut Tx, timer: &Timer, at: Option<Instant>) -> Result<()> {
    let (at, hours) = check_stop(timer.started, at, tx.now)?;
    tx.conn.prepare_cached("DELETE FROM running_time WHERE person_id = ?1")?.execute([timer.person.0])?;
    tx.touch("work order");
    if let Some(hours) = hours {
        entries::add(tx, timer.work, &labour(&timer.code, hours, at, ""))?;
    }
    Ok(())
}

/// Hours of a person, at their rate.
pub(super) fn labour(person: &str, hours: Decimal, at: Instant, description: &str) -> NewEntry {
    NewEntry {
        kind: EntryKind::Labour,
        asset: None,
        person: Some(person.into()),
        quantity: hours,
        unit_price: None,
        description: description.into(),
        item: None,
        supplier: None,
        at: Some(at),
    }
}

/// Time that runs on an order ends with what is done on it.
///
/// # Errors
/// [`StoreError::Invalid`] on `at` where it lies before somebody's time began; [`StoreError::Conflict`] for time that nobody stopped for longer than anybody works.
pub(in crate::work) fn stop_all(tx: &mut Tx, work: WorkOrderId, at: Instant) -> Result<()> {
    for timer in select(tx.conn, "t.work_order = ?1", work.0)? {
        if at < timer.started {
            let (who, since) = (&timer.name, timer.started);
            return Err(StoreError::invalid("at", format!("lies before the time of {who} began, at {since}")));
        }
        stop(tx, &timer, Some(at)).map_err(|error| match error {
            StoreError::Invalid { .. } => {
                let who = &timer.name;
                StoreError::Conflict(format!("the time of {who} runs since {}: say first when it ended", timer.started))
            }
            other => other,
        })?;
    }
    Ok(())
}

/// Begins somebody's time on an order.
pub(super) fn start(tx: &Tx, work: WorkOrderId, person: PersonId, at: Instant) -> Result<()> {
    tx.conn
        .prepare_cached(
            "INSERT INTO running_time (person_id, work_order, started_at, recorded_by) VALUES (?1, ?2, ?3, ?4)",
        )?
        .execute(params![person, work, at, tx.actor.id])?;
    tx.touch("work order");
    Ok(())
}

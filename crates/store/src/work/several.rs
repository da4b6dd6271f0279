//! The same done to several orders at once, each by its own rules, and put back.

use super::{
    current::{mover, state},
    moves::set_state,
    raise::{Dated, change},
};
use crate::ground::{
    error::{Result, StoreError},
    rows::{from_json, to_json},
    tx::Tx,
};
use rusqlite::{OptionalExtension, params};
use serde::{Deserialize, Serialize};
use tally_core::{
    access::roles::Action,
    ground::{ids::WorkOrderId, time::DAY},
    work::{Placed, Several, StateMove, WorkDifference},
};
use utoipa::ToSchema;

/// How long what several orders were is kept, to be put back.
const KEPT_MS: i64 = 7 * DAY;

/// One of several orders.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct SeveralRow {
    pub number: WorkOrderId,
    /// Nothing where there is no such order, or it is not to be seen.
    pub title: Option<String>,
    /// Why nothing is done to it; nothing where something is.
    pub refused: Option<String>,
    pub changes: Vec<WorkDifference>,
}

/// What was done to several orders.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct SeveralDone {
    /// By which it can be put back; nothing where nothing was done.
    pub batch: Option<i64>,
    pub done: usize,
    pub refused: usize,
    /// Those that nothing was done to, because they were so already, are neither done nor refused.
    pub orders: Vec<SeveralRow>,
}

/// An order as it was, and as it was after.
#[derive(Debug, Serialize, Deserialize)]
struct Kept {
    number: WorkOrderId,
    before: Placed,
    after: Placed,
}

/// Changes and moves several orders: each that takes it, all or nothing of one order.
///
/// # Errors
/// [`StoreError::Invalid`] for what fits none of them; what one order refuses is told with it.
pub fn several(tx: &mut Tx, asked: &Several) -> Result<SeveralDone> {
    asked.check()?;
    let mut kept = Vec::new();
    let orders = each(tx, asked.orders.iter().copied(), |tx, number| {
        tx.require_seen(number)?;
        let before = placed(tx, number)?;
        if let Some(to) = &asked.change {
            change(tx, number, to)?;
        }
        if let Some(to) = &asked.to {
            set_state(tx, number, to)?;
        }
        let after = placed(tx, number)?;
        let changes = before.changes(&after);
        kept.push(Kept { number, before, after });
        Ok(changes)
    })?;
    let batch = keep(tx, &kept)?;
    Ok(told(orders, batch))
}

/// Puts several orders back as they were: those that nobody changed since, where there is a way back.
///
/// # Errors
/// [`StoreError::NotFound`] for what was put back before, is another's, or long ago.
pub fn put_back(tx: &mut Tx, batch: i64) -> Result<SeveralDone> {
    let orders: Option<String> = tx
        .conn
        .prepare_cached("SELECT orders FROM work_batches WHERE id = ?1 AND person_id = ?2 AND at >= ?3")?
        .query_row(params![batch, tx.actor.id, tx.now.plus(-KEPT_MS)], |row| row.get(0))
        .optional()?;
    let orders = orders.ok_or_else(|| StoreError::not_found("change of several orders", batch))?;
    let kept: Vec<Kept> = from_json("work_batches", &orders)?;
    tx.conn.execute("DELETE FROM work_batches WHERE id = ?1", [batch])?;
    let mut of = kept.iter();
    let orders = each(tx, kept.iter().map(|one| one.number), |tx, number| {
        let Some(Kept { before, after, .. }) = of.next() else { return Ok(Vec::new()) };
        tx.require_seen(number)?;
        let now = placed(tx, number)?;
        let current = state(tx.conn, number)?;
        if !before.differs_in_state_only(after) {
            tx.require(Action::PlanWork)?;
        }
        before.check_back(after, &now, mover(tx.actor.role, tx.actor.id, &current))?;
        if !before.stands_as(&now) {
            let back = StateMove {
                waiting_for: before.waiting_for,
                expected_until: before.expected_until,
                note: Some("taken back".into()),
                ..StateMove::to(before.state)
            };
            set_state(tx, number, &back)?;
        }
        put(tx, number, before)?;
        tx.audit("put back", "work order", &number.to_string(), before)?;
        Ok(now.changes(&placed(tx, number)?))
    })?;
    Ok(told(orders, None))
}

fn told(orders: Vec<SeveralRow>, batch: Option<i64>) -> SeveralDone {
    let done = orders.iter().filter(|one| !one.changes.is_empty()).count();
    let refused = orders.iter().filter(|one| one.refused.is_some()).count();
    SeveralDone { batch, done, refused, orders }
}

/// Does something to each order: what one refuses is taken back, and told with it.
fn each(
    tx: &mut Tx,
    numbers: impl Iterator<Item = WorkOrderId>,
    mut work: impl FnMut(&mut Tx, WorkOrderId) -> Result<Vec<WorkDifference>>,
) -> Result<Vec<SeveralRow>> {
    let mut rows = Vec::new();
    for number in numbers {
        tx.conn.execute_batch("SAVEPOINT one_order")?;
        let done = work(tx, number);
        if done.is_err() {
            tx.conn.execute_batch("ROLLBACK TO one_order")?;
        }
        tx.conn.execute_batch("RELEASE one_order")?;
        let (refused, changes) = match done {
            Ok(changes) => (None, changes),
            Err(error) if error.is_refusal() => (Some(error.to_string()), Vec::new()),
            Err(error) => return Err(error),
        };
        let is_seen = tx.require_seen(number).is_ok();
        let title = if is_seen { title(tx, number)? } else { None };
        rows.push(SeveralRow { number, title, refused, changes });
    }
    Ok(rows)
}

fn title(tx: &Tx, number: WorkOrderId) -> Result<Option<String>> {
    let mut select = tx.conn.prepare_cached("SELECT title FROM work_orders WHERE number = ?1")?;
    Ok(select.query_row([number], |row| row.get(0)).optional()?)
}

/// Keeps what changed, so that it can be put back.
fn keep(tx: &Tx, kept: &[Kept]) -> Result<Option<i64>> {
    let changed: Vec<&Kept> = kept.iter().filter(|one| one.before != one.after).collect();
    if changed.is_empty() {
        return Ok(None);
    }
    tx.conn.execute("DELETE FROM work_batches WHERE at < ?1", [tx.now.plus(-KEPT_MS)])?;
    tx.conn.execute(
        "INSERT INTO work_batches (at, person_id, orders) VALUES (?1, ?2, ?3)",
        params![tx.now, tx.actor.id, to_json(&changed)],
    )?;
    Ok(Some(tx.conn.last_insert_rowid()))
}

fn placed(tx: &Tx, number: WorkOrderId) -> Result<Placed> {
    let mut select = tx.conn.prepare_cached(
        "SELECT w.*, c.code AS crew, p.code AS assignee FROM work_orders w LEFT JOIN crews c ON c.id = w.crew_id
         LEFT JOIN people p ON p.id = w.assignee_id WHERE w.number = ?1",
    )?;
    let mut rows = select.query([number])?;
    let row = rows.next()?.ok_or_else(|| StoreError::not_found("work order", number))?;
    Ok(Placed {
        state: row.get("state")?,
        waiting_for: row.get("waiting_for")?,
        expected_until: row.get("expected_until")?,
        kind: row.get("kind")?,
        risk_rank: row.get("risk_rank")?,
        window_end: row.get("window_end")?,
        crew: row.get("crew")?,
        assignee: row.get("assignee")?,
        estimated_hours: row.get("estimated_hours")?,
        target_start: row.get("target_start")?,
        target_finish: row.get("target_finish")?,
        scheduled_start: row.get("scheduled_start")?,
        scheduled_end: row.get("scheduled_end")?,
    })
}

/// Writes the fields of an order as they were; the state is moved.
fn put(tx: &Tx, number: WorkOrderId, to: &Placed) -> Result<()> {
    let dated = Dated::begin(tx, number)?;
    tx.conn.execute(
        "UPDATE work_orders SET kind = ?2, risk_rank = ?3, window_end = ?4,
             crew_id = (SELECT id FROM crews WHERE code = ?5), department = (SELECT department FROM crews WHERE code = ?5),
             assignee_id = (SELECT id FROM people WHERE code = ?6), estimated_hours = ?7, target_start = ?8,
             target_finish = ?9, scheduled_start = ?10, scheduled_end = ?11
         WHERE number = ?1",
        params![
            number,
            to.kind,
            to.risk_rank,
            to.window_end,
            to.crew,
            to.assignee,
            to.estimated_hours,
            to.target_start,
            to.target_finish,
            to.scheduled_start,
            to.scheduled_end,
        ],
    )?;
    dated.end(tx, number, tx.now)
}

//! Where a work order stands.

use crate::ground::{
    error::{Result, StoreError},
    sql::Rows,
    tx::Tx,
};
use rusqlite::{Connection, params};
use tally_core::{
    access::refusal::said_at,
    ground::{
        ids::{AssetId, PersonId, WorkOrderId},
        time::Instant,
    },
    work::{Mover, Verdict, WaitingFor, WorkKind, WorkState},
};

/// What moves and entries hang on.
pub(crate) struct Current {
    pub kind: WorkKind,
    pub asset: AssetId,
    pub state: WorkState,
    pub state_since: Instant,
    pub risk_rank: u8,
    pub window_end: Instant,
    /// Since when the fields that keep their history are what they are.
    pub fields_since: Instant,
    pub verdict: Option<Verdict>,
    pub waiting_from: Option<WorkState>,
    pub waiting_for: Option<WaitingFor>,
    pub expected_until: Option<Instant>,
    pub asked: Option<PersonId>,
}

pub(crate) fn state(conn: &Connection, work: WorkOrderId) -> Result<Current> {
    let mut select = conn.prepare_cached(
        "SELECT kind, asset_id, state, state_since, risk_rank, window_end, waiting_from, waiting_for, expected_until, asked_id,
             verdict, ifnull(fields_since, raised_at) AS fields_since FROM work_orders WHERE number = ?1",
    )?;
    let mut rows = select.query([work])?;
    let row = rows.next()?.ok_or_else(|| StoreError::not_found("work order", work))?;
    Ok(Current {
        kind: row.get("kind")?,
        asset: row.get("asset_id")?,
        state: row.get("state")?,
        state_since: row.get("state_since")?,
        risk_rank: row.get("risk_rank")?,
        window_end: row.get("window_end")?,
        fields_since: row.get("fields_since")?,
        waiting_from: row.get("waiting_from")?,
        waiting_for: row.get("waiting_for")?,
        expected_until: row.get("expected_until")?,
        asked: row.get("asked_id")?,
        verdict: row.get("verdict")?,
    })
}

/// When an order was raised.
///
/// # Errors
/// SQLite's own.
pub(super) fn raised_at(tx: &Tx, work: WorkOrderId) -> Result<Instant> {
    let mut select = tx.conn.prepare_cached("SELECT raised_at FROM work_orders WHERE number = ?1")?;
    Ok(select.query_row([work], |row| row.get(0))?)
}

/// When something was done on an order, as [`said_at`] takes it: not before it was raised.
///
/// # Errors
/// [`StoreError::Invalid`] on `at`.
pub(super) fn done_at(tx: &Tx, work: WorkOrderId, at: Option<Instant>) -> Result<Instant> {
    let said = said_at("at", at, tx.now)?;
    let raised = raised_at(tx, work)?;
    match at {
        Some(_) if said < raised => Err(StoreError::invalid("at", "lies before the order was raised")),
        _ => Ok(said),
    }
}

/// Where a work order stands, the meter whose limit raised it, whose it is, and what is planned of it.
#[derive(Debug, Clone, PartialEq)]
pub struct WorkStanding {
    pub state: WorkState,
    pub waiting_from: Option<WorkState>,
    /// Code.
    pub source_meter: Option<String>,
    /// Code.
    pub crew: Option<String>,
    pub target_start: Option<Instant>,
    pub estimated_hours: Option<f64>,
}

/// Where a work order stands.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn standing(rows: &dyn Rows, work: WorkOrderId) -> Result<WorkStanding> {
    let conn = rows.sql().conn;
    let current = state(conn, work)?;
    let mut select = conn.prepare_cached(
        "SELECT m.code, c.code, w.target_start, w.estimated_hours FROM work_orders w LEFT JOIN meters m ON m.id = w.source_meter_id
         LEFT JOIN crews c ON c.id = w.crew_id WHERE w.number = ?1",
    )?;
    let standing = select.query_row([work], |row| {
        Ok(WorkStanding {
            state: current.state,
            waiting_from: current.waiting_from,
            source_meter: row.get(0)?,
            crew: row.get(1)?,
            target_start: row.get(2)?,
            estimated_hours: row.get(3)?,
        })
    });
    Ok(standing?)
}

pub(super) fn mover(act_role: tally_core::access::roles::Role, person: PersonId, current: &Current) -> Mover {
    Mover {
        role: act_role,
        immediate: current.kind == WorkKind::CorrectiveImmediate,
        waiting_from: current.waiting_from,
        is_asked: current.asked == Some(person),
    }
}

/// A move as it goes into the work's history.
#[derive(Default)]
pub(super) struct Logged<'a> {
    /// None where it was raised.
    pub from: Option<WorkState>,
    pub waiting_for: Option<WaitingFor>,
    pub note: Option<&'a str>,
}

/// Writes a move into the work's history.
pub(super) fn log_state(tx: &Tx, work: WorkOrderId, to: WorkState, at: Instant, logged: &Logged) -> Result<()> {
    let mut insert = tx.conn.prepare_cached(
        "INSERT INTO state_changes (work_order, from_state, to_state, at, waiting_for, note, recorded_at, recorded_by)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8)",
    )?;
    let Logged { from, waiting_for, note } = logged;
    insert.execute(params![work, from, to, at, waiting_for, note, tx.now, tx.actor.id])?;
    Ok(())
}

//! Decisions to run on: which of them keep a limit quiet, and what ends them. When they end, what they held back answers.

use crate::ground::{error::Result, tx::Tx};
use rusqlite::{Connection, OptionalExtension, Row, params};
use tally_core::{
    ground::{
        ids::{MeterId, WorkOrderId},
        severity::Severity,
        side::RungSide,
        time::Instant,
    },
    watch::{alarms::LeftBy, limits::respond::RunOn},
    work::{RunOnEnd, RunOnSince},
};

/// A decision to run on, as its end hangs on it.
#[derive(Debug, Clone, Copy)]
pub(super) struct Decided {
    pub work: WorkOrderId,
    pub meter: MeterId,
    pub side: RungSide,
    pub severity: u8,
    pub decided_at: Instant,
    pub until: Instant,
    pub withdrawn_at: Option<Instant>,
}

impl Decided {
    /// From `work_order, meter_id, side, severity, answered_at, until, withdrawn_at` of a row.
    pub(super) fn of(row: &Row) -> rusqlite::Result<Self> {
        Ok(Self {
            work: row.get("work_order")?,
            meter: row.get("meter_id")?,
            side: row.get("side")?,
            severity: row.get("severity")?,
            decided_at: row.get("answered_at")?,
            until: row.get("until")?,
            withdrawn_at: row.get("withdrawn_at")?,
        })
    }

    /// When it ended or ends, as far as is known, and by what.
    pub(super) fn end(&self, conn: &Connection) -> Result<(Instant, RunOnEnd)> {
        let Self { work, meter, side, severity, decided_at, until, withdrawn_at } = *self;
        // The alarm that it was about: the one that stands longest of those entered by then.
        let alarm: Option<(Option<Instant>, Option<LeftBy>)> = conn
            .prepare_cached(
                "SELECT left_at, left_by FROM alarms WHERE meter_id = ?1 AND side = ?2 AND severity = ?3 AND kind = 'limit'
                     AND entered_at <= ?4 ORDER BY left_at IS NULL DESC, left_at DESC LIMIT 1",
            )?
            .query_row(params![meter, side, severity, decided_at], |row| Ok((row.get(0)?, row.get(1)?)))
            .optional()?;
        let (left_at, left_by) = alarm.unwrap_or((Some(decided_at), None));
        let worse_at = conn
            .prepare_cached(
                "SELECT min(max(entered_at, ?4)) FROM alarms WHERE meter_id = ?1 AND side = ?2 AND severity > ?3
                     AND kind = 'limit' AND recorded_at > ?4",
            )?
            .query_row(params![meter, side, severity, decided_at], |row| row.get(0))?;
        let work_over_at = conn
            .prepare_cached(
                "SELECT min(max(at, ?2)) FROM state_changes WHERE work_order = ?1 AND recorded_at > ?2
                     AND to_state IN ('done', 'closed', 'dropped')",
            )?
            .query_row(params![work, decided_at], |row| row.get(0))?;
        let limits_changed = left_by == Some(LeftBy::LimitsChanged);
        let since = RunOnSince { decided_at, until, withdrawn_at, left_at, limits_changed, worse_at, work_over_at };
        Ok(since.end())
    }
}

/// The decision to run on that keeps a meter's side quiet at an instant.
pub(crate) fn run_on(conn: &Connection, meter: MeterId, side: RungSide, at: Instant) -> Result<Option<RunOn>> {
    let mut select = conn.prepare_cached(
        "SELECT work_order, meter_id, side, severity, answered_at, until, withdrawn_at, reason FROM risk_decisions
         WHERE meter_id = ?1 AND side = ?2 AND answer = 'run_on' AND until > ?3 AND answered_at <= ?3
         ORDER BY severity DESC, until DESC",
    )?;
    let mut rows = select.query(params![meter, side, at])?;
    while let Some(row) = rows.next()? {
        let decided = Decided::of(row)?;
        let (ends_at, _) = decided.end(conn)?;
        if ends_at > at {
            return Ok(Some(RunOn {
                work: decided.work,
                until: decided.until,
                reason: row.get::<_, Option<String>>("reason")?.unwrap_or_default(),
                severity: Severity::from_strokes(decided.severity).unwrap_or(Severity::Notice),
            }));
        }
    }
    Ok(None)
}

/// Alarms of a meter that a decision to run on holds back are due as soon as none does any more.
pub(crate) fn release(tx: &Tx, meter: MeterId, at: Instant) -> Result<()> {
    let mut select = tx.conn.prepare_cached(
        "SELECT DISTINCT side FROM alarms WHERE meter_id = ?1 AND left_at IS NULL AND due_at > ?2
             AND json_extract(held_by, '$.kind') = 'run_on'",
    )?;
    let sides = select.query_map(params![meter, at], |row| row.get(0))?.collect::<rusqlite::Result<Vec<RungSide>>>()?;
    for side in sides {
        if run_on(tx.conn, meter, side, at)?.is_none() {
            tx.conn
                .prepare_cached(
                    "UPDATE alarms SET due_at = max(?3, answered_at) WHERE meter_id = ?1 AND side = ?2 AND left_at IS NULL
                         AND due_at > ?3 AND json_extract(held_by, '$.kind') = 'run_on'",
                )?
                .execute(params![meter, side, at])?;
        }
    }
    Ok(())
}

//! Repairs that were finished, and the first reading after them that alarms wait for.

use super::subject::Subject;
use crate::{
    ground::{error::Result, rows::word, tx::Tx},
    watch::meters,
};
use rusqlite::{OptionalExtension, params};
use tally_core::{
    ground::{
        ids::{MeterId, WorkOrderId},
        time::Instant,
    },
    watch::limits::waits_for_a_reading,
};

/// Where a rung would answer by the clock or from an older reading (`read_at`): the work of its side that was finished since
/// that reading, and when.
pub(super) fn unread_since_finished(
    tx: &Tx,
    subject: &Subject,
    rung: usize,
    read_at: Option<Instant>,
    at: Instant,
) -> Result<Option<(WorkOrderId, Instant)>> {
    let Some(read_at) = read_at else { return Ok(None) };
    let mut select = tx.conn.prepare_cached(
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
pub(super) fn expect_reading(tx: &mut Tx, meter: MeterId) -> Result<()> {
    let code = meters::code_of(tx.conn, meter)?;
    tx.meter(&code)?.awaits = true;
    Ok(())
}

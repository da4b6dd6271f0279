//! Ticking off what an order's job sheet says, and leaving out what can't be done.

use super::{
    of_work::permits_of_asset,
    steps::{ASSET_PERMIT, PERMIT, STEP, require_turn, sheet_of},
};
use crate::{
    ground::{
        error::{Result, StoreError},
        tx::Tx,
    },
    work::current::{done_at, state},
};
use rusqlite::params;
use serde::{Deserialize, Serialize};
use tally_core::{
    access::roles::Action,
    ground::{ids::WorkOrderId, time::Instant},
    work::{JobStep, rounds::check_skip},
};
use utoipa::ToSchema;

/// A line of an order's job sheet that is ticked off, or not any more.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct TickChange {
    /// The place of a step, from 0.
    pub step: Option<usize>,
    /// The place of a permit of its job sheet, from 0.
    pub permit: Option<usize>,
    /// The place of a permit that its asset asks for, from 0.
    pub asset_permit: Option<usize>,
    pub done: bool,
    /// Why a step is left out, in place of being done.
    #[serde(default)]
    pub skip: Option<String>,
    /// When, if that was earlier.
    #[serde(default)]
    pub at: Option<Instant>,
}

/// Ticks a line of an order's job sheet off.
///
/// # Errors
/// [`StoreError::Invalid`] by field for a line there is not, [`StoreError::Conflict`] where the order is over.
pub fn tick(tx: &mut Tx, work: WorkOrderId, change: &TickChange) -> Result<()> {
    tx.require(Action::ReportOnWork)?;
    tx.require_seen(work)?;
    let (field, line, place) = match (change.step, change.permit, change.asset_permit) {
        (Some(place), None, None) => ("step", STEP, place),
        (None, Some(place), None) => ("permit", PERMIT, place),
        (None, None, Some(place)) => ("asset_permit", ASSET_PERMIT, place),
        _ => return Err(StoreError::invalid("step", "say which step, or which permit")),
    };
    if state(tx.conn, work)?.state.is_over() {
        return Err(StoreError::Conflict(format!("work order {work} is over")));
    }
    let sheet = sheet_of(tx.conn, work)?;
    let text = match (line, &sheet) {
        (ASSET_PERMIT, _) => permits_of_asset(tx.conn, work)?.get(place).cloned(),
        (STEP, Some(sheet)) => sheet.steps.get(place).map(said_of),
        (_, Some(sheet)) => sheet.permits.get(place).cloned(),
        (_, None) => None,
    };
    let Some(text) = text else { return Err(StoreError::invalid(field, "the order has none at that place")) };
    let skipped = match &change.skip {
        Some(_) if line != STEP || change.done => {
            return Err(StoreError::invalid("skip", "only a step that is not done is left out"));
        }
        Some(reason) => Some(check_skip(reason)?),
        None => None,
    };
    let at = done_at(tx, work, change.at)?;
    let settles = change.done || skipped.is_some();
    if settles && line == STEP {
        require_turn(tx.conn, work, place)?;
    }
    if skipped.is_some() {
        let mut is_begun = tx.conn.prepare_cached(
            "SELECT 1 FROM checks WHERE work_order = ?1 AND step = ?2 AND begun_at IS NOT NULL AND finished_at IS NULL",
        )?;
        if is_begun.exists(params![work, place])? {
            return Err(StoreError::Conflict("its check sheet is begun: finish it".into()));
        }
    }
    let changed = if settles {
        tx.conn
            .prepare_cached(
                "INSERT INTO job_ticks (work_order, line, place, at, recorded_at, recorded_by, skipped) VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7)
                 ON CONFLICT DO UPDATE SET at = ?4, recorded_at = ?5, recorded_by = ?6, skipped = ?7 WHERE skipped IS NOT ?7",
            )?
            .execute(params![work, line, place, at, tx.now, tx.actor.id, skipped])?
    } else {
        tx.conn
            .prepare_cached("DELETE FROM job_ticks WHERE work_order = ?1 AND line = ?2 AND place = ?3")?
            .execute(params![work, line, place])?
    };
    if changed == 0 {
        return Ok(());
    }
    let action = match (change.done, skipped.is_some()) {
        (true, _) => "ticked off",
        (false, true) => "skipped",
        (false, false) => "ticked back",
    };
    tx.audit(action, "work order", &work.to_string(), &serde_json::json!({ field: text, "reason": skipped }))
}

/// What a step says of itself; a visit may say no more than where it leads.
fn said_of(step: &JobStep) -> String {
    match (&step.asset, step.text.is_empty()) {
        (Some(asset), true) => asset.clone(),
        _ => step.text.clone(),
    }
}

//! What became of the steps of an order's job sheet: done, skipped, or still open; and whose turn it is on a round.

use crate::ground::{
    error::{Result, StoreError},
    rows::from_json,
    tx::Tx,
};
use rusqlite::{Connection, OptionalExtension, params};
use tally_core::{
    ground::{ids::WorkOrderId, time::Instant},
    work::{
        JobSheet,
        rounds::{self, StepOutcome},
    },
};

pub(super) const STEP: &str = "step";
pub(super) const PERMIT: &str = "permit";
pub(super) const ASSET_PERMIT: &str = "asset_permit";

/// What is said of a line: done, or skipped with the reason.
pub(super) struct Tick {
    pub line: String,
    pub place: usize,
    pub at: Instant,
    pub by: String,
    pub skipped: Option<String>,
}

pub(super) fn ticks(conn: &Connection, work: WorkOrderId) -> Result<Vec<Tick>> {
    let mut select = conn.prepare_cached(
        "SELECT t.line, t.place, t.at, p.name, t.skipped FROM job_ticks t JOIN people p ON p.id = t.recorded_by
         WHERE t.work_order = ?1",
    )?;
    let rows = select.query_map([work], |row| {
        Ok(Tick { line: row.get(0)?, place: row.get(1)?, at: row.get(2)?, by: row.get(3)?, skipped: row.get(4)? })
    })?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

pub(super) fn tick_at<'a>(ticks: &'a [Tick], line: &str, place: usize) -> Option<&'a Tick> {
    ticks.iter().find(|tick| tick.line == line && tick.place == place)
}

/// What became of each step of a sheet.
pub(super) fn outcomes(sheet: &JobSheet, ticks: &[Tick]) -> Vec<StepOutcome> {
    let outcome = |place| match tick_at(ticks, STEP, place) {
        Some(Tick { skipped: Some(reason), .. }) => StepOutcome::Skipped(reason.clone()),
        Some(_) => StepOutcome::Done,
        None => StepOutcome::Open,
    };
    (0..sheet.steps.len()).map(outcome).collect()
}

/// The job sheet that an order follows, in the version that it took.
pub(crate) fn sheet_of(conn: &Connection, work: WorkOrderId) -> Result<Option<JobSheet>> {
    let sheet: Option<String> = conn
        .prepare_cached(
            "SELECT v.sheet FROM work_orders w JOIN job_sheet_versions v ON v.id = w.job_version_id WHERE w.number = ?1",
        )?
        .query_row([work], |row| row.get(0))
        .optional()?;
    sheet.map(|text| from_json("job_sheet_versions", &text)).transpose()
}

/// What was ticked off of a job sheet counts no more: the order follows another.
pub(crate) fn forget_ticks(tx: &Tx, work: WorkOrderId) -> Result<()> {
    tx.conn.execute("DELETE FROM job_ticks WHERE work_order = ?1 AND line <> ?2", params![work, ASSET_PERMIT])?;
    Ok(())
}

/// Requires that the visits before that one are done or skipped, where the order follows a round that is walked in order.
///
/// # Errors
/// [`StoreError::Conflict`], naming the visit that comes first.
pub(crate) fn require_turn(conn: &Connection, work: WorkOrderId, place: usize) -> Result<()> {
    let Some(sheet) = sheet_of(conn, work)?.filter(|sheet| sheet.round.is_some()) else { return Ok(()) };
    let outcomes = outcomes(&sheet, &ticks(conn, work)?);
    rounds::check_turn(sheet.round, place, &outcomes).map_err(|first| {
        let asset = sheet.steps[first].asset.as_deref().unwrap_or_default();
        StoreError::Conflict(format!("visit {} ({asset}) comes first: do it, or skip it with a reason", first + 1))
    })
}

/// A visit of a round is done once all check sheets of it are finished; it stays so where somebody said it before.
pub(crate) fn settle_visit(tx: &Tx, work: WorkOrderId, place: usize, at: Instant) -> Result<()> {
    if sheet_of(tx.conn, work)?.is_none_or(|sheet| sheet.round.is_none()) {
        return Ok(());
    }
    let mut is_open =
        tx.conn.prepare_cached("SELECT 1 FROM checks WHERE work_order = ?1 AND step = ?2 AND finished_at IS NULL")?;
    if is_open.exists(params![work, place])? {
        return Ok(());
    }
    tx.conn
        .prepare_cached(
            "INSERT INTO job_ticks (work_order, line, place, at, recorded_at, recorded_by) VALUES (?1, ?2, ?3, ?4, ?5, ?6)
             ON CONFLICT DO UPDATE SET skipped = NULL, at = excluded.at, recorded_at = excluded.recorded_at, recorded_by = excluded.recorded_by
                 WHERE skipped IS NOT NULL",
        )?
        .execute(params![work, STEP, place, at, tx.now, tx.actor.id])?;
    Ok(())
}

/// The first visit of an order's round that is neither done nor skipped, counted from 1.
pub(crate) fn open_visit(conn: &Connection, work: WorkOrderId) -> Result<Option<usize>> {
    let Some(sheet) = sheet_of(conn, work)?.filter(|sheet| sheet.round.is_some()) else { return Ok(None) };
    let outcomes = outcomes(&sheet, &ticks(conn, work)?);
    Ok(outcomes.iter().position(|outcome| !outcome.is_settled()).map(|place| place + 1))
}

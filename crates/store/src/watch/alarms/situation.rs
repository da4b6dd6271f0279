//! What the decision of an entered rung hangs on, as it is at that instant.

use super::subject::{Entered, Subject};
use crate::{
    ground::{
        error::{Result, StoreError},
        tx::Tx,
    },
    work::run_on::run_on,
};
use rusqlite::{Connection, OptionalExtension, Row, params};
use tally_core::{
    ground::{
        ids::AssetId,
        severity::Severity,
        time::{Instant, SECOND},
    },
    watch::limits::{
        AfterFinish, OutOfUse, RaiseIntervalOf, Rung, Situation,
        respond::{LastRaised, OpenWork},
    },
    work::WorkState,
};

/// All that the decision hangs on.
pub(super) fn situation(tx: &Tx, subject: &Subject, rung: &Rung, entered: Entered) -> Result<Situation> {
    let (conn, at) = (tx.conn, entered.at);
    let shelf = conn
        .prepare_cached(
            "SELECT to_at, reason FROM shelves WHERE meter_id = ?1 AND from_at <= ?2 AND to_at > ?2
             ORDER BY to_at DESC LIMIT 1",
        )?
        .query_row(params![subject.id, at], |row| Ok((row.get(0)?, row.get(1)?)))
        .optional()?;
    let mut open = conn.prepare_cached(
        "SELECT number, source_severity, state FROM work_orders WHERE source_meter_id = ?1 AND source_side = ?2
         ORDER BY number DESC LIMIT 20",
    )?;
    let mut rows = open.query(params![subject.id, rung.side])?;
    let mut open_work = None;
    while let Some(row) = rows.next()? {
        let state: WorkState = row.get(2)?;
        if state.is_open() {
            let severity = Severity::from_strokes(row.get(1)?).unwrap_or(Severity::Notice);
            open_work = Some(OpenWork { number: row.get(0)?, severity });
            break;
        }
    }
    let last = |row: &Row| {
        let severity = Severity::from_strokes(row.get(2)?).unwrap_or(Severity::Notice);
        Ok(LastRaised { number: row.get(0)?, at: row.get(1)?, severity })
    };
    let last_raised = match subject.ladder.raise_interval_of {
        RaiseIntervalOf::Ladder => conn
            .prepare_cached(
                "SELECT number, source_at, raised_severity FROM work_orders WHERE source_meter_id = ?1
                 ORDER BY source_at DESC, number DESC LIMIT 1",
            )?
            .query_row([subject.id], last)
            .optional()?,
        RaiseIntervalOf::Asset => conn
            .prepare_cached(
                "SELECT number, source_at, raised_severity FROM work_orders WHERE source_meter_id IN
                     (SELECT id FROM meters WHERE asset_id = ?1) ORDER BY source_at DESC, number DESC LIMIT 1",
            )?
            .query_row([subject.asset], last)
            .optional()?,
    };
    let after_finish = match entered.after {
        None => None,
        Some(work) => {
            let mut select = conn.prepare_cached("SELECT verdict FROM work_orders WHERE number = ?1")?;
            let mut rows = select.query([work])?;
            let row = rows.next()?.ok_or_else(|| StoreError::not_found("work order", work))?;
            Some(AfterFinish { verdict: row.get("verdict")? })
        }
    };
    Ok(Situation {
        out_of_use: out_of_use(conn, subject.asset, at)?,
        shelf,
        run_on: run_on(conn, subject.id, rung.side, at)?,
        open_work,
        last_raised,
        raise_interval_ms: i64::from(subject.ladder.raise_interval_seconds) * SECOND,
        separate_work: subject.ladder.separate_work,
        after_finish,
    })
}

/// The spell in which an asset, or one above it, is out of use at that instant; the one that ends last.
fn out_of_use(conn: &Connection, asset: AssetId, at: Instant) -> Result<Option<OutOfUse>> {
    let retired: bool = conn
        .prepare_cached("SELECT retired_at IS NOT NULL AND retired_at <= ?2 FROM assets WHERE id = ?1")?
        .query_row(params![asset, at], |row| row.get(0))?;
    if retired {
        return Ok(Some(OutOfUse { until: None, reason: "the asset is retired".into() }));
    }
    let mut select = conn.prepare_cached(
        "WITH RECURSIVE line (id) AS (
             SELECT ?1 UNION SELECT p.parent_id FROM placements p JOIN line ON p.asset_id = line.id
             WHERE p.parent_id IS NOT NULL AND p.from_at <= ?2 AND (p.to_at IS NULL OR p.to_at > ?2))
         SELECT to_at, reason FROM out_of_use
         WHERE asset_id IN (SELECT id FROM line) AND from_at <= ?2 AND (to_at IS NULL OR to_at > ?2)
         ORDER BY to_at IS NOT NULL, to_at DESC LIMIT 1",
    )?;
    let found = select.query_row(params![asset, at], |row| Ok(OutOfUse { until: row.get(0)?, reason: row.get(1)? }));
    Ok(found.optional()?)
}

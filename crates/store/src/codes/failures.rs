//! Failure reports on work.

use crate::{
    codes::codebooks,
    ground::{
        error::{Result, StoreError},
        tx::Tx,
    },
    plant::{assets, assets::NamedAsset},
    work,
};
use rusqlite::{Connection, Row, params};
use serde::Serialize;
use tally_core::{
    access::{refusal::said_at, roles::Action},
    codes::failures::{Effect, NewFailure, Noticed, check_codes, may_report_failure},
    ground::{
        ids::{AssetId, CodeId, FailureId, WorkOrderId},
        time::Instant,
    },
};
use utoipa::ToSchema;

/// A code with its name.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct NamedCode {
    pub code: String,
    pub name: String,
}

/// A failure report as shown.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct FailureRow {
    pub id: FailureId,
    pub asset: NamedAsset,
    pub codebook: Option<String>,
    pub problem: Option<NamedCode>,
    pub cause: Option<NamedCode>,
    pub remedy: Option<NamedCode>,
    pub failed_at: Instant,
    pub noticed: Option<Noticed>,
    pub effect: Effect,
    pub recorded_by: String,
    pub recorded_at: Instant,
}

/// Reports what failed on a work order, or corrects the report.
///
/// # Errors
/// [`StoreError::Invalid`] for a cause of another problem, a remedy of another cause, or no reason on closed work;
/// [`StoreError::Conflict`] on dropped work.
pub fn put(tx: &mut Tx, number: WorkOrderId, new: &NewFailure) -> Result<FailureId> {
    let current = reportable(tx, number)?;
    may_report_failure(current.state, &new.reason)?;
    let asset = match &new.asset {
        Some(code) => assets::require_reached_in(tx, code, "asset")?,
        None => current.asset,
    };
    let codes = new.check(tx.now)?;
    let book = match codes {
        [None, None, None] => None,
        _ => Some(codebooks::book_for(tx.conn, new.codebook.as_deref(), asset)?),
    };
    let chosen = book.map_or(Ok([None; 3]), |book| codebooks::find_codes(tx.conn, book, codes))?;
    check_codes(chosen, &codes_of(tx.conn, number, new.id, asset)?)?;
    let [problem, cause, remedy] = chosen;
    if let Some(id) = new.id {
        // The report goes with its asset.
        let moved = tx.conn.execute(
            "UPDATE failure_reports SET asset_id = ?3 WHERE id = ?1 AND work_order = ?2
                 AND NOT EXISTS (SELECT 1 FROM failure_reports o WHERE o.work_order = ?2 AND o.asset_id = ?3 AND o.id <> ?1)",
            params![id, number, asset],
        )?;
        if moved == 0 {
            let known = tx
                .conn
                .prepare("SELECT 1 FROM failure_reports WHERE id = ?1 AND work_order = ?2")?
                .exists([id.0, number.0])?;
            return Err(match known {
                true => StoreError::invalid("asset", "has a failure report on this work already"),
                false => StoreError::not_found("failure report", id),
            });
        }
    }
    let coded = remedy.is_some().then_some(said_at("at", new.at, tx.now)?);
    let id: i64 = tx.conn.query_row(
        "INSERT INTO failure_reports (work_order, asset_id, codebook_id, problem_id, cause_id, remedy_id, failed_at,
             noticed, effect, coded_at, recorded_at, recorded_by)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12)
         ON CONFLICT (work_order, asset_id) DO UPDATE SET codebook_id = excluded.codebook_id,
             problem_id = excluded.problem_id, cause_id = excluded.cause_id, remedy_id = excluded.remedy_id,
             failed_at = excluded.failed_at, noticed = excluded.noticed, effect = excluded.effect,
             coded_at = CASE WHEN excluded.coded_at IS NULL THEN NULL ELSE ifnull(coded_at, excluded.coded_at) END,
             recorded_at = excluded.recorded_at, recorded_by = excluded.recorded_by
         RETURNING id",
        params![
            number,
            asset,
            book,
            problem.map(|p| p.id),
            cause.map(|c| c.id),
            remedy.map(|r| r.id),
            new.failed_at,
            new.noticed,
            new.effect,
            coded,
            tx.now,
            tx.actor.id,
        ],
        |row| row.get(0),
    )?;
    tx.audit("failure reported", "work order", &number.to_string(), new)?;
    Ok(FailureId(id))
}

/// Work that this person sees and reports on.
fn reportable(tx: &Tx, number: WorkOrderId) -> Result<work::Current> {
    tx.require(Action::ReportOnWork)?;
    tx.require_seen(number)?;
    work::state(tx.conn, number)
}

/// The codes a report has: retired meanwhile, they may stay.
fn codes_of(conn: &Connection, number: WorkOrderId, id: Option<FailureId>, asset: AssetId) -> Result<Vec<CodeId>> {
    let mut select = conn.prepare_cached(
        "SELECT problem_id, cause_id, remedy_id FROM failure_reports
         WHERE work_order = ?1 AND CASE WHEN ?2 IS NULL THEN asset_id = ?3 ELSE id = ?2 END",
    )?;
    let mut rows = select.query(params![number, id, asset])?;
    let Some(row) = rows.next()? else { return Ok(Vec::new()) };
    let ids = [row.get::<_, Option<i64>>(0)?, row.get(1)?, row.get(2)?];
    Ok(ids.into_iter().flatten().map(CodeId).collect())
}

/// Takes a report back that should not be there.
///
/// # Errors
/// [`StoreError::NotFound`]; [`StoreError::Conflict`] on closed or dropped work.
pub fn remove(tx: &mut Tx, number: WorkOrderId, id: FailureId) -> Result<()> {
    let current = reportable(tx, number)?;
    if current.state.is_over() {
        let state = current.state.word();
        return Err(StoreError::Conflict(format!("this work is {state}: correct the report instead")));
    }
    let gone = tx.conn.execute("DELETE FROM failure_reports WHERE id = ?1 AND work_order = ?2", [id.0, number.0])?;
    if gone == 0 {
        return Err(StoreError::not_found("failure report", id));
    }
    tx.audit("failure report taken back", "work order", &number.to_string(), &id)
}

/// The failure reports of a work order, in the order in which things failed.
pub(crate) fn of_work(conn: &Connection, number: WorkOrderId) -> Result<Vec<FailureRow>> {
    let mut select = conn.prepare_cached(
        "SELECT f.*, a.code AS asset, a.name AS asset_name, b.code AS codebook, r.name AS recorder,
             p.code AS p_code, p.name AS p_name, c.code AS c_code, c.name AS c_name, m.code AS m_code, m.name AS m_name
         FROM failure_reports f JOIN assets a ON a.id = f.asset_id JOIN people r ON r.id = f.recorded_by
         LEFT JOIN codebooks b ON b.id = f.codebook_id LEFT JOIN codes p ON p.id = f.problem_id
         LEFT JOIN codes c ON c.id = f.cause_id LEFT JOIN codes m ON m.id = f.remedy_id WHERE f.work_order = ?1
         ORDER BY f.failed_at, f.id",
    )?;
    let mut rows = select.query([number])?;
    let mut reports = Vec::new();
    while let Some(row) = rows.next()? {
        reports.push(report(row)?);
    }
    Ok(reports)
}

fn report(row: &Row) -> Result<FailureRow> {
    let named = |code: &str, name: &str| -> rusqlite::Result<Option<NamedCode>> {
        Ok(match (row.get(code)?, row.get(name)?) {
            (Some(code), Some(name)) => Some(NamedCode { code, name }),
            _ => None,
        })
    };
    Ok(FailureRow {
        id: row.get("id")?,
        asset: NamedAsset { code: row.get("asset")?, name: row.get("asset_name")? },
        codebook: row.get("codebook")?,
        problem: named("p_code", "p_name")?,
        cause: named("c_code", "c_name")?,
        remedy: named("m_code", "m_name")?,
        failed_at: row.get("failed_at")?,
        noticed: row.get("noticed")?,
        effect: row.get("effect")?,
        recorded_by: row.get("recorder")?,
        recorded_at: row.get("recorded_at")?,
    })
}

//! The check sheets of an order: what its job sheet asks for, and what people add.

use super::sheets::VERSIONS;
use crate::{
    ground::{
        error::{Result, StoreError},
        rows::from_json,
        sql::Rows,
        tx::Tx,
        view::View,
    },
    plant::{assets, assets::NamedAsset},
    work::{
        current::state,
        sheets::{CHECK_SHEETS, JOB_SHEETS},
    },
};
use rusqlite::{Connection, params};
use serde::{Deserialize, Serialize};
use tally_core::{
    access::roles::Action,
    ground::{
        ids::{AssetId, CheckId, WorkOrderId},
        time::Instant,
    },
    work::{
        JobSheet, JobStep,
        check_sheets::{CheckSheet, GivenAnswer},
        rounds::{self, Recommended},
    },
};
use utoipa::ToSchema;

/// A check sheet that stands with an order.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct WorkCheck {
    pub id: CheckId,
    /// Code of the sheet.
    pub sheet: String,
    pub title: String,
    pub asset: NamedAsset,
    /// The place of the step of its job sheet that it is filled in at, from 0.
    pub step: Option<usize>,
    pub begun_at: Option<Instant>,
    pub finished_at: Option<Instant>,
    /// Who finished it, or answered last.
    pub by: Option<String>,
    /// Nothing was answered: it can be left out.
    pub may_leave_out: bool,
}

/// A check sheet that is meant for an order's asset.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct RecommendedSheet {
    pub code: String,
    pub title: String,
}

/// A check sheet to be filled in on an order.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewCheck {
    /// Code of the sheet.
    pub sheet: String,
    /// Code of the asset that is checked; the order's without it.
    pub asset: Option<String>,
}

/// Puts a check sheet beside an order.
///
/// # Errors
/// [`StoreError::Invalid`] by field, [`StoreError::Conflict`] where the order is over or has it already.
pub fn add(tx: &mut Tx, work: WorkOrderId, new: &NewCheck) -> Result<CheckId> {
    tx.require(Action::ReportOnWork)?;
    tx.require_seen(work)?;
    let current = state(tx.conn, work)?;
    if current.state.is_over() {
        return Err(StoreError::Conflict(format!("work order {work} is over")));
    }
    let version = CHECK_SHEETS.require_active(tx.conn, &new.sheet, "sheet")?.version;
    let asset = match &new.asset {
        Some(asset) => assets::require_reached_in(tx, asset, "asset")?,
        None => current.asset,
    };
    let mut has = tx.conn.prepare_cached(
        "SELECT 1 FROM checks WHERE work_order = ?1 AND version_id = ?2 AND asset_id = ?3 AND finished_at IS NULL",
    )?;
    if has.exists(params![work, version, asset])? {
        return Err(StoreError::Conflict("it stands there already: fill it in first".into()));
    }
    let id = insert(tx, work, version, asset, Asker::Person)?;
    tx.audit("check sheet added", "work order", &work.to_string(), new)?;
    Ok(id)
}

/// Who asks for a check sheet.
#[derive(Debug, Clone, Copy)]
enum Asker {
    Person,
    /// The order's job sheet, for one of its steps where it says so.
    Job(Option<usize>),
}

fn insert(tx: &Tx, work: WorkOrderId, version: i64, asset: AssetId, asker: Asker) -> Result<CheckId> {
    let mut insert = tx.conn.prepare_cached(
        "INSERT INTO checks (work_order, version_id, asset_id, of_job, step, recorded_at, recorded_by, answers)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, '[]')",
    )?;
    let (of_job, step) = match asker {
        Asker::Person => (false, None),
        Asker::Job(step) => (true, step),
    };
    insert.execute(params![work, version, asset, of_job, step, tx.now, tx.actor.id])?;
    Ok(CheckId(tx.conn.last_insert_rowid()))
}

/// What the version of a job sheet asks for that an order takes. A sheet that is not active any more is passed over.
pub(crate) fn of_job(tx: &Tx, work: WorkOrderId, asset: AssetId, job_version: i64) -> Result<()> {
    let mut select = tx.conn.prepare_cached("SELECT sheet FROM job_sheet_versions WHERE id = ?1")?;
    let text: String = select.query_row([job_version], |row| row.get(0))?;
    // Most ask for none, and many are raised at once.
    if !text.contains("check_sheet") && !text.contains("\"round\"") {
        return Ok(());
    }
    let sheet: JobSheet = from_json("job_sheet_versions", &text)?;
    asked_by(tx, work, asset, &sheet, None)?;
    for (place, visit) in sheet.steps.iter().enumerate().filter(|_| sheet.round.is_some()) {
        let on = of_step(tx, visit, asset)?;
        if let Some(code) = &visit.job_sheet {
            // As with check sheets: one that is not active any more holds nothing up.
            let Ok(job) = JOB_SHEETS.require_active(tx.conn, code, "job_sheet") else { continue };
            let mut keep =
                tx.conn.prepare_cached("INSERT INTO visit_jobs (work_order, step, version_id) VALUES (?1, ?2, ?3)")?;
            keep.execute(params![work, place, job.version])?;
            let followed: JobSheet = from_json("job_sheet_versions", &job.text)?;
            asked_by(tx, work, on, &followed, Some(place))?;
        } else if visit.check_sheet.is_none()
            && let Some(own) = rounds::own_sheet(&recommended_for(tx.conn, on)?)
        {
            ask(tx, work, &own.code, on, Some(place))?;
        }
    }
    Ok(())
}

/// What a job sheet asks for itself and at its steps; at that visit of a round, where it is followed there.
fn asked_by(tx: &Tx, work: WorkOrderId, asset: AssetId, sheet: &JobSheet, visit: Option<usize>) -> Result<()> {
    for check in &sheet.check_sheets {
        ask(tx, work, check, asset, visit)?;
    }
    for (place, step) in sheet.steps.iter().enumerate() {
        if let Some(check) = &step.check_sheet {
            ask(tx, work, check, of_step(tx, step, asset)?, visit.or(Some(place)))?;
        }
    }
    Ok(())
}

fn ask(tx: &Tx, work: WorkOrderId, check: &str, on: AssetId, step: Option<usize>) -> Result<()> {
    if let Ok(found) = CHECK_SHEETS.require_active(tx.conn, check, "check_sheet") {
        insert(tx, work, found.version, on, Asker::Job(step))?;
    }
    Ok(())
}

/// The asset that a step is done on: the order's where it names none, or one there is not any more.
fn of_step(tx: &Tx, step: &JobStep, asset: AssetId) -> Result<AssetId> {
    let named = step.asset.as_deref().map(|code| assets::find(tx.conn, code)).transpose()?;
    Ok(named.flatten().unwrap_or(asset))
}

/// What the job sheet before asked for and nobody began goes with it.
pub(crate) fn forget_of_job(tx: &Tx, work: WorkOrderId) -> Result<()> {
    tx.conn.execute("DELETE FROM checks WHERE work_order = ?1 AND of_job AND begun_at IS NULL", [work])?;
    // What was begun stays, of no step of the sheet that comes.
    tx.conn.execute("UPDATE checks SET step = NULL WHERE work_order = ?1 AND step IS NOT NULL", [work])?;
    tx.conn.execute("DELETE FROM visit_jobs WHERE work_order = ?1", [work])?;
    Ok(())
}

/// Takes a check sheet away that nobody began.
///
/// # Errors
/// [`StoreError::NotFound`], [`StoreError::Conflict`] for one that was begun.
pub fn leave_out(tx: &mut Tx, work: WorkOrderId, check: CheckId) -> Result<()> {
    tx.require(Action::ReportOnWork)?;
    tx.require_seen(work)?;
    let begun: Option<Instant> = super::asked::row(tx.conn, work, check)?.begun_at;
    if begun.is_some() {
        return Err(StoreError::Conflict("something was answered on it: it stays".into()));
    }
    tx.conn.execute("DELETE FROM checks WHERE id = ?1", [check])?;
    tx.audit("check sheet left out", "work order", &work.to_string(), &serde_json::json!({ "check": check }))
}

/// Those of an order, in the order in which they came.
pub(crate) fn of_work(view: &View, work: WorkOrderId) -> Result<Vec<WorkCheck>> {
    let mut select = view.conn.prepare_cached(
        "SELECT c.id, s.code, s.title, a.code, a.name, c.begun_at, c.finished_at, p.name, c.step FROM checks c
         JOIN check_sheet_versions v ON v.id = c.version_id JOIN check_sheets s ON s.id = v.sheet_id
         JOIN assets a ON a.id = c.asset_id LEFT JOIN people p ON p.id = ifnull(c.finished_by, c.answered_by)
         WHERE c.work_order = ?1 ORDER BY c.id",
    )?;
    let rows = select.query_map([work], |row| {
        let begun_at: Option<Instant> = row.get(5)?;
        Ok(WorkCheck {
            id: row.get(0)?,
            sheet: row.get(1)?,
            title: row.get(2)?,
            asset: NamedAsset { code: row.get(3)?, name: row.get(4)? },
            step: row.get(8)?,
            begun_at,
            finished_at: row.get(6)?,
            by: row.get(7)?,
            may_leave_out: begun_at.is_none(),
        })
    })?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

/// Those of an order that are not finished, with what they ask.
///
/// # Errors
/// SQLite's own.
pub fn to_fill_in(rows: &dyn Rows, work: WorkOrderId) -> Result<Vec<(CheckId, CheckSheet)>> {
    let mut select = rows.sql().conn.prepare_cached(
        "SELECT c.id, v.sheet FROM checks c JOIN check_sheet_versions v ON v.id = c.version_id
         WHERE c.work_order = ?1 AND c.finished_at IS NULL ORDER BY c.id",
    )?;
    let mut rows = select.query([work])?;
    let mut found = Vec::new();
    while let Some(row) = rows.next()? {
        found.push((row.get(0)?, from_json(VERSIONS, &row.get::<_, String>(1)?)?));
    }
    Ok(found)
}

/// An active sheet that is meant for an asset: for itself, or for its class.
struct Meant {
    title: String,
    recommended: Recommended,
}

fn meant_for(conn: &Connection, asset: AssetId) -> Result<Vec<Meant>> {
    let mut select = conn.prepare_cached(
        "SELECT s.code, s.title, EXISTS (SELECT 1 FROM json_each(v.sheet, '$.assets') WHERE value = a.code) AS by_name
         FROM check_sheets s JOIN check_sheet_versions v ON v.sheet_id = s.id
             AND v.number = (SELECT max(number) FROM check_sheet_versions WHERE sheet_id = s.id)
         JOIN assets a ON a.id = ?1 LEFT JOIN equipment_classes k ON k.id = a.class_id
         WHERE s.status = 'active' AND (json_extract(v.sheet, '$.class') = k.code OR by_name) ORDER BY s.title",
    )?;
    let rows = select.query_map([asset], |row| {
        Ok(Meant { title: row.get(1)?, recommended: Recommended { code: row.get(0)?, by_name: row.get(2)? } })
    })?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

fn recommended_for(conn: &Connection, asset: AssetId) -> Result<Vec<Recommended>> {
    Ok(meant_for(conn, asset)?.into_iter().map(|meant| meant.recommended).collect())
}

/// Active sheets that are meant for an order's asset.
pub(crate) fn recommended(view: &View, asset: AssetId) -> Result<Vec<RecommendedSheet>> {
    let meant = meant_for(view.conn, asset)?.into_iter();
    Ok(meant.map(|Meant { title, recommended }| RecommendedSheet { code: recommended.code, title }).collect())
}

/// The title of a check sheet that stands in the way of closing an order: something compulsory is not answered, or it was begun
/// and never finished; that of a visit that was skipped does not.
pub(crate) fn not_answered(conn: &Connection, work: WorkOrderId) -> Result<Option<String>> {
    let mut select = conn.prepare_cached(
        "SELECT v.sheet, c.answers, c.begun_at IS NOT NULL FROM checks c JOIN check_sheet_versions v ON v.id = c.version_id
         WHERE c.work_order = ?1 AND c.finished_at IS NULL AND NOT EXISTS (SELECT 1 FROM job_ticks t
             WHERE t.work_order = c.work_order AND t.line = 'step' AND t.place = c.step AND t.skipped IS NOT NULL) ORDER BY c.id",
    )?;
    let mut rows = select.query([work])?;
    while let Some(row) = rows.next()? {
        let sheet: CheckSheet = from_json(VERSIONS, &row.get::<_, String>(0)?)?;
        let answers: Vec<GivenAnswer> = from_json("checks", &row.get::<_, String>(1)?)?;
        let judged = sheet.judge(&answers, |_| String::new())?;
        if row.get::<_, bool>(2)? || !judged.missing.is_empty() {
            return Ok(Some(sheet.title));
        }
    }
    Ok(None)
}

//! Job sheets and their versions; rounds are job sheets of visits.

use crate::{
    access::people,
    ground::{
        base,
        base::Edited,
        error::{Result, StoreError},
        rows::{from_json, to_json},
        sql::Rows,
        tx::Tx,
    },
    plant::assets,
    watch::meters,
    work::{checks, sheets::JOB_SHEETS},
};
use rusqlite::Connection;
use serde::Serialize;
use tally_core::{
    access::roles::Action,
    ground::{status::Status, time::Instant},
    work::{JobSheet, rounds::Walk},
};
use utoipa::ToSchema;

/// A job sheet as listed.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct JobSheetRow {
    pub code: String,
    pub title: String,
    pub status: Status,
    pub version: i64,
    pub trade: Option<String>,
    /// Code.
    pub crew: Option<String>,
    pub hours: Option<f64>,
    pub steps: usize,
    /// How it is walked, where it is a round.
    pub round: Option<Walk>,
    /// Orders that took it, whichever version.
    pub used: i64,
    /// Upkeep plans that go by it.
    pub plans: i64,
}

/// A job sheet, in its newest version.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct JobSheetView {
    pub code: String,
    #[serde(flatten)]
    pub sheet: JobSheet,
    pub version: i64,
    /// Who wrote this version, and when.
    pub by: String,
    pub at: Instant,
    pub used: i64,
    /// The number of its last change, to be given back as what a write is based on.
    pub change: i64,
}

/// All job sheets, by code.
///
/// # Errors
/// SQLite's own.
pub fn list(rows: &dyn Rows) -> Result<Vec<JobSheetRow>> {
    let mut select = rows.sql().conn.prepare_cached(
        "SELECT j.code, j.title, j.status, v.number, v.sheet,
             (SELECT count(*) FROM work_orders w JOIN job_sheet_versions o ON o.id = w.job_version_id WHERE o.sheet_id = j.id),
             (SELECT count(*) FROM upkeep_plans p WHERE p.job_sheet_id = j.id AND p.status <> 'retired')
         FROM job_sheets j JOIN job_sheet_versions v ON v.sheet_id = j.id
             AND v.number = (SELECT max(number) FROM job_sheet_versions WHERE sheet_id = j.id) ORDER BY j.code",
    )?;
    let mut rows = select.query([])?;
    let mut found = Vec::new();
    while let Some(row) = rows.next()? {
        let sheet: JobSheet = from_json("job_sheet_versions", &row.get::<_, String>(4)?)?;
        found.push(JobSheetRow {
            code: row.get(0)?,
            title: row.get(1)?,
            status: row.get(2)?,
            version: row.get(3)?,
            hours: sheet.hours(),
            steps: sheet.steps.len(),
            round: sheet.round,
            trade: sheet.trade,
            crew: sheet.crew,
            used: row.get(5)?,
            plans: row.get(6)?,
        });
    }
    Ok(found)
}

/// One job sheet.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn view(rows: &dyn Rows, code: &str) -> Result<JobSheetView> {
    let conn = rows.sql().conn;
    let newest = JOB_SHEETS.require(conn, code)?;
    let mut used = conn.prepare_cached(
        "SELECT count(*) FROM work_orders w JOIN job_sheet_versions o ON o.id = w.job_version_id
         JOIN job_sheets j ON j.id = o.sheet_id WHERE j.code = ?1",
    )?;
    Ok(JobSheetView {
        code: code.into(),
        version: newest.number,
        sheet: from_json("job_sheet_versions", &newest.text)?,
        at: newest.at,
        by: newest.by,
        used: used.query_row([code], |row| row.get(0))?,
        change: base::version(conn, Edited::JobSheet(code))?,
    })
}

/// Writes a job sheet: a new version, unless nothing differs.
///
/// # Errors
/// [`StoreError::Invalid`] by field, also for an asset, a meter or a crew there is not.
pub fn put(tx: &mut Tx, code: &str, sheet: &JobSheet) -> Result<()> {
    tx.require(Action::PlanWork)?;
    sheet.check()?;
    if let Some(crew) = &sheet.crew {
        people::require_crew(tx.conn, crew, "crew")?;
    }
    for (place, check) in sheet.check_sheets.iter().enumerate() {
        checks::require_sheet(tx.conn, check, &format!("check_sheets[{place}]"))?;
    }
    for (place, step) in sheet.steps.iter().enumerate() {
        if let Some(check) = &step.check_sheet {
            checks::require_sheet(tx.conn, check, &format!("steps[{place}].check_sheet"))?;
        }
        if let Some(job) = &step.job_sheet {
            let field = format!("steps[{place}].job_sheet");
            let found = require_active(tx.conn, job, &field)?;
            if found.sheet.round.is_some() {
                return Err(StoreError::invalid(field, "is a round itself"));
            }
        }
        if let Some(asset) = &step.asset {
            assets::require_in(tx.conn, asset, &format!("steps[{place}].asset"))?;
        }
        for (nth, meter) in step.meters.iter().enumerate() {
            let field = format!("steps[{place}].meters[{nth}]");
            let known = meters::id_of(tx.conn, meter)?;
            known.ok_or_else(|| StoreError::invalid(field, format!("there is no meter {meter:?}")))?;
        }
    }
    JOB_SHEETS.put(tx, code, &sheet.title, sheet.status, &to_json(sheet))
}

/// The version of a job sheet that work takes.
pub(crate) struct Taken {
    pub version: i64,
    pub sheet: JobSheet,
}

/// The newest version of a job sheet that is active; `field` names it in errors.
///
/// # Errors
/// [`StoreError::Invalid`] for one there is not, or that is not active.
pub(crate) fn require_active(conn: &Connection, code: &str, field: &str) -> Result<Taken> {
    let newest = JOB_SHEETS.require_active(conn, code, field)?;
    Ok(Taken { version: newest.version, sheet: from_json("job_sheet_versions", &newest.text)? })
}

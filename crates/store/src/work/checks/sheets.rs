//! Check sheets and their versions.

use super::pictures;
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
    work::sheets::{CHECK_SHEETS, JOB_SHEETS},
};
use rusqlite::Connection;
use serde::Serialize;
use tally_core::{
    access::roles::Action,
    ground::{status::Status, time::Instant},
    work::check_sheets::{self, CheckSheet, LibraryQuestion},
};
use utoipa::ToSchema;

/// Where errors say that a sheet can't be read.
pub(super) const VERSIONS: &str = "check_sheet_versions";

/// A check sheet as listed.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct CheckSheetRow {
    pub code: String,
    pub title: String,
    pub status: Status,
    pub version: i64,
    /// Code of the class it is recommended for.
    pub class: Option<String>,
    pub questions: usize,
    /// Answers that raise work.
    pub rules: usize,
    /// Times it was filled in, whichever version.
    pub used: i64,
}

/// A check sheet, in its newest version.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct CheckSheetView {
    pub code: String,
    pub sheet: CheckSheet,
    pub version: i64,
    /// Who wrote this version, and when.
    pub by: String,
    pub at: Instant,
    pub used: i64,
    /// The number of its last change, to be given back as what a write is based on.
    pub change: i64,
}

const USED: &str = "(SELECT count(*) FROM checks c JOIN check_sheet_versions o ON o.id = c.version_id
    WHERE o.sheet_id = s.id AND c.finished_at IS NOT NULL)";

/// Questions of all sheets in which those words stand, as [`check_sheets::library`] orders them.
///
/// # Errors
/// SQLite's own.
pub fn questions(rows: &dyn Rows, text: &str) -> Result<Vec<LibraryQuestion>> {
    let mut select = rows.sql().conn.prepare_cached(
        "SELECT s.code, v.sheet FROM check_sheets s JOIN check_sheet_versions v
             ON v.sheet_id = s.id AND v.number = (SELECT max(number) FROM check_sheet_versions WHERE sheet_id = s.id)
         ORDER BY s.code",
    )?;
    let mut rows = select.query([])?;
    let mut sheets: Vec<(String, CheckSheet)> = Vec::new();
    while let Some(row) = rows.next()? {
        sheets.push((row.get(0)?, from_json(VERSIONS, &row.get::<_, String>(1)?)?));
    }
    Ok(check_sheets::library(sheets.iter().map(|(code, sheet)| (code.as_str(), sheet)), text))
}

/// All check sheets, by code.
///
/// # Errors
/// SQLite's own.
pub fn list(rows: &dyn Rows) -> Result<Vec<CheckSheetRow>> {
    let mut select = rows.sql().conn.prepare_cached(&format!(
        "SELECT s.code, s.title, s.status, v.number, v.sheet, {USED} FROM check_sheets s JOIN check_sheet_versions v
             ON v.sheet_id = s.id AND v.number = (SELECT max(number) FROM check_sheet_versions WHERE sheet_id = s.id)
         ORDER BY s.code"
    ))?;
    let mut rows = select.query([])?;
    let mut found = Vec::new();
    while let Some(row) = rows.next()? {
        let sheet: CheckSheet = from_json(VERSIONS, &row.get::<_, String>(4)?)?;
        found.push(CheckSheetRow {
            code: row.get(0)?,
            title: row.get(1)?,
            status: row.get(2)?,
            version: row.get(3)?,
            questions: sheet.questions.len(),
            rules: sheet.questions.iter().map(|question| question.rules.len()).sum(),
            class: sheet.class,
            used: row.get(5)?,
        });
    }
    Ok(found)
}

/// One check sheet.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn sheet(rows: &dyn Rows, code: &str) -> Result<CheckSheetView> {
    let conn = rows.sql().conn;
    let newest = CHECK_SHEETS.require(conn, code)?;
    let mut used = conn.prepare_cached(&format!("SELECT {USED} FROM check_sheets s WHERE s.code = ?1"))?;
    Ok(CheckSheetView {
        code: code.into(),
        sheet: from_json(VERSIONS, &newest.text)?,
        version: newest.number,
        by: newest.by,
        at: newest.at,
        used: used.query_row([code], |row| row.get(0))?,
        change: base::version(conn, Edited::CheckSheet(code))?,
    })
}

/// Writes a check sheet: a new version, unless nothing differs.
///
/// # Errors
/// [`StoreError::Invalid`] by field, also for an asset, a class, a crew or a job sheet there is not.
pub fn put(tx: &mut Tx, code: &str, sheet: &CheckSheet) -> Result<()> {
    tx.require(Action::PlanWork)?;
    sheet.check()?;
    if let Some(class) = &sheet.class {
        let mut known = tx.conn.prepare_cached("SELECT 1 FROM equipment_classes WHERE code = ?1")?;
        if !known.exists([class])? {
            return Err(StoreError::invalid("class", format!("there is no equipment class {class:?}")));
        }
    }
    for (place, asset) in sheet.assets.iter().enumerate() {
        assets::require_in(tx.conn, asset, &format!("assets[{place}]"))?;
    }
    for (place, question) in sheet.questions.iter().enumerate() {
        if let Some(file) = &question.picture {
            pictures::require_picture(tx.conn, file, &format!("questions[{place}].picture"))?;
        }
        for (nth, rule) in question.rules.iter().enumerate() {
            let at = |field: &str| format!("questions[{place}].rules[{nth}].{field}");
            if let Some(crew) = &rule.crew {
                people::require_crew(tx.conn, crew, &at("crew"))?;
            }
            if let Some(job) = &rule.job_sheet {
                JOB_SHEETS.require_active(tx.conn, job, &at("job_sheet"))?;
            }
        }
    }
    CHECK_SHEETS.put(tx, code, &sheet.title, sheet.status, &to_json(sheet))?;
    pictures::keep(tx, code, sheet)
}

/// Requires that there is the check sheet that a field names.
pub(crate) fn require_sheet(conn: &Connection, code: &str, field: &str) -> Result<()> {
    let found = CHECK_SHEETS.newest(conn, code)?;
    found.map(drop).ok_or_else(|| StoreError::invalid(field, format!("there is no check sheet {code:?}")))
}

//! Job sheets and their versions, the one that an order took, and what of it is ticked off.

use crate::{
    access::people,
    ground::{
        base,
        base::Edited,
        error::{Result, StoreError},
        rows::{from_json, to_json},
        sql::Rows,
        tx::Tx,
        view::View,
    },
    plant::{assets, settings},
    watch::meters,
    work::{checks, current::state, parts, parts::WorkPart, sheets::JOB_SHEETS},
};
use rusqlite::{Connection, OptionalExtension, params};
use serde::{Deserialize, Serialize};
use tally_core::{
    access::roles::Action,
    ground::{ids::WorkOrderId, status::Status, time::Instant},
    work::JobSheet,
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

/// A line of a sheet that is ticked off, or not yet.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct JobLine {
    pub text: String,
    /// Code and name of the asset of a step, where it is another than the order's.
    pub asset: Option<String>,
    pub asset_name: Option<String>,
    /// Codes.
    pub meters: Vec<String>,
    pub hours: Option<f64>,
    pub ticked_at: Option<Instant>,
    pub ticked_by: Option<String>,
}

/// The job sheet that an order took.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct WorkJob {
    pub code: String,
    pub title: String,
    pub version: i64,
    /// The sheet was changed since.
    pub is_newer: bool,
    pub text: String,
    pub trade: Option<String>,
    pub steps: Vec<JobLine>,
    pub permits: Vec<JobLine>,
    pub parts: Vec<WorkPart>,
    /// When the last of the parts that are missing would be there, as `2026-03-02`, where that is known.
    pub parts_expected_on: Option<String>,
    pub tools: Vec<String>,
    /// Its asset has to stand still for it.
    pub needs_outage: bool,
}

impl JobLine {
    fn new(text: &str, tick: Option<&Tick>) -> Self {
        Self {
            text: text.into(),
            asset: None,
            asset_name: None,
            meters: Vec::new(),
            hours: None,
            ticked_at: tick.map(|tick| tick.at),
            ticked_by: tick.map(|tick| tick.by.clone()),
        }
    }
}

/// What its asset asks to be permitted or isolated before an order begins, as it was when that was raised.
pub(super) fn asset_permits(view: &View, work: WorkOrderId) -> Result<Vec<JobLine>> {
    let texts = permits_of_asset(view.conn, work)?;
    if texts.is_empty() {
        return Ok(Vec::new());
    }
    let ticks = ticks(view.conn, work)?;
    let lines = texts.iter().enumerate();
    Ok(lines.map(|(place, text)| JobLine::new(text, tick_at(&ticks, ASSET_PERMIT, place))).collect())
}

fn permits_of_asset(conn: &Connection, work: WorkOrderId) -> Result<Vec<String>> {
    let mut select = conn.prepare_cached("SELECT permits FROM work_orders WHERE number = ?1")?;
    from_json("work_orders", &select.query_row([work], |row| row.get::<_, String>(0))?)
}

fn tick_at<'a>(ticks: &'a [Tick], line: &str, place: usize) -> Option<&'a Tick> {
    ticks.iter().find(|tick| tick.line == line && tick.place == place)
}

/// What was ticked off of a job sheet counts no more: the order follows another.
pub(super) fn forget_ticks(tx: &Tx, work: WorkOrderId) -> Result<()> {
    tx.conn.execute("DELETE FROM job_ticks WHERE work_order = ?1 AND line <> ?2", params![work, ASSET_PERMIT])?;
    Ok(())
}

/// The job sheet of an order, where it took one.
pub(super) fn of_work(view: &View, work: WorkOrderId) -> Result<Option<WorkJob>> {
    let mut select = view.conn.prepare_cached(
        "SELECT j.code, v.number, v.sheet, EXISTS (SELECT 1 FROM job_sheet_versions n WHERE n.sheet_id = j.id AND n.number > v.number)
         FROM work_orders w JOIN job_sheet_versions v ON v.id = w.job_version_id JOIN job_sheets j ON j.id = v.sheet_id
         WHERE w.number = ?1",
    )?;
    let mut rows = select.query([work])?;
    let Some(row) = rows.next()? else { return Ok(None) };
    let sheet: JobSheet = from_json("job_sheet_versions", &row.get::<_, String>(2)?)?;
    let ticks = ticks(view.conn, work)?;
    let line = |kind: &str, place: usize, text: &str| JobLine::new(text, tick_at(&ticks, kind, place));
    let mut name = view.conn.prepare_cached("SELECT name FROM assets WHERE code = ?1")?;
    let mut steps = Vec::new();
    for (place, step) in sheet.steps.iter().enumerate() {
        let asset_name = match &step.asset {
            Some(asset) => name.query_row([asset], |row| row.get(0)).optional()?,
            None => None,
        };
        steps.push(JobLine {
            asset: step.asset.clone(),
            asset_name,
            meters: step.meters.clone(),
            hours: step.hours,
            ..line(STEP, place, &step.text)
        });
    }
    let today = view.now.in_zone(&settings::time_zone(view)?).date();
    let (parts, parts_expected_on) = parts::of_job(view.conn, &sheet.parts, today)?;
    Ok(Some(WorkJob {
        code: row.get(0)?,
        version: row.get(1)?,
        is_newer: row.get(3)?,
        steps,
        permits: sheet.permits.iter().enumerate().map(|(place, text)| line(PERMIT, place, text)).collect(),
        title: sheet.title,
        text: sheet.text,
        trade: sheet.trade,
        parts,
        parts_expected_on,
        tools: sheet.tools,
        needs_outage: sheet.needs_outage,
    }))
}

const STEP: &str = "step";
const PERMIT: &str = "permit";
const ASSET_PERMIT: &str = "asset_permit";

struct Tick {
    line: String,
    place: usize,
    at: Instant,
    by: String,
}

fn ticks(conn: &Connection, work: WorkOrderId) -> Result<Vec<Tick>> {
    let mut select = conn.prepare_cached(
        "SELECT t.line, t.place, t.recorded_at, p.name FROM job_ticks t JOIN people p ON p.id = t.recorded_by
         WHERE t.work_order = ?1",
    )?;
    let rows = select.query_map([work], |row| {
        Ok(Tick { line: row.get(0)?, place: row.get(1)?, at: row.get(2)?, by: row.get(3)? })
    })?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

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
    let sheet: Option<String> = tx
        .conn
        .prepare_cached(
            "SELECT v.sheet FROM work_orders w JOIN job_sheet_versions v ON v.id = w.job_version_id WHERE w.number = ?1",
        )?
        .query_row([work], |row| row.get(0))
        .optional()?;
    let sheet: Option<JobSheet> = sheet.map(|text| from_json("job_sheet_versions", &text)).transpose()?;
    let text = match (line, &sheet) {
        (ASSET_PERMIT, _) => permits_of_asset(tx.conn, work)?.get(place).cloned(),
        (STEP, Some(sheet)) => sheet.steps.get(place).map(|step| step.text.clone()),
        (_, Some(sheet)) => sheet.permits.get(place).cloned(),
        (_, None) => None,
    };
    let Some(text) = text else { return Err(StoreError::invalid(field, "the order has none at that place")) };
    let changed = if change.done {
        tx.conn
            .prepare_cached(
                "INSERT INTO job_ticks (work_order, line, place, recorded_at, recorded_by) VALUES (?1, ?2, ?3, ?4, ?5)
                 ON CONFLICT DO NOTHING",
            )?
            .execute(params![work, line, place as i64, tx.now, tx.actor.id])?
    } else {
        tx.conn
            .prepare_cached("DELETE FROM job_ticks WHERE work_order = ?1 AND line = ?2 AND place = ?3")?
            .execute(params![work, line, place as i64])?
    };
    if changed == 0 {
        return Ok(());
    }
    let action = if change.done { "ticked off" } else { "ticked back" };
    tx.audit(action, "work order", &work.to_string(), &serde_json::json!({ field: text }))
}

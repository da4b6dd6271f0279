//! The job sheet that an order took, with what became of its lines.

use super::{
    map::round_map,
    steps::{ASSET_PERMIT, PERMIT, STEP, Tick, outcomes, tick_at, ticks},
};
use crate::ground::{error::Result, rows::from_json, view::View};
use rusqlite::{Connection, OptionalExtension, params};
use serde::Serialize;
use tally_core::{
    ground::{ids::WorkOrderId, time::Instant},
    work::{
        JobSheet,
        rounds::{MapLine, StepOutcome, Walk, check_turn, opens},
    },
};
use utoipa::ToSchema;

/// The job sheet that is followed at a visit.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct VisitJob {
    pub code: String,
    pub title: String,
    pub version: i64,
    pub steps: Vec<String>,
}

/// A line of a sheet that is ticked off, or not yet.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct JobLine {
    pub text: String,
    /// Code and name of the asset that it names.
    pub asset: Option<String>,
    pub asset_name: Option<String>,
    /// Codes.
    pub meters: Vec<String>,
    pub hours: Option<f64>,
    /// What is followed at a visit.
    pub job: Option<VisitJob>,
    pub ticked_at: Option<Instant>,
    pub ticked_by: Option<String>,
    /// Why it was left out, where it was.
    pub skipped: Option<String>,
    /// It can be done now: nothing that comes before it is open.
    pub is_turn: bool,
    /// The place of the line whose turn it becomes when this one is done or skipped.
    pub opens: Option<usize>,
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
    pub tools: Vec<String>,
    /// Its asset has to stand still for it.
    pub needs_outage: bool,
    /// How it is walked, where it is a round.
    pub round: Option<Walk>,
    /// Steps that are neither done nor skipped.
    pub open_steps: usize,
    /// Of a round: the part of the tree that its visits lie in.
    pub map: Vec<MapLine>,
}

impl JobLine {
    fn new(text: &str, tick: Option<&Tick>) -> Self {
        Self {
            text: text.into(),
            asset: None,
            asset_name: None,
            meters: Vec::new(),
            hours: None,
            job: None,
            ticked_at: tick.map(|tick| tick.at),
            ticked_by: tick.map(|tick| tick.by.clone()),
            skipped: tick.and_then(|tick| tick.skipped.clone()),
            is_turn: true,
            opens: None,
        }
    }
}

/// What its asset asks to be permitted or isolated before an order begins, as it was when that was raised.
pub(crate) fn asset_permits(view: &View, work: WorkOrderId) -> Result<Vec<JobLine>> {
    let texts = permits_of_asset(view.conn, work)?;
    if texts.is_empty() {
        return Ok(Vec::new());
    }
    let ticks = ticks(view.conn, work)?;
    let lines = texts.iter().enumerate();
    Ok(lines.map(|(place, text)| JobLine::new(text, tick_at(&ticks, ASSET_PERMIT, place))).collect())
}

pub(super) fn permits_of_asset(conn: &Connection, work: WorkOrderId) -> Result<Vec<String>> {
    let mut select = conn.prepare_cached("SELECT permits FROM work_orders WHERE number = ?1")?;
    from_json("work_orders", &select.query_row([work], |row| row.get::<_, String>(0))?)
}

/// What is followed at a visit, in the version that was taken.
fn visit_job(conn: &Connection, work: WorkOrderId, place: usize) -> Result<Option<VisitJob>> {
    let mut select = conn.prepare_cached(
        "SELECT j.code, v.number, v.sheet FROM visit_jobs t JOIN job_sheet_versions v ON v.id = t.version_id
         JOIN job_sheets j ON j.id = v.sheet_id WHERE t.work_order = ?1 AND t.step = ?2",
    )?;
    let mut rows = select.query(params![work, place])?;
    let Some(row) = rows.next()? else { return Ok(None) };
    let sheet: JobSheet = from_json("job_sheet_versions", &row.get::<_, String>(2)?)?;
    let steps = sheet.steps.into_iter().map(|step| step.text).collect();
    Ok(Some(VisitJob { code: row.get(0)?, version: row.get(1)?, title: sheet.title, steps }))
}

/// The job sheet of an order, where it took one.
pub(crate) fn of_work(view: &View, work: WorkOrderId) -> Result<Option<WorkJob>> {
    let mut select = view.conn.prepare_cached(
        "SELECT j.code, v.number, v.sheet, EXISTS (SELECT 1 FROM job_sheet_versions n WHERE n.sheet_id = j.id AND n.number > v.number)
         FROM work_orders w JOIN job_sheet_versions v ON v.id = w.job_version_id JOIN job_sheets j ON j.id = v.sheet_id
         WHERE w.number = ?1",
    )?;
    let mut rows = select.query([work])?;
    let Some(row) = rows.next()? else { return Ok(None) };
    let sheet: JobSheet = from_json("job_sheet_versions", &row.get::<_, String>(2)?)?;
    let ticks = ticks(view.conn, work)?;
    let outcomes = outcomes(&sheet, &ticks);
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
            job: if step.job_sheet.is_some() { visit_job(view.conn, work, place)? } else { None },
            is_turn: check_turn(sheet.round, place, &outcomes).is_ok(),
            opens: opens(sheet.round, place, &outcomes),
            ..line(STEP, place, &step.text)
        });
    }
    let visited: Vec<&str> = sheet.steps.iter().filter_map(|step| step.asset.as_deref()).collect();
    let map = if sheet.round.is_some() { round_map(view, &visited)? } else { Vec::new() };
    Ok(Some(WorkJob {
        code: row.get(0)?,
        version: row.get(1)?,
        is_newer: row.get(3)?,
        steps,
        permits: sheet.permits.iter().enumerate().map(|(place, text)| line(PERMIT, place, text)).collect(),
        title: sheet.title,
        text: sheet.text,
        trade: sheet.trade,
        tools: sheet.tools,
        needs_outage: sheet.needs_outage,
        round: sheet.round,
        open_steps: outcomes.iter().filter(|outcome| **outcome == StepOutcome::Open).count(),
        map,
    }))
}

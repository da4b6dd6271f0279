//! One work order on one page, and the work beside a meter's trend.

use super::{
    current::{mover, state},
    list::{COLUMNS, JOINS, WorkRow, work_row},
};
use crate::{
    codes::{codebooks, failures},
    ground::{
        base,
        error::{Result, StoreError},
        view::View,
    },
    plant::{assets, assets::NamedAsset, downtime, settings},
    watch::{
        alarms,
        alarms::{AlarmRow, WaitingMeter},
        limits,
    },
    work::{
        attachments, checks, comments, decisions, entries, history, job_sheets, links,
        missing::{MissingRow, to_close},
        occurrences, parts, running_time,
    },
};
use rusqlite::{Connection, OptionalExtension, params};
use serde::Serialize;
use tally_core::{
    access::roles::{Action, may},
    ground::{
        ids::{MeterId, WorkOrderId},
        time::Instant,
    },
    watch::limits::Ladder,
    work,
    work::{AskedAbout, TimeInState, Verdict, WorkState, times_in_states},
};
use utoipa::ToSchema;

/// Why automatic work exists.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct WorkWhy {
    pub meter: String,
    pub meter_name: String,
    pub unit: String,
    /// The alarms that raised and joined it, in order of time.
    pub occurrences: Vec<AlarmRow>,
    /// Number of the ladder version that raised it, and its rungs.
    pub ladder_version: i64,
    pub ladder: Ladder,
}

/// The cycle of an upkeep plan whose work it is.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct WorkCycle {
    /// Code of the plan.
    pub plan: String,
    pub name: String,
    pub number: i64,
    /// Before any move, as `2026-03-02`.
    pub due: String,
    pub moved_to: Option<String>,
    /// The count at which it was due, with the counter's unit.
    pub mark: Option<f64>,
    pub unit: Option<String>,
    pub every_days: Option<u32>,
    pub every_units: Option<f64>,
    pub brought_forward: bool,
    /// The alarms that brought it forward, or joined it.
    pub occurrences: Vec<AlarmRow>,
}

fn cycle(conn: &Connection, number: WorkOrderId) -> Result<Option<WorkCycle>> {
    let mut select = conn.prepare_cached(
        "SELECT p.code, p.name, c.number, c.due, c.moved_to, c.mark, p.every_days, p.every_units, c.brought_forward,
             (SELECT m.unit FROM meters m WHERE c.mark IS NOT NULL AND (m.id = p.meter_id OR (p.meter_id IS NULL
                 AND m.asset_id = c.asset_id AND m.running_hours = 1 AND m.retired_at IS NULL)))
         FROM upkeep_cycles c JOIN upkeep_plans p ON p.id = c.plan_id WHERE c.work_order = ?1",
    )?;
    let found = select.query_row([number], |row| {
        Ok(WorkCycle {
            plan: row.get(0)?,
            name: row.get(1)?,
            number: row.get(2)?,
            due: row.get(3)?,
            moved_to: row.get(4)?,
            mark: row.get(5)?,
            every_days: row.get(6)?,
            every_units: row.get(7)?,
            brought_forward: row.get(8)?,
            unit: row.get(9)?,
            occurrences: Vec::new(),
        })
    });
    let mut found = found.optional()?;
    if let Some(cycle) = &mut found {
        cycle.occurrences = alarms::of_work(conn, number)?;
    }
    Ok(found)
}

/// One work order on one page.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct WorkDetail {
    #[serde(flatten)]
    pub row: WorkRow,
    pub text: String,
    pub department: Option<String>,
    pub raised_by: String,
    pub target_finish: Option<Instant>,
    pub scheduled_start: Option<Instant>,
    pub scheduled_end: Option<Instant>,
    pub question: Option<String>,
    pub asked: Option<String>,
    pub verdict: Option<Verdict>,
    /// The number that another system has for it.
    pub reference: Option<String>,
    /// From the root down to the parent of its asset.
    pub above: Vec<NamedAsset>,
    pub why: Option<WorkWhy>,
    pub cycle: Option<WorkCycle>,
    pub job: Option<job_sheets::WorkJob>,
    /// Check sheets to be filled in, or filled in.
    pub checks: Vec<checks::WorkCheck>,
    /// Other check sheets that are meant for its asset.
    pub recommended_checks: Vec<checks::RecommendedSheet>,
    /// What its asset asks to be permitted or isolated before it begins.
    pub permits: Vec<job_sheets::JobLine>,
    /// Whoever looks may tick lines off, of these and of its job sheet.
    pub may_tick: bool,
    /// Parts that it needs or took.
    pub parts: Vec<parts::WorkPart>,
    /// When the last of those that are missing would be there, as `2026-03-02`, where that is known.
    pub parts_expected_on: Option<String>,
    /// Meters that are read at its steps.
    pub meters: Vec<checks::AskedMeter>,
    /// Whose time runs on it.
    pub running: Vec<running_time::RunningTime>,
    /// What is missing before it can be closed.
    pub missing: Vec<MissingRow>,
    /// Spare parts of its asset.
    pub spare_parts: Vec<parts::SparePart>,
    /// What rungs handed up to somebody to decide, the oldest first.
    pub decisions: Vec<decisions::RiskDecision>,
    /// What is known for the one that is open.
    pub known: Option<decisions::KnownForDecision>,
    /// The number of its last move, to be given back as what the next one is based on.
    pub change: i64,
    /// What this person may do with it now.
    pub moves: Vec<work::OfferedMove>,
    /// The same of each state that this person may move it to.
    pub ahead: Vec<work::MovesFrom>,
    /// Whoever looks may plan it: change what it says, its crew and dates, and its links.
    pub may_plan: bool,
    /// Whoever looks may raise more work.
    pub may_raise: bool,
    /// Closed or dropped: nothing is added to it any more.
    pub is_over: bool,
    pub entries: Vec<entries::EntryRow>,
    pub settled: i64,
    pub provisional: i64,
    pub downtime: Vec<downtime::DowntimeRow>,
    /// One an asset at the most.
    pub failures: Vec<failures::FailureRow>,
    /// Closing asks for a failure report.
    pub asks_for_failure: bool,
    /// Meters that wait for the first reading after it is finished: finishing asks for it.
    pub waiting_meters: Vec<WaitingMeter>,
    /// Code of the codebook of the asset's class.
    pub codebook: Option<String>,
    /// The same fault, as others said it.
    pub reported_again: Vec<occurrences::OccurrenceRow>,
    /// The order that it follows on from, as far as that is seen, and what followed on from it.
    pub follows: Option<links::LinkedWork>,
    pub followed_by: Vec<links::LinkedWork>,
    /// Work that it has to do with, as far as it is seen.
    pub linked: Vec<links::LinkedWork>,
    /// Photos and papers, in the order in which they came.
    pub attachments: Vec<attachments::AttachmentRow>,
    /// Whoever looks may attach more.
    pub may_attach: bool,
    /// What people said about it, as far as who looks reads it.
    pub comments: Vec<comments::CommentRow>,
    /// Whoever looks may say something.
    pub may_comment: bool,
    /// Whoever looks does or plans work, and may speak among those.
    pub is_colleague: bool,
    /// How long it stood in each state.
    pub time_in_states: Vec<TimeInState>,
    pub history: Vec<history::Event>,
}

/// One work order on one page, as who looks may move it.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn detail(view: &View, number: WorkOrderId) -> Result<WorkDetail> {
    let conn = view.conn;
    let now = view.now;
    view.viewer.require(conn, number)?;
    let current = state(conn, number)?;
    let (role, person) = view.viewer.mover();
    let mut select = conn.prepare_cached(&format!(
        "SELECT {COLUMNS}, r.name AS raiser, q.name AS asked, m.code AS meter, m.name AS meter_name, m.unit
         FROM work_orders w {JOINS} JOIN people r ON r.id = w.raised_by LEFT JOIN people q ON q.id = w.asked_id
         LEFT JOIN meters m ON m.id = w.source_meter_id WHERE w.number = ?1"
    ))?;
    let mut rows = select.query([number])?;
    let row = rows.next()?.ok_or_else(|| StoreError::not_found("work order", number))?;
    let why = match row.get::<_, Option<String>>("meter")? {
        Some(meter) => {
            let mut occurrences = alarms::of_work(conn, number)?;
            let version = occurrences.first().and_then(|first| first.ladder_version).unwrap_or(0);
            // Each says what this work came to, not another one's.
            occurrences.iter_mut().for_each(|occurrence| occurrence.verdict = current.verdict);
            let meter_id = row.get("source_meter_id")?;
            Some(WorkWhy {
                ladder: limits::version(conn, meter_id, version)?,
                ladder_version: version,
                meter,
                meter_name: row.get("meter_name")?,
                unit: row.get("unit")?,
                occurrences,
            })
        }
        None => None,
    };
    let moves_it = mover(role, person, &current);
    let decided = decisions::of_work(view, number)?;
    let sheet = job_sheets::sheet_of(conn, number)?;
    let today = now.in_zone(&settings::time_zone(view)?).date();
    let planned = sheet.as_ref().map_or(&[][..], |sheet| &sheet.parts);
    let (parts, parts_expected_on) = parts::of_work(view, number, planned, today)?;
    let steps = sheet.as_ref().map_or(&[][..], |sheet| &sheet.steps);
    let read: Vec<String> = steps.iter().flat_map(|step| step.meters.clone()).collect();
    let missing = match current.state.is_over() {
        true => Vec::new(),
        false => work::missing(current.kind, current.verdict, to_close(conn, number)?),
    };
    let entries = entries::of_work(conn, number)?;
    let waiting_meters = alarms::waiting_meters(conn, number)?;
    let settled = entries.iter().filter(|entry| entry.settled_at.is_some()).map(|entry| entry.amount).sum();
    let row_view = work_row(row, view.facts()?, now)?;
    let downtime = downtime::of_work(conn, number)?;
    let about = AskedAbout {
        by_alarm: why.is_some(),
        meters_wait: !waiting_meters.is_empty(),
        has_downtime: !downtime.is_empty(),
    };
    Ok(WorkDetail {
        text: row.get("text")?,
        department: row.get("department")?,
        raised_by: row.get("raiser")?,
        target_finish: row.get("target_finish")?,
        scheduled_start: row.get("scheduled_start")?,
        scheduled_end: row.get("scheduled_end")?,
        question: row.get("question")?,
        asked: row.get("asked")?,
        verdict: row.get("verdict")?,
        reference: row.get("reference")?,
        above: assets::above(view, current.asset)?,
        change: base::version(conn, base::Edited::State(number))?,
        moves: work::offered(current.state, moves_it, about),
        ahead: work::offered_ahead(current.state, moves_it, about),
        may_plan: may(role, Action::PlanWork).is_ok(),
        may_raise: may(role, Action::RaiseWork).is_ok(),
        is_over: current.state.is_over(),
        why,
        cycle: cycle(conn, number)?,
        job: job_sheets::of_work(view, number)?,
        checks: checks::of_work(view, number)?,
        recommended_checks: checks::recommended(view, current.asset)?,
        permits: job_sheets::asset_permits(view, number)?,
        may_tick: may(role, Action::ReportOnWork).is_ok(),
        parts,
        parts_expected_on,
        meters: checks::to_read(view, &read)?,
        running: running_time::of_work(conn, number)?,
        missing: missing.into_iter().map(MissingRow::from).collect(),
        spare_parts: parts::that_fit(view, current.asset)?,
        known: decisions::known(view, &decided)?,
        decisions: decided,
        settled,
        provisional: row_view.cost - settled,
        entries,
        downtime,
        failures: failures::of_work(conn, number)?,
        asks_for_failure: work::asks_for_failure(current.kind, current.verdict),
        waiting_meters,
        codebook: codebooks::for_asset(conn, current.asset)?,
        reported_again: occurrences::of_work(view, number)?,
        follows: links::before(view, number)?,
        followed_by: links::after(view, number)?,
        linked: links::of_work(view, number)?,
        attachments: attachments::of_work(view, number)?,
        may_attach: attachments::may_attach(view, current.state.is_over()),
        comments: comments::of_work(view, number)?,
        may_comment: work::may_comment(role),
        is_colleague: work::is_colleague(role),
        time_in_states: times_in_states(&history::steps(conn, number)?, now),
        history: history::of_work(conn, number)?,
        row: row_view,
    })
}

/// Work on one asset or raised by one meter, that was open at some time of the span: for lanes below a trend.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct WorkSpan {
    pub number: WorkOrderId,
    pub title: String,
    pub raised_at: Instant,
    /// When it was done, or left the open states otherwise.
    pub done_at: Option<Instant>,
    pub from_this_meter: bool,
    /// Problem code of its failure report.
    pub problem: Option<String>,
    pub failed_at: Option<Instant>,
}

/// Work on the meter's asset in the span that is seen, the newest first.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown meter.
pub fn beside_meter(
    view: &View,
    code: &str,
    span: tally_core::ground::time::Span,
    limit: usize,
) -> Result<Vec<WorkSpan>> {
    let conn = view.conn;
    let MeterId(meter) = crate::watch::meters::require(conn, code)?;
    let mut select = conn.prepare_cached(&format!(
        "SELECT w.number, w.title, w.raised_at, w.state, w.state_since, ifnull(w.source_meter_id = ?1, 0) AS own,
             c.name AS problem, f.failed_at
         FROM work_orders w LEFT JOIN failure_reports f ON f.id = (
             SELECT id FROM failure_reports WHERE work_order = w.number ORDER BY failed_at, id LIMIT 1)
         LEFT JOIN codes c ON c.id = f.problem_id
         WHERE w.asset_id = (SELECT asset_id FROM meters WHERE id = ?1) AND w.raised_at < ?3 AND {}
         ORDER BY w.raised_at DESC LIMIT ?2",
        view.viewer.condition("w")
    ))?;
    let mut rows = select.query(params![meter, limit, span.end().ms()])?;
    let mut spans = Vec::new();
    while let Some(row) = rows.next()? {
        let state: WorkState = row.get("state")?;
        let done_at = if state.is_open() { None } else { Some(row.get("state_since")?) };
        if done_at.is_some_and(|at| at < span.start()) {
            continue;
        }
        spans.push(WorkSpan {
            number: row.get("number")?,
            title: row.get("title")?,
            raised_at: row.get("raised_at")?,
            done_at,
            from_this_meter: row.get("own")?,
            problem: row.get("problem")?,
            failed_at: row.get("failed_at")?,
        });
    }
    Ok(spans)
}

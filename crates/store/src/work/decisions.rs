//! Decisions on risk that rungs hand up to a person: asked with the work, answered on it, and listed while they are open.

use super::raise;
use crate::{
    access::people,
    ground::{
        error::{Result, StoreError},
        rows::{list_of, word},
        sql::Rows,
        tx::Tx,
        view::View,
    },
    plant::{assets::NamedAsset, downtime, settings},
    watch::{limits, meters, replay},
    work::{
        current::state,
        run_on::{Decided, release},
    },
};
use rusqlite::{OptionalExtension, Row, params};
use serde::Serialize;
use tally_core::{
    access::refusal::said,
    ground::{
        ids::{AssetId, MeterId, PersonId, WorkOrderId},
        severity::Severity,
        time::{DAY, Instant, Span},
    },
    plant::downtime::{DowntimeKind, NewDowntime},
    work::{NewRiskAnswer, NewWithdrawal, RiskAnswer, RunOnEnd, RungEntered, WorkState, is_overdue, may_answer},
};
use utoipa::ToSchema;

/// A decision, open or answered.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct RiskDecision {
    pub id: i64,
    pub work_order: WorkOrderId,
    pub title: String,
    pub asset: NamedAsset,
    /// Code of the meter whose rung asks.
    pub meter: String,
    pub meter_name: String,
    /// Of what it reads.
    pub unit: String,
    pub severity: Severity,
    /// Whose it is.
    pub asked: String,
    pub asked_at: Instant,
    /// Nobody answered, and the work is not over.
    pub is_open: bool,
    /// Open for longer than is set.
    pub is_late: bool,
    /// Whoever looks may answer it, or change and withdraw it while it runs on.
    pub may_answer: bool,
    pub answer: Option<RiskAnswer>,
    pub until: Option<Instant>,
    pub reason: Option<String>,
    pub answered_at: Option<Instant>,
    pub answered_by: Option<String>,
    /// It runs on by this decision: its limit is quiet.
    pub runs_on: bool,
    /// What ended a decision to run on, and when; none while it runs on.
    pub ended: Option<RunOnEnd>,
    pub ended_at: Option<Instant>,
    /// Why it was withdrawn, or changed, and by whom.
    pub withdrawn_reason: Option<String>,
    pub withdrawn_by: Option<String>,
}

/// Open decisions, the oldest first.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct OpenDecisions {
    pub open: usize,
    pub late: usize,
    /// Of whoever looks.
    pub mine: usize,
    /// Days within which one is to be answered.
    pub within_days: u16,
    pub decisions: Vec<RiskDecision>,
}

/// What is known for an open decision.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct KnownForDecision {
    /// The next worse rung that the meter gets to, as it goes on.
    pub next_severity: Option<Severity>,
    pub next_setpoint: Option<f64>,
    pub next_at: Option<Instant>,
    pub next_earliest: Option<Instant>,
    pub next_latest: Option<Instant>,
    /// Other open work on the asset, and how much of it waits.
    pub open_work: i64,
    pub waiting_work: i64,
    /// What an hour of its standing costs, in minor units, by the nearest asset above that says so.
    pub cost_per_hour: Option<i64>,
    pub cost_of: Option<String>,
}

const COLUMNS: &str = "d.id, d.work_order, w.title, w.state, a.code AS asset, a.name AS asset_name, m.code AS meter, m.name AS meter_name, m.unit,
    d.severity, d.person_id, p.name AS asked, d.asked_at, d.answer, d.until, d.reason, d.answered_at, b.name AS answered_by,
    d.meter_id, d.side, d.withdrawn_at, d.withdrawn_reason, x.name AS withdrawn_by";
const JOINS: &str =
    "FROM risk_decisions d JOIN work_orders w ON w.number = d.work_order JOIN assets a ON a.id = w.asset_id
    JOIN meters m ON m.id = d.meter_id JOIN people p ON p.id = d.person_id LEFT JOIN people b ON b.id = d.answered_by
    LEFT JOIN people x ON x.id = d.withdrawn_by";

fn decision(row: &Row, view: &View, within_days: u16) -> Result<RiskDecision> {
    let (role, person) = view.viewer.mover();
    let (asked_at, answer): (Instant, Option<RiskAnswer>) = (row.get("asked_at")?, row.get("answer")?);
    let state: WorkState = row.get("state")?;
    let is_open = answer.is_none() && !state.is_over();
    let end = match answer {
        Some(RiskAnswer::RunOn) => Some(Decided::of(row)?.end(view.conn)?),
        _ => None,
    };
    let ended = end.filter(|(at, _)| *at <= view.now);
    let runs_on = end.is_some() && ended.is_none();
    Ok(RiskDecision {
        id: row.get("id")?,
        work_order: row.get("work_order")?,
        title: row.get("title")?,
        asset: NamedAsset { code: row.get("asset")?, name: row.get("asset_name")? },
        meter: row.get("meter")?,
        meter_name: row.get("meter_name")?,
        unit: row.get("unit")?,
        severity: Severity::from_strokes(row.get("severity")?).unwrap_or(Severity::Notice),
        asked: row.get("asked")?,
        asked_at,
        is_open,
        is_late: is_open && is_overdue(asked_at, within_days, view.now),
        may_answer: (is_open || runs_on) && may_answer(role, person, row.get("person_id")?),
        answer,
        until: row.get("until")?,
        reason: row.get("reason")?,
        answered_at: row.get("answered_at")?,
        answered_by: row.get("answered_by")?,
        runs_on,
        ended: ended.map(|(_, end)| end),
        ended_at: ended.map(|(at, _)| at),
        withdrawn_reason: row.get("withdrawn_reason")?,
        withdrawn_by: row.get("withdrawn_by")?,
    })
}

/// Hands a decision up with work that a rung made, unless that person is asked already: then it is of the worse of both.
pub(crate) fn ask(tx: &mut Tx, work: WorkOrderId, rung: RungEntered, decides: &str) -> Result<()> {
    let PersonId(person) = people::require_person(tx.conn, decides, "decides")?.id;
    let worse = tx.conn.prepare_cached(
        "UPDATE risk_decisions SET severity = max(severity, ?3) WHERE work_order = ?1 AND person_id = ?2 AND answer IS NULL",
    )?;
    if { worse }.execute(params![work, person, rung.severity.strokes()])? > 0 {
        return Ok(());
    }
    tx.conn
        .prepare_cached(
            "INSERT INTO risk_decisions (work_order, meter_id, side, severity, person_id, asked_at)
             VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
        )?
        .execute(params![work, rung.meter, rung.side, rung.severity.strokes(), person, tx.now])?;
    tx.news.work = true;
    Ok(())
}

/// The open decision of an order, and the code of whoever is asked.
///
/// # Errors
/// SQLite's own.
pub fn asked(rows: &dyn Rows, work: WorkOrderId) -> Result<Option<(i64, String)>> {
    let mut select = rows.sql().conn.prepare_cached(
        "SELECT d.id, p.code FROM risk_decisions d JOIN people p ON p.id = d.person_id
         WHERE d.work_order = ?1 AND d.answer IS NULL ORDER BY d.id LIMIT 1",
    )?;
    Ok(select.query_row([work], |row| Ok((row.get(0)?, row.get(1)?))).optional()?)
}

/// The decisions of one order, the oldest first.
pub(super) fn of_work(view: &View, work: WorkOrderId) -> Result<Vec<RiskDecision>> {
    let within = settings::get(view.conn)?.decide_within_days;
    let mut select =
        view.conn.prepare_cached(&format!("SELECT {COLUMNS} {JOINS} WHERE d.work_order = ?1 ORDER BY d.id"))?;
    let mut rows = select.query([work])?;
    let mut found = Vec::new();
    while let Some(row) = rows.next()? {
        found.push(decision(row, view, within)?);
    }
    Ok(found)
}

/// Decisions told at once.
const MOST_TOLD: usize = 200;

/// What waits for a decision, of the work that the viewer sees.
///
/// # Errors
/// SQLite's own.
pub fn open(view: &View) -> Result<OpenDecisions> {
    let within_days = settings::get(view.conn)?.decide_within_days;
    let mut select = view.conn.prepare_cached(&format!(
        "SELECT {COLUMNS} {JOINS} WHERE d.answer IS NULL AND w.state NOT IN ('closed', 'dropped') AND {}
         ORDER BY d.asked_at, d.id",
        view.viewer.condition("w")
    ))?;
    let mut rows = select.query([])?;
    let mut decisions = Vec::new();
    let mut mine = 0;
    while let Some(row) = rows.next()? {
        mine += usize::from(row.get::<_, PersonId>("person_id")? == view.viewer.person());
        decisions.push(decision(row, view, within_days)?);
    }
    let late = decisions.iter().filter(|decision| decision.is_late).count();
    let open = decisions.len();
    decisions.truncate(MOST_TOLD);
    Ok(OpenDecisions { open, late, mine, within_days, decisions })
}

/// Days of readings that the outlook is taken from.
const OUTLOOK_DAYS: i64 = 28;

/// What is known for the open decision of an order, where there is one.
pub(super) fn known(view: &View, decisions: &[RiskDecision]) -> Result<Option<KnownForDecision>> {
    let Some(open) = decisions.iter().find(|decision| decision.is_open) else { return Ok(None) };
    let conn = view.conn;
    let span = Span::new(view.now.plus(-OUTLOOK_DAYS * DAY), view.now.plus(1)).ok();
    let (ladder, outlook) = match span {
        Some(span) => {
            let ladder = limits::newest(conn, meters::require(conn, &open.meter)?)?;
            (Some(ladder), Some(replay::forecast(view, &open.meter, span, None)?))
        }
        None => (None, None),
    };
    let severity_of = |rung: usize| ladder.as_ref().and_then(|ladder| ladder.rungs.get(rung)).map(|rung| rung.severity);
    let next = outlook.iter().flat_map(|outlook| &outlook.reached);
    let next = next.filter(|reached| severity_of(reached.rung) > Some(open.severity)).min_by_key(|reached| reached.at);
    let (open_work, waiting_work) = conn
        .prepare_cached(
            "SELECT count(*), ifnull(sum(o.state = 'waiting'), 0) FROM work_orders w JOIN work_orders o ON o.asset_id = w.asset_id
             WHERE w.number = ?1 AND o.number <> ?1
                 AND o.state IN ('raised', 'planning', 'waiting', 'ready', 'scheduled', 'under_way')",
        )?
        .query_row([open.work_order], |row| Ok((row.get(0)?, row.get(1)?)))?;
    let cost: Option<(i64, String)> = conn
        .prepare_cached(
            "WITH RECURSIVE line (id, depth) AS (
                 SELECT asset_id, 0 FROM work_orders WHERE number = ?1
                 UNION SELECT p.parent_id, depth + 1 FROM placements p JOIN line ON p.asset_id = line.id
                 WHERE p.to_at IS NULL AND p.parent_id IS NOT NULL)
             SELECT a.downtime_cost, a.name FROM line JOIN assets a ON a.id = line.id WHERE a.downtime_cost IS NOT NULL
             ORDER BY depth LIMIT 1",
        )?
        .query_row([open.work_order], |row| Ok((row.get(0)?, row.get(1)?)))
        .optional()?;
    Ok(Some(KnownForDecision {
        next_severity: next.and_then(|next| severity_of(next.rung)),
        next_setpoint: next.map(|next| next.setpoint),
        next_at: next.map(|next| next.at),
        next_earliest: next.and_then(|next| next.earliest),
        next_latest: next.and_then(|next| next.latest),
        open_work,
        waiting_work,
        cost_per_hour: cost.as_ref().map(|(cost, _)| *cost),
        cost_of: cost.map(|(_, name)| name),
    }))
}

/// What runs on by decision in a scope (everything without one), of the work that the viewer sees; the worst first, among them what
/// ends first.
///
/// # Errors
/// SQLite's own.
pub fn running(view: &View, scope: Option<&[AssetId]>) -> Result<Vec<RiskDecision>> {
    let within_days = settings::get(view.conn)?.decide_within_days;
    let mut select = view.conn.prepare_cached(&format!(
        "SELECT {COLUMNS} {JOINS} WHERE d.answer = 'run_on' AND d.until > ?1 AND (?2 OR w.asset_id IN rarray(?3)) AND {}
         ORDER BY d.severity DESC, d.until, d.id",
        view.viewer.condition("w")
    ))?;
    let mut rows =
        select.query(params![view.now, scope.is_none(), list_of(scope.unwrap_or_default().iter().copied())])?;
    let mut running = Vec::new();
    while let Some(row) = rows.next()? {
        let decision = decision(row, view, within_days)?;
        running.extend(decision.runs_on.then_some(decision));
    }
    Ok(running)
}

/// A decision as it is found to be answered.
struct Found {
    meter: MeterId,
    answer: Option<RiskAnswer>,
    /// It runs on by it now.
    runs_on: bool,
}

/// The decision, where the person may answer it.
fn theirs(tx: &Tx, work: WorkOrderId, id: i64) -> Result<Found> {
    tx.require_seen(work)?;
    let found = tx
        .conn
        .prepare_cached(
            "SELECT d.*, p.name FROM risk_decisions d JOIN people p ON p.id = d.person_id WHERE d.id = ?1 AND d.work_order = ?2",
        )?
        .query_row(params![id, work], |row| {
            let answer: Option<RiskAnswer> = row.get("answer")?;
            let decided = if answer == Some(RiskAnswer::RunOn) { Some(Decided::of(row)?) } else { None };
            let name: String = row.get("name")?;
            Ok((row.get("person_id")?, name, row.get("meter_id")?, answer, decided))
        })
        .optional()?;
    let (asked, name, meter, answer, decided): (PersonId, String, MeterId, Option<RiskAnswer>, Option<Decided>) =
        found.ok_or_else(|| StoreError::not_found("decision", id))?;
    if !may_answer(tx.actor.role, tx.actor.id, asked) {
        return Err(StoreError::NotTheirs(format!("this is for {name} to decide")));
    }
    let runs_on = match decided {
        Some(decided) => decided.end(tx.conn)?.0 > tx.now,
        None => false,
    };
    Ok(Found { meter, answer, runs_on })
}

/// Withdraws a decision to run on: it is asked anew, and what it held back answers.
///
/// # Errors
/// [`StoreError::NotFound`], [`StoreError::NotTheirs`] for another's, [`StoreError::Conflict`] where it does not run on by it,
/// [`StoreError::Invalid`] without a reason.
pub fn withdraw(tx: &mut Tx, work: WorkOrderId, id: i64, given: &NewWithdrawal) -> Result<()> {
    let found = theirs(tx, work, id)?;
    if !found.runs_on {
        return Err(StoreError::Conflict("nothing runs on by this decision any more".into()));
    }
    take_back(tx, id, given.check()?)?;
    release(tx, found.meter, tx.now)?;
    tx.audit("withdrew the decision to run on", "work order", &work.to_string(), given)
}

/// Marks a decision to run on as withdrawn, and asks the same person anew; the new question's id.
fn take_back(tx: &mut Tx, id: i64, reason: &str) -> Result<i64> {
    tx.conn.execute(
        "UPDATE risk_decisions SET withdrawn_at = ?2, withdrawn_by = ?3, withdrawn_reason = ?4 WHERE id = ?1",
        params![id, tx.now, tx.actor.id, reason],
    )?;
    tx.conn.execute(
        "INSERT INTO risk_decisions (work_order, meter_id, side, severity, person_id, asked_at)
         SELECT work_order, meter_id, side, severity, person_id, ?2 FROM risk_decisions WHERE id = ?1",
        params![id, tx.now],
    )?;
    (tx.news.work, tx.news.alarms) = (true, true);
    Ok(tx.conn.last_insert_rowid())
}

/// Answers a decision: the work is done now, the asset runs on until a date, or it is stopped. While it runs on, the answer is
/// changed the same way, with a reason: the one before counts as withdrawn.
///
/// # Errors
/// [`StoreError::NotFound`], [`StoreError::NotTheirs`] for another's, [`StoreError::Conflict`] where it is answered or the order is
/// over, [`StoreError::Invalid`] by field.
pub fn answer(tx: &mut Tx, work: WorkOrderId, id: i64, given: &NewRiskAnswer) -> Result<()> {
    let found = theirs(tx, work, id)?;
    if found.answer.is_some() && !found.runs_on {
        return Err(StoreError::Conflict("it is decided already".into()));
    }
    let current = state(tx.conn, work)?;
    if current.state.is_over() {
        return Err(StoreError::Conflict(format!("work order {work} is {}", current.state.word())));
    }
    given.check(tx.now)?;
    let id = match found.answer {
        None => id,
        // What is changed is said, whichever the new answer is.
        Some(_) => take_back(tx, id, said("reason", &given.reason, "say why it is changed")?)?,
    };
    tx.conn.execute(
        "UPDATE risk_decisions SET answer = ?2, until = ?3, reason = ?4, answered_at = ?5, answered_by = ?6 WHERE id = ?1",
        params![id, given.answer, given.until, given.reason.trim(), tx.now, tx.actor.id],
    )?;
    match given.answer {
        RiskAnswer::DoNow => raise::decide(tx, work, Some(1), tx.now)?,
        RiskAnswer::RunOn => raise::decide(tx, work, None, given.until.unwrap_or(tx.now))?,
        RiskAnswer::Stop => {
            raise::decide(tx, work, Some(1), tx.now)?;
            let stop = NewDowntime {
                kind: DowntimeKind::Unplanned,
                asset: None,
                start: tx.now,
                end: None,
                slowed: None,
                note: format!("stopped by {}: {}", tx.actor.code, given.reason.trim()),
            };
            downtime::stop(tx, current.asset, work, &stop)?;
        }
    }
    release(tx, found.meter, tx.now)?;
    tx.audit(&format!("decided: {}", word(&given.answer).replace('_', " ")), "work order", &work.to_string(), given)
}

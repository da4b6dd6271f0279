//! Work orders: raising, moving between states, listing.

use crate::{
    act::Act,
    alarms::{self, AlarmRow},
    assets::{self, NamedAsset},
    codebooks, downtime, entries,
    error::{Result, StoreError},
    failures, history, limits, people,
    rows::{from_word, instant, maybe_instant, maybe_word, word},
    settings,
};
use rusqlite::{Connection, Row, params, types::Value};
use serde::{Deserialize, Serialize};
use std::{collections::BTreeMap, rc::Rc};
use tally_core::{
    ids::{AssetId, CrewId, MeterId, PersonId, WorkOrderId},
    limits::{Ladder, RungSide},
    people::Action,
    severity::Severity,
    time::{HOUR, Instant},
    work::{self, Mover, RankWindows, Verdict, WaitingFor, WorkKind, WorkState},
};
use utoipa::ToSchema;

/// Work as a person raises it.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct NewWork {
    pub title: String,
    #[serde(default)]
    pub text: String,
    pub kind: WorkKind,
    /// Code of the asset.
    pub asset: String,
    /// 1 (worst) to 5.
    pub risk_rank: u8,
    pub target_start: Option<Instant>,
    pub target_finish: Option<Instant>,
    pub crew: Option<String>,
    pub assignee: Option<String>,
    pub estimated_hours: Option<f64>,
    #[serde(default = "raised")]
    pub state: WorkState,
    /// When it was raised, if that was earlier.
    pub raised_at: Option<Instant>,
}

fn raised() -> WorkState {
    WorkState::Raised
}

/// Which ladder raised it, at which reading.
#[derive(Debug, Clone, Copy)]
pub(crate) struct LadderSource {
    pub meter: MeterId,
    pub side: RungSide,
    pub severity: Severity,
    pub at: Instant,
}

/// Work about to be raised, whoever or whatever raises it.
#[derive(Debug)]
pub(crate) struct Draft {
    pub title: String,
    pub text: String,
    pub kind: WorkKind,
    pub asset: AssetId,
    pub risk_rank: u8,
    pub target_start: Option<Instant>,
    pub target_finish: Option<Instant>,
    pub crew: Option<CrewId>,
    pub assignee: Option<PersonId>,
    pub estimated_hours: Option<f64>,
    pub state: WorkState,
    pub raised_at: Instant,
    pub ladder: Option<LadderSource>,
}

/// Changes to what work says and plans; a field left out stays as it is.
#[derive(Debug, Clone, Default, Serialize, Deserialize, ToSchema)]
pub struct WorkChange {
    pub title: Option<String>,
    pub text: Option<String>,
    pub kind: Option<WorkKind>,
    pub risk_rank: Option<u8>,
    pub crew: Option<String>,
    pub assignee: Option<String>,
    pub estimated_hours: Option<f64>,
    pub target_start: Option<Instant>,
    pub target_finish: Option<Instant>,
    pub scheduled_start: Option<Instant>,
    pub scheduled_end: Option<Instant>,
}

/// A move to another state.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct StateMove {
    pub to: WorkState,
    /// Why; needed to drop work.
    pub note: Option<String>,
    /// When it was so, if that was earlier.
    pub at: Option<Instant>,
    /// For waiting: what for.
    pub waiting_for: Option<WaitingFor>,
    /// For waiting: until when, as far as is known.
    pub expected_until: Option<Instant>,
    /// For returned: the question, and whose it is.
    pub question: Option<String>,
    pub asked: Option<String>,
    /// For done: what the work says of the alarm that raised it.
    pub verdict: Option<Verdict>,
}

/// A work order as listed.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct WorkRow {
    pub number: WorkOrderId,
    pub title: String,
    pub kind: WorkKind,
    pub asset: NamedAsset,
    pub state: WorkState,
    pub state_since: Instant,
    pub waiting_for: Option<WaitingFor>,
    pub source: String,
    pub source_severity: Option<Severity>,
    pub raised_at: Instant,
    pub risk_rank: u8,
    pub window_end: Instant,
    /// Open, and its window has run out.
    pub past_window: bool,
    pub target_start: Option<Instant>,
    pub crew: Option<String>,
    pub assignee: Option<String>,
    pub estimated_hours: Option<f64>,
    pub spent_hours: f64,
    /// Minor units.
    pub cost: i64,
}

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
    pub expected_until: Option<Instant>,
    pub question: Option<String>,
    pub asked: Option<String>,
    pub verdict: Option<Verdict>,
    /// From the root down to the parent of its asset.
    pub above: Vec<NamedAsset>,
    pub why: Option<WorkWhy>,
    /// States this person may move it to now.
    pub moves: Vec<WorkState>,
    pub entries: Vec<entries::EntryRow>,
    pub settled: i64,
    pub provisional: i64,
    pub downtime: Vec<downtime::DowntimeRow>,
    pub failure: Option<failures::FailureRow>,
    /// Code of the codebook of the asset's class.
    pub codebook: Option<String>,
    pub history: Vec<history::Event>,
}

/// How the list is filtered.
#[derive(Debug, Clone, Default)]
pub struct Filter {
    /// Asset ids; `None` for all.
    pub scope: Option<Vec<i64>>,
    /// Any of these; all where empty.
    pub states: Vec<WorkState>,
    pub kinds: Vec<WorkKind>,
    pub ranks: Vec<u8>,
    pub crews: Vec<String>,
    pub sources: Vec<String>,
    /// In number, title or asset.
    pub text: Option<String>,
    pub past_window: bool,
}

/// What the list is sorted by.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum SortBy {
    #[default]
    WindowEnd,
    Raised,
    Rank,
    Number,
    Cost,
    Spent,
}

impl SortBy {
    fn column(self) -> &'static str {
        match self {
            Self::WindowEnd => "w.window_end",
            Self::Raised => "w.raised_at",
            Self::Rank => "w.risk_rank",
            Self::Number => "w.number",
            Self::Cost => "w.cost",
            Self::Spent => "w.spent_ms",
        }
    }
}

/// Which part of the sorted list.
#[derive(Debug, Clone, Default)]
pub struct Page {
    pub sort: SortBy,
    pub descending: bool,
    pub cursor: Option<String>,
    pub limit: usize,
}

/// A value of a filter with how many orders have it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct FacetValue {
    pub value: String,
    pub count: i64,
}

/// The values of each filter, counted under the other filters.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, ToSchema)]
pub struct Facets {
    pub state: Vec<FacetValue>,
    pub kind: Vec<FacetValue>,
    pub rank: Vec<FacetValue>,
    pub crew: Vec<FacetValue>,
    pub source: Vec<FacetValue>,
}

/// What all orders of the filtered list come to.
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize, ToSchema)]
pub struct Totals {
    pub count: i64,
    pub estimated_hours: f64,
    pub spent_hours: f64,
    /// Minor units.
    pub cost: i64,
    pub past_window: i64,
}

/// A part of the list, with facets and totals of all of it.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct WorkPage {
    pub work_orders: Vec<WorkRow>,
    pub facets: Facets,
    pub totals: Totals,
    pub next_cursor: Option<String>,
}

/// Raises work for a person.
///
/// # Errors
/// [`StoreError::Invalid`] by field, [`StoreError::NotTheirs`] for a state the person may not raise work in.
pub fn raise(act: &mut Act, new: &NewWork) -> Result<WorkOrderId> {
    act.require(Action::RaiseWork)?;
    if new.title.trim().is_empty() {
        return Err(StoreError::invalid("title", "say in a few words what is to be done"));
    }
    check_rank(new.risk_rank)?;
    check_hours(new.estimated_hours)?;
    if !work::may_start_in(new.state, act.actor.role) {
        let (role, state) = (act.actor.role.word(), new.state.word());
        return Err(StoreError::NotTheirs(format!("a {role} may not raise work as {state}")));
    }
    let raised_at = new.raised_at.unwrap_or(act.now);
    if raised_at > act.now {
        return Err(StoreError::invalid("raised_at", "lies in the future"));
    }
    let asset = assets::require_in(act.conn, &new.asset, "asset")?;
    let crew = match &new.crew {
        Some(crew) => Some(people::require_crew(act.conn, crew, "crew")?),
        None => None,
    };
    let assignee = match &new.assignee {
        Some(person) => Some(people::require_person(act.conn, person, "assignee")?.id),
        None => None,
    };
    insert(
        act,
        Draft {
            title: new.title.trim().into(),
            text: new.text.trim().into(),
            kind: new.kind,
            asset,
            risk_rank: new.risk_rank,
            target_start: new.target_start,
            target_finish: new.target_finish,
            crew,
            assignee,
            estimated_hours: new.estimated_hours,
            state: new.state,
            raised_at,
            ladder: None,
        },
    )
}

fn check_rank(rank: u8) -> Result<()> {
    if (1..=5).contains(&rank) { Ok(()) } else { Err(StoreError::invalid("risk_rank", "must be 1 (worst) to 5")) }
}

fn check_hours(hours: Option<f64>) -> Result<()> {
    match hours {
        Some(hours) if !(hours.is_finite() && (0.0..=100_000.0).contains(&hours)) => {
            Err(StoreError::invalid("estimated_hours", "must be a number of hours, 0 or more"))
        }
        _ => Ok(()),
    }
}

fn windows(conn: &Connection) -> Result<RankWindows> {
    Ok(RankWindows(settings::get(conn)?.rank_windows))
}

/// Writes a new work order: the one way there is, for people and for limits.
pub(crate) fn insert(act: &mut Act, draft: Draft) -> Result<WorkOrderId> {
    let conn = act.conn;
    let window_end = windows(conn)?.window_end(draft.risk_rank, draft.raised_at);
    let crew = match draft.crew {
        Some(crew) => Some(crew.0),
        None => conn
            .prepare_cached("SELECT crew_id FROM assets WHERE id = ?1")?
            .query_row([draft.asset.0], |row| row.get(0))?,
    };
    let mut insert = conn.prepare_cached(
        "INSERT INTO work_orders (number, title, text, kind, asset_id, source, source_meter_id, source_side,
             source_severity, source_at, raised_at, raised_by, recorded_at, risk_rank, window_end, target_start,
             target_finish, crew_id, department, assignee_id, estimated_hours, state, state_since)
         VALUES ((SELECT ifnull(max(number), 1000) + 1 FROM work_orders), ?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11,
             ?12, ?13, ?14, ?15, ?16, ?17, (SELECT department FROM crews WHERE id = ?17), ?18, ?19, ?20, ?10)",
    )?;
    insert.execute(params![
        draft.title,
        draft.text,
        word(&draft.kind),
        draft.asset.0,
        if draft.ladder.is_some() { "ladder" } else { "person" },
        draft.ladder.map(|l| l.meter.0),
        draft.ladder.map(|l| word(&l.side)),
        draft.ladder.map(|l| l.severity.strokes()),
        draft.ladder.map(|l| l.at.ms()),
        draft.raised_at.ms(),
        act.actor.id.0,
        act.now.ms(),
        draft.risk_rank,
        window_end.ms(),
        draft.target_start.map(Instant::ms),
        draft.target_finish.map(Instant::ms),
        crew,
        draft.assignee.map(|p| p.0),
        draft.estimated_hours,
        word(&draft.state),
    ])?;
    let number = WorkOrderId(conn.last_insert_rowid());
    log_state(act, number, None, draft.state, draft.raised_at, None)?;
    Ok(number)
}

fn log_state(
    act: &Act,
    work: WorkOrderId,
    from: Option<WorkState>,
    to: WorkState,
    at: Instant,
    note: Option<&str>,
) -> Result<()> {
    let mut insert = act.conn.prepare_cached(
        "INSERT INTO state_changes (work_order, from_state, to_state, at, note, recorded_at, recorded_by)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7)",
    )?;
    let from = from.map(|state| word(&state));
    insert.execute(params![work.0, from, word(&to), at.ms(), note, act.now.ms(), act.actor.id.0])?;
    Ok(())
}

/// Makes open work more urgent, because a worse rung of the same side was entered.
pub(crate) fn escalate(
    act: &mut Act,
    work: WorkOrderId,
    severity: Severity,
    rank: u8,
    start: Option<Instant>,
    text: &str,
) -> Result<()> {
    let current = state(act.conn, work)?;
    let tighter = rank < current.risk_rank;
    let window_end =
        if tighter { windows(act.conn)?.tightened(current.window_end, rank, act.now) } else { current.window_end };
    act.conn.execute(
        "UPDATE work_orders SET source_severity = ?2, risk_rank = min(risk_rank, ?3), window_end = ?4,
             target_start = CASE WHEN target_start IS NULL OR ?5 < target_start THEN ifnull(?5, target_start)
                                 ELSE target_start END,
             text = text || char(10) || ?6
         WHERE number = ?1",
        params![work.0, severity.strokes(), rank, window_end.ms(), start.map(Instant::ms), text],
    )?;
    act.audit(
        "escalated",
        "work order",
        &work.to_string(),
        &serde_json::json!({
            "severity": severity, "risk_rank": rank.min(current.risk_rank), "text": text,
        }),
    )
}

/// What moves and entries hang on.
pub(crate) struct Current {
    pub kind: WorkKind,
    pub asset: AssetId,
    pub state: WorkState,
    pub state_since: Instant,
    pub risk_rank: u8,
    pub window_end: Instant,
    waiting_from: Option<WorkState>,
    asked: Option<PersonId>,
}

pub(crate) fn state(conn: &Connection, work: WorkOrderId) -> Result<Current> {
    let mut select = conn.prepare_cached(
        "SELECT kind, asset_id, state, state_since, risk_rank, window_end, waiting_from, asked_id FROM work_orders
         WHERE number = ?1",
    )?;
    let mut rows = select.query([work.0])?;
    let row = rows.next()?.ok_or_else(|| StoreError::not_found("work order", work))?;
    Ok(Current {
        kind: from_word("work_orders", row.get("kind")?)?,
        asset: AssetId(row.get("asset_id")?),
        state: from_word("work_orders", row.get("state")?)?,
        state_since: instant(row, "state_since")?,
        risk_rank: row.get("risk_rank")?,
        window_end: instant(row, "window_end")?,
        waiting_from: maybe_word("work_orders", row, "waiting_from")?,
        asked: row.get::<_, Option<i64>>("asked_id")?.map(PersonId),
    })
}

/// Where a work order stands, and the meter whose limit raised it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Standing {
    pub state: WorkState,
    pub waiting_from: Option<WorkState>,
    /// Code.
    pub source_meter: Option<String>,
}

/// Where a work order stands.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn standing(conn: &Connection, work: WorkOrderId) -> Result<Standing> {
    let current = state(conn, work)?;
    let mut select = conn.prepare_cached(
        "SELECT m.code FROM work_orders w LEFT JOIN meters m ON m.id = w.source_meter_id WHERE w.number = ?1",
    )?;
    let source_meter = select.query_row([work.0], |row| row.get(0))?;
    Ok(Standing { state: current.state, waiting_from: current.waiting_from, source_meter })
}

fn mover(act_role: tally_core::people::Role, person: PersonId, current: &Current) -> Mover {
    Mover {
        role: act_role,
        immediate: current.kind == WorkKind::CorrectiveImmediate,
        waiting_from: current.waiting_from,
        is_asked: current.asked == Some(person),
    }
}

/// Moves work to another state.
///
/// # Errors
/// [`StoreError::Conflict`] where there is no such move, [`StoreError::NotTheirs`] where it is another role's,
/// [`StoreError::Invalid`] for what the state needs and lacks.
pub fn set_state(act: &mut Act, work: WorkOrderId, to: &StateMove) -> Result<()> {
    let current = state(act.conn, work)?;
    work::check_move(current.state, to.to, mover(act.actor.role, act.actor.id, &current)).map_err(|refused| {
        match refused {
            work::MoveRefused::NoSuchMove { .. } => StoreError::Conflict(refused.to_string()),
            work::MoveRefused::NotTheirs { .. } => StoreError::NotTheirs(refused.to_string()),
        }
    })?;
    let at = to.at.unwrap_or(act.now);
    if at > act.now {
        return Err(StoreError::invalid("at", "lies in the future"));
    }
    if at < current.state_since {
        return Err(StoreError::invalid("at", format!("lies before the last change, at {}", current.state_since)));
    }
    let note = to.note.as_deref().map(str::trim).filter(|note| !note.is_empty());
    let question = to.question.as_deref().map(str::trim).filter(|question| !question.is_empty());
    let mut asked = None;
    match to.to {
        WorkState::Dropped if note.is_none() => {
            return Err(StoreError::invalid("note", "say why the work is dropped"));
        }
        WorkState::Waiting if to.waiting_for.is_none() => {
            return Err(StoreError::invalid("waiting_for", "say what it waits for: parts, outage, people or other"));
        }
        WorkState::Returned => {
            if question.is_none() {
                return Err(StoreError::invalid("question", "ask what is to be answered"));
            }
            let person = to.asked.as_deref().ok_or_else(|| StoreError::invalid("asked", "say whom you ask"))?;
            asked = Some(people::require_person(act.conn, person, "asked")?.id.0);
        }
        WorkState::Closed => close(act, work, current.kind, at)?,
        _ => {}
    }
    let waiting = to.to == WorkState::Waiting;
    act.conn.execute(
        "UPDATE work_orders SET state = ?2, state_since = ?3, waiting_from = ?4, waiting_for = ?5, expected_until = ?6,
             question = ?7, asked_id = ?8, verdict = ifnull(?9, verdict) WHERE number = ?1",
        params![
            work.0,
            word(&to.to),
            at.ms(),
            waiting.then(|| word(&current.state)),
            to.waiting_for.filter(|_| waiting).map(|reason| word(&reason)),
            to.expected_until.filter(|_| waiting).map(Instant::ms),
            if to.to == WorkState::Returned { question } else { None },
            asked,
            to.verdict.map(|verdict| word(&verdict)),
        ],
    )?;
    log_state(act, work, Some(current.state), to.to, at, note.or(question))
}

/// What closing needs and does: nothing is missing, and the entries are settled.
fn close(act: &Act, work: WorkOrderId, kind: WorkKind, at: Instant) -> Result<()> {
    let has_problem = act
        .conn
        .prepare_cached("SELECT 1 FROM failure_reports WHERE work_order = ?1 AND problem_id IS NOT NULL")?
        .exists([work.0])?;
    let open_downtime: Option<i64> = crate::rows::optional(
        act.conn
            .prepare_cached("SELECT id FROM downtimes WHERE work_order = ?1 AND end_at IS NULL LIMIT 1")?
            .query_row([work.0], |row| row.get(0)),
    )?;
    work::check_close(kind, has_problem, open_downtime).map_err(|error| StoreError::invalid(error.field(), error))?;
    act.conn.execute(
        "UPDATE entries SET settled_at = ?2 WHERE work_order = ?1 AND settled_at IS NULL",
        params![work.0, at.ms()],
    )?;
    Ok(())
}

/// Changes what work says and plans. A tighter rank tightens the window from now, a milder one leaves it.
///
/// # Errors
/// [`StoreError::Invalid`] by field.
pub fn change(act: &mut Act, work: WorkOrderId, to: &WorkChange) -> Result<()> {
    act.require(Action::PlanWork)?;
    let current = state(act.conn, work)?;
    if to.title.as_deref().is_some_and(|title| title.trim().is_empty()) {
        return Err(StoreError::invalid("title", "say in a few words what is to be done"));
    }
    to.risk_rank.map_or(Ok(()), check_rank)?;
    check_hours(to.estimated_hours)?;
    if let (Some(start), Some(end)) = (to.scheduled_start, to.scheduled_end)
        && start >= end
    {
        return Err(StoreError::invalid("scheduled_end", "must lie after scheduled_start"));
    }
    let crew = match &to.crew {
        Some(crew) => Some(people::require_crew(act.conn, crew, "crew")?.0),
        None => None,
    };
    let assignee = match &to.assignee {
        Some(person) => Some(people::require_person(act.conn, person, "assignee")?.id.0),
        None => None,
    };
    let window_end = match to.risk_rank {
        Some(rank) if rank < current.risk_rank => {
            Some(windows(act.conn)?.tightened(current.window_end, rank, act.now).ms())
        }
        _ => None,
    };
    act.conn.execute(
        "UPDATE work_orders SET title = ifnull(?2, title), text = ifnull(?3, text), kind = ifnull(?4, kind),
             risk_rank = ifnull(?5, risk_rank), window_end = ifnull(?6, window_end), crew_id = ifnull(?7, crew_id),
             department = CASE WHEN ?7 IS NULL THEN department
                               ELSE (SELECT department FROM crews WHERE id = ?7) END,
             assignee_id = ifnull(?8, assignee_id), estimated_hours = ifnull(?9, estimated_hours),
             target_start = ifnull(?10, target_start), target_finish = ifnull(?11, target_finish),
             scheduled_start = ifnull(?12, scheduled_start), scheduled_end = ifnull(?13, scheduled_end)
         WHERE number = ?1",
        params![
            work.0,
            to.title.as_deref().map(str::trim),
            to.text.as_deref().map(str::trim),
            to.kind.map(|kind| word(&kind)),
            to.risk_rank,
            window_end,
            crew,
            assignee,
            to.estimated_hours,
            to.target_start.map(Instant::ms),
            to.target_finish.map(Instant::ms),
            to.scheduled_start.map(Instant::ms),
            to.scheduled_end.map(Instant::ms),
        ],
    )?;
    act.audit("changed", "work order", &work.to_string(), to)
}

const COLUMNS: &str = "w.*, a.code AS asset, a.name AS asset_name, c.code AS crew, p.name AS assignee";
const JOINS: &str = "JOIN assets a ON a.id = w.asset_id LEFT JOIN crews c ON c.id = w.crew_id
     LEFT JOIN people p ON p.id = w.assignee_id";

fn work_row(row: &Row, now: Instant) -> Result<WorkRow> {
    let state: WorkState = from_word("work_orders", row.get("state")?)?;
    let window_end = instant(row, "window_end")?;
    Ok(WorkRow {
        number: WorkOrderId(row.get("number")?),
        title: row.get("title")?,
        kind: from_word("work_orders", row.get("kind")?)?,
        asset: NamedAsset { code: row.get("asset")?, name: row.get("asset_name")? },
        state,
        state_since: instant(row, "state_since")?,
        waiting_for: maybe_word("work_orders", row, "waiting_for")?,
        source: row.get("source")?,
        source_severity: row.get::<_, Option<u8>>("source_severity")?.and_then(Severity::from_strokes),
        raised_at: instant(row, "raised_at")?,
        risk_rank: row.get("risk_rank")?,
        window_end,
        past_window: state.is_open() && window_end < now,
        target_start: maybe_instant(row, "target_start")?,
        crew: row.get("crew")?,
        assignee: row.get("assignee")?,
        estimated_hours: row.get("estimated_hours")?,
        spent_hours: row.get::<_, i64>("spent_ms")? as f64 / HOUR as f64,
        cost: row.get("cost")?,
    })
}

/// A filter as SQL: a condition for each facet, and their values.
struct Conditions {
    base: String,
    facets: [(&'static str, Vec<String>); 5],
    values: Vec<Value>,
    arrays: Vec<Rc<Vec<Value>>>,
}

const FACETS: [&str; 5] = ["w.state", "w.kind", "w.risk_rank", "ifnull(c.code, '')", "w.source"];

fn conditions(filter: &Filter, now: Instant) -> Conditions {
    let words = |list: Vec<String>| list;
    let facets = [
        (FACETS[0], words(filter.states.iter().map(word).collect())),
        (FACETS[1], words(filter.kinds.iter().map(word).collect())),
        (FACETS[2], words(filter.ranks.iter().map(ToString::to_string).collect())),
        (FACETS[3], words(filter.crews.clone())),
        (FACETS[4], words(filter.sources.clone())),
    ];
    let mut base = String::from("1");
    let mut arrays = Vec::new();
    let mut values = Vec::new();
    if let Some(scope) = &filter.scope {
        base.push_str(" AND w.asset_id IN rarray(:scope)");
        arrays.push(Rc::new(scope.iter().map(|id| Value::from(*id)).collect()));
    }
    if let Some(text) = filter.text.as_deref().map(str::trim).filter(|text| !text.is_empty()) {
        base.push_str(
            " AND instr(lower(w.number || ' ' || w.title || ' ' || a.name || ' ' || a.code), lower(:text)) > 0",
        );
        values.push(Value::from(text.to_owned()));
    }
    if filter.past_window {
        let open = WorkState::ALL.iter().filter(|s| s.is_open()).map(|s| format!("'{}'", word(s)));
        let open = open.collect::<Vec<_>>().join(", ");
        base.push_str(&format!(" AND w.window_end < {} AND w.state IN ({open})", now.ms()));
    }
    Conditions { base, facets, values, arrays }
}

impl Conditions {
    /// All conditions, or all but those of one facet.
    fn sql(&self, but: Option<usize>) -> String {
        let mut sql = self.base.clone();
        for (place, (column, chosen)) in self.facets.iter().enumerate() {
            if Some(place) != but && !chosen.is_empty() {
                // The values are words of enums, numbers, or codes checked for their letters when they were added.
                let list: Vec<String> = chosen.iter().map(|v| format!("'{}'", v.replace('\'', "''"))).collect();
                sql.push_str(&format!(" AND {column} IN ({})", list.join(", ")));
            }
        }
        sql
    }

    fn params(&self) -> Vec<(&'static str, &dyn rusqlite::ToSql)> {
        let mut params: Vec<(&'static str, &dyn rusqlite::ToSql)> = Vec::new();
        params.extend(self.arrays.iter().map(|array| (":scope", array as &dyn rusqlite::ToSql)));
        params.extend(self.values.iter().map(|value| (":text", value as &dyn rusqlite::ToSql)));
        params
    }
}

/// A part of the filtered, sorted list, with facets and totals of the whole of it.
///
/// # Errors
/// [`StoreError::Invalid`] for a cursor that is none.
pub fn list(conn: &Connection, filter: &Filter, page: &Page, now: Instant) -> Result<WorkPage> {
    let conditions = conditions(filter, now);
    let (column, order, beyond) = match page.descending {
        true => (page.sort.column(), "DESC", "<"),
        false => (page.sort.column(), "ASC", ">"),
    };
    let after = match &page.cursor {
        Some(cursor) => {
            let wrong = || StoreError::invalid("cursor", "is none of this list");
            let (key, number) = cursor.split_once('_').ok_or_else(wrong)?;
            let number_of = |text: &str| text.parse::<i64>().map_err(|_not_a_number| wrong());
            format!(" AND ({column}, w.number) {beyond} ({}, {})", number_of(key)?, number_of(number)?)
        }
        None => String::new(),
    };
    let sql = format!(
        "SELECT {COLUMNS}, {column} AS sort_key FROM work_orders w {JOINS} WHERE {}{after}
         ORDER BY {column} {order}, w.number {order} LIMIT {}",
        conditions.sql(None),
        page.limit + 1
    );
    let mut select = conn.prepare(&sql)?;
    let mut rows = select.query(conditions.params().as_slice())?;
    let mut work_orders = Vec::new();
    let mut next_cursor = None;
    let mut last_key = 0i64;
    while let Some(row) = rows.next()? {
        if work_orders.len() == page.limit {
            next_cursor = work_orders.last().map(|last: &WorkRow| format!("{last_key}_{}", last.number));
            break;
        }
        last_key = row.get("sort_key")?;
        work_orders.push(work_row(row, now)?);
    }
    Ok(WorkPage {
        work_orders,
        facets: facets(conn, &conditions)?,
        totals: totals(conn, &conditions, now)?,
        next_cursor,
    })
}

fn facets(conn: &Connection, conditions: &Conditions) -> Result<Facets> {
    let of = |place: usize| -> Result<Vec<FacetValue>> {
        let sql = format!(
            "SELECT {} AS value, count(*) FROM work_orders w {JOINS} WHERE {} GROUP BY 1",
            FACETS[place],
            conditions.sql(Some(place))
        );
        let mut select = conn.prepare(&sql)?;
        let mut rows = select.query(conditions.params().as_slice())?;
        let mut values = BTreeMap::new();
        while let Some(row) = rows.next()? {
            let value = match row.get_ref(0)? {
                rusqlite::types::ValueRef::Integer(number) => number.to_string(),
                other => other.as_str().unwrap_or_default().to_owned(),
            };
            values.insert(value, row.get::<_, i64>(1)?);
        }
        Ok(values.into_iter().map(|(value, count)| FacetValue { value, count }).collect())
    };
    let mut state = of(0)?;
    let place = |value: &FacetValue| WorkState::ALL.iter().position(|s| word(s) == value.value);
    state.sort_by_key(place);
    Ok(Facets { state, kind: of(1)?, rank: of(2)?, crew: of(3)?, source: of(4)? })
}

fn totals(conn: &Connection, conditions: &Conditions, now: Instant) -> Result<Totals> {
    let open = WorkState::ALL.iter().filter(|s| s.is_open()).map(|s| format!("'{}'", word(s)));
    let sql = format!(
        "SELECT count(*), ifnull(sum(w.estimated_hours), 0.0), ifnull(sum(w.spent_ms), 0), ifnull(sum(w.cost), 0),
             ifnull(sum(w.window_end < {} AND w.state IN ({})), 0)
         FROM work_orders w {JOINS} WHERE {}",
        now.ms(),
        open.collect::<Vec<_>>().join(", "),
        conditions.sql(None)
    );
    let mut select = conn.prepare(&sql)?;
    Ok(select.query_row(conditions.params().as_slice(), |row| {
        Ok(Totals {
            count: row.get(0)?,
            estimated_hours: row.get(1)?,
            spent_hours: row.get::<_, i64>(2)? as f64 / HOUR as f64,
            cost: row.get(3)?,
            past_window: row.get(4)?,
        })
    })?)
}

/// One work order on one page, as `viewer` may move it.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn detail(
    conn: &Connection,
    number: WorkOrderId,
    viewer: &crate::Actor,
    above: impl FnOnce(AssetId) -> Result<Vec<NamedAsset>>,
    now: Instant,
) -> Result<WorkDetail> {
    let current = state(conn, number)?;
    let mut select = conn.prepare_cached(&format!(
        "SELECT {COLUMNS}, r.name AS raiser, q.name AS asked, m.code AS meter, m.name AS meter_name, m.unit
         FROM work_orders w {JOINS} JOIN people r ON r.id = w.raised_by LEFT JOIN people q ON q.id = w.asked_id
         LEFT JOIN meters m ON m.id = w.source_meter_id WHERE w.number = ?1"
    ))?;
    let mut rows = select.query([number.0])?;
    let row = rows.next()?.ok_or_else(|| StoreError::not_found("work order", number))?;
    let why = match row.get::<_, Option<String>>("meter")? {
        Some(meter) => {
            let occurrences = alarms::of_work(conn, number)?;
            let version = occurrences.first().map_or(0, |first| first.ladder_version);
            let meter_id = MeterId(row.get("source_meter_id")?);
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
    let entries = entries::of_work(conn, number)?;
    let settled = entries.iter().filter(|entry| entry.settled_at.is_some()).map(|entry| entry.amount).sum();
    let row_view = work_row(row, now)?;
    Ok(WorkDetail {
        text: row.get("text")?,
        department: row.get("department")?,
        raised_by: row.get("raiser")?,
        target_finish: maybe_instant(row, "target_finish")?,
        scheduled_start: maybe_instant(row, "scheduled_start")?,
        scheduled_end: maybe_instant(row, "scheduled_end")?,
        expected_until: maybe_instant(row, "expected_until")?,
        question: row.get("question")?,
        asked: row.get("asked")?,
        verdict: maybe_word("work_orders", row, "verdict")?,
        above: above(current.asset)?,
        why,
        moves: work::moves(current.state, mover(viewer.role, viewer.id, &current)),
        settled,
        provisional: row_view.cost - settled,
        entries,
        downtime: downtime::of_work(conn, number)?,
        failure: failures::of_work(conn, number)?,
        codebook: codebooks::for_asset(conn, current.asset)?,
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

/// Work on the meter's asset in the span, the newest first.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown meter.
pub fn beside_meter(
    conn: &Connection,
    code: &str,
    span: tally_core::time::Span,
    limit: usize,
) -> Result<Vec<WorkSpan>> {
    let MeterId(meter) = crate::meters::require(conn, code)?;
    let mut select = conn.prepare_cached(
        "SELECT w.number, w.title, w.raised_at, w.state, w.state_since, ifnull(w.source_meter_id = ?1, 0) AS own,
             c.name AS problem, f.failed_at
         FROM work_orders w LEFT JOIN failure_reports f ON f.work_order = w.number
         LEFT JOIN codes c ON c.id = f.problem_id
         WHERE w.asset_id = (SELECT asset_id FROM meters WHERE id = ?1) AND w.raised_at < ?3
         ORDER BY w.raised_at DESC LIMIT ?2",
    )?;
    let mut rows = select.query(params![meter, limit, span.end().ms()])?;
    let mut spans = Vec::new();
    while let Some(row) = rows.next()? {
        let state: WorkState = from_word("work_orders", row.get("state")?)?;
        let done_at = if state.is_open() { None } else { Some(instant(row, "state_since")?) };
        if done_at.is_some_and(|at| at < span.start()) {
            continue;
        }
        spans.push(WorkSpan {
            number: WorkOrderId(row.get("number")?),
            title: row.get("title")?,
            raised_at: instant(row, "raised_at")?,
            done_at,
            from_this_meter: row.get("own")?,
            problem: row.get("problem")?,
            failed_at: maybe_instant(row, "failed_at")?,
        });
    }
    Ok(spans)
}

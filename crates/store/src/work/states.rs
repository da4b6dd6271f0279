//! Moves between states, and what closing needs.

use crate::{
    act::Act,
    alarms,
    error::{Result, StoreError},
    people,
    readings::{self, Batch, Incoming, IncomingValue},
    rows::word,
    webhooks,
};
use rusqlite::{Connection, params};
use serde::{Deserialize, Serialize};
use tally_core::{
    ids::{AssetId, PersonId, WorkOrderId},
    readings::Source,
    time::Instant,
    work::{self, AskField, Mover, Verdict, WaitingFor, WorkKind, WorkState},
};
use utoipa::ToSchema;

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
    /// For done: what the meters that wait for it read now.
    #[serde(default)]
    pub readings: Vec<ReadingAfter>,
}

/// A reading taken when the work was finished.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct ReadingAfter {
    /// Code of the meter.
    pub meter: String,
    pub value: IncomingValue,
    /// Now without it; it must lie after the finish.
    pub at: Option<Instant>,
}

impl StateMove {
    /// A move now, with nothing said about it.
    #[must_use]
    pub fn to(to: WorkState) -> Self {
        let (note, at, waiting_for, expected_until, question) = (None, None, None, None, None);
        Self { to, note, at, waiting_for, expected_until, question, asked: None, verdict: None, readings: Vec::new() }
    }
}

/// What moves and entries hang on.
pub(crate) struct Current {
    pub kind: WorkKind,
    pub asset: AssetId,
    pub state: WorkState,
    pub state_since: Instant,
    pub risk_rank: u8,
    pub window_end: Instant,
    pub verdict: Option<Verdict>,
    waiting_from: Option<WorkState>,
    waiting_for: Option<WaitingFor>,
    expected_until: Option<Instant>,
    asked: Option<PersonId>,
}

pub(crate) fn state(conn: &Connection, work: WorkOrderId) -> Result<Current> {
    let mut select = conn.prepare_cached(
        "SELECT kind, asset_id, state, state_since, risk_rank, window_end, waiting_from, waiting_for, expected_until, asked_id,
             verdict FROM work_orders WHERE number = ?1",
    )?;
    let mut rows = select.query([work])?;
    let row = rows.next()?.ok_or_else(|| StoreError::not_found("work order", work))?;
    Ok(Current {
        kind: row.get("kind")?,
        asset: row.get("asset_id")?,
        state: row.get("state")?,
        state_since: row.get("state_since")?,
        risk_rank: row.get("risk_rank")?,
        window_end: row.get("window_end")?,
        waiting_from: row.get("waiting_from")?,
        waiting_for: row.get("waiting_for")?,
        expected_until: row.get("expected_until")?,
        asked: row.get("asked_id")?,
        verdict: row.get("verdict")?,
    })
}

/// Where a work order stands, the meter whose limit raised it, and whose it is.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Standing {
    pub state: WorkState,
    pub waiting_from: Option<WorkState>,
    /// Code.
    pub source_meter: Option<String>,
    /// Code.
    pub crew: Option<String>,
}

/// Where a work order stands.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn standing(conn: &Connection, work: WorkOrderId) -> Result<Standing> {
    let current = state(conn, work)?;
    let mut select = conn.prepare_cached(
        "SELECT m.code, c.code FROM work_orders w LEFT JOIN meters m ON m.id = w.source_meter_id
         LEFT JOIN crews c ON c.id = w.crew_id WHERE w.number = ?1",
    )?;
    let (source_meter, crew) = select.query_row([work], |row| Ok((row.get(0)?, row.get(1)?)))?;
    Ok(Standing { state: current.state, waiting_from: current.waiting_from, source_meter, crew })
}

pub(super) fn mover(act_role: tally_core::people::Role, person: PersonId, current: &Current) -> Mover {
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
    act.require_seen(work)?;
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
    for ask in work::asks(to.to, false, false).into_iter().filter(|ask| ask.required) {
        let (field, is_given, reason) = match ask.field {
            AskField::WaitingFor => {
                ("waiting_for", to.waiting_for.is_some(), "say what it waits for: parts, outage, people or other")
            }
            AskField::Question => ("question", question.is_some(), "ask what is to be answered"),
            AskField::Asked => ("asked", to.asked.is_some(), "say whom you ask"),
            AskField::Note => ("note", note.is_some(), "say why the work is dropped"),
            // Never required.
            AskField::ExpectedUntil | AskField::At | AskField::Verdict | AskField::Readings => continue,
        };
        if !is_given {
            return Err(StoreError::invalid(field, reason));
        }
    }
    let mut asked = None;
    match to.to {
        WorkState::Waiting
            if current.state == WorkState::Waiting
                && (to.waiting_for, to.expected_until) == (current.waiting_for, current.expected_until) =>
        {
            return Err(StoreError::invalid("waiting_for", "it waits for that already"));
        }
        WorkState::Returned => {
            if let Some(person) = to.asked.as_deref() {
                asked = Some(people::require_person(act.conn, person, "asked")?.id.0);
            }
        }
        WorkState::Closed => close(act, work, &current, at)?,
        WorkState::Dropped => settle(act, work, at)?,
        _ => {}
    }
    if !to.readings.is_empty() && to.to != WorkState::Done {
        return Err(StoreError::invalid("readings", "are taken when the work is done"));
    }
    // What was due before answers to the work as it was then.
    if let Some(meter) = standing(act.conn, work)?.source_meter {
        alarms::answer_before(act, &meter, at, &mut readings::Receipt::default())?;
    }
    let waiting = to.to == WorkState::Waiting;
    // For another reason it still goes back to where it came from.
    let from = current.waiting_from.filter(|_| current.state == WorkState::Waiting).unwrap_or(current.state);
    act.conn.execute(
        "UPDATE work_orders SET state = ?2, state_since = ?3, waiting_from = ?4, waiting_for = ?5, expected_until = ?6,
             question = ?7, asked_id = ?8, verdict = ifnull(?9, verdict) WHERE number = ?1",
        params![
            work,
            to.to,
            at,
            waiting.then_some(from),
            to.waiting_for.filter(|_| waiting),
            to.expected_until.filter(|_| waiting),
            if to.to == WorkState::Returned { question } else { None },
            asked,
            to.verdict,
        ],
    )?;
    act.news.work = true;
    webhooks::emit(act, "work_state", &serde_json::json!({ "number": work, "from": current.state, "to": to.to }))?;
    log_state(act, work, Some(current.state), to.to, at, note.or(question))?;
    alarms::work_moved(act, work, current.state, to.to, at)?;
    read_after(act, &to.readings, at)
}

/// Takes the readings that finishing asks for.
fn read_after(act: &mut Act, after: &[ReadingAfter], finished: Instant) -> Result<()> {
    if after.is_empty() {
        return Ok(());
    }
    let mut rows = Vec::with_capacity(after.len());
    for (place, reading) in after.iter().enumerate() {
        let at = reading.at.unwrap_or(act.now.max(finished.plus(1)));
        if at <= finished {
            let reason = "must lie after the finish: only what is read since tells whether the repair holds";
            return Err(StoreError::invalid(format!("readings[{place}].at"), reason));
        }
        rows.push(Ok(Incoming { meter: reading.meter.clone(), at, value: reading.value.clone() }));
    }
    let batch = Batch { source: Source::Entered, name: None, strict: true };
    match readings::ingest(act, &rows, batch) {
        Ok(_) => Ok(()),
        Err(StoreError::Strict(receipt)) => {
            let refused = receipt.refused.into_iter().next();
            let (place, reason) = refused.map_or((0, String::new()), |refused| (refused.index, refused.reason));
            Err(StoreError::invalid(format!("readings[{place}].value"), reason))
        }
        Err(error) => Err(error),
    }
}

/// What closing needs and does: nothing is missing, and the entries are settled.
fn close(act: &Act, work: WorkOrderId, current: &Current, at: Instant) -> Result<()> {
    let has_problem = act
        .conn
        .prepare_cached("SELECT 1 FROM failure_reports WHERE work_order = ?1 AND problem_id IS NOT NULL")?
        .exists([work])?;
    let open_downtime: Option<i64> = crate::rows::optional(
        act.conn
            .prepare_cached("SELECT id FROM downtimes WHERE work_order = ?1 AND end_at IS NULL LIMIT 1")?
            .query_row([work], |row| row.get(0)),
    )?;
    work::check_close(current.kind, current.verdict, has_problem, open_downtime)
        .map_err(|error| StoreError::invalid(error.field(), error))?;
    settle(act, work, at)
}

/// What was spent is settled with the end of the work, whichever it is.
fn settle(act: &Act, work: WorkOrderId, at: Instant) -> Result<()> {
    act.conn.execute(
        "UPDATE entries SET settled_at = ?2 WHERE work_order = ?1 AND settled_at IS NULL",
        params![work, at],
    )?;
    Ok(())
}

/// Writes a move into the work's history.
pub(super) fn log_state(
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
    insert.execute(params![work, from, to, at, note, act.now, act.actor.id])?;
    Ok(())
}

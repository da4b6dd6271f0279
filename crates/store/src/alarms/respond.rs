//! What entered and left rungs set off.

use crate::{
    act::Act,
    error::{Result, StoreError},
    outbox::{self, Mail},
    readings::Receipt,
    rows::{from_word, to_json, word},
    webhooks,
    work::{self, LadderSource},
};
use rusqlite::{Connection, OptionalExtension, Row, params};
use serde::{Deserialize, Serialize};
use tally_core::{
    assets::Criticality,
    ids::{AlarmId, AssetId, LadderVersionId, MeterId, WorkOrderId},
    limits::{
        Change, Decision, HeldBy, Ladder, RaiseIntervalOf, Rung, RungOn, RungSide, Situation, Transition, Waits,
        respond,
        respond::{LastRaised, OpenWork, rank, responding},
        words::{Names, work_words},
    },
    meters::Meter,
    readings::Reading,
    severity::Severity,
    time::{DAY, Instant, SECOND},
    work::{WorkKind, WorkState},
};
use utoipa::ToSchema;

/// What an entered rung did.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ResponseGiven {
    /// A worse rung entered at the same reading responded.
    Recorded,
    Record,
    Notify,
    Held,
    Joined,
    Escalated,
    Raised,
}

/// What is needed of a meter while its alarms are handled.
pub(super) struct Subject {
    id: MeterId,
    name: String,
    asset: AssetId,
    rules: Meter,
    version: LadderVersionId,
    pub ladder: Ladder,
}

impl Subject {
    /// The meter with its newest ladder, where it has one.
    pub(super) fn of(act: &mut Act, code: &str) -> Result<Option<Self>> {
        let meter = act.meters.get(act.conn, code)?;
        let Some(running) = &meter.ladder else { return Ok(None) };
        Ok(Some(Self {
            id: meter.id,
            name: meter.name.clone(),
            asset: meter.asset,
            rules: meter.rules.clone(),
            version: running.version,
            ladder: running.ladder.clone(),
        }))
    }
}

/// A rung that answers, with the reading it speaks of.
#[derive(Debug, Clone, Copy)]
pub(super) struct Entered {
    /// Place in the ladder.
    pub rung: usize,
    /// When it answers: the reading's instant, or when it was due again.
    pub at: Instant,
    pub value: f64,
    /// For a rung on a rate or a change: what it looked at.
    pub looked_at: Option<f64>,
}

/// What an answer came to.
pub(super) struct Answered {
    given: ResponseGiven,
    held: Option<HeldBy>,
    work: Option<WorkOrderId>,
    due: Option<Instant>,
}

/// What a receiver of events is told of an answer.
#[derive(Serialize)]
struct Told<'a> {
    meter: String,
    severity: Severity,
    side: RungSide,
    at: Instant,
    value: f64,
    response: ResponseGiven,
    work_order: Option<WorkOrderId>,
    text: &'a str,
}

fn code_of(conn: &Connection, meter: MeterId) -> Result<String> {
    Ok(conn.prepare_cached("SELECT code FROM meters WHERE id = ?1")?.query_row([meter.0], |row| row.get(0))?)
}

/// A worse rung of the same reading responds.
const RECORDED: Answered = Answered { given: ResponseGiven::Recorded, held: None, work: None, due: None };

/// Writes what changed at a reading, and does what the responding rung asks for. It is dated by the reading; when a new
/// version looks at an older reading, `reading.at` is the version's start. What was due before it answers first.
pub(crate) fn set_off(
    act: &mut Act,
    code: &str,
    reading: Reading,
    changed: &[Transition],
    receipt: &mut Receipt,
) -> Result<()> {
    if changed.is_empty() {
        return Ok(());
    }
    super::again::before(act, code, reading.at, receipt)?;
    let Some(subject) = Subject::of(act, code)? else { return Ok(()) };
    let responds = responding(&subject.ladder.rungs, changed);
    for transition in changed {
        match transition.change {
            Change::Left => leave(act, &subject, transition.rung, reading)?,
            Change::Entered => {
                let on_value = subject.ladder.rungs[transition.rung].on == RungOn::Value;
                let entered = Entered {
                    rung: transition.rung,
                    at: reading.at,
                    value: reading.value,
                    looked_at: (!on_value).then_some(transition.looked_at),
                };
                let answered =
                    if Some(transition.rung) == responds { answer(act, &subject, entered, receipt)? } else { RECORDED };
                receipt.alarms.push(answered.insert(act, &subject, entered)?);
            }
        }
    }
    Ok(())
}

fn leave(act: &Act, subject: &Subject, rung: usize, reading: Reading) -> Result<()> {
    let mut update = act.conn.prepare_cached(
        "UPDATE alarms SET left_at = ?3, left_by = 'readings' WHERE meter_id = ?1 AND rung = ?2 AND left_at IS NULL",
    )?;
    update.execute(params![subject.id.0, rung, reading.at.ms()])?;
    Ok(())
}

/// All that the decision hangs on.
fn situation(act: &Act, subject: &Subject, rung: &Rung, at: Instant) -> Result<Situation> {
    let conn = act.conn;
    let out_of_use: bool = conn
        .prepare_cached("SELECT retired_at IS NOT NULL AND retired_at <= ?2 FROM assets WHERE id = ?1")?
        .query_row(params![subject.asset.0, at.ms()], |row| row.get(0))?;
    let shelf = conn
        .prepare_cached(
            "SELECT to_at, reason FROM shelves WHERE meter_id = ?1 AND from_at <= ?2 AND to_at > ?2
             ORDER BY to_at DESC LIMIT 1",
        )?
        .query_row(params![subject.id.0, at.ms()], |row| Ok((Instant::from_ms(row.get(0)?), row.get(1)?)))
        .optional()?;
    let mut open = conn.prepare_cached(
        "SELECT number, source_severity, state FROM work_orders WHERE source_meter_id = ?1 AND source_side = ?2
         ORDER BY number DESC LIMIT 20",
    )?;
    let mut rows = open.query(params![subject.id.0, word(&rung.side)])?;
    let mut open_work = None;
    while let Some(row) = rows.next()? {
        let state: WorkState = from_word("work_orders", row.get(2)?)?;
        if state.is_open() {
            let severity = Severity::from_strokes(row.get(1)?).unwrap_or(Severity::Notice);
            open_work = Some(OpenWork { number: WorkOrderId(row.get(0)?), severity });
            break;
        }
    }
    let last = |row: &Row| {
        let severity = Severity::from_strokes(row.get(2)?).unwrap_or(Severity::Notice);
        Ok(LastRaised { number: WorkOrderId(row.get(0)?), at: Instant::from_ms(row.get(1)?), severity })
    };
    let last_raised = match subject.ladder.raise_interval_of {
        RaiseIntervalOf::Ladder => conn
            .prepare_cached(
                "SELECT number, source_at, source_severity FROM work_orders WHERE source_meter_id = ?1
                 ORDER BY source_at DESC LIMIT 1",
            )?
            .query_row([subject.id.0], last)
            .optional()?,
        RaiseIntervalOf::Asset => conn
            .prepare_cached(
                "SELECT number, source_at, source_severity FROM work_orders WHERE source_meter_id IN
                     (SELECT id FROM meters WHERE asset_id = ?1) ORDER BY source_at DESC LIMIT 1",
            )?
            .query_row([subject.asset.0], last)
            .optional()?,
    };
    Ok(Situation {
        out_of_use,
        shelf,
        open_work,
        last_raised,
        raise_interval_ms: i64::from(subject.ladder.raise_interval_seconds) * SECOND,
        separate_work: subject.ladder.separate_work,
    })
}

/// Decides what an entered rung does, and does it.
pub(super) fn answer(act: &mut Act, subject: &Subject, entered: Entered, receipt: &mut Receipt) -> Result<Answered> {
    let rung = &subject.ladder.rungs[entered.rung];
    let decision = respond(rung, &situation(act, subject, rung, entered.at)?, entered.at);
    let said = Said::of(act, subject, rung, entered)?;
    let (given, held, work) = match &decision {
        Decision::Held(held) => (ResponseGiven::Held, Some(held.clone()), None),
        Decision::Record => (ResponseGiven::Record, None, None),
        Decision::Notify => {
            tell(act, subject, rung, &said, None)?;
            (ResponseGiven::Notify, None, None)
        }
        Decision::Join { work, escalates } => {
            if *escalates {
                work::escalate(act, *work, rung.severity, said.rank, said.start, &said.text)?;
                tell(act, subject, rung, &said, Some(*work))?;
            }
            (if *escalates { ResponseGiven::Escalated } else { ResponseGiven::Joined }, None, Some(*work))
        }
        Decision::Raise => {
            let work = raise(act, subject, rung, entered, &said)?;
            tell(act, subject, rung, &said, Some(work))?;
            (ResponseGiven::Raised, None, Some(work))
        }
        Decision::BringForward => {
            return Err(StoreError::corrupt("ladder_versions", "a plan to bring forward, where there are no plans"));
        }
    };
    receipt.work_orders.extend(work);
    let told = Told {
        meter: code_of(act.conn, subject.id)?,
        severity: rung.severity,
        side: rung.side,
        at: entered.at,
        value: entered.value,
        response: given,
        work_order: work,
        text: &said.text,
    };
    webhooks::emit(act, "alarm", &told)?;
    let due = match decision.waits(work) {
        Waits::Until(until) => Some(until),
        Waits::Work(_) | Waits::Never => None,
    };
    Ok(Answered { given, held, work, due })
}

impl Answered {
    /// A new alarm with this answer.
    fn insert(&self, act: &Act, subject: &Subject, entered: Entered) -> Result<AlarmId> {
        let rung = &subject.ladder.rungs[entered.rung];
        let mut insert = act.conn.prepare_cached(
            "INSERT INTO alarms (meter_id, version_id, rung, side, severity, entered_at, value, looked_at, response,
                 answered_at, held_by, work_order, due_at, recorded_at)
             VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?6, ?10, ?11, ?12, ?13)",
        )?;
        insert.execute(params![
            subject.id.0,
            subject.version.0,
            entered.rung,
            word(&rung.side),
            rung.severity.strokes(),
            entered.at.ms(),
            entered.value,
            entered.looked_at,
            word(&self.given),
            self.held.as_ref().map(to_json),
            self.work.map(|work| work.0),
            self.due.map(Instant::ms),
            act.now.ms(),
        ])?;
        Ok(AlarmId(act.conn.last_insert_rowid()))
    }

    /// A standing alarm's newest answer.
    pub(super) fn write(&self, act: &Act, alarm: AlarmId, at: Instant) -> Result<()> {
        let mut update = act.conn.prepare_cached(
            "UPDATE alarms SET response = ?2, answered_at = ?3, held_by = ?4, work_order = ifnull(?5, work_order),
                 due_at = ?6 WHERE id = ?1",
        )?;
        update.execute(params![
            alarm.0,
            word(&self.given),
            at.ms(),
            self.held.as_ref().map(to_json),
            self.work.map(|work| work.0),
            self.due.map(Instant::ms),
        ])?;
        Ok(())
    }
}

fn criticality(conn: &Connection, asset: AssetId) -> Result<Option<Criticality>> {
    let text: Option<String> =
        conn.prepare_cached("SELECT criticality FROM assets WHERE id = ?1")?.query_row([asset.0], |row| row.get(0))?;
    text.map(|text| from_word("assets", text)).transpose()
}

fn asset_name(conn: &Connection, asset: AssetId) -> Result<String> {
    Ok(conn.prepare_cached("SELECT name FROM assets WHERE id = ?1")?.query_row([asset.0], |row| row.get(0))?)
}

fn people_crew(conn: &Connection, code: &str) -> Result<tally_core::ids::CrewId> {
    crate::people::require_crew(conn, code, "crew")
}

/// What a rung has to say, whether in work or in mail.
struct Said {
    title: String,
    text: String,
    rank: u8,
    start: Option<Instant>,
}

impl Said {
    fn of(act: &Act, subject: &Subject, rung: &Rung, entered: Entered) -> Result<Self> {
        let asset = asset_name(act.conn, subject.asset)?;
        let names = Names { meter: &subject.name, asset: &asset };
        let looked_at = entered.looked_at.unwrap_or(entered.value);
        let (title, text) = work_words(&subject.rules, rung, entered.value, looked_at, names);
        let rank = rank(&rung.response, rung.severity, criticality(act.conn, subject.asset)?);
        let start = rung.response.start_within_days.map(|days| act.now.plus(i64::from(days) * DAY));
        Ok(Self { title, text, rank, start })
    }
}

fn raise(act: &mut Act, subject: &Subject, rung: &Rung, entered: Entered, said: &Said) -> Result<WorkOrderId> {
    let crew = match &rung.response.crew {
        Some(crew) => Some(people_crew(act.conn, crew)?),
        None => None,
    };
    let new = work::Draft {
        title: said.title.clone(),
        text: said.text.clone(),
        kind: rung.response.work_kind.unwrap_or(WorkKind::ConditionBased),
        asset: subject.asset,
        risk_rank: said.rank,
        target_start: said.start,
        target_finish: None,
        crew,
        assignee: None,
        estimated_hours: rung.response.estimated_hours,
        state: WorkState::Raised,
        raised_at: act.now,
        ladder: Some(LadderSource { meter: subject.id, side: rung.side, severity: rung.severity, at: entered.at }),
    };
    work::insert(act, new)
}

/// Puts mail to the rung's people into the outbox: the same words as the work's; and to the one who decides, that it is
/// theirs to decide.
fn tell(act: &Act, subject: &Subject, rung: &Rung, said: &Said, work: Option<WorkOrderId>) -> Result<()> {
    let Said { title, text, .. } = said;
    let mail = |person: &str, subject_line: String| {
        outbox::put(act, &Mail { person, subject: &subject_line, body: text, meter: subject.id, work })
    };
    let decides = rung.response.decides.as_deref();
    for person in rung.response.tell.iter().filter(|person| Some(person.as_str()) != decides) {
        mail(person, title.clone())?;
    }
    decides.map_or(Ok(()), |person| mail(person, format!("Yours to decide: {title}")))
}

//! What entered and left rungs set off.

use super::again;
use crate::{
    act::Act,
    error::{Result, StoreError},
    meter_states::Gate,
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
        AfterFinish, Change, Decision, HeldBy, Ladder, Machine, OutOfUse, Part, RaiseIntervalOf, Rung, RungOn,
        RungSide, Situation, Transition, Waits, parts, respond,
        respond::{LastRaised, OpenWork, rank},
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
    /// A worse rung of the same side answered for it, and it waits for what that one waits for; or it was found from an old
    /// reading, after its work was finished, and waits for a new one.
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
    pub id: MeterId,
    name: String,
    asset: AssetId,
    pub rules: Meter,
    version: LadderVersionId,
    pub starts_at: Instant,
    pub ladder: Ladder,
    pub machine: Machine,
    pub gate: Option<Gate>,
}

impl Subject {
    /// The row of its newest version.
    pub(super) fn version(&self) -> i64 {
        self.version.0
    }

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
            starts_at: running.starts_at,
            ladder: running.ladder.clone(),
            machine: running.machine.clone(),
            gate: meter.gate,
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
    /// The alarm that answers again; none for one that begins.
    pub alarm: Option<AlarmId>,
    /// The finished work that it answers after, because the first reading since is still beyond.
    pub after: Option<WorkOrderId>,
}

/// What an answer came to.
#[derive(Clone)]
struct Answered {
    given: ResponseGiven,
    held: Option<HeldBy>,
    work: Option<WorkOrderId>,
    waits: Waiting,
}

/// What an answer waits for, as it is kept.
#[derive(Clone, Copy)]
enum Waiting {
    Never,
    Until(Instant),
    Work(WorkOrderId),
    /// The first reading after that work was finished.
    Reading {
        work: WorkOrderId,
        finished_at: Instant,
    },
}

impl From<Waits> for Waiting {
    fn from(waits: Waits) -> Self {
        match waits {
            Waits::Never => Self::Never,
            Waits::Until(until) => Self::Until(until),
            Waits::Work(work) => Self::Work(work),
        }
    }
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
    Ok(conn.prepare_cached("SELECT code FROM meters WHERE id = ?1")?.query_row([meter], |row| row.get(0))?)
}

/// Writes what changed at a reading, and does what the responding rungs ask for. It is dated by the reading, but never
/// before its version began. What was due before it answers first.
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
    again::before(act, code, reading.at, receipt)?;
    let Some(subject) = Subject::of(act, code)? else { return Ok(()) };
    let at = reading.at.max(subject.starts_at);
    let mut answering = Vec::new();
    for transition in changed {
        match transition.change {
            Change::Left => leave(act, &subject, transition.rung, at)?,
            Change::Entered => {
                let on_value = subject.ladder.rungs[transition.rung].on == RungOn::Value;
                answering.push(Entered {
                    rung: transition.rung,
                    at,
                    value: reading.value,
                    looked_at: (!on_value).then_some(transition.looked_at),
                    alarm: None,
                    after: None,
                });
            }
        }
    }
    // Repairs that this very reading decides on answer with what it entered.
    answering.extend(again::decided_at(act, &subject, reading)?);
    let older = (at > reading.at).then_some(reading.at);
    answer_together(act, &subject, &answering, older, receipt)
}

fn leave(act: &Act, subject: &Subject, rung: usize, at: Instant) -> Result<()> {
    let mut update = act.conn.prepare_cached(
        "UPDATE alarms SET left_at = max(?3, entered_at), left_by = 'readings', due_at = NULL, waits_work = NULL,
             finished_at = NULL
         WHERE meter_id = ?1 AND rung = ?2 AND left_at IS NULL AND kind = 'limit'",
    )?;
    update.execute(params![subject.id, rung, at])?;
    Ok(())
}

/// Rungs that stand though nobody wrote it, found when the machine was made anew: alarms dated by the act.
pub(super) fn stand(
    act: &mut Act,
    subject: &Subject,
    rungs: &[(usize, Reading, f64)],
    receipt: &mut Receipt,
) -> Result<()> {
    let newest = rungs.iter().map(|(_, reading, _)| reading.at).max();
    let entered = |&(rung, reading, looked_at): &(usize, Reading, f64)| Entered {
        rung,
        at: act.now,
        value: reading.value,
        looked_at: (subject.ladder.rungs[rung].on != RungOn::Value).then_some(looked_at),
        alarm: None,
        after: None,
    };
    let answering: Vec<Entered> = rungs.iter().map(entered).collect();
    answer_together(act, subject, &answering, newest, receipt)
}

/// Lets rungs answer that are to answer at the same instant. Where they speak of an older reading (`read_at`), work on them
/// that was finished since waits for a new one first.
pub(super) fn answer_together(
    act: &mut Act,
    subject: &Subject,
    answering: &[Entered],
    read_at: Option<Instant>,
    receipt: &mut Receipt,
) -> Result<()> {
    let mut answers: Vec<(usize, Answered)> = Vec::with_capacity(answering.len());
    for (rung, part) in parts(&subject.ladder.rungs, answering.iter().map(|one| one.rung).collect()) {
        let Some(entered) = answering.iter().find(|one| one.rung == rung) else { continue };
        let answered = match part {
            Part::Answers => match again::unread_since_finished(act, subject, rung, read_at, entered.at)? {
                Some((work, finished_at)) => Answered {
                    given: ResponseGiven::Recorded,
                    held: None,
                    work: None,
                    waits: Waiting::Reading { work, finished_at },
                },
                None => answer(act, subject, *entered, receipt)?,
            },
            Part::Shares { with } => {
                let shared = answers.iter().find(|(rung, _)| *rung == with).map(|(_, answered)| answered.clone());
                let shared = shared.ok_or_else(|| StoreError::corrupt("alarms", "a rung shares with none"))?;
                // What holds the worse holds this one: its end may move for both.
                Answered { given: ResponseGiven::Recorded, ..shared }
            }
        };
        answered.write(act, subject, entered, receipt)?;
        answers.push((rung, answered));
    }
    if answers.iter().any(|(_, answered)| matches!(answered.waits, Waiting::Reading { .. })) {
        again::expect_reading(act, subject.id)?;
    }
    act.news.alarms |= !answers.is_empty();
    Ok(())
}

/// The spell in which an asset, or one above it, is out of use at that instant; the one that ends last.
fn out_of_use(conn: &Connection, asset: AssetId, at: Instant) -> Result<Option<OutOfUse>> {
    let retired: bool = conn
        .prepare_cached("SELECT retired_at IS NOT NULL AND retired_at <= ?2 FROM assets WHERE id = ?1")?
        .query_row(params![asset, at], |row| row.get(0))?;
    if retired {
        return Ok(Some(OutOfUse { until: None, reason: "the asset is retired".into() }));
    }
    let mut select = conn.prepare_cached(
        "WITH RECURSIVE line (id) AS (
             SELECT ?1 UNION SELECT p.parent_id FROM placements p JOIN line ON p.asset_id = line.id
             WHERE p.parent_id IS NOT NULL AND p.from_at <= ?2 AND (p.to_at IS NULL OR p.to_at > ?2))
         SELECT to_at, reason FROM out_of_use
         WHERE asset_id IN (SELECT id FROM line) AND from_at <= ?2 AND (to_at IS NULL OR to_at > ?2)
         ORDER BY to_at IS NOT NULL, to_at DESC LIMIT 1",
    )?;
    let found = select.query_row(params![asset, at], |row| Ok(OutOfUse { until: row.get(0)?, reason: row.get(1)? }));
    Ok(found.optional()?)
}

/// All that the decision hangs on.
fn situation(act: &Act, subject: &Subject, rung: &Rung, entered: Entered) -> Result<Situation> {
    let (conn, at) = (act.conn, entered.at);
    let shelf = conn
        .prepare_cached(
            "SELECT to_at, reason FROM shelves WHERE meter_id = ?1 AND from_at <= ?2 AND to_at > ?2
             ORDER BY to_at DESC LIMIT 1",
        )?
        .query_row(params![subject.id, at], |row| Ok((row.get(0)?, row.get(1)?)))
        .optional()?;
    let mut open = conn.prepare_cached(
        "SELECT number, source_severity, state FROM work_orders WHERE source_meter_id = ?1 AND source_side = ?2
         ORDER BY number DESC LIMIT 20",
    )?;
    let mut rows = open.query(params![subject.id, rung.side])?;
    let mut open_work = None;
    while let Some(row) = rows.next()? {
        let state: WorkState = row.get(2)?;
        if state.is_open() {
            let severity = Severity::from_strokes(row.get(1)?).unwrap_or(Severity::Notice);
            open_work = Some(OpenWork { number: row.get(0)?, severity });
            break;
        }
    }
    let last = |row: &Row| {
        let severity = Severity::from_strokes(row.get(2)?).unwrap_or(Severity::Notice);
        Ok(LastRaised { number: row.get(0)?, at: row.get(1)?, severity })
    };
    let last_raised = match subject.ladder.raise_interval_of {
        RaiseIntervalOf::Ladder => conn
            .prepare_cached(
                "SELECT number, source_at, raised_severity FROM work_orders WHERE source_meter_id = ?1
                 ORDER BY source_at DESC, number DESC LIMIT 1",
            )?
            .query_row([subject.id], last)
            .optional()?,
        RaiseIntervalOf::Asset => conn
            .prepare_cached(
                "SELECT number, source_at, raised_severity FROM work_orders WHERE source_meter_id IN
                     (SELECT id FROM meters WHERE asset_id = ?1) ORDER BY source_at DESC, number DESC LIMIT 1",
            )?
            .query_row([subject.asset], last)
            .optional()?,
    };
    let after_finish = match entered.after {
        None => None,
        Some(work) => {
            let mut select = conn.prepare_cached("SELECT verdict FROM work_orders WHERE number = ?1")?;
            let mut rows = select.query([work])?;
            let row = rows.next()?.ok_or_else(|| StoreError::not_found("work order", work))?;
            Some(AfterFinish { verdict: row.get("verdict")? })
        }
    };
    Ok(Situation {
        out_of_use: out_of_use(conn, subject.asset, at)?,
        shelf,
        open_work,
        last_raised,
        raise_interval_ms: i64::from(subject.ladder.raise_interval_seconds) * SECOND,
        separate_work: subject.ladder.separate_work,
        after_finish,
    })
}

/// Decides what an entered rung does, and does it.
fn answer(act: &mut Act, subject: &Subject, entered: Entered, receipt: &mut Receipt) -> Result<Answered> {
    let rung = &subject.ladder.rungs[entered.rung];
    let decision = respond(rung, &situation(act, subject, rung, entered)?, entered.at);
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
    Ok(Answered { given, held, work, waits: decision.waits(work).into() })
}

impl Answered {
    /// Writes the answer of an alarm that begins, or the newest one of an alarm that stands.
    fn write(&self, act: &mut Act, subject: &Subject, entered: &Entered, receipt: &mut Receipt) -> Result<()> {
        let held = self.held.as_ref().map(to_json);
        let (due_at, waits_work, finished_at) = match self.waits {
            Waiting::Never => (None, None, None),
            Waiting::Until(until) => (Some(until.ms()), None, None),
            Waiting::Work(work) => (None, Some(work.0), None),
            Waiting::Reading { work, finished_at } => (None, Some(work.0), Some(finished_at.ms())),
        };
        let (given, work) = (word(&self.given), self.work.map(|work| work.0));
        let alarm = match entered.alarm {
            Some(alarm) => {
                let mut update = act.conn.prepare_cached(
                    "UPDATE alarms SET response = ?2, answered_at = ?3, held_by = ?4, work_order = ifnull(?5, work_order),
                         due_at = ?6, waits_work = ?7, finished_at = ?8 WHERE id = ?1",
                )?;
                update.execute(params![alarm, given, entered.at, held, work, due_at, waits_work, finished_at])?;
                alarm
            }
            None => {
                let rung = &subject.ladder.rungs[entered.rung];
                let mut insert = act.conn.prepare_cached(
                    "INSERT INTO alarms (meter_id, version_id, rung, side, severity, entered_at, value, looked_at, response,
                         answered_at, held_by, work_order, due_at, waits_work, finished_at, recorded_at)
                     VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?6, ?10, ?11, ?12, ?13, ?14, ?15)",
                )?;
                insert.execute(params![
                    subject.id,
                    subject.version.0,
                    entered.rung,
                    rung.side,
                    rung.severity.strokes(),
                    entered.at,
                    entered.value,
                    entered.looked_at,
                    given,
                    held,
                    work,
                    due_at,
                    waits_work,
                    finished_at,
                    act.now,
                ])?;
                let alarm = AlarmId(act.conn.last_insert_rowid());
                receipt.alarms.push(alarm);
                alarm
            }
        };
        let mut keep = act.conn.prepare_cached(
            "INSERT INTO alarm_answers (alarm_id, at, response, held_by, work_order, after_work)
             VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
        )?;
        keep.execute(params![alarm, entered.at, given, held, work, entered.after])?;
        Ok(())
    }
}

fn criticality(conn: &Connection, asset: AssetId) -> Result<Option<Criticality>> {
    let text: Option<String> =
        conn.prepare_cached("SELECT criticality FROM assets WHERE id = ?1")?.query_row([asset], |row| row.get(0))?;
    text.map(|text| from_word("assets", text)).transpose()
}

fn asset_name(conn: &Connection, asset: AssetId) -> Result<String> {
    Ok(conn.prepare_cached("SELECT name FROM assets WHERE id = ?1")?.query_row([asset], |row| row.get(0))?)
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

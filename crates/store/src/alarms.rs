//! Alarms: what entered and left rungs set off, and the list of them.

use crate::{
    act::Act,
    assets::NamedAsset,
    error::{Result, StoreError},
    meters,
    readings::Receipt,
    rows::{from_json, from_word, instant, maybe_instant, maybe_word, to_json, word},
    work::{self, LadderSource},
};
use rusqlite::{Connection, OptionalExtension, Row, params, types::Value};
use serde::{Deserialize, Serialize};
use std::rc::Rc;
use tally_core::{
    assets::Criticality,
    ids::{AlarmId, AssetId, LadderVersionId, MeterId, WorkOrderId},
    limits::{
        Change, Decision, HeldBy, Ladder, RaiseIntervalOf, Rung, RungSide, Situation, Transition, respond,
        respond::{LastRaised, OpenWork, rank, responding},
        words::{Names, work_words},
    },
    meters::Meter,
    people::Action,
    readings::Reading,
    severity::Severity,
    time::{DAY, Instant, SECOND, Span},
    work::{Verdict, WorkKind, WorkState},
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

/// An alarm as listed.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct AlarmRow {
    pub id: AlarmId,
    pub meter: String,
    pub meter_name: String,
    pub unit: String,
    pub asset: NamedAsset,
    pub side: RungSide,
    pub severity: Severity,
    pub setpoint: Option<f64>,
    pub entered_at: Instant,
    pub left_at: Option<Instant>,
    /// `readings` or `limits_changed`.
    pub left_by: Option<String>,
    pub value: f64,
    /// The value as people read it.
    pub shown: String,
    pub response: ResponseGiven,
    pub held_by: Option<HeldBy>,
    pub work_order: Option<WorkOrderId>,
    pub ladder_version: i64,
    pub acknowledged_at: Option<Instant>,
    pub acknowledged_by: Option<String>,
    /// Of who did the work.
    pub verdict: Option<Verdict>,
}

/// What is needed of a meter while its alarms are handled.
struct Subject {
    id: MeterId,
    name: String,
    asset: AssetId,
    rules: Meter,
    version: LadderVersionId,
    ladder: Ladder,
}

/// Writes what changed at a reading, and does what the responding rung asks for. It is dated by the reading; when a new
/// version looks at an older reading, `reading.at` is the version's start.
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
    let meter = act.meters.get(act.conn, code)?;
    let Some(running) = &meter.ladder else { return Ok(()) };
    let subject = Subject {
        id: meter.id,
        name: meter.name.clone(),
        asset: meter.asset,
        rules: meter.rules.clone(),
        version: running.version,
        ladder: running.ladder.clone(),
    };
    let responds = responding(&subject.ladder.rungs, changed);
    for transition in changed {
        let rung = &subject.ladder.rungs[transition.rung];
        match transition.change {
            Change::Left => leave(act, &subject, transition.rung, reading)?,
            Change::Entered if Some(transition.rung) == responds => {
                let decision = respond(rung, &situation(act, &subject, rung, reading.at)?, reading.at);
                let id = enter(act, &subject, transition.rung, rung, reading, decision, receipt)?;
                receipt.alarms.push(id);
            }
            Change::Entered => {
                let id = insert(act, &subject, transition.rung, rung, reading, ResponseGiven::Recorded, None, None)?;
                receipt.alarms.push(id);
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

/// Does what was decided and writes the alarm with it.
fn enter(
    act: &mut Act,
    subject: &Subject,
    place: usize,
    rung: &Rung,
    reading: Reading,
    decision: Decision,
    receipt: &mut Receipt,
) -> Result<AlarmId> {
    let (given, held, work) = match decision {
        Decision::Held(held) => (ResponseGiven::Held, Some(held), None),
        Decision::Record => (ResponseGiven::Record, None, None),
        Decision::Notify => (ResponseGiven::Notify, None, None),
        Decision::Join { work, escalates } => {
            if escalates {
                escalate(act, subject, rung, reading, work)?;
            }
            (if escalates { ResponseGiven::Escalated } else { ResponseGiven::Joined }, None, Some(work))
        }
        Decision::Raise => (ResponseGiven::Raised, None, Some(raise(act, subject, rung, reading)?)),
        Decision::BringForward => {
            return Err(StoreError::corrupt("ladder_versions", "a plan to bring forward, where there are no plans"));
        }
    };
    receipt.work_orders.extend(work);
    insert(act, subject, place, rung, reading, given, held.as_ref(), work)
}

#[allow(clippy::too_many_arguments, reason = "an alarm is that many facts, and this is the one place they meet")]
fn insert(
    act: &Act,
    subject: &Subject,
    place: usize,
    rung: &Rung,
    reading: Reading,
    given: ResponseGiven,
    held: Option<&HeldBy>,
    work: Option<WorkOrderId>,
) -> Result<AlarmId> {
    let mut insert = act.conn.prepare_cached(
        "INSERT INTO alarms (meter_id, version_id, rung, side, severity, entered_at, value, response, held_by,
             work_order, recorded_at)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11)",
    )?;
    insert.execute(params![
        subject.id.0,
        subject.version.0,
        place,
        word(&rung.side),
        rung.severity.strokes(),
        reading.at.ms(),
        reading.value,
        word(&given),
        held.map(to_json),
        work.map(|w| w.0),
        act.now.ms(),
    ])?;
    Ok(AlarmId(act.conn.last_insert_rowid()))
}

fn criticality(conn: &Connection, asset: AssetId) -> Result<Option<Criticality>> {
    let text: Option<String> =
        conn.prepare_cached("SELECT criticality FROM assets WHERE id = ?1")?.query_row([asset.0], |row| row.get(0))?;
    text.map(|text| from_word("assets", text)).transpose()
}

fn asset_name(conn: &Connection, asset: AssetId) -> Result<String> {
    Ok(conn.prepare_cached("SELECT name FROM assets WHERE id = ?1")?.query_row([asset.0], |row| row.get(0))?)
}

fn raise(act: &mut Act, subject: &Subject, rung: &Rung, reading: Reading) -> Result<WorkOrderId> {
    let asset = asset_name(act.conn, subject.asset)?;
    let names = Names { meter: &subject.name, asset: &asset };
    let (title, text) = work_words(&subject.rules, rung, reading.value, names);
    let crew = match &rung.response.crew {
        Some(crew) => Some(people_crew(act.conn, crew)?),
        None => None,
    };
    let new = work::Draft {
        title,
        text,
        kind: rung.response.work_kind.unwrap_or(WorkKind::ConditionBased),
        asset: subject.asset,
        risk_rank: rank(&rung.response, rung.severity, criticality(act.conn, subject.asset)?),
        target_start: rung.response.start_within_days.map(|days| act.now.plus(i64::from(days) * DAY)),
        target_finish: None,
        crew,
        assignee: None,
        estimated_hours: rung.response.estimated_hours,
        state: WorkState::Raised,
        raised_at: act.now,
        ladder: Some(LadderSource { meter: subject.id, side: rung.side, severity: rung.severity, at: reading.at }),
    };
    work::insert(act, new)
}

fn people_crew(conn: &Connection, code: &str) -> Result<tally_core::ids::CrewId> {
    crate::people::require_crew(conn, code, "crew")
}

/// Open work is made more urgent: tighter rank and target start, and this rung's instruction.
fn escalate(act: &mut Act, subject: &Subject, rung: &Rung, reading: Reading, work: WorkOrderId) -> Result<()> {
    let asset = asset_name(act.conn, subject.asset)?;
    let names = Names { meter: &subject.name, asset: &asset };
    let (_, text) = work_words(&subject.rules, rung, reading.value, names);
    let rank = rank(&rung.response, rung.severity, criticality(act.conn, subject.asset)?);
    let start = rung.response.start_within_days.map(|days| act.now.plus(i64::from(days) * DAY));
    work::escalate(act, work, rung.severity, rank, start, &text)
}

const SELECT: &str = "SELECT al.*, m.code AS meter, m.name AS meter_name, m.unit, m.kind AS meter_kind, m.grades,
        a.code AS asset, a.name AS asset_name, v.number AS version, v.definition, w.verdict, p.name AS acknowledger
     FROM alarms al JOIN meters m ON m.id = al.meter_id JOIN assets a ON a.id = m.asset_id
     JOIN ladder_versions v ON v.id = al.version_id
     LEFT JOIN work_orders w ON w.number = al.work_order LEFT JOIN people p ON p.id = al.acknowledged_by";

fn alarm(row: &Row) -> Result<AlarmRow> {
    let ladder: Ladder = from_json("ladder_versions", &row.get::<_, String>("definition")?)?;
    let rung = ladder.rungs.get(row.get::<_, usize>("rung")?);
    let value: f64 = row.get("value")?;
    let unit: String = row.get("unit")?;
    let grades: Vec<String> = from_json("meters", &row.get::<_, String>("grades")?)?;
    let shown = match grades.get(value as usize) {
        Some(grade) => grade.clone(),
        None => tally_core::units::quantity(value, &unit),
    };
    Ok(AlarmRow {
        id: AlarmId(row.get("id")?),
        meter: row.get("meter")?,
        meter_name: row.get("meter_name")?,
        unit,
        asset: NamedAsset { code: row.get("asset")?, name: row.get("asset_name")? },
        side: from_word("alarms", row.get("side")?)?,
        severity: Severity::from_strokes(row.get("severity")?)
            .ok_or_else(|| StoreError::corrupt("alarms", "severity beyond four strokes"))?,
        setpoint: rung.and_then(|rung| rung.setpoint),
        entered_at: instant(row, "entered_at")?,
        left_at: maybe_instant(row, "left_at")?,
        left_by: row.get("left_by")?,
        value,
        shown,
        response: from_word("alarms", row.get("response")?)?,
        held_by: row.get::<_, Option<String>>("held_by")?.map(|text| from_json("alarms", &text)).transpose()?,
        work_order: row.get::<_, Option<i64>>("work_order")?.map(WorkOrderId),
        ladder_version: row.get("version")?,
        acknowledged_at: maybe_instant(row, "acknowledged_at")?,
        acknowledged_by: row.get("acknowledger")?,
        verdict: maybe_word("work_orders", row, "verdict")?,
    })
}

fn collect(mut rows: rusqlite::Rows) -> Result<Vec<AlarmRow>> {
    let mut alarms = Vec::new();
    while let Some(row) = rows.next()? {
        alarms.push(alarm(row)?);
    }
    Ok(alarms)
}

/// Alarms of one meter that stood at some time of the span, newest first, at most `limit`.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown meter.
pub fn of_meter(conn: &Connection, code: &str, span: Span, limit: usize) -> Result<Vec<AlarmRow>> {
    let MeterId(meter) = meters::require(conn, code)?;
    let mut select = conn.prepare_cached(&format!(
        "{SELECT} WHERE al.meter_id = ?1 AND al.entered_at < ?3 AND (al.left_at IS NULL OR al.left_at >= ?2)
         ORDER BY al.entered_at DESC, al.severity DESC LIMIT ?4"
    ))?;
    collect(select.query(params![meter, span.start().ms(), span.end().ms(), limit])?)
}

/// Standing alarms of a scope, the worst and newest first, at most `limit`.
///
/// # Errors
/// SQLite's own.
pub fn standing(conn: &Connection, scope: Option<&[i64]>, limit: usize) -> Result<Vec<AlarmRow>> {
    let ids: Rc<Vec<Value>> = Rc::new(scope.unwrap_or_default().iter().map(|id| Value::from(*id)).collect());
    let mut select = conn.prepare_cached(&format!(
        "{SELECT} WHERE al.left_at IS NULL AND (?1 OR m.asset_id IN rarray(?2))
         ORDER BY al.severity DESC, al.entered_at DESC LIMIT ?3"
    ))?;
    collect(select.query(params![scope.is_none(), ids, limit])?)
}

/// The alarms that raised or joined a work order, in order of time.
pub(crate) fn of_work(conn: &Connection, work: WorkOrderId) -> Result<Vec<AlarmRow>> {
    let mut select =
        conn.prepare_cached(&format!("{SELECT} WHERE al.work_order = ?1 ORDER BY al.entered_at, al.id"))?;
    collect(select.query([work.0])?)
}

/// Says that an alarm has been seen. A second time changes nothing.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn acknowledge(act: &mut Act, alarm: AlarmId) -> Result<()> {
    act.require(Action::AcknowledgeAlarms)?;
    let exists = act.conn.prepare_cached("SELECT 1 FROM alarms WHERE id = ?1")?.exists([alarm.0])?;
    if !exists {
        return Err(StoreError::not_found("alarm", alarm));
    }
    let seen = act.conn.execute(
        "UPDATE alarms SET acknowledged_at = ?2, acknowledged_by = ?3 WHERE id = ?1 AND acknowledged_at IS NULL",
        params![alarm.0, act.now.ms(), act.actor.id.0],
    )?;
    if seen > 0 {
        act.audit("acknowledged", "alarm", &alarm.to_string(), &())?;
    }
    Ok(())
}

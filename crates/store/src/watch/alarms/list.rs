//! The list of alarms.

use super::{
    answer::ResponseGiven,
    late::{self, LateRow},
    out_of_use::{self, OutOfUseRow},
    shelves::{self, ShelfRow},
};
use crate::{
    ground::{error::Result, rows::from_json, sql::Rows, view::View},
    plant::assets::NamedAsset,
    watch::{meters, readings::history},
};
use rusqlite::{Connection, Row, params, types::Value};
use serde::{Deserialize, Serialize};
use std::rc::Rc;
use tally_core::{
    ground::{
        ids::{AlarmId, MeterId, WorkOrderId},
        severity::Severity,
        time::{DAY, Instant, Span},
    },
    watch::limits::{HeldBy, Ladder, Rung, RungSide},
    work::Verdict,
};
use utoipa::ToSchema;

/// What an alarm is of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum AlarmKind {
    /// A rung was entered.
    Limit,
    /// The meter was not read for longer than it may be.
    Silent,
}

tally_core::kept_as_words!(AlarmKind);

/// An answer that another one followed.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct EarlierAnswer {
    pub at: Instant,
    pub response: ResponseGiven,
    pub held_by: Option<HeldBy>,
    pub work_order: Option<WorkOrderId>,
    /// The finished work that it was given after, because the first reading since was still beyond.
    pub after_work: Option<WorkOrderId>,
}

/// The same as the database hands it over, with what that work said.
#[derive(Deserialize)]
struct Given {
    at: i64,
    response: ResponseGiven,
    held_by: Option<HeldBy>,
    work_order: Option<WorkOrderId>,
    after_work: Option<WorkOrderId>,
    verdict: Option<Verdict>,
}

impl From<Given> for EarlierAnswer {
    fn from(given: Given) -> Self {
        let Given { at, response, held_by, work_order, after_work, .. } = given;
        Self { at: Instant::from_ms(at), response, held_by, work_order, after_work }
    }
}

/// An alarm as listed.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct AlarmRow {
    pub id: AlarmId,
    pub meter: String,
    pub meter_name: String,
    pub unit: String,
    pub asset: NamedAsset,
    pub kind: AlarmKind,
    /// None for a silent meter.
    pub side: Option<RungSide>,
    pub severity: Severity,
    /// The rung as it is called, such as `alert high`; none for a silent meter.
    pub rung: Option<String>,
    pub setpoint: Option<f64>,
    pub entered_at: Instant,
    pub left_at: Option<Instant>,
    /// `readings`, `limits_changed`, `voided` (the reading that made it was) or `retired` (the meter or its asset was).
    pub left_by: Option<String>,
    /// None for a meter that was silent from the start.
    pub value: Option<f64>,
    /// The value as people read it.
    pub shown: String,
    /// The newest answer, and when it was given.
    pub response: ResponseGiven,
    pub answered_at: Instant,
    /// When it answers again, where that is known.
    pub due_at: Option<Instant>,
    /// Its work was finished then, and it waits for the first reading since.
    pub finished_at: Option<Instant>,
    /// The finished work that the newest answer was given after, because the first reading since was still beyond.
    pub after_work: Option<WorkOrderId>,
    /// Answers before the newest, in order of time.
    pub earlier: Vec<EarlierAnswer>,
    pub held_by: Option<HeldBy>,
    /// All that it raised or joined, in that order.
    pub work_orders: Vec<WorkOrderId>,
    /// The newest of them.
    pub work_order: Option<WorkOrderId>,
    /// None for a silent meter.
    pub ladder_version: Option<i64>,
    pub acknowledged_at: Option<Instant>,
    pub acknowledged_by: Option<String>,
    /// Of who did the newest work that is judged.
    pub verdict: Option<Verdict>,
}

const SELECT: &str = "SELECT al.*, m.code AS meter, m.name AS meter_name, m.unit, m.kind AS meter_kind, m.grades,
        a.code AS asset, a.name AS asset_name, v.number AS version, v.definition, p.name AS acknowledger,
        (SELECT json_group_array(json_object('at', n.at, 'response', n.response, 'held_by', json(n.held_by),
             'work_order', n.work_order, 'after_work', n.after_work, 'verdict', w.verdict) ORDER BY n.id)
         FROM alarm_answers n LEFT JOIN work_orders w ON w.number = n.work_order WHERE n.alarm_id = al.id) AS answers
     FROM alarms al JOIN meters m ON m.id = al.meter_id JOIN assets a ON a.id = m.asset_id
     LEFT JOIN ladder_versions v ON v.id = al.version_id
     LEFT JOIN people p ON p.id = al.acknowledged_by";

fn alarm(row: &Row) -> Result<AlarmRow> {
    let ladder: Option<Ladder> =
        row.get::<_, Option<String>>("definition")?.map(|text| from_json("ladder_versions", &text)).transpose()?;
    let place: Option<usize> = row.get("rung")?;
    let rung = ladder.as_ref().zip(place).and_then(|(ladder, place)| ladder.rungs.get(place));
    let value: Option<f64> = row.get("value")?;
    let unit: String = row.get("unit")?;
    let grades: Vec<String> = from_json("meters", &row.get::<_, String>("grades")?)?;
    let shown = match value.and_then(|value| grades.get(value as usize)) {
        Some(grade) => grade.clone(),
        None => value.map_or_else(String::new, |value| tally_core::ground::units::quantity(value, &unit)),
    };
    let mut given: Vec<Given> = from_json("alarm_answers", &row.get::<_, String>("answers")?)?;
    let mut work_orders: Vec<WorkOrderId> = Vec::new();
    for work in given.iter().filter_map(|one| one.work_order) {
        if !work_orders.contains(&work) {
            work_orders.push(work);
        }
    }
    let verdict = given.iter().rev().find_map(|one| one.verdict);
    // A silent meter's has none.
    let after_work = given.pop().and_then(|newest| newest.after_work);
    Ok(AlarmRow {
        id: row.get("id")?,
        meter: row.get("meter")?,
        meter_name: row.get("meter_name")?,
        unit,
        asset: NamedAsset { code: row.get("asset")?, name: row.get("asset_name")? },
        kind: row.get("kind")?,
        side: row.get("side")?,
        rung: rung.map(Rung::name),
        severity: row.get("severity")?,
        setpoint: rung.and_then(|rung| rung.setpoint),
        entered_at: row.get("entered_at")?,
        left_at: row.get("left_at")?,
        left_by: row.get("left_by")?,
        value,
        shown,
        response: row.get("response")?,
        answered_at: row.get("answered_at")?,
        due_at: row.get("due_at")?,
        finished_at: row.get("finished_at")?,
        after_work,
        earlier: given.into_iter().map(EarlierAnswer::from).collect(),
        held_by: row.get::<_, Option<String>>("held_by")?.map(|text| from_json("alarms", &text)).transpose()?,
        work_order: work_orders.last().copied(),
        work_orders,
        ladder_version: row.get("version")?,
        acknowledged_at: row.get("acknowledged_at")?,
        acknowledged_by: row.get("acknowledger")?,
        verdict,
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
pub fn of_meter(rows: &dyn Rows, code: &str, span: Span, limit: usize) -> Result<Vec<AlarmRow>> {
    let conn = rows.sql().conn;
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
pub fn standing(rows: &dyn Rows, scope: Option<&[i64]>, limit: usize) -> Result<Vec<AlarmRow>> {
    let conn = rows.sql().conn;
    let ids: Rc<Vec<Value>> = Rc::new(scope.unwrap_or_default().iter().map(|id| Value::from(*id)).collect());
    let mut select = conn.prepare_cached(&format!(
        "{SELECT} WHERE al.left_at IS NULL AND (?1 OR m.asset_id IN rarray(?2))
         ORDER BY al.severity DESC, al.entered_at DESC LIMIT ?3"
    ))?;
    collect(select.query(params![scope.is_none(), ids, limit])?)
}

/// The alarms that raised or joined a work order, whatever they did later, in order of time.
pub(crate) fn of_work(conn: &Connection, work: WorkOrderId) -> Result<Vec<AlarmRow>> {
    let mut select = conn.prepare_cached(&format!(
        "{SELECT} WHERE al.id IN (SELECT alarm_id FROM alarm_answers WHERE work_order = ?1) ORDER BY al.entered_at, al.id"
    ))?;
    collect(select.query([work])?)
}

/// A repair whose meter has still to be read: its rung stands, and work on it is finished.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct RepairRow {
    pub meter: String,
    pub meter_name: String,
    pub unit: String,
    pub grades: Vec<String>,
    pub asset: NamedAsset,
    /// The worst that stands.
    pub severity: Severity,
    pub work_order: WorkOrderId,
    pub title: String,
    pub finished_at: Instant,
    /// The newest reading, from before it was finished.
    pub last_at: Option<Instant>,
    pub last_value: Option<f64>,
}

const REPAIRS: &str =
    "SELECT m.code AS meter, m.name AS meter_name, m.unit, m.grades, m.id AS meter_id, a.code AS asset,
        a.name AS asset_name, max(al.severity) AS severity, max(al.finished_at) AS finished_at, w.number, w.title
     FROM alarms al JOIN meters m ON m.id = al.meter_id JOIN assets a ON a.id = m.asset_id
     JOIN work_orders w ON w.number = al.waits_work
     WHERE al.left_at IS NULL AND al.finished_at IS NOT NULL";

fn repairs(conn: &Connection, mut rows: rusqlite::Rows) -> Result<Vec<RepairRow>> {
    let mut found = Vec::new();
    while let Some(row) = rows.next()? {
        let last = history::last_before(conn, row.get("meter_id")?, Instant::LATEST)?;
        found.push(RepairRow {
            meter: row.get("meter")?,
            meter_name: row.get("meter_name")?,
            unit: row.get("unit")?,
            grades: from_json("meters", &row.get::<_, String>("grades")?)?,
            asset: NamedAsset { code: row.get("asset")?, name: row.get("asset_name")? },
            severity: row.get("severity")?,
            work_order: row.get("number")?,
            title: row.get("title")?,
            finished_at: row.get("finished_at")?,
            last_at: last.map(|last| last.at),
            last_value: last.map(|last| last.value),
        });
    }
    Ok(found)
}

/// A meter that waits for the first reading after a work order is finished.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct WaitingMeter {
    pub meter: String,
    pub meter_name: String,
    pub unit: String,
    pub grades: Vec<String>,
    /// When the work was finished; none while it is not.
    pub finished_at: Option<Instant>,
}

/// Meters with a standing alarm that waits for this work.
pub(crate) fn waiting_meters(conn: &Connection, work: WorkOrderId) -> Result<Vec<WaitingMeter>> {
    let mut select = conn.prepare_cached(
        "SELECT m.code, m.name, m.unit, m.grades, max(al.finished_at) AS finished_at
         FROM alarms al JOIN meters m ON m.id = al.meter_id
         WHERE al.left_at IS NULL AND al.waits_work = ?1 GROUP BY m.id ORDER BY m.code",
    )?;
    let mut rows = select.query([work])?;
    let mut found = Vec::new();
    while let Some(row) = rows.next()? {
        found.push(WaitingMeter {
            meter: row.get(0)?,
            meter_name: row.get(1)?,
            unit: row.get(2)?,
            grades: from_json("meters", &row.get::<_, String>(3)?)?,
            finished_at: row.get("finished_at")?,
        });
    }
    Ok(found)
}

/// Standing longer than this is stale. IEC 62682 (from memory).
pub(super) const STALE_MS: i64 = DAY;

/// Which of the standing alarms to show.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Show {
    #[default]
    Standing,
    Unacknowledged,
    Held,
    Stale,
    Silent,
    /// A repair did not hold: the first reading after it was still beyond.
    NotHeld,
}

impl Show {
    /// The condition on `al`, with the instant as `?3`.
    fn condition(self) -> &'static str {
        match self {
            Self::Standing => "TRUE",
            Self::Unacknowledged => "al.acknowledged_at IS NULL",
            Self::Held => "al.response = 'held'",
            // Work that is open is the response an alarm asks for.
            Self::Stale => {
                "al.entered_at < ?3 AND al.kind = 'limit' AND NOT (al.waits_work IS NOT NULL AND al.finished_at IS NULL)"
            }
            Self::Silent => "al.kind = 'silent'",
            Self::NotHeld => {
                "(SELECT n.after_work FROM alarm_answers n WHERE n.alarm_id = al.id ORDER BY n.id DESC LIMIT 1) IS NOT NULL"
            }
        }
    }
}

/// How many there are of each.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, ToSchema)]
pub struct ShowCounts {
    pub standing: usize,
    pub unacknowledged: usize,
    pub held: usize,
    pub stale: usize,
    pub silent: usize,
    /// Repairs that did not hold.
    pub not_held: usize,
    /// Repairs not yet confirmed by a reading.
    pub unconfirmed: usize,
    pub shelved: usize,
    pub late: usize,
}

/// What stands now across a scope.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct AlarmsNow {
    pub counts: ShowCounts,
    /// Those asked for, the worst first, among them the newest.
    pub alarms: Vec<AlarmRow>,
    /// Repairs not yet confirmed: work is finished, the rung stands, and nothing was read since. The longest ago first.
    pub unconfirmed: Vec<RepairRow>,
    /// Meters whose alarms are held back by a person.
    pub shelves: Vec<ShelfRow>,
    /// Assets out of use.
    pub out_of_use: Vec<OutOfUseRow>,
    /// Late readings beyond a rung that nobody has judged.
    pub late: Vec<LateRow>,
}

/// What stands now across a scope, at most `limit` of each.
///
/// # Errors
/// SQLite's own.
pub fn now(view: &View, scope: Option<&[i64]>, show: Show, limit: usize) -> Result<AlarmsNow> {
    let conn = view.conn;
    let now = view.now;
    let ids: Rc<Vec<Value>> = Rc::new(scope.unwrap_or_default().iter().map(|id| Value::from(*id)).collect());
    let stale = now.plus(-STALE_MS).ms();
    let sums = [Show::Unacknowledged, Show::Held, Show::Stale, Show::Silent, Show::NotHeld]
        .map(|show| format!("ifnull(sum({}), 0)", show.condition()))
        .join(", ");
    let mut count = conn.prepare_cached(&format!(
        "SELECT count(*), {sums} FROM alarms al JOIN meters m ON m.id = al.meter_id
         WHERE al.left_at IS NULL AND (?1 OR m.asset_id IN rarray(?2))"
    ))?;
    let shelves = shelves::list(conn, scope, now)?;
    let late = late::late(conn, scope, limit)?;
    let mut counts = count.query_row(params![scope.is_none(), ids, stale], |row| {
        Ok(ShowCounts {
            standing: row.get(0)?,
            unacknowledged: row.get(1)?,
            held: row.get(2)?,
            stale: row.get(3)?,
            silent: row.get(4)?,
            not_held: row.get(5)?,
            ..ShowCounts::default()
        })
    })?;
    let mut select = conn.prepare_cached(&format!(
        "{REPAIRS} AND (?1 OR m.asset_id IN rarray(?2)) GROUP BY m.id ORDER BY finished_at, m.code LIMIT ?3"
    ))?;
    let unconfirmed = repairs(conn, select.query(params![scope.is_none(), ids, limit])?)?;
    let out_of_use = out_of_use::out_of_use(view, scope)?;
    (counts.shelved, counts.late, counts.unconfirmed) = (shelves.len(), late.len(), unconfirmed.len());
    let mut select = conn.prepare_cached(&format!(
        "{SELECT} WHERE al.left_at IS NULL AND (?1 OR m.asset_id IN rarray(?2)) AND ?3 IS NOT NULL AND {}
         ORDER BY al.severity DESC, al.entered_at DESC LIMIT ?4",
        show.condition()
    ))?;
    let alarms = collect(select.query(params![scope.is_none(), ids, stale, limit])?)?;
    Ok(AlarmsNow { counts, alarms, unconfirmed, shelves, out_of_use, late })
}

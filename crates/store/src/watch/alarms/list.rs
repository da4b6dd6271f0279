//! The list of alarms.

use crate::{
    ground::{
        error::Result,
        rows::{from_json, list_of},
        sql::Rows,
    },
    plant::assets::NamedAsset,
    watch::meters,
};
use rusqlite::{Connection, Row, params};
use serde::{Deserialize, Serialize};
use tally_core::{
    ground::{
        ids::{AlarmId, AssetId, MeterId, WorkOrderId},
        severity::Severity,
        time::{Instant, Span},
    },
    watch::{
        alarms::{AlarmKind, LeftBy, ResponseGiven},
        limits::{HeldBy, Ladder, Rung, RungSide},
    },
    work::Verdict,
};
use utoipa::ToSchema;

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
    pub left_by: Option<LeftBy>,
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

pub(super) const SELECT: &str =
    "SELECT al.*, m.code AS meter, m.name AS meter_name, m.unit, m.kind AS meter_kind, m.grades,
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

pub(super) fn collect(mut rows: rusqlite::Rows) -> Result<Vec<AlarmRow>> {
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
pub fn standing(rows: &dyn Rows, scope: Option<&[AssetId]>, limit: usize) -> Result<Vec<AlarmRow>> {
    let conn = rows.sql().conn;
    let ids = list_of(scope.unwrap_or_default().iter().copied());
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

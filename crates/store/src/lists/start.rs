//! What a visitor sees first: a risk that stands now, and a failure that no limit could warn of.

use crate::{
    ground::{error::Result, view::View},
    plant::{assets, assets::NamedAsset},
    watch::{alarms, alarms::AlarmRow, meters},
};
use rusqlite::{Connection, OptionalExtension, params};
use serde::Serialize;
use tally_core::{
    access::seen::Topic,
    ground::{
        ids::WorkOrderId,
        time::{CLOCK_OFF_MS, DAY, Instant, Span},
    },
};
use utoipa::ToSchema;

/// How far an installation is set up.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
pub struct Counts {
    pub assets: i64,
    pub meters: i64,
    /// Meters with a ladder.
    pub ladders: i64,
    pub has_readings: bool,
}

/// An alarm that stands, with what its meter read before.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Risk {
    pub alarm: AlarmRow,
    pub spark: Vec<Option<f64>>,
}

/// A failure of an asset whose meter has no limit.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Lesson {
    pub work_order: WorkOrderId,
    pub title: String,
    pub asset: NamedAsset,
    pub failed_at: Instant,
    /// Unplanned downtime reported with the work.
    pub down_ms: i64,
    /// Minor units.
    pub cost: i64,
    pub meter: String,
    pub meter_name: String,
    /// What the meter read in the half year before the failure.
    pub spark: Vec<Option<f64>>,
}

/// Readings dated later than now: the clock went back, or went wrong. As long as they are there, what is read of these meters
/// now counts as late, and raises nothing.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Ahead {
    pub meters: usize,
    /// Codes of the first of them.
    pub first: Vec<String>,
    /// The latest of their readings.
    pub newest: Instant,
}

/// The first page.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Start {
    pub counts: Counts,
    pub ahead: Option<Ahead>,
    pub risk: Option<Risk>,
    pub lesson: Option<Lesson>,
}

/// Days of readings drawn before a failure or up to now.
const DRAWN: i64 = 180;

/// What there is to show at `now` to somebody who sees that work, and meters or not.
///
/// # Errors
/// SQLite's own.
pub fn start(view: &View) -> Result<Start> {
    let meters = view.viewer.sees(Topic::Meters);
    Ok(Start {
        counts: counts(view)?,
        ahead: if meters { ahead(view)? } else { None },
        risk: if meters { risk(view)? } else { None },
        lesson: if meters && view.viewer.sees_all_work() { lesson(view)? } else { None },
    })
}

fn counts(view: &View) -> Result<Counts> {
    let (of_asset, of_meter) = (view.viewer.reaches("a.id"), view.viewer.reaches("m.asset_id"));
    let mut select = view.conn.prepare_cached(&format!(
        "SELECT (SELECT count(*) FROM assets a WHERE a.retired_at IS NULL AND {of_asset}),
                (SELECT count(*) FROM meters m WHERE m.retired_at IS NULL AND {of_meter}),
                (SELECT count(*) FROM meters m WHERE m.id IN (SELECT meter_id FROM ladder_versions) AND {of_meter}),
                EXISTS (SELECT 1 FROM reading_counts WHERE readings > 0)",
    ))?;
    Ok(select.query_row([], |row| {
        Ok(Counts { assets: row.get(0)?, meters: row.get(1)?, ladders: row.get(2)?, has_readings: row.get(3)? })
    })?)
}

/// Codes that are named.
const NAMED: usize = 5;

fn ahead(view: &View) -> Result<Option<Ahead>> {
    let now = view.now;
    let mut select = view.conn.prepare_cached(&format!(
        "SELECT code, newest FROM (SELECT m.code, (SELECT max(r.at) FROM readings r WHERE r.meter_id = m.id) AS newest
             FROM meters m WHERE m.retired_at IS NULL AND {}) WHERE newest > ?1 ORDER BY newest DESC",
        view.viewer.reaches("m.asset_id")
    ))?;
    let mut rows = select.query([now.plus(CLOCK_OFF_MS).ms()])?;
    let (mut meters, mut first, mut newest) = (0, Vec::new(), now);
    while let Some(row) = rows.next()? {
        meters += 1;
        if first.len() < NAMED {
            first.push(row.get("code")?);
        }
        newest = newest.max(row.get("newest")?);
    }
    Ok((meters > 0).then_some(Ahead { meters, first, newest }))
}

fn drawn(conn: &Connection, meter: i64, until: Instant) -> Result<Vec<Option<f64>>> {
    let Ok(span) = Span::new(until.plus(-DRAWN * DAY), until) else { return Ok(Vec::new()) };
    Ok(meters::sparks(conn, std::iter::once(meter), span)?.remove(&meter).unwrap_or_default())
}

/// The worst alarm that stands and has set off work; any other where none has.
fn risk(view: &View) -> Result<Option<Risk>> {
    let (conn, now) = (view.conn, view.now);
    let standing = alarms::standing(conn, assets::in_scope(view, None)?.as_deref(), 200)?;
    let worst = standing.iter().map(|alarm| alarm.severity).max();
    let worst = standing.into_iter().filter(|alarm| Some(alarm.severity) == worst);
    let Some(alarm) = worst.max_by_key(|alarm| (alarm.work_order.is_some(), alarm.entered_at)) else {
        return Ok(None);
    };
    let spark = drawn(conn, meters::require(conn, &alarm.meter)?.0, now)?;
    Ok(Some(Risk { alarm, spark }))
}

/// The dearest failure of the last year of an asset with a meter that has no limit.
fn lesson(view: &View) -> Result<Option<Lesson>> {
    let (conn, now) = (view.conn, view.now);
    let mut select = conn.prepare_cached(&format!(
        "SELECT w.number, w.title, a.code, a.name, f.failed_at, w.cost, m.id, m.code AS meter, m.name AS meter_name,
             (SELECT ifnull(sum(d.end_at - d.start_at), 0) FROM downtimes d
              WHERE d.work_order = w.number AND d.kind = 'unplanned') AS down_ms
         FROM failure_reports f JOIN work_orders w ON w.number = f.work_order JOIN assets a ON a.id = f.asset_id
         JOIN meters m ON m.asset_id = f.asset_id AND m.kind <> 'counter' AND m.retired_at IS NULL
         WHERE f.failed_at >= ?1 AND NOT EXISTS (SELECT 1 FROM ladder_versions v WHERE v.meter_id = m.id) AND {}
         ORDER BY w.cost DESC LIMIT 1",
        view.viewer.condition("w")
    ))?;
    let found = select
        .query_row(params![now.plus(-365 * DAY).ms()], |row| {
            let lesson = Lesson {
                work_order: row.get("number")?,
                title: row.get("title")?,
                asset: NamedAsset { code: row.get("code")?, name: row.get("name")? },
                failed_at: row.get("failed_at")?,
                down_ms: row.get("down_ms")?,
                cost: row.get("cost")?,
                meter: row.get("meter")?,
                meter_name: row.get("meter_name")?,
                spark: Vec::new(),
            };
            Ok((row.get::<_, i64>("id")?, lesson))
        })
        .optional();
    match found? {
        Some((meter, lesson)) => {
            let spark = drawn(conn, meter, lesson.failed_at)?;
            Ok(Some(Lesson { spark, ..lesson }))
        }
        None => Ok(None),
    }
}

//! How well the alarms of a scope do in a period: how many, whose, and what came of them. After IEC 62682 (from memory).

use super::list::STALE_MS;
use crate::{assets::NamedAsset, error::Result};
use rusqlite::{Connection, params, types::Value};
use serde::Serialize;
use std::rc::Rc;
use tally_core::time::{DAY, Instant, SECOND, Span};
use utoipa::ToSchema;

/// What counts as chattering.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
pub struct Chatter {
    /// So many entries of one rung …
    pub entries: u32,
    /// … within so many seconds.
    pub seconds: u32,
}

impl Default for Chatter {
    /// Three within a minute (IEC 62682, common practice).
    fn default() -> Self {
        Self { entries: 3, seconds: 60 }
    }
}

/// One meter's share.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct MeterPerformance {
    pub meter: String,
    pub meter_name: String,
    pub asset: NamedAsset,
    pub alarms: usize,
    /// Entries that were chattering.
    pub chattering: usize,
    pub stale: usize,
    /// Alarms that raised or joined work.
    pub led_to_work: usize,
    /// Of those with a verdict: that there was nothing wrong.
    pub nothing_wrong: usize,
    pub judged: usize,
}

/// The figures of a scope and a period.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct AlarmPerformance {
    pub span: Span,
    /// Days of the period that have passed.
    pub days: f64,
    pub alarms: usize,
    pub per_day: f64,
    pub chattering: usize,
    /// Alarms that stood for more than 24 hours.
    pub stale: usize,
    /// Meters that were shelved at some time.
    pub shelved: usize,
    /// Times a meter fell silent.
    pub silent: usize,
    pub led_to_work: usize,
    pub nothing_wrong: usize,
    pub judged: usize,
    pub chatter: Chatter,
    /// By day from the start of the period: how many began.
    pub by_day: Vec<usize>,
    /// The worst first, at most [`WORST`].
    pub meters: Vec<MeterPerformance>,
}

/// Meters listed.
pub const WORST: usize = 50;

/// Days drawn, at the most.
const MOST_DAYS: i64 = 400;

/// Works out the figures from the alarms that began in the period. Cost grows with their number.
///
/// # Errors
/// SQLite's own.
pub fn of(
    conn: &Connection,
    scope: Option<&[i64]>,
    span: Span,
    chatter: Chatter,
    now: Instant,
) -> Result<AlarmPerformance> {
    let ids: Rc<Vec<Value>> = Rc::new(scope.unwrap_or_default().iter().map(|id| Value::from(*id)).collect());
    let until = span.end().min(now);
    let days = (until.since(span.start()) as f64 / DAY as f64).max(0.0);
    let before = i64::from(chatter.entries.max(2)) - 1;
    // Chattering: as many entries of the rung within the time up to this one.
    let mut select = conn.prepare_cached(&format!(
        "WITH began AS MATERIALIZED (
             SELECT al.meter_id, al.kind, al.entered_at, al.left_at, al.work_order,
                    al.entered_at - lag(al.entered_at, {before}) OVER (PARTITION BY al.meter_id, al.rung ORDER BY al.entered_at)
                        < ?5 AS chatters
             FROM alarms al JOIN meters m ON m.id = al.meter_id
             WHERE al.entered_at >= ?3 AND al.entered_at < ?4 AND (?1 OR m.asset_id IN rarray(?2)))
         SELECT m.code, m.name, a.code, a.name, sum(b.kind = 'limit') AS alarms,
                ifnull(sum(b.kind = 'limit' AND b.chatters), 0) AS chattering,
                sum(b.kind = 'limit' AND ifnull(b.left_at, ?6) - b.entered_at > {STALE_MS}) AS stale,
                sum(b.work_order IS NOT NULL) AS led,
                sum(b.work_order IS NOT NULL AND w.verdict IS 'nothing_wrong') AS nothing_wrong,
                sum(b.work_order IS NOT NULL AND w.verdict IS NOT NULL) AS judged,
                sum(b.kind = 'silent') AS silent
         FROM began b JOIN meters m ON m.id = b.meter_id JOIN assets a ON a.id = m.asset_id
         LEFT JOIN work_orders w ON w.number = b.work_order
         GROUP BY b.meter_id ORDER BY alarms DESC, chattering DESC, m.code"
    ))?;
    let within = i64::from(chatter.seconds) * SECOND;
    let mut rows = select.query(params![scope.is_none(), ids, span.start().ms(), until.ms(), within, now.ms()])?;
    let mut whole = AlarmPerformance {
        span,
        days,
        alarms: 0,
        per_day: 0.0,
        chattering: 0,
        stale: 0,
        shelved: 0,
        silent: 0,
        led_to_work: 0,
        nothing_wrong: 0,
        judged: 0,
        chatter,
        by_day: Vec::new(),
        meters: Vec::new(),
    };
    while let Some(row) = rows.next()? {
        let meter = MeterPerformance {
            meter: row.get(0)?,
            meter_name: row.get(1)?,
            asset: NamedAsset { code: row.get(2)?, name: row.get(3)? },
            alarms: row.get(4)?,
            chattering: row.get(5)?,
            stale: row.get(6)?,
            led_to_work: row.get(7)?,
            nothing_wrong: row.get(8)?,
            judged: row.get(9)?,
        };
        whole.alarms += meter.alarms;
        whole.chattering += meter.chattering;
        whole.stale += meter.stale;
        whole.led_to_work += meter.led_to_work;
        whole.nothing_wrong += meter.nothing_wrong;
        whole.judged += meter.judged;
        whole.silent += row.get::<_, usize>(10)?;
        if whole.meters.len() < WORST && meter.alarms > 0 {
            whole.meters.push(meter);
        }
    }
    if days > 0.0 {
        whole.per_day = whole.alarms as f64 / days;
    }
    whole.shelved = conn
        .prepare_cached(
            "SELECT count(DISTINCT s.meter_id) FROM shelves s JOIN meters m ON m.id = s.meter_id
             WHERE s.from_at < ?4 AND s.to_at > ?3 AND (?1 OR m.asset_id IN rarray(?2))",
        )?
        .query_row(params![scope.is_none(), ids, span.start().ms(), until.ms()], |row| row.get(0))?;
    whole.by_day = by_day(conn, scope, &ids, span, until)?;
    Ok(whole)
}

fn by_day(
    conn: &Connection,
    scope: Option<&[i64]>,
    ids: &Rc<Vec<Value>>,
    span: Span,
    until: Instant,
) -> Result<Vec<usize>> {
    let days = (until.since(span.start()) + DAY - 1) / DAY;
    if !(1..=MOST_DAYS).contains(&days) {
        return Ok(Vec::new());
    }
    let mut counted = vec![0; usize::try_from(days).unwrap_or(0)];
    let mut select = conn.prepare_cached(
        "SELECT (al.entered_at - ?3) / ?5, count(*) FROM alarms al JOIN meters m ON m.id = al.meter_id
         WHERE al.entered_at >= ?3 AND al.entered_at < ?4 AND al.kind = 'limit' AND (?1 OR m.asset_id IN rarray(?2))
         GROUP BY 1",
    )?;
    let mut rows = select.query(params![scope.is_none(), ids, span.start().ms(), until.ms(), DAY])?;
    while let Some(row) = rows.next()? {
        if let Some(day) = counted.get_mut(row.get::<_, usize>(0)?) {
            *day = row.get(1)?;
        }
    }
    Ok(counted)
}

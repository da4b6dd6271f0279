//! How well the alarms of a scope do in a period: how many, whose, and what came of them. After IEC 62682 (from memory): an
//! alarm asks for a response, so rungs that only record are left out, and what stands with its work open is not stale.

use super::now::STALE_MS;
use crate::{
    ground::{error::Result, rows::list_of, view::View},
    plant::assets::NamedAsset,
};
use jiff::{civil::Date, tz::TimeZone};
use rusqlite::{Connection, params};
use serde::Serialize;
use std::collections::HashMap;
pub use tally_core::watch::limits::chatter::Chatter;
use tally_core::{
    ground::{
        ids::AssetId,
        period,
        time::{DAY, Instant, Span},
    },
    watch::limits::chatter::ChatterCount,
};
use utoipa::ToSchema;

/// One meter's share.
#[derive(Debug, Clone, Default, PartialEq, Serialize, ToSchema)]
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
    /// Alarms that stood for more than 24 hours, but for those that stand with their work open.
    pub stale: usize,
    /// Meters that were shelved at some time.
    pub shelved: usize,
    /// Times a meter fell silent.
    pub silent: usize,
    pub led_to_work: usize,
    pub nothing_wrong: usize,
    pub judged: usize,
    pub chatter: Chatter,
    /// By local day of the period: how many began; none for a period of many days.
    pub by_day: Vec<AlarmsOfDay>,
    /// The worst first, at most [`WORST`].
    pub meters: Vec<MeterPerformance>,
}

/// Alarms that began on a day.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
pub struct AlarmsOfDay {
    #[schema(value_type = String, format = "date")]
    pub date: Date,
    pub alarms: usize,
}

/// Meters listed.
pub const WORST: usize = 50;

/// Days drawn, at the most.
const MOST_DAYS: usize = 400;

/// Works out the figures from the alarms that began in the period. Cost grows with their number.
///
/// # Errors
/// SQLite's own.
pub fn of(
    view: &View,
    scope: Option<&[AssetId]>,
    span: Span,
    chatter: Chatter,
    zone: &TimeZone,
) -> Result<AlarmPerformance> {
    let conn = view.conn;
    let now = view.now;
    let ids = list_of(scope.unwrap_or_default().iter().copied());
    let until = span.end().min(now);
    let days = (until.since(span.start()) as f64 / DAY as f64).max(0.0);
    let mut select = conn.prepare_cached(&format!(
        "SELECT al.meter_id, al.kind, al.version_id, al.rung, al.entered_at, al.left_at,
             al.waits_work IS NOT NULL AND al.finished_at IS NULL AS work_open,
             EXISTS (SELECT 1 FROM alarm_answers n WHERE n.alarm_id = al.id AND n.work_order IS NOT NULL) AS led,
             (SELECT w.verdict FROM alarm_answers n JOIN work_orders w ON w.number = n.work_order
              WHERE n.alarm_id = al.id AND w.verdict IS NOT NULL ORDER BY n.id DESC LIMIT 1) AS verdict
         FROM alarms al JOIN meters m ON m.id = al.meter_id
         WHERE al.entered_at >= ?3 AND al.entered_at < ?4 AND (?1 OR m.asset_id IN rarray(?2)) AND {ASKS}
         ORDER BY al.meter_id, al.version_id, al.rung, al.entered_at"
    ))?;
    let mut rows = select.query(params![scope.is_none(), ids, span.start().ms(), until])?;
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
    let mut by_meter: HashMap<i64, MeterPerformance> = HashMap::new();
    let passed = Span::new(span.start(), until).ok();
    let days_of: Vec<(Date, Span)> =
        passed.map_or_else(Vec::new, |passed| period::days(passed, zone).take(MOST_DAYS + 1).collect());
    let mut by_day = vec![0; days_of.len()];
    let mut rung: Option<(i64, Option<i64>, Option<i64>)> = None;
    let mut entries = ChatterCount::default();
    while let Some(row) = rows.next()? {
        if row.get::<_, String>("kind")? == "silent" {
            whole.silent += 1;
            continue;
        }
        let (meter_id, entered_at) = (row.get("meter_id")?, row.get("entered_at")?);
        let meter = by_meter.entry(meter_id).or_default();
        meter.alarms += 1;
        let after = days_of.partition_point(|(_, day)| day.start() <= entered_at);
        if let Some(count) = after.checked_sub(1).and_then(|place| by_day.get_mut(place)) {
            *count += 1;
        }
        let same = Some((meter_id, row.get("version_id")?, row.get("rung")?));
        if std::mem::replace(&mut rung, same) != same {
            entries = ChatterCount::default();
        }
        meter.chattering += usize::from(entries.enters(entered_at, chatter));
        let (left_at, work_open): (Option<Instant>, bool) = (row.get("left_at")?, row.get("work_open")?);
        let stood = left_at.unwrap_or(now).since(entered_at);
        meter.stale += usize::from(stood > STALE_MS && !(left_at.is_none() && work_open));
        meter.led_to_work += usize::from(row.get::<_, bool>("led")?);
        let verdict: Option<String> = row.get("verdict")?;
        meter.judged += usize::from(verdict.is_some());
        meter.nothing_wrong += usize::from(verdict.as_deref() == Some("nothing_wrong"));
    }
    drop(rows);
    for meter in by_meter.values() {
        whole.alarms += meter.alarms;
        whole.chattering += meter.chattering;
        whole.stale += meter.stale;
        whole.led_to_work += meter.led_to_work;
        whole.nothing_wrong += meter.nothing_wrong;
        whole.judged += meter.judged;
    }
    whole.meters = worst(conn, by_meter)?;
    if days_of.len() <= MOST_DAYS {
        let of_days = days_of.into_iter().zip(by_day);
        whole.by_day = of_days.map(|((date, _), alarms)| AlarmsOfDay { date, alarms }).collect();
    }
    if days > 0.0 {
        whole.per_day = whole.alarms as f64 / days;
    }
    whole.shelved = conn
        .prepare_cached(
            "SELECT count(DISTINCT s.meter_id) FROM shelves s JOIN meters m ON m.id = s.meter_id
             WHERE s.from_at < ?4 AND s.to_at > ?3 AND (?1 OR m.asset_id IN rarray(?2))",
        )?
        .query_row(params![scope.is_none(), ids, span.start().ms(), until], |row| row.get(0))?;
    Ok(whole)
}

/// Alarms that ask for a response: all but those of rungs that only record.
const ASKS: &str =
    "(al.kind = 'silent' OR (SELECT json_extract(v.definition, '$.rungs[' || al.rung || '].response.kind')
     FROM ladder_versions v WHERE v.id = al.version_id) IS NOT 'record')";

/// The meters with most alarms, with their names.
fn worst(conn: &Connection, by_meter: HashMap<i64, MeterPerformance>) -> Result<Vec<MeterPerformance>> {
    let mut meters: Vec<(i64, MeterPerformance)> = by_meter.into_iter().collect();
    let ids = list_of(meters.iter().map(|(id, _)| *id));
    let mut select = conn.prepare_cached(
        "SELECT m.id, m.code, m.name, a.code, a.name FROM meters m JOIN assets a ON a.id = m.asset_id
         WHERE m.id IN rarray(?1)",
    )?;
    let mut named: HashMap<i64, (String, String, NamedAsset)> = HashMap::new();
    let mut rows = select.query([ids])?;
    while let Some(row) = rows.next()? {
        let asset = NamedAsset { code: row.get(3)?, name: row.get(4)? };
        named.insert(row.get(0)?, (row.get(1)?, row.get(2)?, asset));
    }
    for (id, meter) in &mut meters {
        if let Some((code, name, asset)) = named.remove(id) {
            (meter.meter, meter.meter_name, meter.asset) = (code, name, asset);
        }
    }
    let mut meters: Vec<MeterPerformance> = meters.into_iter().map(|(_, meter)| meter).collect();
    meters.sort_by(|a, b| {
        b.alarms.cmp(&a.alarms).then(b.chattering.cmp(&a.chattering)).then_with(|| a.meter.cmp(&b.meter))
    });
    meters.truncate(WORST);
    Ok(meters)
}

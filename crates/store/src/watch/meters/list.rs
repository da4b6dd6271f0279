//! Meters as listed, with where they stand against their limits, and one on its page.

use super::find::require;
use crate::{
    ground::{
        error::{Result, StoreError},
        rows::{from_json, list_of},
        sql::Rows,
        view::View,
    },
    lists::letters::Letters,
    plant::assets::NamedAsset,
    watch::{
        alarms,
        alarms::ShelfRow,
        readings::{Lookup, history},
    },
};
use rusqlite::{Connection, Row, params, types::Value};
use serde::Serialize;
use std::{collections::HashMap, rc::Rc};
use tally_core::{
    ground::{
        ids::{AssetId, MeterId},
        severity::Severity,
        time::{Instant, Span},
    },
    watch::{
        limits::{Ladder, machine::distance_to_nearest},
        meters::MeterWord,
    },
};
use utoipa::ToSchema;

/// A meter as listed and looked at.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct MeterRow {
    pub code: String,
    pub name: String,
    pub asset: NamedAsset,
    pub kind: MeterWord,
    pub unit: String,
    pub grades: Vec<String>,
    pub last: Option<LastReading>,
    /// Worst severity standing.
    pub worst_severity: Option<Severity>,
    /// Distance to the nearest first setpoint in the meter's unit; negative when past.
    pub distance: Option<f64>,
    /// The same as a share of the way, for meters of different units on one scale.
    pub distance_share: Option<f64>,
    /// The rung the distance is measured to: `alert high`.
    pub nearest_rung: Option<String>,
    pub has_ladder: bool,
    /// Last values of equal parts of the asked period, for a small drawing; gaps where nothing was read.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub spark: Vec<Option<f64>>,
}

/// The newest reading that counts.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct LastReading {
    pub at: Instant,
    pub value: f64,
}

/// One meter, with what its readings may be.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct MeterDetail {
    #[serde(flatten)]
    pub row: MeterRow,
    /// Where on the asset it is read.
    pub measuring_point: Option<String>,
    pub resolution: f64,
    pub rollover_at: Option<f64>,
    pub greatest_rate: Option<f64>,
    pub plausible_low: Option<f64>,
    pub plausible_high: Option<f64>,
    pub running_hours: bool,
    /// First and last instant with readings.
    pub first_at: Option<Instant>,
    pub readings: i64,
    pub retired_at: Option<Instant>,
    pub longest_silence_seconds: Option<i64>,
    /// The shelf that holds its alarms back now.
    pub shelf: Option<ShelfRow>,
}

/// A part of a list, with where the next part starts.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct MeterPage {
    pub meters: Vec<MeterRow>,
    /// How many there are in scope.
    pub total: usize,
    /// How many stand at each severity, least first.
    pub by_severity: [usize; 4],
    pub next_cursor: Option<String>,
}

/// Parts of the sparkline.
const SPARK_PARTS: i64 = 48;

const SELECT: &str = "SELECT m.*, a.code AS asset_code, a.name AS asset_name, r.at AS last_at, r.value AS last_value,
        (SELECT max(severity) FROM alarms WHERE meter_id = m.id AND left_at IS NULL) AS worst,
        (SELECT readings - apart FROM reading_counts WHERE meter_id = m.id) AS kept,
        (SELECT definition FROM ladder_versions WHERE meter_id = m.id ORDER BY number DESC LIMIT 1) AS ladder
     FROM meters m JOIN assets a ON a.id = m.asset_id
     LEFT JOIN readings r ON r.meter_id = m.id AND r.at = (
        SELECT at FROM readings WHERE meter_id = m.id AND flags & 2 = 0 ORDER BY at DESC LIMIT 1)";

/// Ladders by their text: those of a family are the same, and read once.
type Ladders = HashMap<String, Rc<Ladder>>;

fn meter_row(conn: &Connection, row: &Row, ladders: &mut Ladders) -> Result<(i64, MeterRow)> {
    let last = match (row.get("last_at")?, row.get("last_value")?) {
        (Some(at), Some(value)) => Some(LastReading { at, value }),
        // Where the newest rows were voided one by one, what is left is in blocks.
        _ if row.get::<_, Option<i64>>("kept")?.is_some_and(|kept| kept > 0) => {
            let last = history::last_before(conn, row.get("id")?, Instant::LATEST)?;
            last.map(|last| LastReading { at: last.at, value: last.value })
        }
        _ => None,
    };
    let ladder: Option<Rc<Ladder>> = match row.get_ref("ladder")?.as_str_or_null().map_err(rusqlite::Error::from)? {
        None => None,
        Some(text) => Some(match ladders.get(text) {
            Some(known) => known.clone(),
            None => ladders.entry(text.into()).or_insert(Rc::new(from_json("ladder_versions", text)?)).clone(),
        }),
    };
    let distance = match (&ladder, last) {
        (Some(ladder), Some(last)) => distance_to_nearest(ladder, last.value),
        _ => None,
    };
    let nearest = distance.and_then(|d| Some(ladder.as_ref()?.rungs.get(d.rung)?.name()));
    let meter = MeterRow {
        code: row.get("code")?,
        name: row.get("name")?,
        asset: NamedAsset { code: row.get("asset_code")?, name: row.get("asset_name")? },
        kind: row.get("kind")?,
        unit: row.get("unit")?,
        grades: from_json("meters", &row.get::<_, String>("grades")?)?,
        last,
        worst_severity: row.get("worst")?,
        distance: distance.map(|d| d.in_unit),
        distance_share: distance.map(|d| d.share),
        nearest_rung: nearest,
        has_ladder: ladder.is_some_and(|ladder| !ladder.rungs.is_empty()),
        spark: Vec::new(),
    };
    Ok((row.get("id")?, meter))
}

/// The meters of a scope: the worst standing first, then the nearest to a limit, then those without one.
///
/// `text` filters by code, name or asset; `cursor` is the one a page before gave.
///
/// # Errors
/// [`StoreError::Invalid`] for a cursor that is none.
pub fn list(
    rows: &dyn Rows,
    scope: Option<&[AssetId]>,
    text: Option<&str>,
    spark: Span,
    cursor: Option<&str>,
    limit: usize,
) -> Result<MeterPage> {
    let conn = rows.sql().conn;
    let start: usize = match cursor {
        Some(cursor) => cursor
            .parse()
            .map_err(|_e: std::num::ParseIntError| StoreError::invalid("cursor", "is none of this list"))?,
        None => 0,
    };
    let ids = list_of(scope.unwrap_or_default().iter().copied());
    let (sought, value) = match text.and_then(Letters::of) {
        None => ("?3 IS NULL".into(), Value::Null),
        Some(letters) => {
            let (named, value) = letters.condition("search_meters", "m.id", "m.code || ' ' || m.name", "?3");
            let (placed, _) = letters.condition("search_assets", "m.asset_id", "a.name || ' ' || a.code", "?3");
            (format!("({named} OR {placed})"), value)
        }
    };
    let mut select = conn.prepare_cached(&format!(
        "{SELECT} WHERE m.retired_at IS NULL AND (?1 OR m.asset_id IN rarray(?2)) AND {sought}"
    ))?;
    let mut rows = select.query(params![scope.is_none(), ids, value])?;
    let (mut all, mut ladders) = (Vec::new(), Ladders::new());
    while let Some(row) = rows.next()? {
        all.push(meter_row(conn, row, &mut ladders)?);
    }
    all.sort_by(|(_, a), (_, b)| {
        let near = |m: &MeterRow| m.distance_share.unwrap_or(f64::INFINITY);
        (b.worst_severity.cmp(&a.worst_severity))
            .then(b.has_ladder.cmp(&a.has_ladder))
            .then(near(a).total_cmp(&near(b)))
            .then_with(|| a.code.cmp(&b.code))
    });
    let mut by_severity = [0; 4];
    for severity in all.iter().filter_map(|(_, meter)| meter.worst_severity) {
        by_severity[usize::from(severity.strokes()) - 1] += 1;
    }
    let total = all.len();
    let page: Vec<(i64, MeterRow)> = all.into_iter().skip(start).take(limit).collect();
    let mut sparks = sparks(conn, page.iter().map(|(id, _)| *id), spark)?;
    let meters = page
        .into_iter()
        .map(|(id, meter)| MeterRow { spark: sparks.remove(&id).unwrap_or_default(), ..meter })
        .collect();
    let next = start + limit;
    Ok(MeterPage { meters, total, by_severity, next_cursor: (next < total).then(|| next.to_string()) })
}

/// The last value in each part of the span: one seek a part, however many readings there are.
pub(crate) fn sparks(
    conn: &Connection,
    meters: impl Iterator<Item = i64>,
    span: Span,
) -> Result<HashMap<i64, Vec<Option<f64>>>> {
    let ids = list_of(meters);
    let part = (span.ms() / SPARK_PARTS).max(1);
    let mut select = conn.prepare_cached(
        "WITH RECURSIVE part (n) AS (SELECT 0 UNION ALL SELECT n + 1 FROM part WHERE n + 1 < ?2)
         SELECT w.value, part.n, (
             SELECT value FROM readings WHERE meter_id = w.value AND flags & 2 = 0
               AND at >= ?3 + part.n * ?4 AND at < ?3 + (part.n + 1) * ?4 ORDER BY at DESC LIMIT 1)
         FROM rarray(?1) w CROSS JOIN part",
    )?;
    let mut rows = select.query(params![ids, SPARK_PARTS, span.start().ms(), part])?;
    let mut sparks: HashMap<i64, Vec<Option<f64>>> = HashMap::new();
    while let Some(row) = rows.next()? {
        sparks.entry(row.get(0)?).or_default().push(row.get(2)?);
    }
    fill_from_blocks(conn, &ids, span, part, &mut sparks)?;
    sparks.retain(|_, values| values.iter().any(Option::is_some));
    Ok(sparks)
}

/// Parts whose readings are sealed: at most one block is decoded for each.
fn fill_from_blocks(
    conn: &Connection,
    meters: &Rc<Vec<Value>>,
    span: Span,
    part: i64,
    sparks: &mut HashMap<i64, Vec<Option<f64>>>,
) -> Result<()> {
    let mut select = conn.prepare_cached(
        "SELECT DISTINCT meter_id FROM reading_blocks WHERE meter_id IN rarray(?1) AND to_at >= ?2 AND from_at < ?3",
    )?;
    let sealed = select.query_map(params![meters, span.start().ms(), span.end().ms()], |row| row.get::<_, i64>(0))?;
    for meter in sealed {
        let meter = meter?;
        let mut lookup = Lookup::new(conn, MeterId(meter));
        for (n, value) in sparks.entry(meter).or_default().iter_mut().enumerate().filter(|(_, value)| value.is_none()) {
            let from = span.start().plus(part * i64::try_from(n).unwrap_or(0));
            *value = lookup.before(from.plus(part))?.filter(|last| last.at >= from).map(|last| last.value);
        }
    }
    Ok(())
}

/// One meter.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn detail(view: &View, code: &str) -> Result<MeterDetail> {
    let conn = view.conn;
    let now = view.now;
    let id = require(conn, code)?;
    let mut select = conn.prepare_cached(&format!("{SELECT} WHERE m.id = ?1"))?;
    let mut rows = select.query([id])?;
    let row = rows.next()?.ok_or_else(|| StoreError::not_found("meter", code))?;
    let (resolution, rollover_at) = (row.get("resolution")?, row.get("rollover_at")?);
    let greatest_rate = row.get("greatest_rate")?;
    let (plausible_low, plausible_high) = (row.get("plausible_low")?, row.get("plausible_high")?);
    let longest_silence_seconds = row.get("longest_silence_s")?;
    let (running_hours, retired_at) = (row.get("running_hours")?, row.get("retired_at")?);
    let measuring_point = row.get("measuring_point")?;
    let (_, meter) = meter_row(conn, row, &mut Ladders::new())?;
    let first = history::first(conn, id)?;
    let readings = history::counts(conn, id)?.readings;
    Ok(MeterDetail {
        row: meter,
        measuring_point,
        resolution,
        rollover_at,
        greatest_rate,
        plausible_low,
        plausible_high,
        running_hours,
        first_at: first,
        readings,
        retired_at,
        longest_silence_seconds,
        shelf: alarms::shelf_of(conn, id, now)?,
    })
}

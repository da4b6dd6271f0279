//! Meters as listed, with where they stand against their limits, and one on its page.

use super::find::require;
use crate::{
    ground::{
        error::{Result, StoreError},
        rows::{from_json, list_of},
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
        ids::{AssetId, LadderVersionId, MeterId},
        severity::Severity,
        time::{Instant, Span},
    },
    watch::{
        limits::{Ladder, distance::FirstSetpoints},
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
        (SELECT definition FROM ladder_versions WHERE meter_id = m.id ORDER BY number DESC LIMIT 1) AS ladder
     FROM meters m JOIN assets a ON a.id = m.asset_id
     LEFT JOIN readings r ON r.meter_id = m.id AND r.at = (
        SELECT at FROM readings WHERE meter_id = m.id AND flags & 2 = 0 ORDER BY at DESC LIMIT 1)";

/// Ladders by their text: those of a family are the same, and read once.
type Ladders = HashMap<String, Rc<Ladder>>;

fn meter_row(conn: &Connection, row: &Row, ladders: &mut Ladders) -> Result<(i64, MeterRow)> {
    let last = match (row.get("last_at")?, row.get("last_value")?) {
        (Some(at), Some(value)) => Some(LastReading { at, value }),
        _ => sealed(conn, row.get("id")?)?,
    };
    let ladder: Option<Rc<Ladder>> = match row.get_ref("ladder")?.as_str_or_null().map_err(rusqlite::Error::from)? {
        None => None,
        Some(text) => Some(match ladders.get(text) {
            Some(known) => known.clone(),
            None => ladders.entry(text.into()).or_insert(Rc::new(from_json("ladder_versions", text)?)).clone(),
        }),
    };
    let distance = match (&ladder, last) {
        (Some(ladder), Some(last)) => FirstSetpoints::of(ladder).distance(last.value),
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

/// What says where in the list a meter stands.
struct Placed {
    id: i64,
    code: String,
    worst: Option<Severity>,
    has_ladder: bool,
    share: f64,
}

/// The first setpoints of a version of a ladder: held in memory, as it never changes.
fn setpoints(view: &View, version: LadderVersionId) -> Result<FirstSetpoints> {
    if let Some(held) = view.in_memory.setpoints.get(&version) {
        return Ok(held);
    }
    let mut select = view.conn.prepare_cached("SELECT definition FROM ladder_versions WHERE id = ?1")?;
    let text: String = select.query_row([version], |row| row.get(0))?;
    let found = FirstSetpoints::of(&from_json::<Ladder>("ladder_versions", &text)?);
    view.in_memory.setpoints.insert(version, found);
    Ok(found)
}

/// Where all meters of a scope stand, in no order: of each only what that takes, because there may be many more than are shown.
fn placed(view: &View, scope: Option<&[AssetId]>, text: Option<&str>) -> Result<Vec<Placed>> {
    let conn = view.conn;
    let mut standing =
        conn.prepare_cached("SELECT meter_id, max(severity) FROM alarms WHERE left_at IS NULL GROUP BY meter_id")?;
    let rows = standing.query_map([], |row| Ok((row.get(0)?, row.get(1)?)))?;
    let worst: HashMap<i64, Severity> = rows.collect::<rusqlite::Result<_>>()?;
    let ids = list_of(scope.unwrap_or_default().iter().copied());
    let (joined, sought, value) = match text.and_then(Letters::of) {
        None => ("", "?3 IS NULL".into(), Value::Null),
        Some(letters) => {
            let (named, value) = letters.condition("search_meters", "m.id", "m.code || ' ' || m.name", "?3");
            let (placed, _) = letters.condition("search_assets", "m.asset_id", "a.name || ' ' || a.code", "?3");
            ("JOIN assets a ON a.id = m.asset_id", format!("({named} OR {placed})"), value)
        }
    };
    let mut select = conn.prepare_cached(&format!(
        "SELECT m.id, m.code, (SELECT id FROM ladder_versions WHERE meter_id = m.id ORDER BY number DESC LIMIT 1),
             (SELECT value FROM readings WHERE meter_id = m.id AND flags & 2 = 0 ORDER BY at DESC LIMIT 1)
         FROM meters m {joined} WHERE m.retired_at IS NULL AND (?1 OR m.asset_id IN rarray(?2)) AND {sought}"
    ))?;
    let mut rows = select.query(params![scope.is_none(), ids, value])?;
    let mut all = Vec::new();
    while let Some(row) = rows.next()? {
        let id = row.get(0)?;
        let first = row.get::<_, Option<LadderVersionId>>(2)?.map(|version| setpoints(view, version)).transpose()?;
        let value = match (first, row.get(3)?) {
            (Some(_), None) => sealed(conn, id)?.map(|last| last.value),
            (_, value) => value,
        };
        let distance = first.zip(value).and_then(|(first, value)| first.distance(value));
        all.push(Placed {
            id,
            code: row.get(1)?,
            worst: worst.get(&id).copied(),
            has_ladder: first.is_some_and(|first| first.has_rungs),
            share: distance.map_or(f64::INFINITY, |distance| distance.share),
        });
    }
    Ok(all)
}

/// The last reading of a meter none of whose newest rows counts: where those were voided one by one, what is left is in blocks.
fn sealed(conn: &Connection, meter: i64) -> Result<Option<LastReading>> {
    let mut kept = conn.prepare_cached("SELECT 1 FROM reading_counts WHERE meter_id = ?1 AND readings > apart")?;
    if !kept.exists([meter])? {
        return Ok(None);
    }
    let last = history::last_before(conn, MeterId(meter), Instant::LATEST)?;
    Ok(last.map(|last| LastReading { at: last.at, value: last.value }))
}

/// The meters of a scope: the worst standing first, then the nearest to a limit, then those without one.
///
/// `text` filters by code, name or asset; `cursor` is the one a page before gave.
///
/// # Errors
/// [`StoreError::Invalid`] for a cursor that is none.
pub fn list(
    view: &View,
    scope: Option<&[AssetId]>,
    text: Option<&str>,
    spark: Span,
    cursor: Option<&str>,
    limit: usize,
) -> Result<MeterPage> {
    let start: usize = match cursor {
        Some(cursor) => cursor
            .parse()
            .map_err(|_e: std::num::ParseIntError| StoreError::invalid("cursor", "is none of this list"))?,
        None => 0,
    };
    let mut all = placed(view, scope, text)?;
    all.sort_by(|a, b| {
        (b.worst.cmp(&a.worst))
            .then(b.has_ladder.cmp(&a.has_ladder))
            .then(a.share.total_cmp(&b.share))
            .then_with(|| a.code.cmp(&b.code))
    });
    let mut by_severity = [0; 4];
    for severity in all.iter().filter_map(|meter| meter.worst) {
        by_severity[usize::from(severity.strokes()) - 1] += 1;
    }
    let ids: Vec<i64> = all.iter().skip(start).take(limit).map(|meter| meter.id).collect();
    let mut shown = rows_of(view.conn, &ids)?;
    let mut sparks = sparks(view.conn, ids.iter().copied(), spark)?;
    let meters = ids.iter().filter_map(|id| {
        let meter = shown.remove(id)?;
        Some(MeterRow { spark: sparks.remove(id).unwrap_or_default(), ..meter })
    });
    let (total, next) = (all.len(), start + limit);
    Ok(MeterPage {
        meters: meters.collect(),
        total,
        by_severity,
        next_cursor: (next < total).then(|| next.to_string()),
    })
}

/// Meters as listed, by their ids.
fn rows_of(conn: &Connection, ids: &[i64]) -> Result<HashMap<i64, MeterRow>> {
    let mut select = conn.prepare_cached(&format!("{SELECT} WHERE m.id IN rarray(?1)"))?;
    let mut rows = select.query([list_of(ids.iter().copied())])?;
    let (mut found, mut ladders) = (HashMap::with_capacity(ids.len()), Ladders::new());
    while let Some(row) = rows.next()? {
        let (id, meter) = meter_row(conn, row, &mut ladders)?;
        found.insert(id, meter);
    }
    Ok(found)
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

//! Values that are set for assets and crews from a day on: in Setup, and as facts.

use crate::{
    access::people,
    ground::{
        error::{Result, StoreError},
        sql::Rows,
        tx::Tx,
    },
    plant::{assets, settings},
};
use rusqlite::{Connection, OptionalExtension, params};
use serde::Serialize;
use std::collections::HashMap;
use tally_core::{
    facts::{Dated, Worth},
    ground::{
        ids::{AssetId, CrewId},
        period::{fiscal_year_start, midnight},
        time::{HOUR, Instant},
    },
    plant::{
        assets::Tree,
        values::{NewValue, ValueKind},
    },
};
use utoipa::ToSchema;

/// A value as listed.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ValueRow {
    pub id: i64,
    pub kind: ValueKind,
    /// Code and name of the asset or the crew.
    pub of: String,
    pub of_name: String,
    pub from: Instant,
    /// Money in minor units, or hours.
    pub value: Option<f64>,
    pub recorded_by: String,
    pub recorded_at: Instant,
}

fn amount(kind: ValueKind, kept: Option<i64>) -> Option<f64> {
    kept.map(|kept| if kind.is_of_crew() { kept as f64 / HOUR as f64 } else { kept as f64 })
}

/// All values of a kind, by what they are of and the day, the newest first.
///
/// # Errors
/// SQLite's own.
pub fn list(rows: &dyn Rows, kind: ValueKind) -> Result<Vec<ValueRow>> {
    let conn = rows.sql().conn;
    let mut select = conn.prepare_cached(
        "SELECT v.id, v.from_at, v.value, ifnull(a.code, c.code) AS code, ifnull(a.name, c.name) AS name,
             p.name AS person, v.recorded_at
         FROM dated_values v LEFT JOIN assets a ON a.id = v.asset_id LEFT JOIN crews c ON c.id = v.crew_id
         JOIN people p ON p.id = v.recorded_by WHERE v.kind = ?1 ORDER BY code, v.from_at DESC LIMIT 5000",
    )?;
    let found = select.query_map([kind], |row| {
        Ok(ValueRow {
            id: row.get("id")?,
            kind,
            of: row.get("code")?,
            of_name: row.get("name")?,
            from: row.get("from_at")?,
            value: amount(kind, row.get("value")?),
            recorded_by: row.get("person")?,
            recorded_at: row.get("recorded_at")?,
        })
    })?;
    Ok(found.collect::<rusqlite::Result<_>>()?)
}

/// Sets a value from a day on; a budget for the fiscal year that it lies in.
///
/// # Errors
/// [`StoreError::Invalid`] by field.
pub fn set(tx: &mut Tx, new: &NewValue) -> Result<i64> {
    tx.require(new.kind.action())?;
    let value = new.check()?;
    let (asset, crew) = match new.kind.is_of_crew() {
        true => (None, Some(people::require_crew(tx.conn, &new.of, "of")?)),
        false => (Some(assets::require_in(tx.conn, &new.of, "of")?), None),
    };
    let settings = settings::get(tx)?;
    let zone = settings::time_zone(tx)?;
    let day = midnight(new.from, &zone);
    if day < Instant::EARLIEST_EVENT {
        return Err(StoreError::invalid("from", "lies before 1950"));
    }
    let from = match new.kind {
        ValueKind::Budget => fiscal_year_start(day, &zone, i8::try_from(settings.fiscal_month).unwrap_or(1)),
        _ => day,
    };
    let same = tx
        .conn
        .prepare_cached(
            "SELECT id FROM dated_values WHERE kind = ?1 AND asset_id IS ?2 AND crew_id IS ?3 AND from_at = ?4",
        )?
        .query_row(params![new.kind, asset, crew, from], |row| row.get::<_, i64>(0))
        .optional()?;
    let id = match same {
        Some(id) => {
            tx.conn.execute(
                "UPDATE dated_values SET value = ?2, recorded_at = ?3, recorded_by = ?4 WHERE id = ?1",
                params![id, value, tx.now, tx.actor.id],
            )?;
            id
        }
        None => {
            tx.conn.execute(
                "INSERT INTO dated_values (kind, asset_id, crew_id, from_at, value, recorded_at, recorded_by)
                 VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7)",
                params![new.kind, asset, crew, from, value, tx.now, tx.actor.id],
            )?;
            tx.conn.last_insert_rowid()
        }
    };
    tx.audit("set", "value", &new.of, new)?;
    Ok(id)
}

/// Takes a value away: what held before it holds on.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn remove(tx: &mut Tx, id: i64) -> Result<()> {
    let found = tx
        .conn
        .query_row(
            "SELECT v.kind, v.value, v.from_at, ifnull(a.code, c.code) FROM dated_values v
             LEFT JOIN assets a ON a.id = v.asset_id LEFT JOIN crews c ON c.id = v.crew_id WHERE v.id = ?1",
            [id],
            |row| {
                Ok((
                    row.get::<_, ValueKind>(0)?,
                    row.get::<_, Option<i64>>(1)?,
                    row.get::<_, Instant>(2)?,
                    row.get::<_, String>(3)?,
                ))
            },
        )
        .optional()?;
    let (kind, value, from, of) = found.ok_or_else(|| StoreError::not_found("value", id))?;
    tx.require(kind.action())?;
    tx.conn.execute("DELETE FROM dated_values WHERE id = ?1", [id])?;
    tx.audit("removed", "value", &of, &serde_json::json!({"kind": kind, "from": from, "value": amount(kind, value)}))
}

/// Values by the instants from which they hold.
type Values = Vec<(Instant, Option<i64>)>;

/// All that is set, as facts.
pub(crate) fn worth(conn: &Connection, tree: &Tree) -> Result<Worth> {
    let mut of_assets: HashMap<(ValueKind, u32), Values> = HashMap::new();
    let mut of_crews: HashMap<CrewId, Values> = HashMap::new();
    let number = |asset: AssetId| tree.index(asset).and_then(|index| u32::try_from(index).ok());
    let mut select = conn.prepare_cached(
        "SELECT id, replacement_value, downtime_cost FROM assets
         WHERE replacement_value IS NOT NULL OR downtime_cost IS NOT NULL",
    )?;
    let mut rows = select.query([])?;
    while let Some(row) = rows.next()? {
        let Some(asset) = number(row.get(0)?) else { continue };
        for (place, kind) in [(1, ValueKind::ReplacementValue), (2, ValueKind::DowntimeCost)] {
            if let Some(value) = row.get::<_, Option<i64>>(place)? {
                of_assets.entry((kind, asset)).or_default().push((Instant::EARLIEST, Some(value)));
            }
        }
    }
    let mut select = conn.prepare_cached("SELECT id, weekly_hours FROM crews")?;
    let mut rows = select.query([])?;
    while let Some(row) = rows.next()? {
        let hours: f64 = row.get(1)?;
        of_crews.entry(row.get(0)?).or_default().push((Instant::EARLIEST, Some((hours * HOUR as f64).round() as i64)));
    }
    let mut select =
        conn.prepare_cached("SELECT kind, asset_id, crew_id, from_at, value FROM dated_values ORDER BY id")?;
    let mut rows = select.query([])?;
    while let Some(row) = rows.next()? {
        let (kind, value): (ValueKind, _) = (row.get(0)?, (row.get::<_, Instant>(3)?, row.get(4)?));
        match (row.get::<_, Option<AssetId>>(1)?.and_then(number), row.get::<_, Option<CrewId>>(2)?) {
            (Some(asset), _) => of_assets.entry((kind, asset)).or_default().push(value),
            (None, Some(crew)) => of_crews.entry(crew).or_default().push(value),
            (None, None) => {}
        }
    }
    let weekly_ms = of_crews.into_iter().map(|(crew, values)| (crew, Dated::of(values))).collect();
    let mut worth = Worth { weekly_ms, ..Worth::default() };
    for ((kind, asset), values) in of_assets {
        let kept = match kind {
            ValueKind::ReplacementValue => &mut worth.replacement,
            ValueKind::DowntimeCost => &mut worth.down_hour,
            ValueKind::Budget => &mut worth.budget,
            ValueKind::WeeklyHours => continue,
        };
        kept.insert(asset, Dated::of(values));
    }
    Ok(worth)
}

//! The meters that a check sheet's questions read.

use crate::{
    ground::{error::Result, view::View},
    watch::{meters, readings::Lookup},
};
use rusqlite::{Connection, OptionalExtension, Row, params};
use serde::Serialize;
use std::collections::HashMap;
use tally_core::{
    ground::{
        ids::{AssetId, MeterId},
        time::Instant,
    },
    watch::meters::Meter,
    work::check_sheets::{Asks, CheckSheet},
};
use utoipa::ToSchema;

/// A meter that a question reads.
pub(super) struct ReadMeter {
    pub id: MeterId,
    pub code: String,
    pub name: String,
    pub rules: Meter,
}

impl ReadMeter {
    fn of_row(row: &Row) -> Result<Self> {
        Ok(Self { id: row.get("id")?, code: row.get("code")?, name: row.get("name")?, rules: meters::rules(row)? })
    }

    /// Its last value before an instant, and when that was read.
    pub(super) fn last(&self, conn: &Connection, before: Instant) -> Result<Option<(f64, Instant)>> {
        let found = Lookup::new(conn, self.id).before(before.plus(1))?;
        Ok(found.map(|reading| (reading.value, reading.at)))
    }
}

/// A meter that is to be read.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct AskedMeter {
    pub code: String,
    pub name: String,
    pub unit: String,
    /// What a grade can stand at, best first.
    pub grades: Vec<String>,
    /// What it read last, also as it is told, and when.
    pub last: Option<f64>,
    pub last_told: Option<String>,
    pub last_at: Option<Instant>,
}

impl AskedMeter {
    /// A meter with what it read last by an instant.
    pub(super) fn of(conn: &Connection, meter: &ReadMeter, until: Instant) -> Result<Self> {
        let last = meter.last(conn, until)?;
        Ok(Self {
            code: meter.code.clone(),
            name: meter.name.clone(),
            unit: meter.rules.unit.clone(),
            grades: meter.rules.grades().to_vec(),
            last: last.map(|(value, _)| value),
            last_told: last.map(|(value, _)| meter.rules.shown(value)),
            last_at: last.map(|(_, at)| at),
        })
    }
}

/// Meters of some codes that are in use, in their order, with what they read last.
pub(in crate::work) fn to_read(view: &View, codes: &[String]) -> Result<Vec<AskedMeter>> {
    let mut select = view.conn.prepare_cached("SELECT * FROM meters WHERE code = ?1 AND retired_at IS NULL")?;
    let mut found = Vec::new();
    for code in codes {
        let mut rows = select.query([code])?;
        if let Some(row) = rows.next()? {
            found.push(AskedMeter::of(view.conn, &ReadMeter::of_row(row)?, view.now)?);
        }
    }
    Ok(found)
}

/// The meter that a question names: by its code; or so called on the asset, or on the one part of it that has such a meter.
fn find(conn: &Connection, asset: AssetId, said: &str) -> Result<Option<ReadMeter>> {
    let one = |sql: &str| -> Result<Option<ReadMeter>> {
        let mut select = conn.prepare_cached(sql)?;
        let mut rows = select.query(params![asset, said])?;
        let found = rows.next()?.map(ReadMeter::of_row).transpose()?;
        Ok(if rows.next()?.is_some() { None } else { found })
    };
    if let Some(found) = one("SELECT * FROM meters WHERE code = ?2 AND ?1 IS NOT NULL AND retired_at IS NULL")? {
        return Ok(Some(found));
    }
    let on_it = "SELECT * FROM meters WHERE asset_id = ?1 AND name = ?2 AND retired_at IS NULL";
    if let Some(found) = one(on_it)? {
        return Ok(Some(found));
    }
    one("WITH RECURSIVE down (id) AS (SELECT ?1 UNION ALL SELECT p.asset_id FROM placements p JOIN down ON p.parent_id = down.id
             WHERE p.to_at IS NULL)
         SELECT m.* FROM down JOIN meters m ON m.asset_id = down.id WHERE m.name = ?2 AND m.retired_at IS NULL LIMIT 2")
}

/// The meters of a sheet's questions by their keys, as far as the asset has them.
pub(super) fn of_sheet(conn: &Connection, asset: AssetId, sheet: &CheckSheet) -> Result<HashMap<String, ReadMeter>> {
    let mut found = HashMap::new();
    for question in &sheet.questions {
        if let Asks::Reading { meter } = &question.asks
            && let Some(meter) = find(conn, asset, meter.trim())?
        {
            found.insert(question.key.clone(), meter);
        }
    }
    Ok(found)
}

/// What the asset of a check is called.
pub(super) fn asset_name(conn: &Connection, asset: AssetId) -> Result<String> {
    let mut select = conn.prepare_cached("SELECT name FROM assets WHERE id = ?1")?;
    Ok(select.query_row([asset], |row| row.get(0)).optional()?.unwrap_or_default())
}

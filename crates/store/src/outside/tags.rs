//! Tags: names that outside systems have for meters, with the unit their values come in.

use crate::{
    ground::{
        error::{Result, StoreError},
        sql::Rows,
        tx::Tx,
    },
    plant::assets::NamedAsset,
    watch::meters,
};
use rusqlite::{Connection, OptionalExtension, params};
use serde::{Deserialize, Serialize};
use tally_core::{access::roles::Action, ground::units::Conversion};
use utoipa::ToSchema;

/// A tag to set.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct NewTag {
    pub tag: String,
    /// Code of the meter.
    pub meter: String,
    /// UCUM code of what comes in; the meter's own without it.
    pub unit: Option<String>,
}

/// A tag as listed.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct TagRow {
    pub tag: String,
    pub meter: String,
    pub meter_name: String,
    pub asset: NamedAsset,
    pub unit: String,
    pub meter_unit: String,
    /// value of the meter = factor · what comes in + offset.
    pub factor: f64,
    pub offset: f64,
}

/// The meter a tag stands for.
#[derive(Debug, Clone)]
pub(crate) struct Tagged {
    pub meter: String,
    pub conversion: Conversion,
}

/// Sets what a tag stands for.
///
/// # Errors
/// [`StoreError::Invalid`] for a tag that is empty or a meter's code, an unknown meter, or units that do not convert.
pub fn set(tx: &mut Tx, new: &NewTag) -> Result<()> {
    tx.require(Action::ChangeMasterData)?;
    let tag = new.tag.trim();
    if tag.is_empty() || tag.len() > 200 {
        return Err(StoreError::invalid("tag", "needs 1 to 200 letters"));
    }
    if meters::id_of(tx.conn, tag)?.is_some() {
        return Err(StoreError::invalid("tag", format!("{tag} is the code of a meter")));
    }
    let meter = meters::id_of(tx.conn, &new.meter)?
        .ok_or_else(|| StoreError::invalid("meter", format!("there is no meter {:?}", new.meter)))?;
    let own = meters::rules_of(tx.conn, meter)?.unit;
    let unit = new.unit.as_deref().map(str::trim).filter(|unit| !unit.is_empty()).unwrap_or(&own);
    Conversion::between(unit, &own)
        .ok_or_else(|| StoreError::invalid("unit", format!("{unit} can't be turned into {own}")))?;
    tx.conn.execute(
        "INSERT INTO meter_tags (tag, meter_id, unit) VALUES (?1, ?2, ?3)
         ON CONFLICT (tag) DO UPDATE SET meter_id = excluded.meter_id, unit = excluded.unit",
        params![tag, meter, unit],
    )?;
    tx.audit("tag set", "meter", &new.meter, new)
}

/// Takes a tag away.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn remove(tx: &mut Tx, tag: &str) -> Result<()> {
    tx.require(Action::ChangeMasterData)?;
    if tx.conn.execute("DELETE FROM meter_tags WHERE tag = ?1", [tag])? == 0 {
        return Err(StoreError::not_found("tag", tag));
    }
    tx.audit("removed", "tag", tag, &())
}

/// All tags, by name.
///
/// # Errors
/// SQLite's own.
pub fn list(rows: &dyn Rows) -> Result<Vec<TagRow>> {
    let conn = rows.sql().conn;
    let mut select = conn.prepare_cached(
        "SELECT t.tag, m.code, m.name, a.code, a.name, t.unit, m.unit FROM meter_tags t
         JOIN meters m ON m.id = t.meter_id JOIN assets a ON a.id = m.asset_id ORDER BY t.tag",
    )?;
    let rows = select.query_map([], |row| {
        let (unit, meter_unit): (String, String) = (row.get(5)?, row.get(6)?);
        let conversion = Conversion::between(&unit, &meter_unit).unwrap_or(Conversion::SAME);
        Ok(TagRow {
            tag: row.get(0)?,
            meter: row.get(1)?,
            meter_name: row.get(2)?,
            asset: NamedAsset { code: row.get(3)?, name: row.get(4)? },
            unit,
            meter_unit,
            factor: conversion.factor,
            offset: conversion.offset,
        })
    })?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

/// What a tag stands for.
pub(crate) fn find(conn: &Connection, tag: &str) -> Result<Option<Tagged>> {
    let found = conn
        .prepare_cached(
            "SELECT m.code, t.unit, m.unit FROM meter_tags t JOIN meters m ON m.id = t.meter_id WHERE t.tag = ?1",
        )?
        .query_row([tag], |row| Ok((row.get(0)?, row.get::<_, String>(1)?, row.get::<_, String>(2)?)))
        .optional()?;
    let Some((meter, unit, own)) = found else { return Ok(None) };
    let conversion = Conversion::between(&unit, &own)
        .ok_or_else(|| StoreError::corrupt("meter_tags", format!("{unit} can't be turned into {own}")))?;
    Ok(Some(Tagged { meter, conversion }))
}

//! Families: meters of one name on assets of one class, with the ladder that was written for them.

use crate::{
    ground::{
        error::{Result, StoreError},
        rows::from_json,
    },
    plant::assets::NamedAsset,
    watch::meters,
};
use rusqlite::{Connection, OptionalExtension, params};
use tally_core::{
    ground::{severity::Severity, time::Instant},
    watch::{limits::Ladder, meters::Meter},
};

pub(super) fn class_of(conn: &Connection, class: &str) -> Result<(i64, String)> {
    let found = conn
        .prepare_cached("SELECT id, name FROM equipment_classes WHERE code = ?1")?
        .query_row([class], |row| Ok((row.get(0)?, row.get(1)?)))
        .optional()?;
    found.ok_or_else(|| StoreError::not_found("equipment class", class))
}

/// The meters of a family whose assets a condition on `m.asset_id` holds for.
pub(super) fn members(conn: &Connection, class: i64, name: &str, reached: &str) -> Result<Vec<Found>> {
    let mut select = conn.prepare_cached(&format!(
        "SELECT m.*, a.code AS asset, a.name AS asset_name, v.definition,
                (SELECT max(severity) FROM alarms WHERE meter_id = m.id AND left_at IS NULL AND kind = 'limit') AS worst
         FROM meters m JOIN assets a ON a.id = m.asset_id
         LEFT JOIN ladder_versions v ON v.meter_id = m.id
              AND v.number = (SELECT max(number) FROM ladder_versions WHERE meter_id = m.id)
         WHERE a.class_id = ?1 AND m.name = ?2 AND m.retired_at IS NULL AND {reached} ORDER BY m.code",
    ))?;
    let mut rows = select.query(params![class, name])?;
    let mut found = Vec::new();
    while let Some(row) = rows.next()? {
        let own: Option<String> = row.get("definition")?;
        found.push(Found {
            code: row.get("code")?,
            asset: NamedAsset { code: row.get("asset")?, name: row.get("asset_name")? },
            rules: meters::rules(row)?,
            own: own.map(|text| from_json("ladder_versions", &text)).transpose()?,
            worst: row.get("worst")?,
        });
    }
    if found.is_empty() {
        return Err(StoreError::not_found("family", name));
    }
    Ok(found)
}

pub(super) fn written(conn: &Connection, class: i64, name: &str) -> Result<Option<Written>> {
    let found = conn
        .prepare_cached(
            "SELECT f.number, f.definition, f.reason, p.name, f.recorded_at FROM family_ladders f
             JOIN people p ON p.id = f.recorded_by
             WHERE f.class_id = ?1 AND f.meter_name = ?2 ORDER BY f.number DESC LIMIT 1",
        )?
        .query_row(params![class, name], |row| {
            Ok((row.get(0)?, row.get::<_, String>(1)?, row.get(2)?, row.get(3)?, row.get("recorded_at")?))
        })
        .optional()?;
    let Some((number, text, reason, by, at)) = found else { return Ok(None) };
    Ok(Some(Written { number, ladder: from_json("family_ladders", &text)?, reason, by, at }))
}

/// A row of the family's meters.
pub(super) struct Found {
    pub(super) code: String,
    pub(super) asset: NamedAsset,
    pub(super) rules: Meter,
    pub(super) own: Option<Ladder>,
    pub(super) worst: Option<Severity>,
}

pub(super) struct Written {
    pub(super) number: i64,
    pub(super) ladder: Ladder,
    pub(super) reason: String,
    pub(super) by: String,
    pub(super) at: Instant,
}

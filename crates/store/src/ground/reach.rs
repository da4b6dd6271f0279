//! How far an account reaches, as conditions on rows: asked once for whatever a request names, and in every list.

use super::{
    error::{Result, StoreError},
    rows::list_of,
    sql::Rows,
    tx::Tx,
};
use rusqlite::{Connection, OptionalExtension, ToSql};
use std::collections::BTreeSet;
use tally_core::{
    access::bounds::Bounds,
    ground::ids::{AssetId, WorkOrderId},
};

/// Something that stands somewhere in the plant, as a request names it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Named {
    /// By its code, or an old one.
    Asset(String),
    Meter(String),
    Order(WorkOrderId),
    Alarm(i64),
    /// A late reading beyond a rung.
    Late(i64),
    Downtime(i64),
}

impl Named {
    fn kind(&self) -> &'static str {
        match self {
            Self::Asset(_) => "asset",
            Self::Meter(_) => "meter",
            Self::Order(_) => "work order",
            Self::Alarm(_) => "alarm",
            Self::Late(_) => "late reading",
            Self::Downtime(_) => "downtime",
        }
    }

    fn id(&self) -> String {
        match self {
            Self::Asset(code) | Self::Meter(code) => code.clone(),
            Self::Order(number) => number.to_string(),
            Self::Alarm(id) | Self::Late(id) | Self::Downtime(id) => id.to_string(),
        }
    }

    /// The asset it stands on; none where there is no such thing.
    fn asset(&self, conn: &Connection) -> Result<Option<AssetId>> {
        let (sql, of): (&str, &dyn ToSql) = match self {
            Self::Asset(code) => (
                "SELECT id FROM assets WHERE code = ?1 UNION ALL SELECT asset_id FROM old_asset_codes WHERE code = ?1 LIMIT 1",
                code,
            ),
            Self::Meter(code) => ("SELECT asset_id FROM meters WHERE code = ?1", code),
            Self::Order(number) => ("SELECT asset_id FROM work_orders WHERE number = ?1", number),
            Self::Alarm(id) => {
                ("SELECT m.asset_id FROM alarms a JOIN meters m ON m.id = a.meter_id WHERE a.id = ?1", id)
            }
            Self::Late(id) => {
                ("SELECT m.asset_id FROM late_beyond l JOIN meters m ON m.id = l.meter_id WHERE l.id = ?1", id)
            }
            // Also one that was deleted, which may be put back.
            Self::Downtime(id) => (
                "SELECT asset_id FROM downtimes WHERE id = ?1 UNION ALL SELECT asset_id FROM removed_downtimes WHERE id = ?1 LIMIT 1",
                id,
            ),
        };
        Ok(conn.prepare_cached(sql)?.query_row([of], |row| row.get(0)).optional()?)
    }
}

/// As a condition on a column with the id of an asset: whether it stands below what was given, where it was put last. What
/// [`tally_core::plant::assets::reached`] says, for a few rows at a time.
pub(crate) fn condition(bounds: &Bounds, asset: &str) -> String {
    if !bounds.is_bounded() {
        return "1".into();
    }
    let given = bounds.given().iter().map(|asset| asset.0.to_string()).collect::<Vec<_>>().join(", ");
    format!(
        "EXISTS (WITH RECURSIVE line (id) AS (SELECT {asset} UNION
             SELECT up.parent_id FROM placements up JOIN line ON up.asset_id = line.id
             WHERE up.to_at IS NULL AND up.parent_id IS NOT NULL)
         SELECT 1 FROM line WHERE line.id IN ({given}))"
    )
}

/// Whether an asset is reached.
pub(crate) fn reaches(conn: &Connection, bounds: &Bounds, asset: AssetId) -> Result<bool> {
    if !bounds.is_bounded() {
        return Ok(true);
    }
    Ok(conn.prepare_cached(&format!("SELECT 1 WHERE {}", condition(bounds, "?1")))?.exists([asset])?)
}

/// Refuses what lies elsewhere in the words for what there is not: so nobody learns by asking what stands beyond.
///
/// # Errors
/// [`StoreError::Beyond`].
pub fn require(rows: &dyn Rows, bounds: &Bounds, named: &Named) -> Result<()> {
    if !bounds.is_bounded() {
        return Ok(());
    }
    let conn = rows.sql().conn;
    let asset = named.asset(conn)?;
    match asset.map_or(Ok(false), |asset| reaches(conn, bounds, asset))? {
        true => Ok(()),
        false => Err(StoreError::Beyond { kind: named.kind(), id: named.id() }),
    }
}

/// Of meters by their codes those that are reached.
///
/// # Errors
/// SQLite's own.
pub fn meters(rows: &dyn Rows, bounds: &Bounds, codes: BTreeSet<String>) -> Result<BTreeSet<String>> {
    if !bounds.is_bounded() || codes.is_empty() {
        return Ok(codes);
    }
    let mut select = rows.sql().conn.prepare_cached(&format!(
        "SELECT m.code FROM rarray(?1) wanted JOIN meters m ON m.code = wanted.value WHERE {}",
        condition(bounds, "m.asset_id")
    ))?;
    let found = select.query_map([list_of(codes)], |row| row.get(0))?;
    Ok(found.collect::<rusqlite::Result<_>>()?)
}

impl Tx<'_> {
    /// Refuses what the actor does not reach, as [`require`].
    ///
    /// # Errors
    /// [`StoreError::Beyond`].
    pub(crate) fn require_reach(&self, named: &Named) -> Result<()> {
        require(self, &self.actor.bounds, named)
    }

    /// The same for what a field of a body names.
    ///
    /// # Errors
    /// [`StoreError::Invalid`] for that field.
    pub(crate) fn require_reach_in(&self, named: &Named, field: &str) -> Result<()> {
        self.require_reach(named).map_err(|error| match error {
            beyond @ StoreError::Beyond { .. } => StoreError::invalid(field, beyond),
            other => other,
        })
    }
}

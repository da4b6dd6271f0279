//! Assets, by their codes: [`add`] and change them, move them ([`places`]), and look at them ([`look`]).

mod add;
mod look;
mod places;

pub use add::{NewAsset, add};
pub use look::{
    AssetDetail, AssetNode, CalendarRow, EffectRow, PlacementRow, above, above_each, described, detail, in_scope,
    nodes, require_reached,
};
pub(crate) use places::relocate_now;
pub use places::{Move, relocate, set_parent_effect};

use crate::ground::{
    error::{Result, StoreError},
    reach::Named,
    rows::list_of,
    sql::Rows,
    tx::Tx,
};
use rusqlite::{Connection, OptionalExtension, params};
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use tally_core::{access::roles::Action, ground::ids::AssetId, plant::assets::parse_code};
use utoipa::ToSchema;

/// An asset as referred to.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct NamedAsset {
    pub code: String,
    pub name: String,
}

pub(crate) fn find(conn: &Connection, code: &str) -> Result<Option<AssetId>> {
    let mut find = conn.prepare_cached(
        "SELECT id FROM assets WHERE code = ?1 UNION ALL SELECT asset_id FROM old_asset_codes WHERE code = ?1 LIMIT 1",
    )?;
    Ok(find.query_row([code], |row| row.get(0)).optional()?.map(AssetId))
}

/// The asset of that code, or of that old code.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn require(rows: &dyn Rows, code: &str) -> Result<AssetId> {
    let conn = rows.sql().conn;
    find(conn, code)?.ok_or_else(|| StoreError::not_found("asset", code))
}

/// The asset that a field names.
pub(crate) fn require_in(conn: &Connection, code: &str, field: &str) -> Result<AssetId> {
    find(conn, code)?.ok_or_else(|| StoreError::invalid(field, format!("there is no asset {code:?}")))
}

/// The asset that a field names, where the actor reaches it.
pub(crate) fn require_reached_in(tx: &Tx, code: &str, field: &str) -> Result<AssetId> {
    tx.require_reach_in(&Named::Asset(code.into()), field)?;
    require_in(tx.conn, code, field)
}

/// Code and name of assets, by id.
pub(crate) fn names(conn: &Connection, ids: impl IntoIterator<Item = AssetId>) -> Result<HashMap<AssetId, NamedAsset>> {
    let mut select = conn.prepare_cached(
        "SELECT DISTINCT a.id, a.code, a.name FROM rarray(?1) wanted JOIN assets a ON a.id = wanted.value",
    )?;
    let rows = select
        .query_map([list_of(ids)], |row| Ok((row.get(0)?, NamedAsset { code: row.get(1)?, name: row.get(2)? })))?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

/// Assets by id as they are called, in that order.
///
/// # Errors
/// SQLite's own.
pub fn named(rows: &dyn Rows, ids: &[AssetId]) -> Result<Vec<NamedAsset>> {
    if ids.is_empty() {
        return Ok(Vec::new());
    }
    let mut named = names(rows.sql().conn, ids.iter().copied())?;
    Ok(ids.iter().filter_map(|id| named.remove(id)).collect())
}

/// Adds an equipment class.
///
/// # Errors
/// [`StoreError::Invalid`] for a bad code, [`StoreError::Conflict`] for one that is taken.
pub fn add_class(tx: &mut Tx, code: &str, name: &str) -> Result<()> {
    tx.require(Action::ChangeMasterData)?;
    let code = parse_code(code).map_err(|error| StoreError::invalid("code", error))?;
    crate::access::people::filled("name", name)?;
    if class_id(tx.conn, &code)?.is_some() {
        return Err(StoreError::Conflict(format!("there is an equipment class {code} already")));
    }
    tx.conn.execute("INSERT INTO equipment_classes (code, name) VALUES (?1, ?2)", params![code, name.trim()])?;
    tx.audit("added", "equipment class", &code, &name)
}

pub(crate) fn class_id(conn: &Connection, code: &str) -> Result<Option<i64>> {
    let mut find = conn.prepare_cached("SELECT id FROM equipment_classes WHERE code = ?1")?;
    Ok(find.query_row([code], |row| row.get(0)).optional()?)
}

/// Gives an asset a code that it had before, so that it is found by it.
///
/// # Errors
/// [`StoreError::Invalid`] for a bad code or one that means another asset.
pub(crate) fn keep_old_code(tx: &Tx, asset: AssetId, old: &str, field: &str) -> Result<()> {
    let old = parse_code(old).map_err(|error| StoreError::invalid(field, error))?;
    match find(tx.conn, &old)? {
        Some(found) if found == asset => Ok(()),
        Some(_) => Err(StoreError::invalid(field, format!("there is another asset {old}"))),
        None => {
            let mut insert = tx.conn.prepare_cached("INSERT INTO old_asset_codes (code, asset_id) VALUES (?1, ?2)")?;
            insert.execute(params![old, asset])?;
            Ok(())
        }
    }
}

/// Gives an asset another code. The old one is kept, and still leads to it.
///
/// # Errors
/// [`StoreError::Invalid`] for a bad code or one that is or was another asset's.
pub fn rename(tx: &mut Tx, code: &str, new: &str) -> Result<()> {
    tx.require(Action::ChangeMasterData)?;
    let asset = require(tx.conn, code)?;
    let new = parse_code(new).map_err(|error| StoreError::invalid("new_code", error))?;
    match find(tx.conn, &new)? {
        Some(found) if found != asset => {
            return Err(StoreError::invalid("new_code", format!("there is an asset {new} already")));
        }
        _ => {}
    }
    let current: String = tx.conn.query_row("SELECT code FROM assets WHERE id = ?1", [asset.0], |row| row.get(0))?;
    // A code that comes back is the current one again, no old one.
    tx.conn.execute("DELETE FROM old_asset_codes WHERE code = ?1", [&new])?;
    tx.conn.execute("UPDATE assets SET code = ?2 WHERE id = ?1", params![asset, new])?;
    if current != new {
        keep_old_code(tx, asset, &current, "code")?;
    }
    tx.audit("code changed", "asset", &new, &serde_json::json!({ "from": current, "to": new }))
}

//! Where assets sit, and what their being down does to their parents, from one instant to another.

use super::{require, require_in};
use crate::{
    facts,
    ground::{
        error::{Result, StoreError},
        rows::to_json,
        tx::Tx,
    },
};
use rusqlite::{OptionalExtension, params};
use serde::{Deserialize, Serialize};
use tally_core::{
    access::roles::Action,
    ground::{ids::AssetId, time::Instant},
    plant::assets::ParentEffect,
};
use utoipa::ToSchema;

/// A move of an asset below another parent.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct Move {
    /// None makes it a root.
    pub parent: Option<String>,
    pub at: Instant,
    pub reason: String,
}

pub(super) fn place(tx: &Tx, asset: AssetId, parent: Option<AssetId>, from: Instant, reason: &str) -> Result<()> {
    let mut insert = tx.conn.prepare_cached(
        "INSERT INTO placements (asset_id, parent_id, from_at, reason, recorded_at, recorded_by)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
    )?;
    insert.execute(params![asset, parent, from, reason, tx.now, tx.actor.id])?;
    Ok(())
}

/// Moves an asset, now or from a past instant on. Earlier placements stay as they were.
///
/// # Errors
/// [`StoreError::Invalid`] for an empty reason, a time ahead, an unknown parent, or a parent that sits below the asset.
pub fn relocate(tx: &mut Tx, code: &str, to: &Move) -> Result<()> {
    tx.require(Action::ChangeMasterData)?;
    let asset = require(tx.conn, code)?;
    if to.reason.trim().is_empty() {
        return Err(StoreError::invalid("reason", "say why the asset is moved"));
    }
    if to.at > tx.now {
        return Err(StoreError::invalid("at", "a move can be entered once it has happened"));
    }
    let parent = match &to.parent {
        Some(parent) => Some(require_in(tx.conn, parent, "parent")?),
        None => None,
    };
    facts::load_tree(tx.conn)?
        .check_move(asset, parent, to.at)
        .map_err(|error| StoreError::invalid(if to.parent.is_some() { "parent" } else { "at" }, error))?;
    let later: bool = tx
        .conn
        .prepare("SELECT 1 FROM placements WHERE asset_id = ?1 AND from_at > ?2")?
        .exists(params![asset, to.at])?;
    if later {
        return Err(StoreError::invalid("at", "the asset was moved again after that; its later moves come first"));
    }
    replace(tx, asset, parent, to.at, to.reason.trim())?;
    tx.audit("moved", "asset", code, to)
}

/// Ends the asset's last placement at an instant and begins another.
fn replace(tx: &Tx, asset: AssetId, parent: Option<AssetId>, at: Instant, reason: &str) -> Result<()> {
    let mut gone = tx.conn.prepare_cached("DELETE FROM placements WHERE asset_id = ?1 AND from_at = ?2")?;
    gone.execute(params![asset, at])?;
    let mut end = tx.conn.prepare_cached("UPDATE placements SET to_at = ?2 WHERE asset_id = ?1 AND to_at IS NULL")?;
    end.execute(params![asset, at])?;
    place(tx, asset, parent, at, reason)
}

/// Moves an asset now, as one of many: the way up from the new parent is walked, not the whole tree read.
///
/// # Errors
/// [`StoreError::Invalid`] for an unknown parent, or one that sits below the asset.
pub(crate) fn relocate_now(tx: &Tx, asset: AssetId, parent: Option<&str>, reason: &str) -> Result<()> {
    let parent = parent.map(|parent| require_in(tx.conn, parent, "parent")).transpose()?;
    let mut up = tx.conn.prepare_cached("SELECT parent_id FROM placements WHERE asset_id = ?1 AND to_at IS NULL")?;
    let mut above = parent;
    while let Some(at) = above {
        if at == asset {
            return Err(StoreError::invalid("parent", "the new parent sits below the asset itself"));
        }
        above = up.query_row([at], |row| row.get::<_, Option<i64>>(0)).optional()?.flatten().map(AssetId);
    }
    replace(tx, asset, parent, tx.now, reason)
}

/// Changes from an instant on what an asset's being down does to its parent.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown asset.
pub fn set_parent_effect(tx: &mut Tx, code: &str, effect: &ParentEffect, from: Instant) -> Result<()> {
    tx.require(Action::ChangeMasterData)?;
    let AssetId(asset) = require(tx.conn, code)?;
    tx.conn.execute("DELETE FROM parent_effects WHERE asset_id = ?1 AND from_at >= ?2", params![asset, from])?;
    tx.conn.execute(
        "UPDATE parent_effects SET to_at = ?2 WHERE asset_id = ?1 AND (to_at IS NULL OR to_at > ?2)",
        params![asset, from],
    )?;
    tx.conn.execute(
        "INSERT INTO parent_effects (asset_id, from_at, effect, recorded_at, recorded_by) VALUES (?1, ?2, ?3, ?4, ?5)",
        params![asset, from, to_json(effect), tx.now, tx.actor.id],
    )?;
    tx.audit("parent effect changed", "asset", code, effect)
}

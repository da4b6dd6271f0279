//! Assets out of use for a while: a dated spell, set by a person with a reason. Alarms on the asset and all below it are held
//! until it ends; then what still stands answers.

use super::again;
use crate::{
    facts,
    ground::{
        error::{Result, StoreError},
        rows::list_of,
        tx::Tx,
        view::View,
    },
    plant::{assets, assets::NamedAsset},
    watch::meters,
};
use rusqlite::params;
use serde::Serialize;
use tally_core::{
    access::roles::Action,
    ground::{
        ids::{AssetId, MeterId},
        time::Instant,
    },
    watch::{batch::Receipt, holds::NewOutOfUse},
};
use utoipa::ToSchema;

/// A spell as listed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct OutOfUseRow {
    pub asset: NamedAsset,
    pub from: Instant,
    pub until: Option<Instant>,
    pub reason: String,
    pub by: String,
}

/// Puts an asset out of use. A spell that holds then already gets the new end and reason.
///
/// # Errors
/// [`StoreError::Invalid`] without a reason, or with an end before its beginning or now.
pub fn put_out_of_use(tx: &mut Tx, code: &str, new: &NewOutOfUse) -> Result<()> {
    tx.require(Action::ShelveAlarms)?;
    let asset = assets::require(tx.conn, code)?;
    let (from, reason) = new.check(tx.now)?;
    let meters = meters_below(tx, asset)?;
    answer_first(tx, &meters)?;
    end_from(tx, asset, from)?;
    tx.conn.execute(
        "INSERT INTO out_of_use (asset_id, from_at, to_at, reason, recorded_at, recorded_by) VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
        params![
            asset,
            from,
            new.until,
            reason,
            tx.now,
            tx.actor.id
        ],
    )?;
    again::end_moved(tx, &meters, "out_of_use", new.until)?;
    tx.audit("put out of use", "asset", code, new)
}

/// Takes an asset back into use: what its alarms held back answers now.
///
/// # Errors
/// [`StoreError::Conflict`] for one that is in use.
pub fn back_in_use(tx: &mut Tx, code: &str) -> Result<()> {
    tx.require(Action::ShelveAlarms)?;
    let asset = assets::require(tx.conn, code)?;
    let meters = meters_below(tx, asset)?;
    answer_first(tx, &meters)?;
    if end_from(tx, asset, tx.now)? == 0 {
        return Err(StoreError::Conflict(format!("the asset {code} is in use")));
    }
    again::end_moved(tx, &meters, "out_of_use", Some(tx.now))?;
    tx.audit("taken back into use", "asset", code, &())?;
    super::answer_due(tx)?;
    Ok(())
}

/// Spells that hold at that instant end there; later ones go.
fn end_from(tx: &Tx, asset: AssetId, from: Instant) -> Result<usize> {
    let gone = tx.conn.execute("DELETE FROM out_of_use WHERE asset_id = ?1 AND from_at >= ?2", params![asset, from])?;
    let ended = tx.conn.execute(
        "UPDATE out_of_use SET to_at = ?2 WHERE asset_id = ?1 AND from_at < ?2 AND (to_at IS NULL OR to_at > ?2)",
        params![asset, from],
    )?;
    Ok(gone + ended)
}

/// What an earlier spell held until then answers first.
fn answer_first(tx: &mut Tx, meters: &[MeterId]) -> Result<()> {
    for meter in meters {
        let code = meters::code_of(tx.conn, *meter)?;
        again::before(tx, &code, tx.now, &mut Receipt::default())?;
    }
    Ok(())
}

/// Meters of an asset and of all below it now that have an alarm standing.
fn meters_below(tx: &Tx, asset: AssetId) -> Result<Vec<MeterId>> {
    let tree = facts::load_tree(tx.conn)?;
    let below = tree.index(asset).map_or_else(Vec::new, |index| tree.below(index, tx.now));
    let ids = list_of(below.into_iter().map(|index| tree.node(index).id));
    let mut select = tx.conn.prepare_cached(
        "SELECT DISTINCT m.id FROM meters m JOIN alarms al ON al.meter_id = m.id AND al.left_at IS NULL
         WHERE m.asset_id IN rarray(?1)",
    )?;
    let rows = select.query_map([ids], |row| row.get(0))?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

/// Spells that hold at an instant or begin later, of one asset or of a scope, by asset and time.
///
/// # Errors
/// SQLite's own.
pub fn out_of_use(view: &View, scope: Option<&[AssetId]>) -> Result<Vec<OutOfUseRow>> {
    let conn = view.conn;
    let now = view.now;
    let ids = list_of(scope.unwrap_or_default().iter().copied());
    let mut select = conn.prepare_cached(
        "SELECT a.code, a.name, o.from_at, o.to_at, o.reason, p.name AS person
         FROM out_of_use o JOIN assets a ON a.id = o.asset_id JOIN people p ON p.id = o.recorded_by
         WHERE (o.to_at IS NULL OR o.to_at > ?1) AND (?2 OR o.asset_id IN rarray(?3)) ORDER BY a.name, o.from_at",
    )?;
    let rows = select.query_map(params![now, scope.is_none(), ids], |row| {
        Ok(OutOfUseRow {
            asset: NamedAsset { code: row.get(0)?, name: row.get(1)? },
            from: row.get("from_at")?,
            until: row.get("to_at")?,
            reason: row.get("reason")?,
            by: row.get("person")?,
        })
    })?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

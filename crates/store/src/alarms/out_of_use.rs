//! Assets out of use for a while: a dated spell, set by a person with a reason. Alarms on the asset and all below it are held
//! until it ends; then what still stands answers.

use super::again;
use crate::{
    act::Act,
    assets::{self, NamedAsset},
    error::{Result, StoreError},
    readings::Receipt,
    tally,
};
use rusqlite::{Connection, params, types::Value};
use serde::{Deserialize, Serialize};
use std::rc::Rc;
use tally_core::{
    ids::{AssetId, MeterId},
    people::Action,
    time::Instant,
};
use utoipa::ToSchema;

/// A spell to set.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct NewOutOfUse {
    /// Now without it.
    pub from: Option<Instant>,
    /// Open without it: it lasts until somebody ends it.
    pub until: Option<Instant>,
    pub reason: String,
}

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
pub fn put_out_of_use(act: &mut Act, code: &str, new: &NewOutOfUse) -> Result<()> {
    act.require(Action::ShelveAlarms)?;
    let asset = assets::require(act.conn, code)?;
    let from = new.from.unwrap_or(act.now);
    if new.reason.trim().is_empty() {
        return Err(StoreError::invalid("reason", "say why it is out of use"));
    }
    if new.until.is_some_and(|until| until <= from.max(act.now)) {
        return Err(StoreError::invalid("until", "must lie in the future, and after its beginning"));
    }
    let meters = meters_below(act, asset)?;
    answer_first(act, &meters)?;
    end_from(act, asset, from)?;
    act.conn.execute(
        "INSERT INTO out_of_use (asset_id, from_at, to_at, reason, recorded_at, recorded_by) VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
        params![
            asset,
            from,
            new.until,
            new.reason.trim(),
            act.now,
            act.actor.id
        ],
    )?;
    again::end_moved(act, &meters, "out_of_use", new.until)?;
    act.audit("put out of use", "asset", code, new)
}

/// Takes an asset back into use: what its alarms held back answers now.
///
/// # Errors
/// [`StoreError::Conflict`] for one that is in use.
pub fn back_in_use(act: &mut Act, code: &str) -> Result<()> {
    act.require(Action::ShelveAlarms)?;
    let asset = assets::require(act.conn, code)?;
    let meters = meters_below(act, asset)?;
    answer_first(act, &meters)?;
    if end_from(act, asset, act.now)? == 0 {
        return Err(StoreError::Conflict(format!("the asset {code} is in use")));
    }
    again::end_moved(act, &meters, "out_of_use", Some(act.now))?;
    act.audit("taken back into use", "asset", code, &())?;
    super::answer_due(act)?;
    Ok(())
}

/// Spells that hold at that instant end there; later ones go.
fn end_from(act: &Act, asset: AssetId, from: Instant) -> Result<usize> {
    let gone =
        act.conn.execute("DELETE FROM out_of_use WHERE asset_id = ?1 AND from_at >= ?2", params![asset, from])?;
    let ended = act.conn.execute(
        "UPDATE out_of_use SET to_at = ?2 WHERE asset_id = ?1 AND from_at < ?2 AND (to_at IS NULL OR to_at > ?2)",
        params![asset, from],
    )?;
    Ok(gone + ended)
}

/// What an earlier spell held until then answers first.
fn answer_first(act: &mut Act, meters: &[MeterId]) -> Result<()> {
    for meter in meters {
        let code = act.meters.code_of(act.conn, *meter)?;
        again::before(act, &code, act.now, &mut Receipt::default())?;
    }
    Ok(())
}

/// Meters of an asset and of all below it now that have an alarm standing.
fn meters_below(act: &Act, asset: AssetId) -> Result<Vec<MeterId>> {
    let tree = tally::load_tree(act.conn)?;
    let below = tree.index(asset).map_or_else(Vec::new, |index| tree.below(index, act.now));
    let ids: Vec<Value> = below.into_iter().map(|index| Value::from(tree.node(index).id.0)).collect();
    let mut select = act.conn.prepare_cached(
        "SELECT DISTINCT m.id FROM meters m JOIN alarms al ON al.meter_id = m.id AND al.left_at IS NULL
         WHERE m.asset_id IN rarray(?1)",
    )?;
    let rows = select.query_map([Rc::new(ids)], |row| row.get(0))?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

/// Spells that hold at an instant or begin later, of one asset or of a scope, by asset and time.
///
/// # Errors
/// SQLite's own.
pub fn out_of_use(conn: &Connection, scope: Option<&[i64]>, now: Instant) -> Result<Vec<OutOfUseRow>> {
    let ids: Rc<Vec<Value>> = Rc::new(scope.unwrap_or_default().iter().map(|id| Value::from(*id)).collect());
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

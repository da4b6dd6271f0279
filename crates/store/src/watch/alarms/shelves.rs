//! Shelves: a person holds a meter's alarms back for a while, with a reason and an end.

use super::again;
use crate::{
    ground::{
        error::{Result, StoreError},
        rows::list_of,
        tx::Tx,
    },
    plant::assets::NamedAsset,
    watch::meters,
};
use rusqlite::{Connection, params};
use serde::Serialize;
use tally_core::{
    access::roles::Action,
    ground::{
        ids::{AssetId, MeterId},
        time::Instant,
    },
    watch::{batch::Receipt, holds::NewShelf},
};
use utoipa::ToSchema;

/// A shelf that holds now.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct ShelfRow {
    pub meter: String,
    pub meter_name: String,
    pub asset: NamedAsset,
    pub from: Instant,
    pub until: Instant,
    pub reason: String,
    pub by: String,
    /// Alarms that it holds back.
    pub holds: usize,
}

/// Shelves a meter from now on; a shelf that holds already gets the new end and reason.
///
/// # Errors
/// [`StoreError::Invalid`] without a reason, or with an end that is past or more than a year away.
pub fn shelve(tx: &mut Tx, code: &str, new: &NewShelf) -> Result<()> {
    tx.require(Action::ShelveAlarms)?;
    let meter = meters::require(tx.conn, code)?;
    let reason = new.check(tx.now)?;
    // What an earlier shelf held until then answers first.
    again::before(tx, code, tx.now, &mut Receipt::default())?;
    end_now(tx, meter.0)?;
    tx.conn.execute(
        "INSERT INTO shelves (meter_id, from_at, to_at, reason, recorded_at, recorded_by) VALUES (?1, ?2, ?3, ?4, ?2, ?5)",
        params![meter, tx.now, new.until, reason, tx.actor.id],
    )?;
    again::end_moved(tx, &[meter], "shelf", Some(new.until))?;
    tx.audit("shelved", "meter", code, new)
}

/// Takes a meter off the shelf: what it holds back answers now.
///
/// # Errors
/// [`StoreError::Conflict`] for a meter that is not shelved.
pub fn unshelve(tx: &mut Tx, code: &str) -> Result<()> {
    tx.require(Action::ShelveAlarms)?;
    let meter = meters::require(tx.conn, code)?;
    again::before(tx, code, tx.now, &mut Receipt::default())?;
    if end_now(tx, meter.0)? == 0 {
        return Err(StoreError::Conflict(format!("the meter {code} is not shelved")));
    }
    again::end_moved(tx, &[meter], "shelf", Some(tx.now))?;
    tx.audit("taken off the shelf", "meter", code, &())?;
    super::answer_due(tx)?;
    Ok(())
}

/// What has not begun yet or still holds ends now.
fn end_now(tx: &Tx, meter: i64) -> Result<usize> {
    Ok(tx.conn.execute(
        "UPDATE shelves SET to_at = max(?2, from_at) WHERE meter_id = ?1 AND to_at > ?2",
        params![meter, tx.now],
    )?)
}

/// Shelves that hold now, the one that ends first at the top.
pub(super) fn list(conn: &Connection, scope: Option<&[AssetId]>, now: Instant) -> Result<Vec<ShelfRow>> {
    let ids = list_of(scope.unwrap_or_default().iter().copied());
    rows(conn, "(?2 OR m.asset_id IN rarray(?3))", params![now, scope.is_none(), ids])
}

/// The shelf that holds a meter's alarms back now.
pub(crate) fn shelf_of(conn: &Connection, meter: MeterId, now: Instant) -> Result<Option<ShelfRow>> {
    Ok(rows(conn, "m.id = ?2", params![now, meter])?.pop())
}

/// Shelves that hold at `?1` and meet a condition.
fn rows(conn: &Connection, condition: &str, params: impl rusqlite::Params) -> Result<Vec<ShelfRow>> {
    let mut select = conn.prepare_cached(&format!(
        "SELECT m.code, m.name, a.code AS asset, a.name AS asset_name, s.from_at, s.to_at, s.reason, p.name AS person,
                (SELECT count(*) FROM alarms WHERE meter_id = m.id AND left_at IS NULL AND response = 'held'
                     AND json_extract(held_by, '$.kind') = 'shelf') AS holds
         FROM shelves s JOIN meters m ON m.id = s.meter_id JOIN assets a ON a.id = m.asset_id
         JOIN people p ON p.id = s.recorded_by
         WHERE s.from_at <= ?1 AND s.to_at > ?1 AND {condition} ORDER BY s.to_at, m.code"
    ))?;
    let rows = select.query_map(params, |row| {
        Ok(ShelfRow {
            meter: row.get(0)?,
            meter_name: row.get(1)?,
            asset: NamedAsset { code: row.get(2)?, name: row.get(3)? },
            from: row.get("from_at")?,
            until: row.get("to_at")?,
            reason: row.get("reason")?,
            by: row.get("person")?,
            holds: row.get("holds")?,
        })
    })?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

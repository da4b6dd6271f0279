//! Recorded downtime, with or without work.

use crate::{
    ground::{
        error::{Result, StoreError},
        tx::Tx,
    },
    plant::{assets, assets::NamedAsset},
    work,
};
use rusqlite::{Connection, OptionalExtension, params};
use serde::Serialize;
use tally_core::{
    access::roles::Action,
    ground::{
        ids::{AssetId, DowntimeId, WorkOrderId},
        time::Instant,
    },
    plant::downtime::{DowntimeKind, NewDowntime, check_interval},
};
use utoipa::ToSchema;

/// An interval as listed.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct DowntimeRow {
    pub id: DowntimeId,
    pub kind: DowntimeKind,
    pub asset: NamedAsset,
    pub work_order: Option<WorkOrderId>,
    pub start: Instant,
    pub end: Option<Instant>,
    /// The share of what it does that it could not do, where it ran on, slowed.
    pub slowed: Option<f64>,
    pub note: String,
    pub recorded_by: String,
    pub recorded_at: Instant,
}

/// Enters downtime on work.
///
/// # Errors
/// [`StoreError::Invalid`] by field, [`StoreError::Conflict`] on closed or dropped work.
pub fn add_to_work(tx: &mut Tx, number: WorkOrderId, new: &NewDowntime) -> Result<DowntimeId> {
    tx.require(Action::ReportOnWork)?;
    tx.require_seen(number)?;
    let current = work::state(tx.conn, number)?;
    if current.state.is_over() {
        let state = current.state.word();
        return Err(StoreError::Conflict(format!("this work is {state}; enter the downtime on the asset instead")));
    }
    let asset = match &new.asset {
        Some(code) => assets::require_reached_in(tx, code, "asset")?,
        None => current.asset,
    };
    insert(tx, asset.0, Some(number), new)
}

/// Enters downtime on an asset, without work.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown asset, [`StoreError::Invalid`] by field.
pub fn add_to_asset(tx: &mut Tx, code: &str, new: &NewDowntime) -> Result<DowntimeId> {
    tx.require(Action::ReportDowntime)?;
    let asset = assets::require(tx.conn, code)?;
    insert(tx, asset.0, None, new)
}

/// Enters downtime that a decision on work begins, whoever may enter it otherwise.
pub(crate) fn stop(tx: &Tx, asset: AssetId, work: WorkOrderId, new: &NewDowntime) -> Result<DowntimeId> {
    insert(tx, asset.0, Some(work), new)
}

fn insert(tx: &Tx, asset: i64, work: Option<WorkOrderId>, new: &NewDowntime) -> Result<DowntimeId> {
    new.check(tx.now)?;
    let mut insert = tx.conn.prepare_cached(
        "INSERT INTO downtimes (asset_id, work_order, kind, start_at, end_at, note, recorded_at, recorded_by, share)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9)",
    )?;
    let share = new.slowed.unwrap_or(1.0);
    insert.execute(params![asset, work, new.kind, new.start, new.end, new.note.trim(), tx.now, tx.actor.id, share])?;
    let id = DowntimeId(tx.conn.last_insert_rowid());
    tx.audit("added", "downtime", &id.to_string(), new)?;
    Ok(id)
}

/// Ends open downtime.
///
/// # Errors
/// [`StoreError::Conflict`] for one that has an end, [`StoreError::Invalid`] for an end before its start.
pub fn end(tx: &mut Tx, id: DowntimeId, end: Instant) -> Result<()> {
    tx.require(Action::ReportDowntime)?;
    let found = tx
        .conn
        .query_row("SELECT start_at, end_at FROM downtimes WHERE id = ?1", [id.0], |row| {
            Ok::<(Instant, Option<Instant>), _>((row.get("start_at")?, row.get("end_at")?))
        })
        .optional()?;
    let (start, ended) = found.ok_or_else(|| StoreError::not_found("downtime", id))?;
    if let Some(ended) = ended {
        return Err(StoreError::Conflict(format!("this downtime ended at {ended}")));
    }
    check_interval(start, Some(end), tx.now)?;
    tx.conn.execute("UPDATE downtimes SET end_at = ?2 WHERE id = ?1", params![id, end])?;
    tx.audit("ended", "downtime", &id.to_string(), &end)
}

pub(crate) fn of_work(conn: &Connection, number: WorkOrderId) -> Result<Vec<DowntimeRow>> {
    let mut select = conn.prepare_cached(
        "SELECT d.*, a.code AS asset, a.name AS asset_name, r.name AS recorder FROM downtimes d
         JOIN assets a ON a.id = d.asset_id JOIN people r ON r.id = d.recorded_by
         WHERE d.work_order = ?1 ORDER BY d.start_at, d.id",
    )?;
    let mut rows = select.query([number])?;
    let mut list = Vec::new();
    while let Some(row) = rows.next()? {
        list.push(DowntimeRow {
            id: row.get("id")?,
            kind: row.get("kind")?,
            asset: NamedAsset { code: row.get("asset")?, name: row.get("asset_name")? },
            work_order: row.get("work_order")?,
            start: row.get("start_at")?,
            end: row.get("end_at")?,
            slowed: Some(row.get("share")?).filter(|share| *share < 1.0),
            note: row.get("note")?,
            recorded_by: row.get("recorder")?,
            recorded_at: row.get("recorded_at")?,
        });
    }
    Ok(list)
}

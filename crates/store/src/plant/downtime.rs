//! Recorded downtime, with or without work.

use crate::{
    ground::{
        error::{Result, StoreError},
        tx::Tx,
        view::View,
    },
    plant::{assets, assets::NamedAsset},
    work,
};
use rusqlite::{Connection, OptionalExtension, params};
use serde::{Deserialize, Serialize};
use tally_core::{
    access::{refusal::said, roles::Action},
    ground::{
        ids::{AssetId, DowntimeId, WorkOrderId},
        time::Instant,
    },
    plant::downtime::{DowntimeCorrection, DowntimeKind, NewDowntime, OddDowntime, check_interval, odd_downtime},
    work::DroppedDowntime,
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
    // The id of one that was deleted is given to no other.
    let mut insert = tx.conn.prepare_cached(
        "INSERT INTO downtimes (id, asset_id, work_order, kind, start_at, end_at, note, recorded_at, recorded_by, share)
         VALUES (1 + max(ifnull((SELECT max(id) FROM downtimes), 0), ifnull((SELECT max(id) FROM removed_downtimes), 0)),
             ?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9)",
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

/// Whether downtime was reported on work.
pub(crate) fn is_on(conn: &Connection, work: WorkOrderId) -> Result<bool> {
    Ok(conn.prepare_cached("SELECT 1 FROM downtimes WHERE work_order = ?1")?.exists([work])?)
}

/// Downtime that may be corrected by whoever asks.
///
/// # Errors
/// [`StoreError::NotFound`], also for that of work which they don't see.
fn require(tx: &Tx, id: DowntimeId) -> Result<()> {
    tx.require(Action::ReportDowntime)?;
    let work: Option<WorkOrderId> = tx
        .conn
        .prepare_cached("SELECT work_order FROM downtimes WHERE id = ?1")?
        .query_row([id.0], |row| row.get(0))
        .optional()?
        .ok_or_else(|| StoreError::not_found("downtime", id))?;
    work.map_or(Ok(()), |work| tx.require_seen(work))
}

/// Corrects downtime: a new version, the old one stays for what was known then.
///
/// # Errors
/// [`StoreError::NotFound`], [`StoreError::Invalid`] by field.
pub fn correct(tx: &mut Tx, id: DowntimeId, to: &DowntimeCorrection) -> Result<()> {
    require(tx, id)?;
    to.check(tx.now)?;
    tx.conn.execute(
        "UPDATE downtimes SET kind = ?2, start_at = ?3, end_at = ?4, share = ?5, note = ?6, recorded_at = ?7, recorded_by = ?8
         WHERE id = ?1",
        params![id, to.kind, to.start, to.end, to.share.unwrap_or(1.0), to.note.trim(), tx.now, tx.actor.id],
    )?;
    tx.audit("corrected", "downtime", &id.to_string(), to)
}

/// Why downtime is deleted.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct DowntimeRemoval {
    pub reason: String,
}

/// Deletes downtime that was none. It can be put back.
///
/// # Errors
/// [`StoreError::NotFound`], [`StoreError::Invalid`] without a reason.
pub fn remove(tx: &mut Tx, id: DowntimeId, removal: &DowntimeRemoval) -> Result<()> {
    require(tx, id)?;
    let reason = said("reason", &removal.reason, "say why it is deleted")?;
    take_away(tx, id, reason)
}

fn take_away(tx: &Tx, id: DowntimeId, reason: &str) -> Result<()> {
    tx.conn.execute(
        "INSERT INTO removed_downtimes (id, asset_id, work_order, kind, start_at, end_at, share, note, reason, removed_at, removed_by)
         SELECT id, asset_id, work_order, kind, start_at, end_at, share, note, ?2, ?3, ?4 FROM downtimes WHERE id = ?1",
        params![id, reason, tx.now, tx.actor.id],
    )?;
    tx.conn.execute("DELETE FROM downtimes WHERE id = ?1", [id.0])?;
    tx.audit("deleted", "downtime", &id.to_string(), &reason)
}

/// Puts deleted downtime back as it was.
///
/// # Errors
/// [`StoreError::NotFound`] where none of that id was deleted, [`StoreError::Conflict`] where it is there.
pub fn put_back(tx: &mut Tx, id: DowntimeId) -> Result<()> {
    tx.require(Action::ReportDowntime)?;
    if tx.conn.prepare_cached("SELECT 1 FROM downtimes WHERE id = ?1")?.exists([id.0])? {
        return Err(StoreError::Conflict("this downtime is there".into()));
    }
    let put = tx.conn.execute(
        "INSERT INTO downtimes (id, asset_id, work_order, kind, start_at, end_at, share, note, recorded_at, recorded_by)
         SELECT id, asset_id, work_order, kind, start_at, end_at, share, note, ?2, ?3 FROM removed_downtimes WHERE id = ?1
         ORDER BY removal DESC LIMIT 1",
        params![id, tx.now, tx.actor.id],
    )?;
    if put == 0 {
        return Err(StoreError::not_found("downtime", id));
    }
    require(tx, id)?;
    tx.audit("put back", "downtime", &id.to_string(), &())
}

/// What becomes of the downtime of work that is dropped.
pub(crate) fn dropped(tx: &Tx, work: WorkOrderId, becomes: DroppedDowntime, at: Instant, reason: &str) -> Result<()> {
    match becomes {
        DroppedDowntime::Delete => {
            let mut select = tx.conn.prepare_cached("SELECT id FROM downtimes WHERE work_order = ?1")?;
            let all = select.query_map([work], |row| row.get(0).map(DowntimeId))?;
            let all = all.collect::<rusqlite::Result<Vec<DowntimeId>>>()?;
            all.into_iter().try_for_each(|id| take_away(tx, id, reason))
        }
        DroppedDowntime::Keep => {
            tx.conn.execute("UPDATE downtimes SET work_order = NULL WHERE work_order = ?1", [work])?;
            tx.audit("kept without the order", "work order", &work.to_string(), &"downtime")
        }
        DroppedDowntime::End => {
            tx.conn.execute(
                "UPDATE downtimes SET end_at = max(?2, start_at + 1) WHERE work_order = ?1 AND end_at IS NULL",
                params![work, at],
            )?;
            Ok(())
        }
    }
}

/// Downtime as it is typed, to be questioned.
#[derive(Debug, Clone, PartialEq)]
pub struct TypedDowntime {
    /// Code of the asset.
    pub asset: String,
    pub work: Option<WorkOrderId>,
    pub start: Instant,
    pub end: Option<Instant>,
    /// The one that is corrected, which is not compared with itself.
    pub corrected: Option<DowntimeId>,
}

/// What is odd about downtime as it is typed.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown asset or order.
pub fn odd(view: &View, typed: &TypedDowntime) -> Result<Vec<OddDowntime>> {
    let conn = view.conn;
    let asset = assets::require_reached(view, &typed.asset)?;
    let raised_at = match typed.work {
        Some(work) => {
            let mut select = conn.prepare_cached(&format!(
                "SELECT w.raised_at FROM work_orders w WHERE w.number = ?1 AND {}",
                view.viewer.condition("w")
            ))?;
            let found: Option<Instant> = select.query_row([work], |row| row.get(0)).optional()?;
            Some(found.ok_or_else(|| StoreError::not_found("work order", work))?)
        }
        None => None,
    };
    let longest: Option<i64> = conn
        .prepare_cached("SELECT max(end_at - start_at) FROM downtimes WHERE asset_id = ?1 AND id IS NOT ?2")?
        .query_row(params![asset, typed.corrected], |row| row.get(0))?;
    Ok(odd_downtime((typed.start, typed.end, view.now), raised_at, longest))
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

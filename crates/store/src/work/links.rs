//! Work that has to do with other work.

use crate::{
    ground::{
        error::{Result, StoreError},
        reach::Named,
        tx::Tx,
        view::View,
    },
    plant::assets::NamedAsset,
};
use rusqlite::{ToSql, params};
use serde::Serialize;
use tally_core::{
    access::roles::Action,
    ground::ids::{CheckId, WorkOrderId},
    work::WorkState,
};
use utoipa::ToSchema;

/// Work that an order is linked to.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct LinkedWork {
    pub number: WorkOrderId,
    pub title: String,
    pub state: WorkState,
    pub asset: NamedAsset,
}

/// Says that two orders have to do with each other.
///
/// # Errors
/// [`StoreError::NotFound`] for the first, [`StoreError::Invalid`] naming the field for the second,
/// [`StoreError::Conflict`] where they are linked already.
pub fn link(tx: &mut Tx, work: WorkOrderId, other: WorkOrderId) -> Result<()> {
    tx.require(Action::RaiseWork)?;
    tx.require_seen(work)?;
    super::state(tx.conn, work)?;
    if !insert(tx, work, other, "to")? {
        return Err(StoreError::Conflict(format!("{work} and {other} are linked already")));
    }
    tx.audit("linked", "work order", &work.to_string(), &serde_json::json!({ "to": other }))
}

/// Writes a link that a field names; false where it stands already.
pub(super) fn insert(tx: &Tx, work: WorkOrderId, other: WorkOrderId, field: &str) -> Result<bool> {
    if other == work {
        return Err(StoreError::invalid(field, "work is not linked to itself"));
    }
    require_other(tx, other, field)?;
    let mut insert = tx.conn.prepare_cached(
        "INSERT OR IGNORE INTO work_links (one, other, recorded_at, recorded_by) VALUES (min(?1, ?2), max(?1, ?2), ?3, ?4)",
    )?;
    Ok(insert.execute(params![work, other, tx.now, tx.actor.id])? > 0)
}

/// Requires that there is the order that a field names.
pub(super) fn require_other(tx: &Tx, other: WorkOrderId, field: &str) -> Result<()> {
    tx.require_reach_in(&Named::Order(other), field)?;
    super::state(tx.conn, other).map_err(|error| match error {
        missing @ StoreError::NotFound { .. } => StoreError::invalid(field, missing),
        error => error,
    })?;
    Ok(())
}

/// Says that two orders have nothing to do with each other after all.
///
/// # Errors
/// [`StoreError::NotFound`] where they are not linked.
pub fn unlink(tx: &mut Tx, work: WorkOrderId, other: WorkOrderId) -> Result<()> {
    tx.require(Action::PlanWork)?;
    tx.require_seen(work)?;
    let gone = tx
        .conn
        .execute("DELETE FROM work_links WHERE one = min(?1, ?2) AND other = max(?1, ?2)", params![work, other])?;
    if gone == 0 {
        return Err(StoreError::not_found("link", other));
    }
    tx.audit("unlinked", "work order", &work.to_string(), &serde_json::json!({ "from": other }))
}

/// What one order is linked to, as far as it is seen, the newest first.
pub(super) fn of_work(view: &View, work: WorkOrderId) -> Result<Vec<LinkedWork>> {
    others(
        view,
        work,
        "SELECT other FROM work_links WHERE one = ?1 UNION ALL SELECT one FROM work_links WHERE other = ?1",
    )
}

/// The order that one follows on from, as far as it is seen.
pub(super) fn before(view: &View, work: WorkOrderId) -> Result<Option<LinkedWork>> {
    Ok(others(view, work, "SELECT source_work FROM work_orders WHERE number = ?1")?.pop())
}

/// What followed on from an order, as far as it is seen, the newest first.
pub(super) fn after(view: &View, work: WorkOrderId) -> Result<Vec<LinkedWork>> {
    others(view, work, "SELECT number FROM work_orders WHERE source_work = ?1")
}

/// What answers on a check sheet raised, as far as it is seen, the newest first.
pub(super) fn of_check(view: &View, check: CheckId) -> Result<Vec<LinkedWork>> {
    others(view, check, "SELECT number FROM work_orders WHERE source_check = ?1")
}

/// Orders whose numbers a question names, about `?1`.
fn others(view: &View, of: impl ToSql, numbers: &str) -> Result<Vec<LinkedWork>> {
    let mut select = view.conn.prepare_cached(&format!(
        "SELECT w.number, w.title, w.state, a.code, a.name FROM work_orders w JOIN assets a ON a.id = w.asset_id
         WHERE w.number IN ({numbers}) AND {} ORDER BY w.number DESC",
        view.viewer.condition("w")
    ))?;
    let rows = select.query_map([of], |row| {
        Ok(LinkedWork {
            number: row.get(0)?,
            title: row.get(1)?,
            state: row.get(2)?,
            asset: NamedAsset { code: row.get(3)?, name: row.get(4)? },
        })
    })?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

//! What people say about an order.

use crate::{
    ground::{
        error::{Result, StoreError},
        tx::Tx,
        view::View,
    },
    work::current::{done_at, state},
};
use rusqlite::{OptionalExtension, params};
use serde::Serialize;
use serde_json::json;
use tally_core::{
    ground::{
        ids::{PersonId, WorkOrderId},
        time::Instant,
    },
    work::{NewComment, is_colleague},
};
use utoipa::ToSchema;

/// Something that was said.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct CommentRow {
    pub id: i64,
    pub text: String,
    /// Only those who do or plan work read it.
    pub for_colleagues: bool,
    pub by: String,
    pub at: Instant,
    /// Whoever looks said it, and may take it away.
    pub is_own: bool,
}

/// Somebody says something about an order; its number.
///
/// # Errors
/// [`StoreError::NotFound`], and as [`NewComment::check`] says.
pub fn add(tx: &mut Tx, work: WorkOrderId, new: &NewComment) -> Result<i64> {
    tx.require_seen(work)?;
    let (text, _) = new.check(tx.actor.role, tx.now)?;
    state(tx.conn, work)?;
    let at = done_at(tx, work, new.at)?;
    tx.conn
        .prepare_cached(
            "INSERT INTO comments (work_order, text, for_colleagues, at, recorded_at, recorded_by) VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
        )?
        .execute(params![work, text, new.for_colleagues, at, tx.now, tx.actor.id])?;
    tx.touch("work order");
    Ok(tx.conn.last_insert_rowid())
}

/// Takes something away that one said, or puts it back.
///
/// # Errors
/// [`StoreError::NotFound`], [`StoreError::NotTheirs`].
pub fn take_away(tx: &mut Tx, work: WorkOrderId, id: i64, is_back: bool) -> Result<()> {
    tx.require_seen(work)?;
    let mut select = tx.conn.prepare_cached(
        "SELECT recorded_by, text FROM comments WHERE id = ?1 AND work_order = ?2 AND (removed_at IS NULL) <> ?3",
    )?;
    let found = select.query_row(params![id, work, is_back], |row| Ok((row.get(0)?, row.get(1)?))).optional()?;
    let (by, text): (PersonId, String) = found.ok_or_else(|| StoreError::not_found("comment", id))?;
    if by != tx.actor.id {
        return Err(StoreError::NotTheirs("whoever said it takes it away".into()));
    }
    tx.conn
        .prepare_cached("UPDATE comments SET removed_at = iif(?2, NULL, ?3) WHERE id = ?1")?
        .execute(params![id, is_back, tx.now])?;
    let what = if is_back { "comment put back" } else { "comment taken away" };
    tx.audit(what, "work order", &work.to_string(), &json!({ "text": text }))
}

/// What was said about an order, as far as who looks reads it, the oldest first.
pub(super) fn of_work(view: &View, work: WorkOrderId) -> Result<Vec<CommentRow>> {
    let (role, person) = view.viewer.mover();
    let mut select = view.conn.prepare_cached(
        "SELECT c.id, c.text, c.for_colleagues, p.name, c.at, c.recorded_by FROM comments c
         JOIN people p ON p.id = c.recorded_by
         WHERE c.work_order = ?1 AND c.removed_at IS NULL AND (?2 OR NOT c.for_colleagues) ORDER BY c.at, c.id",
    )?;
    let rows = select.query_map(params![work, is_colleague(role)], |row| {
        let by: PersonId = row.get(5)?;
        Ok(CommentRow {
            id: row.get(0)?,
            text: row.get(1)?,
            for_colleagues: row.get(2)?,
            by: row.get(3)?,
            at: row.get(4)?,
            is_own: by == person,
        })
    })?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

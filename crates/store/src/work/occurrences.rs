//! Work that was reported again.

use super::current::state;
use crate::ground::{
    error::{Result, StoreError},
    reach::Named,
    tx::Tx,
    view::View,
};
use rusqlite::{OptionalExtension, params};
use serde::Serialize;
use tally_core::{
    access::roles::{Action, may},
    ground::{
        ids::{PersonId, WorkOrderId},
        time::Instant,
    },
    work::{CheckedOccurrence, NewOccurrence},
};
use utoipa::ToSchema;

/// The same fault, as somebody else said it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct OccurrenceRow {
    pub id: i64,
    pub at: Instant,
    pub words: String,
    pub person: String,
    pub recorded_at: Instant,
    /// Whoever looks may take it back.
    pub may_take_back: bool,
}

/// Joins what somebody saw to open work that is about the same.
///
/// # Errors
/// [`StoreError::NotFound`], [`StoreError::Conflict`] for work that is done, [`StoreError::Invalid`] by field.
pub fn join(tx: &mut Tx, work: WorkOrderId, new: &NewOccurrence) -> Result<i64> {
    tx.require(Action::RaiseWork)?;
    tx.require_reach(&Named::Order(work))?;
    let CheckedOccurrence { words, at } = new.check(state(tx.conn, work)?.state, tx.now)?;
    note(tx, work, words, at)
}

/// Writes that what work is about was seen again, whoever or whatever says so.
pub(super) fn note(tx: &mut Tx, work: WorkOrderId, words: &str, at: Instant) -> Result<i64> {
    tx.conn.execute(
        "INSERT INTO work_occurrences (work_order, at, words, recorded_at, recorded_by) VALUES (?1, ?2, ?3, ?4, ?5)",
        params![work, at, words, tx.now, tx.actor.id],
    )?;
    let id = tx.conn.last_insert_rowid();
    tx.audit("reported again", "work order", &work.to_string(), &serde_json::json!({ "words": words, "at": at }))?;
    Ok(id)
}

/// Takes a report back: whoever made it may, and whoever plans the work.
///
/// # Errors
/// [`StoreError::NotFound`], [`StoreError::MayNot`] for another's.
pub fn take_back(tx: &mut Tx, work: WorkOrderId, id: i64) -> Result<()> {
    tx.require_reach(&Named::Order(work))?;
    let mut select =
        tx.conn.prepare_cached("SELECT recorded_by, words FROM work_occurrences WHERE id = ?1 AND work_order = ?2")?;
    let found = select.query_row(params![id, work], |row| Ok((row.get::<_, PersonId>(0)?, row.get::<_, String>(1)?)));
    let (person, words) = found.optional()?.ok_or_else(|| StoreError::not_found("report", id))?;
    if person != tx.actor.id {
        may(tx.actor.role, Action::PlanWork)?;
    }
    tx.conn.execute("DELETE FROM work_occurrences WHERE id = ?1", [id])?;
    tx.audit("report taken back", "work order", &work.to_string(), &serde_json::json!({ "words": words }))
}

/// Those of one work order, in order of time.
pub(super) fn of_work(view: &View, work: WorkOrderId) -> Result<Vec<OccurrenceRow>> {
    let (role, viewer) = view.viewer.mover();
    let may_all = may(role, Action::PlanWork).is_ok();
    let mut select = view.conn.prepare_cached(
        "SELECT o.id, o.at, o.words, p.name AS person, o.recorded_at, o.recorded_by FROM work_occurrences o
         JOIN people p ON p.id = o.recorded_by WHERE o.work_order = ?1 ORDER BY o.at, o.id",
    )?;
    let rows = select.query_map([work], |row| {
        Ok(OccurrenceRow {
            id: row.get("id")?,
            at: row.get("at")?,
            words: row.get("words")?,
            person: row.get("person")?,
            recorded_at: row.get("recorded_at")?,
            may_take_back: may_all || row.get::<_, PersonId>("recorded_by")? == viewer,
        })
    })?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

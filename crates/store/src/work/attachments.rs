//! Photos and papers: sent and kept first, then named by what they stand with. What nobody names for some days goes.

use crate::{
    ground::{
        error::{Result, StoreError},
        files::Files,
        sql::Rows,
        tx::Tx,
        view::View,
    },
    outside::photos::Prepared,
    work::current::{done_at, state},
};
use rusqlite::{Connection, OptionalExtension, params};
use serde::Serialize;
use serde_json::json;
use tally_core::{
    access::roles::{Action, may},
    ground::{
        ids::{PersonId, WorkOrderId},
        time::{DAY, Instant},
    },
    work::{Attaching, NewAttachment, check_attach, may_detach},
};
use utoipa::ToSchema;

/// How long a file is kept that nothing names, in milliseconds: longer than anyone works without a network.
const UNNAMED_FOR_MS: i64 = 30 * DAY;

/// Files of one person that nothing names yet.
const MOST_UNNAMED: usize = 500;

/// Files taken away in one go.
const AT_ONCE: usize = 100;

/// Files that nothing names.
const UNNAMED: &str = "NOT EXISTS (SELECT 1 FROM attachments a WHERE a.file_id = f.id)
    AND NOT EXISTS (SELECT 1 FROM check_files c WHERE c.file_id = f.id)
    AND NOT EXISTS (SELECT 1 FROM sheet_pictures p WHERE p.file_id = f.id)";

/// A file that was sent, to be named by what it stands with.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct StoredFile {
    /// Its name from now on.
    pub file: String,
    pub media_type: String,
    pub bytes: i64,
    /// Of a photo.
    pub width: Option<u32>,
    pub height: Option<u32>,
}

/// A photo or paper that stands with an order.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct AttachmentRow {
    pub id: i64,
    /// What it was called where it came from.
    pub name: String,
    pub media_type: String,
    pub bytes: i64,
    /// Of a photo.
    pub width: Option<u32>,
    pub height: Option<u32>,
    pub by: String,
    /// When it was attached, also where that became known later.
    pub at: Instant,
    /// Whoever looks may take it away.
    pub may_take_away: bool,
}

/// Keeps what was made ready; the same that is there already is not kept twice.
///
/// # Errors
/// [`StoreError::MayNot`], [`StoreError::Conflict`] for somebody who sends and sends, [`StoreError::Full`].
pub fn keep(tx: &mut Tx, files: &Files, prepared: &Prepared) -> Result<StoredFile> {
    if tx.require(Action::RaiseWork).is_err() {
        tx.require(Action::ReportOnWork)?;
    }
    let mut count = tx.conn.prepare_cached(&format!(
        "SELECT count(*) FROM files f WHERE f.recorded_by = ?1 AND f.recorded_at > ?2 AND {UNNAMED}"
    ))?;
    let unnamed: usize = count.query_row(params![tx.actor.id, tx.now.plus(-UNNAMED_FOR_MS)], |row| row.get(0))?;
    if unnamed >= MOST_UNNAMED {
        let reason = format!("{unnamed} files that you sent stand with nothing yet: use them before you send more");
        return Err(StoreError::Conflict(reason));
    }
    let Prepared { media_type, bytes, small, size } = prepared;
    // It was put there before this transaction began, and may have gone since as one that nobody named.
    let file = files.put(bytes, small.as_deref())?;
    let (width, height) = size.unzip();
    tx.conn.execute(
        "INSERT INTO files (name, media_type, bytes, width, height, recorded_at, recorded_by) VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7)
         ON CONFLICT (name) DO UPDATE SET recorded_at = max(recorded_at, excluded.recorded_at)",
        params![file, media_type, bytes.len(), width, height, tx.now, tx.actor.id],
    )?;
    let bytes = i64::try_from(bytes.len()).unwrap_or(i64::MAX);
    Ok(StoredFile { file, media_type: (*media_type).into(), bytes, width, height })
}

/// The row of a file that was sent.
pub(crate) fn require_file(conn: &Connection, file: &str, field: &str) -> Result<i64> {
    let found =
        conn.prepare_cached("SELECT id FROM files WHERE name = ?1")?.query_row([file], |row| row.get(0)).optional()?;
    found.ok_or_else(|| StoreError::invalid(field, "there is no such file: send it again"))
}

/// Files stand with an order from now on; what there is already is passed over.
///
/// # Errors
/// [`StoreError::NotFound`], [`StoreError::Invalid`] on `at`, and as [`check_attach`] says.
pub fn attach(tx: &mut Tx, number: WorkOrderId, new: &Attaching) -> Result<()> {
    tx.require_seen(number)?;
    let is_over = state(tx.conn, number)?.state.is_over();
    let mut count =
        tx.conn.prepare_cached("SELECT count(*) FROM attachments WHERE work_order = ?1 AND removed_at IS NULL")?;
    let has = count.query_row([number], |row| row.get(0))?;
    check_attach(tx.actor.role, is_over, has, &new.attachments)?;
    let at = done_at(tx, number, new.at)?;
    insert(tx, number, &new.attachments, at)
}

/// Files stand with an order from an instant on, which was checked.
pub(super) fn insert(tx: &mut Tx, number: WorkOrderId, new: &[NewAttachment], at: Instant) -> Result<()> {
    for (place, one) in new.iter().enumerate() {
        let file = require_file(tx.conn, &one.file, &format!("attachments[{place}].file"))?;
        let mut insert = tx.conn.prepare_cached(
            "INSERT INTO attachments (work_order, file_id, name, at, recorded_at, recorded_by) SELECT ?1, ?2, ?3, ?4, ?5, ?6
             WHERE NOT EXISTS (SELECT 1 FROM attachments WHERE work_order = ?1 AND file_id = ?2 AND removed_at IS NULL)",
        )?;
        if insert.execute(params![number, file, one.name.trim(), at, tx.now, tx.actor.id])? > 0 {
            tx.audit("attached", "work order", &number.to_string(), one)?;
        }
    }
    Ok(())
}

/// What stands with an order, in the order in which it was attached.
pub(super) fn of_work(view: &View, number: WorkOrderId) -> Result<Vec<AttachmentRow>> {
    let (role, person) = view.viewer.mover();
    let mut select = view.conn.prepare_cached(
        "SELECT a.id, a.name, f.media_type, f.bytes, f.width, f.height, p.name, a.at, a.recorded_by FROM attachments a
         JOIN files f ON f.id = a.file_id JOIN people p ON p.id = a.recorded_by
         WHERE a.work_order = ?1 AND a.removed_at IS NULL ORDER BY a.at, a.id",
    )?;
    let rows = select.query_map([number], |row| {
        let by: PersonId = row.get(8)?;
        Ok(AttachmentRow {
            id: row.get(0)?,
            name: row.get(1)?,
            media_type: row.get(2)?,
            bytes: row.get(3)?,
            width: row.get(4)?,
            height: row.get(5)?,
            by: row.get(6)?,
            at: row.get(7)?,
            may_take_away: may_detach(role, by == person),
        })
    })?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

/// The file behind an attachment.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct AttachedFile {
    pub file: String,
    pub media_type: String,
    /// What it was called where it came from.
    pub name: String,
}

/// The file of one that stands with an order, or stood there.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn file_of(view: &View, number: WorkOrderId, id: i64) -> Result<AttachedFile> {
    view.viewer.require(view.conn, number)?;
    let mut select = view.conn.prepare_cached(
        "SELECT f.name, f.media_type, a.name FROM attachments a JOIN files f ON f.id = a.file_id
         WHERE a.work_order = ?1 AND a.id = ?2",
    )?;
    let found = select.query_row(params![number, id], |row| {
        Ok(AttachedFile { file: row.get(0)?, media_type: row.get(1)?, name: row.get(2)? })
    });
    found.optional()?.ok_or_else(|| StoreError::not_found("attachment", id))
}

/// Takes an attachment away from an order, or puts it back.
///
/// # Errors
/// [`StoreError::NotFound`], [`StoreError::NotTheirs`].
pub fn take_away(tx: &mut Tx, number: WorkOrderId, id: i64, is_back: bool) -> Result<()> {
    tx.require_seen(number)?;
    let mut select = tx.conn.prepare_cached(
        "SELECT a.recorded_by, a.name FROM attachments a WHERE a.work_order = ?1 AND a.id = ?2 AND (a.removed_at IS NULL) <> ?3",
    )?;
    let found = select
        .query_row(params![number, id, is_back], |row| Ok((row.get::<_, PersonId>(0)?, row.get::<_, String>(1)?)));
    let (by, name) = found.optional()?.ok_or_else(|| StoreError::not_found("attachment", id))?;
    if !may_detach(tx.actor.role, by == tx.actor.id) {
        let reason = "who attached it takes it away, or who plans the work";
        return Err(StoreError::NotTheirs(reason.into()));
    }
    tx.conn.execute(
        "UPDATE attachments SET removed_at = iif(?2, NULL, ?3), removed_by = iif(?2, NULL, ?4) WHERE id = ?1",
        params![id, is_back, tx.now, tx.actor.id],
    )?;
    let what = if is_back { "attachment put back" } else { "attachment taken away" };
    tx.audit(what, "work order", &number.to_string(), &json!({ "name": name }))
}

/// Whether somebody of that role may attach something.
pub(super) fn may_attach(view: &View, is_over: bool) -> bool {
    let role = view.viewer.mover().0;
    may(role, Action::RaiseWork).is_ok() && check_attach(role, is_over, 0, &[]).is_ok()
}

/// Whether there are files that nothing named for long.
///
/// # Errors
/// SQLite's own.
pub fn any_unnamed(rows: &dyn Rows, now: Instant) -> Result<bool> {
    let sql = format!("SELECT 1 FROM files f WHERE f.recorded_at < ?1 AND {UNNAMED} LIMIT 1");
    Ok(rows.sql().conn.prepare_cached(&sql)?.exists([now.plus(-UNNAMED_FOR_MS)])?)
}

/// Takes away files that nothing named for long; how many.
///
/// # Errors
/// [`StoreError::Folder`], SQLite's own.
pub fn forget_unnamed(tx: &mut Tx, files: &Files) -> Result<usize> {
    let mut select = tx
        .conn
        .prepare_cached(&format!("SELECT f.id, f.name FROM files f WHERE f.recorded_at < ?1 AND {UNNAMED} LIMIT ?2"))?;
    let found = select.query_map(params![tx.now.plus(-UNNAMED_FOR_MS), AT_ONCE], |row| {
        Ok((row.get::<_, i64>(0)?, row.get::<_, String>(1)?))
    })?;
    let found: Vec<_> = found.collect::<rusqlite::Result<_>>()?;
    for (id, file) in &found {
        // First from the disk: while the writer is held nobody keeps the same anew.
        files.remove(file)?;
        tx.conn.execute("DELETE FROM files WHERE id = ?1", [id])?;
    }
    Ok(found.len())
}

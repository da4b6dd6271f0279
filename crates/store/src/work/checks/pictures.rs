//! Pictures that help to answer the questions of a check sheet.

use crate::{
    ground::{
        error::{Result, StoreError},
        tx::Tx,
        view::View,
    },
    work::attachments,
};
use rusqlite::{Connection, OptionalExtension, params};
use tally_core::work::check_sheets::CheckSheet;

/// Requires that a file was sent, and is a picture.
pub(super) fn require_picture(conn: &Connection, file: &str, field: &str) -> Result<()> {
    let id = attachments::require_file(conn, file, field)?;
    let mut is_picture = conn.prepare_cached("SELECT 1 FROM files WHERE id = ?1 AND width IS NOT NULL")?;
    if is_picture.exists([id])? { Ok(()) } else { Err(StoreError::invalid(field, "is no picture")) }
}

/// Pictures of a sheet stay as long as it does: those of its earlier versions, too.
pub(super) fn keep(tx: &Tx, code: &str, sheet: &CheckSheet) -> Result<()> {
    let mut insert = tx.conn.prepare_cached(
        "INSERT OR IGNORE INTO sheet_pictures (sheet_id, file_id)
         SELECT s.id, f.id FROM check_sheets s JOIN files f ON f.name = ?2 WHERE s.code = ?1",
    )?;
    for file in sheet.questions.iter().filter_map(|question| question.picture.as_ref()) {
        insert.execute(params![code, file])?;
    }
    Ok(())
}

/// The media type of a picture of a check sheet.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn picture_of(view: &View, code: &str, file: &str) -> Result<String> {
    let mut select = view.conn.prepare_cached(
        "SELECT f.media_type FROM check_sheets s JOIN sheet_pictures p ON p.sheet_id = s.id JOIN files f ON f.id = p.file_id
         WHERE s.code = ?1 AND f.name = ?2",
    )?;
    let found = select.query_row(params![code, file], |row| row.get(0)).optional()?;
    found.ok_or_else(|| StoreError::not_found("picture", file))
}

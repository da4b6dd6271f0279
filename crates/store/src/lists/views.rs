//! Views of lists that people keep under a name: their own, and those they share.

use crate::ground::{
    error::{Result, StoreError},
    rows::{from_json, to_json},
    tx::Tx,
    view::View,
};
use rusqlite::params;
use serde::Serialize;
use tally_core::lists::{Asked, NewView, SubjectId};
use utoipa::ToSchema;

/// A kept view.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct KeptView {
    pub id: i64,
    pub name: String,
    /// Whose it is.
    pub person: String,
    pub is_own: bool,
    pub shared: bool,
    pub ask: Asked,
}

/// The views of a subject that the viewer has, their own first, each by name.
///
/// # Errors
/// SQLite's own.
pub fn of(view: &View, subject: SubjectId) -> Result<Vec<KeptView>> {
    let person = view.viewer.person();
    let mut select = view.conn.prepare_cached(
        "SELECT v.id, v.name, p.name, v.person_id = ?2, v.shared, v.definition FROM list_views v
         JOIN people p ON p.id = v.person_id
         WHERE v.subject = ?1 AND (v.person_id = ?2 OR v.shared) ORDER BY v.person_id <> ?2, v.name, v.id",
    )?;
    let mut rows = select.query(params![subject, person])?;
    let mut views = Vec::new();
    while let Some(row) = rows.next()? {
        views.push(KeptView {
            id: row.get(0)?,
            name: row.get(1)?,
            person: row.get(2)?,
            is_own: row.get(3)?,
            shared: row.get(4)?,
            ask: from_json("list_views", &row.get::<_, String>(5)?)?,
        });
    }
    Ok(views)
}

/// Keeps a view; one of the same name and person is put in its place.
///
/// # Errors
/// [`StoreError::Invalid`] by field.
pub fn keep(tx: &mut Tx, subject: SubjectId, new: &NewView) -> Result<i64> {
    new.check()?;
    let id = tx.conn.query_row(
        "INSERT INTO list_views (person_id, subject, name, shared, definition, recorded_at) VALUES (?1, ?2, ?3, ?4, ?5, ?6)
         ON CONFLICT (person_id, subject, name) DO UPDATE SET shared = excluded.shared, definition = excluded.definition,
             recorded_at = excluded.recorded_at
         RETURNING id",
        params![tx.actor.id, subject, new.name.trim(), new.shared, to_json(&new.ask), tx.now],
        |row| row.get(0),
    )?;
    tx.audit("kept", "view", new.name.trim(), new)?;
    Ok(id)
}

/// Forgets a view of one's own.
///
/// # Errors
/// [`StoreError::NotFound`] for one there is not; [`StoreError::NotTheirs`] for another's.
pub fn forget(tx: &mut Tx, subject: SubjectId, id: i64) -> Result<()> {
    let found = tx
        .conn
        .prepare_cached("SELECT person_id, name FROM list_views WHERE id = ?1 AND subject = ?2")?
        .query_map(params![id, subject], |row| Ok((row.get(0)?, row.get::<_, String>(1)?)))?
        .next()
        .transpose()?;
    let (person, name) = found.ok_or_else(|| StoreError::not_found("view", id))?;
    if tx.actor.id != person {
        return Err(StoreError::NotTheirs("only who kept a view may forget it".into()));
    }
    tx.conn.execute("DELETE FROM list_views WHERE id = ?1", [id])?;
    tx.audit("forgotten", "view", &name, &id)
}

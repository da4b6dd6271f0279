//! Devices that people share, and the numbers by which they change places there.

use super::people::{ACCOUNT, Somebody, filled, somebody};
use crate::ground::{
    error::{Result, StoreError},
    sql::Rows,
    tx::Tx,
};
use rusqlite::{OptionalExtension, params};
use serde::Serialize;
use tally_core::{
    access::{
        accounts::Account,
        pins::{MOST_WRONG, may_have},
        roles::Action,
    },
    ground::{ids::PersonId, time::Instant},
};
use utoipa::ToSchema;

/// A device as listed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct DeviceRow {
    pub id: i64,
    pub name: String,
    pub made_at: Instant,
    pub made_by: String,
}

/// Somebody who has a number.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Sharer {
    pub code: String,
    pub name: String,
}

/// Somebody who says who they are, with the hash of their number.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Numbered {
    pub person: Somebody,
    pub hash: String,
}

/// The longest name of a device.
const LONGEST_NAME: usize = 80;

/// Sets the device with the secret of that hash up to be shared.
///
/// # Errors
/// [`StoreError::MayNot`], [`StoreError::Invalid`] for a name that says nothing.
pub fn share(tx: &Tx, name: &str, hash: &[u8]) -> Result<i64> {
    tx.require(Action::ChangeKeys)?;
    filled("name", name)?;
    if name.chars().count() > LONGEST_NAME {
        return Err(StoreError::invalid("name", format!("is longer than {LONGEST_NAME} letters")));
    }
    tx.conn.execute(
        "INSERT INTO shared_devices (name, hash, made_at, made_by) VALUES (?1, ?2, ?3, ?4)",
        params![name.trim(), hash, tx.now, tx.actor.id],
    )?;
    let id = tx.conn.last_insert_rowid();
    tx.audit("shared", "device", name.trim(), &())?;
    Ok(id)
}

/// Shares a device no more: numbers count there no longer.
///
/// # Errors
/// [`StoreError::MayNot`], [`StoreError::NotFound`].
pub fn unshare(tx: &Tx, id: i64) -> Result<()> {
    tx.require(Action::ChangeKeys)?;
    let found = tx.conn.query_row("DELETE FROM shared_devices WHERE id = ?1 RETURNING name", [id], |row| row.get(0));
    let name: String = found.optional()?.ok_or_else(|| StoreError::not_found("shared device", id))?;
    tx.audit("shared no more", "device", &name, &())
}

/// The devices that are shared, by name.
///
/// # Errors
/// SQLite's own.
pub fn devices(rows: &dyn Rows) -> Result<Vec<DeviceRow>> {
    let mut select = rows.sql().conn.prepare_cached(
        "SELECT d.id, d.name, d.made_at, p.name AS made_by FROM shared_devices d JOIN people p ON p.id = d.made_by
         ORDER BY d.name, d.id",
    )?;
    let found = select.query_map([], |row| {
        let (made_at, made_by) = (row.get("made_at")?, row.get("made_by")?);
        Ok(DeviceRow { id: row.get("id")?, name: row.get("name")?, made_at, made_by })
    })?;
    Ok(found.collect::<rusqlite::Result<_>>()?)
}

/// What the device with the secret of that hash is called; none where it is not shared.
///
/// # Errors
/// SQLite's own.
pub fn device(rows: &dyn Rows, hash: &[u8]) -> Result<Option<String>> {
    let mut find = rows.sql().conn.prepare_cached("SELECT name FROM shared_devices WHERE hash = ?1")?;
    Ok(find.query_row([hash], |row| row.get(0)).optional()?)
}

/// Those who have a number that counts, by name.
///
/// # Errors
/// SQLite's own.
pub fn sharers(rows: &dyn Rows) -> Result<Vec<Sharer>> {
    let mut select = rows.sql().conn.prepare_cached(
        "SELECT p.code, p.name, p.role FROM pins n JOIN people p ON p.id = n.person_id
         WHERE p.active = 1 AND p.account = ?1 AND n.wrong < ?2 ORDER BY p.name, p.id",
    )?;
    let found = select.query_map(params![Account::Person, MOST_WRONG], |row| {
        Ok((row.get("role")?, Sharer { code: row.get("code")?, name: row.get("name")? }))
    })?;
    let all = found.collect::<rusqlite::Result<Vec<_>>>()?;
    Ok(all.into_iter().filter(|(role, _)| may_have(*role)).map(|(_, sharer)| sharer).collect())
}

/// The person of that code, where they have a number that counts.
///
/// # Errors
/// SQLite's own.
pub fn of_code(rows: &dyn Rows, code: &str) -> Result<Option<Numbered>> {
    let mut find = rows.sql().conn.prepare_cached(&format!(
        "SELECT {ACCOUNT}, n.hash FROM pins n JOIN people p ON p.id = n.person_id
         WHERE p.code = ?1 AND p.active = 1 AND p.account = ?2 AND n.wrong < ?3"
    ))?;
    let found = find.query_row(params![code, Account::Person, MOST_WRONG], |row| {
        Ok(Numbered { person: somebody(row)?, hash: row.get("hash")? })
    });
    Ok(found.optional()?.filter(|found| may_have(found.person.actor.role)))
}

/// Whether a person has a number, and whether it counts; none without one.
///
/// # Errors
/// SQLite's own.
pub fn counts(rows: &dyn Rows, person: PersonId) -> Result<Option<bool>> {
    let mut find = rows.sql().conn.prepare_cached("SELECT wrong < ?2 FROM pins WHERE person_id = ?1")?;
    Ok(find.query_row(params![person, MOST_WRONG], |row| row.get(0)).optional()?)
}

/// Keeps the hash of the actor's number, in place of the one before.
///
/// # Errors
/// SQLite's own.
pub fn set(tx: &Tx, hash: &str) -> Result<()> {
    tx.conn.execute(
        "INSERT INTO pins (person_id, hash, set_at) VALUES (?1, ?2, ?3)
         ON CONFLICT DO UPDATE SET hash = excluded.hash, set_at = excluded.set_at, wrong = 0",
        params![tx.actor.id, hash, tx.now],
    )?;
    tx.audit("set", "pin", &tx.actor.code, &())
}

/// Forgets the actor's number.
///
/// # Errors
/// [`StoreError::NotFound`] where there is none.
pub fn forget(tx: &Tx) -> Result<()> {
    match tx.conn.execute("DELETE FROM pins WHERE person_id = ?1", [tx.actor.id])? {
        0 => Err(StoreError::not_found("pin", &tx.actor.code)),
        _ => tx.audit("removed", "pin", &tx.actor.code, &()),
    }
}

/// Notes a try at the actor's number, before it is known whether it was right: so that many at once are no way around the count.
///
/// # Errors
/// SQLite's own.
pub fn try_once(tx: &Tx) -> Result<()> {
    tx.conn.execute("UPDATE pins SET wrong = wrong + 1 WHERE person_id = ?1", [tx.actor.id])?;
    Ok(())
}

/// The last try was right: the count begins anew.
///
/// # Errors
/// SQLite's own.
pub fn was_right(tx: &Tx) -> Result<()> {
    tx.conn.execute("UPDATE pins SET wrong = 0 WHERE person_id = ?1", [tx.actor.id])?;
    Ok(())
}

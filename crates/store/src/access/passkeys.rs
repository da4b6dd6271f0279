//! Passkeys of people: the public halves, by which a device that holds the other half signs them in.

use super::people::{ACCOUNT, Somebody, filled, somebody};
use crate::ground::{
    error::{Result, StoreError},
    sql::Rows,
    tx::Tx,
};
use rusqlite::{OptionalExtension, params};
use serde::Serialize;
use tally_core::ground::{ids::PersonId, time::Instant};
use utoipa::ToSchema;

/// A passkey as listed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct PasskeyRow {
    pub id: i64,
    /// What its person calls it.
    pub name: String,
    pub made_at: Instant,
    pub used_at: Option<Instant>,
}

/// A passkey as its parts are kept.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Passkey {
    /// By which a device names it.
    pub credential: Vec<u8>,
    /// Stands for its person.
    pub handle: Vec<u8>,
    /// The public key, with what never changes.
    pub fixed: Vec<u8>,
    /// What each use may change.
    pub used: Vec<u8>,
}

/// What devices know of a person.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Known {
    /// None before the first passkey.
    pub handle: Option<Vec<u8>>,
    pub credentials: Vec<Vec<u8>>,
}

/// Passkeys of one person at the most.
const MOST: usize = 20;

/// The longest name.
const LONGEST_NAME: usize = 80;

/// A person's passkeys, the newest first.
///
/// # Errors
/// SQLite's own.
pub fn of_person(rows: &dyn Rows, person: PersonId) -> Result<Vec<PasskeyRow>> {
    let mut select = rows
        .sql()
        .conn
        .prepare_cached("SELECT id, name, made_at, used_at FROM passkeys WHERE person_id = ?1 ORDER BY id DESC")?;
    let found = select.query_map([person], |row| {
        let (made_at, used_at) = (row.get("made_at")?, row.get("used_at")?);
        Ok(PasskeyRow { id: row.get("id")?, name: row.get("name")?, made_at, used_at })
    })?;
    Ok(found.collect::<rusqlite::Result<_>>()?)
}

/// What devices know of a person: none of them is asked to hold two passkeys of one.
///
/// # Errors
/// SQLite's own.
pub fn known(rows: &dyn Rows, person: PersonId) -> Result<Known> {
    let mut select =
        rows.sql().conn.prepare_cached("SELECT handle, credential FROM passkeys WHERE person_id = ?1 ORDER BY id")?;
    let mut found = select.query([person])?;
    let mut known = Known::default();
    while let Some(row) = found.next()? {
        known.handle = Some(row.get("handle")?);
        known.credentials.push(row.get("credential")?);
    }
    Ok(known)
}

/// The passkey that a device names, with its person as they are now; none where the person may not sign in any more.
///
/// # Errors
/// SQLite's own.
pub fn of_credential(rows: &dyn Rows, credential: &[u8]) -> Result<Option<(Somebody, Passkey)>> {
    let mut find = rows.sql().conn.prepare_cached(&format!(
        "SELECT {ACCOUNT}, k.handle, k.fixed, k.used FROM passkeys k JOIN people p ON p.id = k.person_id
         WHERE k.credential = ?1 AND p.active = 1"
    ))?;
    let found = find.query_row([credential], |row| {
        let (handle, fixed, used) = (row.get("handle")?, row.get("fixed")?, row.get("used")?);
        Ok((somebody(row)?, Passkey { credential: credential.to_vec(), handle, fixed, used }))
    });
    Ok(found.optional()?)
}

/// Keeps a passkey of the actor's.
///
/// # Errors
/// [`StoreError::Invalid`] for a name that says nothing, [`StoreError::Conflict`] for one that is known, or one too many.
pub fn add(tx: &Tx, name: &str, passkey: &Passkey) -> Result<i64> {
    filled("name", name)?;
    let name = name.trim();
    if name.chars().count() > LONGEST_NAME {
        return Err(StoreError::invalid("name", format!("is longer than {LONGEST_NAME} letters")));
    }
    if of_person(tx, tx.actor.id)?.len() >= MOST {
        return Err(StoreError::Conflict(format!("you have {MOST} passkeys; take one away first")));
    }
    let added = tx.conn.execute(
        "INSERT INTO passkeys (person_id, name, credential, handle, fixed, used, made_at) VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7)
         ON CONFLICT DO NOTHING",
        params![tx.actor.id, name, passkey.credential, passkey.handle, passkey.fixed, passkey.used, tx.now],
    )?;
    if added == 0 {
        return Err(StoreError::Conflict("this passkey is known already".into()));
    }
    let id = tx.conn.last_insert_rowid();
    tx.audit("added", "passkey", &tx.actor.code, &name)?;
    Ok(id)
}

/// Notes that a passkey of the actor's signed them in, and what that changed of it.
///
/// # Errors
/// [`StoreError::NotFound`] where it was taken away meanwhile.
pub fn note_used(tx: &Tx, passkey: &Passkey) -> Result<()> {
    let mut note = tx
        .conn
        .prepare_cached("UPDATE passkeys SET used = ?3, used_at = ?4 WHERE credential = ?1 AND person_id = ?2")?;
    match note.execute(params![passkey.credential, tx.actor.id, passkey.used, tx.now])? {
        0 => Err(StoreError::not_found("passkey", "of this device")),
        _ => Ok(()),
    }
}

/// Takes a passkey of the actor's away: it signs nobody in from then on.
///
/// # Errors
/// [`StoreError::NotFound`] for one that is not theirs.
pub fn remove(tx: &Tx, id: i64) -> Result<()> {
    match tx.conn.execute("DELETE FROM passkeys WHERE id = ?1 AND person_id = ?2", params![id, tx.actor.id])? {
        0 => Err(StoreError::not_found("passkey", id)),
        _ => tx.audit("removed", "passkey", &tx.actor.code, &()),
    }
}

/// Takes all passkeys of the actor's away: who sets a password by a code begins anew.
pub(super) fn remove_all(tx: &Tx) -> Result<()> {
    match tx.conn.execute("DELETE FROM passkeys WHERE person_id = ?1", [tx.actor.id])? {
        0 => Ok(()),
        _ => tx.audit("removed all of", "passkey", &tx.actor.code, &()),
    }
}

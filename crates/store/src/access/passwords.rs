//! Passwords as hashes, and the codes with which a person sets one.

use super::{
    passkeys,
    people::{ACCOUNT, Somebody, somebody},
    sessions,
};
use crate::ground::{
    error::{Result, StoreError},
    sql::Rows,
    tx::Tx,
};
use rusqlite::{OptionalExtension, params};
use tally_core::{
    access::{
        accounts::Account,
        roles::{Action, Role},
    },
    ground::{
        ids::PersonId,
        time::{HOUR, Instant},
    },
};

/// How long a reset code works.
pub const CODE_WORKS_MS: i64 = HOUR;

/// Somebody who says that they are that person.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Claimed {
    pub person: Somebody,
    /// None where the person has never set a password.
    pub hash: Option<String>,
}

/// The active person of that code, in capitals or not, with the hash of their password; none where there is no such person.
///
/// # Errors
/// SQLite's own.
pub fn claimed(rows: &dyn Rows, code: &str) -> Result<Option<Claimed>> {
    let mut find = rows.sql().conn.prepare_cached(&format!(
        "SELECT {ACCOUNT}, w.hash FROM people p
         LEFT JOIN passwords w ON w.person_id = p.id
         WHERE p.code = ?1 COLLATE NOCASE AND p.active = 1 AND p.account = ?2 ORDER BY p.code = ?1 DESC LIMIT 1",
    ))?;
    let mut found = find.query(params![code, Account::Person])?;
    let Some(row) = found.next()? else { return Ok(None) };
    Ok(Some(Claimed { person: somebody(row)?, hash: row.get("hash")? }))
}

/// Whether an active administrator has a password; without one nobody could let anybody in.
///
/// # Errors
/// SQLite's own.
pub fn any_administrator(rows: &dyn Rows) -> Result<bool> {
    let mut find = rows.sql().conn.prepare_cached(
        "SELECT 1 FROM passwords w JOIN people p ON p.id = w.person_id WHERE p.role = ?1 AND p.active = 1",
    )?;
    Ok(find.exists([Role::Administrator])?)
}

/// Keeps the hash of a person's own new password, and ends their other sessions.
///
/// # Errors
/// SQLite's own.
pub fn set(tx: &Tx, hash: &str, kept_session: Option<i64>) -> Result<()> {
    tx.conn.execute(
        "INSERT INTO passwords (person_id, hash, set_at) VALUES (?1, ?2, ?3)
         ON CONFLICT DO UPDATE SET hash = excluded.hash, set_at = excluded.set_at",
        params![tx.actor.id, hash, tx.now],
    )?;
    tx.conn.execute("DELETE FROM reset_codes WHERE person_id = ?1", [tx.actor.id])?;
    sessions::end_of(tx, tx.actor.id, kept_session)?;
    tx.audit("set", "password", &tx.actor.code, &())
}

/// Lets a person set a password with the code of that hash, for an hour and once; what they signed in with before works on.
///
/// # Errors
/// [`StoreError::MayNot`], [`StoreError::NotFound`] for a person there is not.
pub fn reset(tx: &mut Tx, code: &str, hash: &[u8]) -> Result<Instant> {
    tx.require(Action::ChangePeople)?;
    let claimed = claimed(tx, code)?.ok_or_else(|| StoreError::not_found("person", code))?;
    let until = tx.now.plus(CODE_WORKS_MS);
    tx.conn.execute(
        "INSERT INTO reset_codes (person_id, hash, until) VALUES (?1, ?2, ?3)
         ON CONFLICT DO UPDATE SET hash = excluded.hash, until = excluded.until",
        params![claimed.person.actor.id, hash, until],
    )?;
    tx.audit("made a code for", "password", &claimed.person.actor.code, &())?;
    Ok(until)
}

/// Uses the actor's code up. Their passkeys and their number go with it: a code is asked for when a device is lost.
///
/// # Errors
/// [`StoreError::Conflict`] where somebody was faster.
pub fn use_code(tx: &Tx, hash: &[u8]) -> Result<()> {
    let used = tx.conn.execute(
        "DELETE FROM reset_codes WHERE person_id = ?1 AND hash = ?2 AND until >= ?3",
        params![tx.actor.id, hash, tx.now],
    )?;
    if used == 0 {
        return Err(StoreError::Conflict("the code was used meanwhile".into()));
    }
    passkeys::remove_all(tx)?;
    tx.conn.execute("DELETE FROM pins WHERE person_id = ?1", [tx.actor.id])?;
    Ok(())
}

/// Whether the code of that hash is the person's, and works yet.
///
/// # Errors
/// SQLite's own.
pub fn is_code(rows: &dyn Rows, person: PersonId, hash: &[u8], now: Instant) -> Result<bool> {
    let mut find =
        rows.sql().conn.prepare_cached("SELECT until FROM reset_codes WHERE person_id = ?1 AND hash = ?2")?;
    let until: Option<Instant> = find.query_row(params![person, hash], |row| row.get(0)).optional()?;
    Ok(until.is_some_and(|until| now <= until))
}

//! Keys of gateways and scripts. Each acts as an account of its own, whose name stands with what it does.

use super::{
    people::{ACCOUNT, Somebody, filled, somebody},
    scopes,
    scopes::Holder,
};
use crate::ground::{
    error::{Result, StoreError},
    sql::Rows,
    tx::Tx,
};
use rusqlite::{OptionalExtension, params};
use serde::{Deserialize, Serialize};
use tally_core::{
    access::{
        accounts::Account,
        roles::{Action, Role},
    },
    ground::{ids::PersonId, time::Instant},
    plant::assets::parse_code,
};
use utoipa::ToSchema;

/// A key that is to be made.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewKey {
    /// Letters, digits, `-`, `_`, `.`: it stands with what the key does.
    pub name: String,
    pub role: Role,
    /// Code of the asset below which it reaches; everything without one.
    #[serde(default)]
    pub scope: Option<String>,
    /// From when on it is refused; never without one.
    #[serde(default)]
    pub expires_at: Option<Instant>,
}

/// A key as listed; the key itself was shown once.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct KeyRow {
    pub name: String,
    pub role: Role,
    pub scope: Option<String>,
    pub made_at: Instant,
    pub made_by: String,
    pub expires_at: Option<Instant>,
    pub used_at: Option<Instant>,
    pub revoked_at: Option<Instant>,
    /// Whether it is taken now.
    pub works: bool,
}

/// A key that was sent, and works.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct KeyUsed {
    pub account: Somebody,
    pub used_at: Option<Instant>,
}

/// Makes a key of that hash.
///
/// # Errors
/// [`StoreError::MayNot`], [`StoreError::Invalid`], [`StoreError::Conflict`] for a name that is taken.
pub fn add(tx: &mut Tx, key: &NewKey, hash: &[u8]) -> Result<()> {
    tx.require(Action::ChangeKeys)?;
    if tx.actor.account == Account::Key {
        return Err(StoreError::NotTheirs("a key makes no keys".into()));
    }
    filled("name", &key.name)?;
    let name = parse_code(&key.name).map_err(|error| StoreError::invalid("name", error))?;
    if key.expires_at.is_some_and(|at| at <= tx.now) {
        return Err(StoreError::invalid("expires_at", "is over already"));
    }
    let scope = key.scope.as_deref().map(str::trim).filter(|scope| !scope.is_empty());
    if tx.conn.prepare_cached("SELECT 1 FROM people WHERE code = ?1")?.exists([&name])? {
        return Err(StoreError::Conflict(format!("the code {name} is taken already")));
    }
    tx.conn.execute(
        "INSERT INTO people (code, name, role, account) VALUES (?1, ?1, ?2, ?3)",
        params![name, key.role, Account::Key],
    )?;
    let account = PersonId(tx.conn.last_insert_rowid());
    tx.conn.execute(
        "INSERT INTO access_keys (person_id, hash, made_at, made_by, expires_at) VALUES (?1, ?2, ?3, ?4, ?5)",
        params![account, hash, tx.now, tx.actor.id, key.expires_at],
    )?;
    scopes::set(tx, Holder::Account(account, key.role), &scope.into_iter().collect::<Vec<_>>())?;
    tx.audit("added", "key", &name, key)
}

/// Revokes a key at once and for good.
///
/// # Errors
/// [`StoreError::MayNot`], [`StoreError::NotFound`], [`StoreError::Conflict`] for one that was revoked before.
pub fn revoke(tx: &mut Tx, name: &str) -> Result<()> {
    tx.require(Action::ChangeKeys)?;
    let find =
        "SELECT k.person_id, k.revoked_at FROM access_keys k JOIN people p ON p.id = k.person_id WHERE p.code = ?1";
    let found = tx.conn.query_row(find, [name], |row| Ok((row.get(0)?, row.get(1)?))).optional()?;
    let (id, revoked): (PersonId, Option<Instant>) = found.ok_or_else(|| StoreError::not_found("key", name))?;
    if revoked.is_some() {
        return Err(StoreError::Conflict(format!("the key {name} is revoked already")));
    }
    tx.conn.execute("UPDATE access_keys SET revoked_at = ?2 WHERE person_id = ?1", params![id, tx.now])?;
    tx.conn.execute("UPDATE people SET active = 0 WHERE id = ?1", [id])?;
    tx.audit("revoked", "key", name, &())
}

/// All keys, those that work first.
///
/// # Errors
/// SQLite's own.
pub fn list(rows: &dyn Rows, now: Instant) -> Result<Vec<KeyRow>> {
    let mut select = rows.sql().conn.prepare_cached(
        "SELECT p.code, p.role, a.code AS scope, k.made_at, m.name AS made_by, k.expires_at, k.used_at, k.revoked_at
         FROM access_keys k JOIN people p ON p.id = k.person_id JOIN people m ON m.id = k.made_by
         LEFT JOIN scopes g ON g.person_id = p.id LEFT JOIN assets a ON a.id = g.asset_id ORDER BY k.revoked_at IS NOT NULL, p.code",
    )?;
    let mut found = select.query([])?;
    let mut keys = Vec::new();
    while let Some(row) = found.next()? {
        let (expires_at, revoked_at): (Option<Instant>, Option<Instant>) =
            (row.get("expires_at")?, row.get("revoked_at")?);
        keys.push(KeyRow {
            name: row.get("code")?,
            role: row.get("role")?,
            scope: row.get("scope")?,
            made_at: row.get("made_at")?,
            made_by: row.get("made_by")?,
            expires_at,
            used_at: row.get("used_at")?,
            revoked_at,
            works: revoked_at.is_none() && expires_at.is_none_or(|at| now < at),
        });
    }
    Ok(keys)
}

/// The key of that hash; none where it does not work, or never did.
///
/// # Errors
/// SQLite's own.
pub fn of_hash(rows: &dyn Rows, hash: &[u8], now: Instant) -> Result<Option<KeyUsed>> {
    let mut find = rows.sql().conn.prepare_cached(&format!(
        "SELECT {ACCOUNT}, k.used_at FROM access_keys k JOIN people p ON p.id = k.person_id
         WHERE k.hash = ?1 AND k.revoked_at IS NULL AND p.active = 1 AND (k.expires_at IS NULL OR k.expires_at > ?2)",
    ))?;
    let mut found = find.query(params![hash, now])?;
    let Some(row) = found.next()? else { return Ok(None) };
    Ok(Some(KeyUsed { account: somebody(row)?, used_at: row.get("used_at")? }))
}

/// Notes that the actor's key is used.
///
/// # Errors
/// SQLite's own.
pub fn note_used(tx: &Tx) -> Result<()> {
    let mut note = tx.conn.prepare_cached("UPDATE access_keys SET used_at = ?2 WHERE person_id = ?1")?;
    note.execute(params![tx.actor.id, tx.now])?;
    Ok(())
}

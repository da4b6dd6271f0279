//! Sessions of people who signed in. Their secret is with the browser; here is its hash.

use super::people::{self, ACCOUNT, Somebody, somebody};
use crate::ground::{
    error::{Result, StoreError},
    sql::Rows,
    tx::Tx,
};
use rusqlite::{OptionalExtension, Row, params};
use serde::Serialize;
use tally_core::{
    access::{
        roles::Action,
        sessions::{IDLE_MS, LONGEST_MS, Lasting},
    },
    ground::{ids::PersonId, time::Instant},
};
use utoipa::ToSchema;

/// A session that lasts.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Session {
    pub id: i64,
    pub person: Somebody,
    pub lasting: Lasting,
}

/// Where a session was begun from.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct From {
    /// Of the network.
    pub address: String,
    /// What the browser says it is.
    pub device: String,
}

/// A session as its person sees it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct SessionRow {
    pub id: i64,
    pub begun_at: Instant,
    pub seen_at: Instant,
    pub address: String,
    pub device: String,
    /// The one that asks.
    pub is_this: bool,
}

fn lasting(row: &Row) -> rusqlite::Result<Lasting> {
    Ok(Lasting { begun_at: row.get("begun_at")?, fresh_at: row.get("fresh_at")?, seen_at: row.get("seen_at")? })
}

/// Letters of what a browser says it is that are kept.
const LONGEST_DEVICE: usize = 200;

/// How somebody signed in.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum By {
    /// With a password, a code, a passkey.
    Secret,
    /// With their number, at a shared device: what asks for a fresh password asks for it.
    Number,
}

/// Begins a session of the actor's; its number. The one that the same browser had before, whoever's it was, ends with that; by its
/// hash, for numbers are given anew; it may have ended already.
///
/// # Errors
/// SQLite's own.
pub fn begin(tx: &Tx, hash: &[u8], from: &From, by: By, before: Option<&[u8]>) -> Result<i64> {
    let end = "DELETE FROM sessions WHERE hash = ?1 RETURNING (SELECT code FROM people WHERE id = person_id)";
    let ended: Option<String> = tx.conn.query_row(end, [before], |row| row.get(0)).optional()?;
    if let Some(whose) = ended {
        tx.audit("ended", "session", &whose, &())?;
    }
    let fresh_at = match by {
        By::Secret => tx.now,
        By::Number => Instant::EARLIEST,
    };
    let device = from.device.chars().filter(|c| !c.is_control()).take(LONGEST_DEVICE).collect::<String>();
    let from = From { device, address: from.address.clone() };
    tx.conn.execute(
        "INSERT INTO sessions (hash, person_id, begun_at, fresh_at, seen_at, address, device) VALUES (?1, ?2, ?3, ?6, ?3, ?4, ?5)",
        params![hash, tx.actor.id, tx.now, from.address, from.device, fresh_at],
    )?;
    let id = tx.conn.last_insert_rowid();
    tx.audit("signed in", "session", &tx.actor.code, &from)?;
    Ok(id)
}

/// Takes down that somebody was not let in as that person.
///
/// # Errors
/// SQLite's own.
pub fn note_refused(tx: &Tx, code: &str, from: &From) -> Result<()> {
    tx.audit("was refused", "session", code, from)
}

/// The session of that hash, with its person as they are now; none where it ended, or the person may not sign in any more.
///
/// # Errors
/// SQLite's own.
pub fn of_hash(rows: &dyn Rows, hash: &[u8], now: Instant) -> Result<Option<Session>> {
    let mut find = rows.sql().conn.prepare_cached(&format!(
        "SELECT s.id AS session, s.begun_at, s.fresh_at, s.seen_at, {ACCOUNT}
         FROM sessions s JOIN people p ON p.id = s.person_id WHERE s.hash = ?1 AND p.active = 1",
    ))?;
    let mut found = find.query([hash])?;
    let Some(row) = found.next()? else { return Ok(None) };
    let session = Session { id: row.get("session")?, person: somebody(row)?, lasting: lasting(row)? };
    Ok(Some(session).filter(|session| !session.lasting.is_over(now)))
}

/// The sessions of a person that last, the newest first.
///
/// # Errors
/// SQLite's own.
pub fn of_person(rows: &dyn Rows, person: PersonId, this: Option<i64>, now: Instant) -> Result<Vec<SessionRow>> {
    let mut select = rows.sql().conn.prepare_cached(
        "SELECT id, begun_at, fresh_at, seen_at, address, device FROM sessions WHERE person_id = ?1
         ORDER BY seen_at DESC, id DESC",
    )?;
    let mut found = select.query([person])?;
    let mut sessions = Vec::new();
    while let Some(row) = found.next()? {
        let id = row.get("id")?;
        let lasting = lasting(row)?;
        if !lasting.is_over(now) {
            sessions.push(SessionRow {
                id,
                begun_at: lasting.begun_at,
                seen_at: lasting.seen_at,
                address: row.get("address")?,
                device: row.get("device")?,
                is_this: this == Some(id),
            });
        }
    }
    Ok(sessions)
}

/// Notes that a session is used.
///
/// # Errors
/// SQLite's own.
pub fn note_seen(tx: &Tx, id: i64) -> Result<()> {
    tx.conn.prepare_cached("UPDATE sessions SET seen_at = ?2 WHERE id = ?1")?.execute(params![id, tx.now])?;
    Ok(())
}

/// Notes that the password was given again.
///
/// # Errors
/// SQLite's own.
pub fn note_fresh(tx: &Tx, id: i64) -> Result<()> {
    tx.conn.execute("UPDATE sessions SET fresh_at = ?2, seen_at = ?2 WHERE id = ?1", params![id, tx.now])?;
    tx.audit("gave the password again in", "session", &tx.actor.code, &())
}

/// Ends one of the actor's own sessions.
///
/// # Errors
/// [`StoreError::NotFound`] for one that is not theirs.
pub fn end(tx: &Tx, id: i64) -> Result<()> {
    match tx.conn.execute("DELETE FROM sessions WHERE id = ?1 AND person_id = ?2", params![id, tx.actor.id])? {
        0 => Err(StoreError::not_found("session", id)),
        _ => tx.audit("ended", "session", &tx.actor.code, &()),
    }
}

/// Ends the actor's sessions but one; how many there were.
///
/// # Errors
/// SQLite's own.
pub fn end_others(tx: &Tx, kept: i64) -> Result<usize> {
    let ended = end_of(tx, tx.actor.id, Some(kept))?;
    tx.audit("ended all others of", "session", &tx.actor.code, &ended)?;
    Ok(ended)
}

/// Ends all sessions of somebody else; how many there were.
///
/// # Errors
/// [`StoreError::MayNot`], [`StoreError::NotFound`] for a person there is not.
pub fn end_of_person(tx: &Tx, code: &str) -> Result<usize> {
    tx.require(Action::ChangePeople)?;
    let person = people::by_code(tx, code)?;
    let ended = end_of(tx, person.id, None)?;
    tx.audit("ended all of", "session", &person.code, &ended)?;
    Ok(ended)
}

/// Ends all sessions of a person but one.
pub(crate) fn end_of(tx: &Tx, person: PersonId, kept: Option<i64>) -> Result<usize> {
    Ok(tx.conn.execute("DELETE FROM sessions WHERE person_id = ?1 AND id IS NOT ?2", params![person, kept])?)
}

/// Whether there are sessions past their time.
///
/// # Errors
/// SQLite's own.
pub fn any_over(rows: &dyn Rows, now: Instant) -> Result<bool> {
    let mut find = rows.sql().conn.prepare_cached(&format!("SELECT 1 FROM sessions WHERE {OVER} LIMIT 1"))?;
    Ok(find.exists([now.plus(-IDLE_MS), now.plus(-LONGEST_MS)])?)
}

/// As [`Lasting::is_over`] says.
const OVER: &str = "seen_at < ?1 OR begun_at < ?2";

/// Forgets the sessions past their time.
///
/// # Errors
/// SQLite's own.
pub fn forget_over(tx: &Tx) -> Result<usize> {
    let (idle, longest) = (tx.now.plus(-IDLE_MS), tx.now.plus(-LONGEST_MS));
    Ok(tx.conn.execute(&format!("DELETE FROM sessions WHERE {OVER}"), [idle, longest])?)
}

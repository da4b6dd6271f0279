//! Mail to people: written in the transaction of what it tells of, sent by a job afterwards. Nothing is sent from inside a
//! transaction, and nothing is lost or sent twice after a crash: a message's file is named by its number.

use crate::{
    access::people,
    ground::{
        error::{Result, StoreError},
        sql::Rows,
        tx::Tx,
    },
};
use rusqlite::{Row, params};
use serde::Serialize;
use tally_core::ground::{
    ids::{MeterId, WorkOrderId},
    time::Instant,
};
use utoipa::ToSchema;

/// A message to write.
#[derive(Debug)]
pub(crate) struct Mail<'a> {
    /// Code of the person.
    pub person: &'a str,
    pub subject: &'a str,
    pub body: &'a str,
    pub meter: MeterId,
    pub work: Option<WorkOrderId>,
}

/// A message as listed and sent.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Message {
    pub id: i64,
    pub at: Instant,
    pub person: String,
    pub person_name: String,
    /// Where it goes; none for somebody who reads it here.
    pub mail: Option<String>,
    pub subject: String,
    pub body: String,
    /// Code.
    pub meter: Option<String>,
    pub work_order: Option<WorkOrderId>,
    pub sent_at: Option<Instant>,
    /// Its file in the data folder.
    pub file: Option<String>,
    /// Why it can't be sent.
    pub failed: Option<String>,
}

/// Puts a message into the outbox. A person who has left is told nothing.
pub(crate) fn put(tx: &Tx, mail: &Mail) -> Result<()> {
    let person = match people::by_code(tx.conn, mail.person) {
        Ok(person) => person.id,
        Err(StoreError::NotFound { .. }) => return Ok(()),
        Err(error) => return Err(error),
    };
    let mut insert = tx.conn.prepare_cached(
        "INSERT INTO outbox (at, person_id, subject, body, meter_id, work_order) VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
    )?;
    let work = mail.work.map(|work| work.0);
    insert.execute(params![tx.now, person, mail.subject, mail.body, mail.meter, work])?;
    Ok(())
}

const SELECT: &str = "SELECT o.*, p.code AS person, p.name AS person_name, p.mail, m.code AS meter
    FROM outbox o JOIN people p ON p.id = o.person_id LEFT JOIN meters m ON m.id = o.meter_id";

fn message(row: &Row) -> rusqlite::Result<Message> {
    Ok(Message {
        id: row.get("id")?,
        at: row.get("at")?,
        person: row.get("person")?,
        person_name: row.get("person_name")?,
        mail: row.get("mail")?,
        subject: row.get("subject")?,
        body: row.get("body")?,
        meter: row.get("meter")?,
        work_order: row.get("work_order")?,
        sent_at: row.get("sent_at")?,
        file: row.get("file")?,
        failed: row.get("failed")?,
    })
}

/// A part of the outbox, newest first.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct MessagePage {
    pub messages: Vec<Message>,
    pub total: usize,
    /// Messages older than this come next.
    pub next_cursor: Option<String>,
}

/// Messages before the one of that number, newest first, at most `limit`; of one work order where it is given.
///
/// # Errors
/// SQLite's own.
pub fn list(rows: &dyn Rows, work: Option<WorkOrderId>, before: Option<i64>, limit: usize) -> Result<MessagePage> {
    let conn = rows.sql().conn;
    let work = work.map(|work| work.0);
    let mut select = conn.prepare_cached(&format!(
        "{SELECT} WHERE (?1 IS NULL OR o.work_order = ?1) AND o.id < ?2 ORDER BY o.id DESC LIMIT ?3"
    ))?;
    let rows = select.query_map(params![work, before.unwrap_or(i64::MAX), limit], message)?;
    let messages = rows.collect::<rusqlite::Result<Vec<_>>>()?;
    let total = conn
        .prepare_cached("SELECT count(*) FROM outbox WHERE ?1 IS NULL OR work_order = ?1")?
        .query_row([work], |row| row.get(0))?;
    let next_cursor = if messages.len() == limit { messages.last().map(|last| last.id.to_string()) } else { None };
    Ok(MessagePage { messages, total, next_cursor })
}

/// Messages that are not sent yet, oldest first.
///
/// # Errors
/// SQLite's own.
pub fn unsent(rows: &dyn Rows, limit: usize) -> Result<Vec<Message>> {
    let conn = rows.sql().conn;
    let mut select =
        conn.prepare_cached(&format!("{SELECT} WHERE o.sent_at IS NULL AND o.failed IS NULL ORDER BY o.id LIMIT ?1"))?;
    Ok(select.query_map([limit], message)?.collect::<rusqlite::Result<_>>()?)
}

/// Notes that a message's file is written.
///
/// # Errors
/// SQLite's own.
pub fn sent(tx: &mut Tx, id: i64, file: &str) -> Result<()> {
    tx.conn.execute(
        "UPDATE outbox SET sent_at = ?2, file = ?3 WHERE id = ?1 AND sent_at IS NULL",
        params![id, tx.now, file],
    )?;
    Ok(())
}

/// Notes that a message can't be sent, and why.
///
/// # Errors
/// SQLite's own.
pub fn failed(tx: &mut Tx, id: i64, reason: &str) -> Result<()> {
    tx.conn.execute("UPDATE outbox SET failed = ?2 WHERE id = ?1 AND sent_at IS NULL", params![id, reason])?;
    Ok(())
}

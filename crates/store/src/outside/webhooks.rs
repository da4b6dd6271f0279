//! Outgoing webhooks: events are written in the transaction they happen in, and delivered by a job afterwards, each once
//! by its id, with back-off while the receiver does not answer.

use crate::ground::{
    error::{Result, StoreError},
    rows::to_json,
    sql::Rows,
    tx::Tx,
    view::View,
};
use rusqlite::{Row, params};
use serde::{Deserialize, Serialize};
use tally_core::{
    access::roles::Action,
    ground::time::{Instant, SECOND},
};
use utoipa::ToSchema;

/// Waits after each failed attempt, in seconds; after the last it is given up.
const BACK_OFF_S: [i64; 7] = [10, 60, 300, 1_800, 7_200, 21_600, 86_400];

/// An address to tell.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct NewWebhook {
    /// Such as `http://127.0.0.1:8430/`.
    pub url: String,
    /// Signs what is sent, so that the receiver knows from whom it is; 16 characters at the least.
    pub secret: String,
}

/// An address as listed; its secret is told to nobody.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct WebhookRow {
    pub id: i64,
    pub url: String,
    pub active: bool,
    pub waiting: i64,
    pub failed: i64,
    pub delivered: i64,
}

/// One event for one address, as listed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct DeliveryRow {
    pub id: i64,
    pub event: i64,
    pub url: String,
    pub kind: String,
    pub at: Instant,
    pub attempts: i64,
    pub next_at: Option<Instant>,
    pub delivered_at: Option<Instant>,
    pub last_error: Option<String>,
}

/// A delivery to try now.
#[derive(Debug, Clone)]
pub struct Due {
    pub delivery: i64,
    pub event: i64,
    pub kind: String,
    pub url: String,
    pub secret: String,
    /// The JSON to send.
    pub payload: String,
}

/// Writes an event for every active address; nothing where there is none.
pub(crate) fn emit(tx: &Tx, kind: &str, payload: &impl Serialize) -> Result<()> {
    if !tx.conn.prepare_cached("SELECT 1 FROM webhooks WHERE active = 1")?.exists([])? {
        return Ok(());
    }
    tx.conn.prepare_cached("INSERT INTO events (at, kind, payload) VALUES (?1, ?2, ?3)")?.execute(params![
        tx.now,
        kind,
        to_json(payload)
    ])?;
    let event = tx.conn.last_insert_rowid();
    tx.conn
        .prepare_cached(
            "INSERT INTO deliveries (webhook_id, event_id, next_at) SELECT id, ?1, ?2 FROM webhooks WHERE active = 1",
        )?
        .execute(params![event, tx.now])?;
    Ok(())
}

/// A plain address: `https://` or `http://`, a host, no user, nothing that is no letter of an address (RFC 3986).
fn check_url(url: &str) -> std::result::Result<(), &'static str> {
    let rest = url.strip_prefix("https://").or_else(|| url.strip_prefix("http://"));
    let rest = rest.ok_or("give an address that starts with https:// or http://")?;
    let host = rest.split(['/', '?', '#']).next().unwrap_or_default();
    if host.is_empty() || host.starts_with(':') {
        return Err("give an address that starts with https:// or http:// and a host");
    }
    if host.contains('@') {
        return Err("an address may not hold a user or a password");
    }
    if url.len() > 2_000
        || url.chars().any(|letter| letter.is_control() || letter.is_whitespace() || !letter.is_ascii())
    {
        return Err("an address has at most 2,000 plain letters, and no blanks");
    }
    Ok(())
}

/// Adds an address.
///
/// # Errors
/// [`StoreError::Invalid`] for an address that is no `https://` or `http://` one, or a short secret.
pub fn add(tx: &mut Tx, new: &NewWebhook) -> Result<i64> {
    tx.require(Action::ChangeMasterData)?;
    let url = new.url.trim();
    check_url(url).map_err(|reason| StoreError::invalid("url", reason))?;
    if new.secret.len() < 16 {
        return Err(StoreError::invalid("secret", "needs 16 characters at the least"));
    }
    tx.conn.execute(
        "INSERT INTO webhooks (url, secret, recorded_at, recorded_by) VALUES (?1, ?2, ?3, ?4)",
        params![url, new.secret, tx.now, tx.actor.id],
    )?;
    let id = tx.conn.last_insert_rowid();
    tx.audit("added", "webhook", &id.to_string(), &url)?;
    Ok(id)
}

/// Tells an address nothing any more; what waits is given up.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn stop(tx: &mut Tx, id: i64) -> Result<()> {
    tx.require(Action::ChangeMasterData)?;
    if tx.conn.execute("UPDATE webhooks SET active = 0 WHERE id = ?1 AND active = 1", [id])? == 0 {
        return Err(StoreError::not_found("webhook", id));
    }
    tx.conn.execute(
        "UPDATE deliveries SET next_at = NULL, last_error = 'stopped' WHERE webhook_id = ?1 AND next_at IS NOT NULL",
        [id],
    )?;
    tx.audit("stopped", "webhook", &id.to_string(), &())
}

/// All addresses with how their deliveries stand.
///
/// # Errors
/// SQLite's own.
pub fn list(rows: &dyn Rows) -> Result<Vec<WebhookRow>> {
    let conn = rows.sql().conn;
    let mut select = conn.prepare_cached(
        "SELECT w.id, w.url, w.active, ifnull(sum(d.next_at IS NOT NULL), 0),
                ifnull(sum(d.next_at IS NULL AND d.delivered_at IS NULL), 0), ifnull(sum(d.delivered_at IS NOT NULL), 0)
         FROM webhooks w LEFT JOIN deliveries d ON d.webhook_id = w.id GROUP BY w.id ORDER BY w.active DESC, w.id DESC",
    )?;
    let rows = select.query_map([], |row| {
        Ok(WebhookRow {
            id: row.get(0)?,
            url: row.get(1)?,
            active: row.get(2)?,
            waiting: row.get(3)?,
            failed: row.get(4)?,
            delivered: row.get(5)?,
        })
    })?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

fn delivery(row: &Row) -> rusqlite::Result<DeliveryRow> {
    Ok(DeliveryRow {
        id: row.get("id")?,
        event: row.get("event_id")?,
        url: row.get("url")?,
        kind: row.get("kind")?,
        at: row.get("at")?,
        attempts: row.get("attempts")?,
        next_at: row.get("next_at")?,
        delivered_at: row.get("delivered_at")?,
        last_error: row.get("last_error")?,
    })
}

/// The newest deliveries, at most `limit`.
///
/// # Errors
/// SQLite's own.
pub fn log(rows: &dyn Rows, limit: usize) -> Result<Vec<DeliveryRow>> {
    let conn = rows.sql().conn;
    let mut select = conn.prepare_cached(
        "SELECT d.*, w.url, e.kind, e.at FROM deliveries d JOIN webhooks w ON w.id = d.webhook_id
         JOIN events e ON e.id = d.event_id ORDER BY d.id DESC LIMIT ?1",
    )?;
    Ok(select.query_map([limit], delivery)?.collect::<rusqlite::Result<_>>()?)
}

/// Deliveries to try now, oldest first.
///
/// # Errors
/// SQLite's own.
pub fn due(view: &View, limit: usize) -> Result<Vec<Due>> {
    let conn = view.conn;
    let now = view.now;
    let mut select = conn.prepare_cached(
        "SELECT d.id, d.event_id, e.kind, w.url, w.secret,
                json_object('id', e.id, 'kind', e.kind, 'at', e.at, 'data', json(e.payload)) AS payload
         FROM deliveries d JOIN webhooks w ON w.id = d.webhook_id JOIN events e ON e.id = d.event_id
         WHERE d.next_at <= ?1 ORDER BY d.id LIMIT ?2",
    )?;
    let rows = select.query_map(params![now, limit], |row| {
        Ok(Due {
            delivery: row.get(0)?,
            event: row.get(1)?,
            kind: row.get(2)?,
            url: row.get(3)?,
            secret: row.get(4)?,
            payload: row.get(5)?,
        })
    })?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

/// Takes down how an attempt went: delivered, or why not and when to try again.
///
/// # Errors
/// SQLite's own.
pub fn tried(tx: &mut Tx, delivery: i64, error: Option<&str>) -> Result<()> {
    let attempts: i64 =
        tx.conn.query_row("SELECT attempts FROM deliveries WHERE id = ?1", [delivery], |row| row.get(0))?;
    let wait = usize::try_from(attempts).ok().and_then(|place| BACK_OFF_S.get(place));
    let next = error.and(wait).map(|seconds| tx.now.plus(seconds * SECOND).ms());
    let delivered = error.is_none().then_some(tx.now.ms());
    tx.conn.execute(
        "UPDATE deliveries SET attempts = attempts + 1, next_at = ?2, delivered_at = ?3, last_error = ?4 WHERE id = ?1",
        params![delivery, next, delivered, error],
    )?;
    Ok(())
}

/// Sends a delivery again, whatever became of it.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn resend(tx: &mut Tx, delivery: i64) -> Result<()> {
    tx.require(Action::ChangeMasterData)?;
    let found = tx.conn.execute(
        "UPDATE deliveries SET attempts = 0, next_at = ?2, delivered_at = NULL WHERE id = ?1",
        params![delivery, tx.now],
    )?;
    if found == 0 {
        return Err(StoreError::not_found("delivery", delivery));
    }
    tx.audit("sent again", "delivery", &delivery.to_string(), &())
}

/// Sends everything again that was given up on for an address; how much that is.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn resend_failed(tx: &mut Tx, webhook: i64) -> Result<usize> {
    tx.require(Action::ChangeMasterData)?;
    let is_there = tx.conn.prepare_cached("SELECT 1 FROM webhooks WHERE id = ?1 AND active = 1")?.exists([webhook])?;
    if !is_there {
        return Err(StoreError::not_found("webhook", webhook));
    }
    let again = tx.conn.execute(
        "UPDATE deliveries SET attempts = 0, next_at = ?2
         WHERE webhook_id = ?1 AND next_at IS NULL AND delivered_at IS NULL",
        params![webhook, tx.now],
    )?;
    tx.audit("sent again", "webhook", &webhook.to_string(), &again)?;
    Ok(again)
}

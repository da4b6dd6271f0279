//! Who changed what of master data, and when.

use super::{FieldChange, Kind};
use crate::ground::{
    error::Result,
    rows::{from_json, to_json},
    sql::Rows,
};
use rusqlite::params;
use serde::Serialize;
use tally_core::ground::time::Instant;
use utoipa::ToSchema;

/// One line of the audit trail.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct ChangeRow {
    pub at: Instant,
    pub person: String,
    /// `added`, `changed`, `moved`, …
    pub action: String,
    pub kind: String,
    pub code: String,
    pub changes: Vec<FieldChange>,
    /// What was given as the reason, where one was asked for.
    pub reason: Option<String>,
}

/// Which changes are asked for.
#[derive(Debug, Clone, Copy, Default)]
pub struct AskedChanges<'a> {
    pub kind: Option<Kind>,
    pub code: Option<&'a str>,
    /// Words that all stand in what was done, to what, or by whom.
    pub text: Option<&'a str>,
}

/// Words that are looked for at the most.
const WORDS: usize = 4;

/// The newest changes first: of one row, of one kind, or of everything that is set up. An asset's include those under its
/// old codes.
///
/// # Errors
/// SQLite's own.
pub fn history(rows: &dyn Rows, asked: AskedChanges, limit: usize) -> Result<Vec<ChangeRow>> {
    let conn = rows.sql().conn;
    let words = asked.text.unwrap_or_default().split_whitespace().take(WORDS).map(str::to_lowercase);
    let words = words.collect::<Vec<_>>();
    let mut select = conn.prepare_cached(
        "SELECT t.at, p.name AS person, t.action, t.subject_kind, t.subject, t.detail
         FROM audit t JOIN people p ON p.id = t.person_id
         WHERE t.subject_kind <> 'work order' AND (?1 IS NULL OR t.subject_kind = ?1)
           AND (?2 IS NULL OR t.subject = ?2 OR (t.subject_kind = 'asset' AND t.subject IN (
               SELECT o.code FROM old_asset_codes o JOIN assets a ON a.id = o.asset_id WHERE a.code = ?2)))
           AND NOT EXISTS (SELECT 1 FROM json_each(?4) word WHERE instr(
               lower(t.action || ' ' || t.subject_kind || ' ' || t.subject || ' ' || p.name), word.value) = 0)
         ORDER BY t.id DESC LIMIT ?3",
    )?;
    let mut rows = select.query(params![asked.kind.map(Kind::noun), asked.code, limit, to_json(&words)])?;
    let mut found = Vec::new();
    while let Some(row) = rows.next()? {
        let detail: serde_json::Value = from_json("audit", &row.get::<_, String>("detail")?)?;
        // Only a list is one of changed fields; what else is kept is the whole of what was given.
        let changes = detail.is_array().then(|| serde_json::from_value(detail.clone()).ok()).flatten();
        found.push(ChangeRow {
            at: row.get("at")?,
            person: row.get("person")?,
            action: row.get("action")?,
            kind: row.get("subject_kind")?,
            code: row.get("subject")?,
            changes: changes.unwrap_or_default(),
            reason: detail.get("reason").and_then(|reason| reason.as_str()).map(String::from),
        });
    }
    Ok(found)
}

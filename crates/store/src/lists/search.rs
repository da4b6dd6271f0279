//! The jump box: assets, meters, work, codebooks and their codes by a few letters.

use super::{answer::numbers_that_begin_with, letters::Letters};
use crate::ground::{error::Result, view::View};
use rusqlite::params;
use serde::Serialize;
use tally_core::access::seen::Topic;
use utoipa::ToSchema;

/// Something that was found.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Hit {
    /// `asset`, `meter`, `work_order`, `codebook` or `code`.
    pub kind: String,
    /// Code or number; for a code that of its codebook.
    pub code: String,
    pub name: String,
    /// Where it is: the asset of a meter or of work.
    pub place: Option<String>,
}

/// Rows that are put in order at the most: of letters that so many have, the first that have them.
const MOST_ORDERED: usize = 5_000;

/// Names that are looked through for a letter or two, which no index knows.
const MOST_READ: usize = 20_000;

/// Ids of rows of `table` that have the letters: those whose code begins with them, and those that have them anywhere.
fn ids(table: &str, letters: &Letters) -> String {
    let begin = format!(
        "SELECT * FROM (SELECT id FROM {table} WHERE lower(code) >= lower(?1) AND lower(code) < lower(?1) || char(0x10FFFF)
         LIMIT {MOST_ORDERED})"
    );
    let have = if letters.phrase.is_some() {
        format!("SELECT rowid FROM search_{table} WHERE search_{table} MATCH ?3 LIMIT {MOST_ORDERED}")
    } else {
        format!(
            "SELECT id FROM (SELECT id, name FROM {table} LIMIT {MOST_READ}) WHERE instr(lower(name), lower(?1)) > 0"
        )
    };
    format!("{begin} UNION SELECT * FROM ({have})")
}

/// A condition for work whose number is, or begins with, what was typed.
fn numbered(letters: &Letters) -> String {
    let Some(number) = letters.number() else { return "0".into() };
    numbers_that_begin_with(number)
        .map(|(from, to)| format!("w.number BETWEEN {from} AND {to}"))
        .collect::<Vec<_>>()
        .join(" OR ")
}

/// What has `text` in its code or name, codes that begin with it first, at most `limit` of each kind; of work what is seen,
/// the newest first, and meters where they are. Capitals and accents make no difference.
///
/// Cost hangs on what is found, not on what there is: the index of letters leads to it. Fewer than three letters it does not
/// know; they find codes that begin with them, numbers, and what has them among the first (of work the newest) 20,000 names.
///
/// # Errors
/// SQLite's own.
pub fn find(view: &View, text: &str, limit: usize) -> Result<Vec<Hit>> {
    let conn = view.conn;
    let Some(letters) = Letters::of(text) else { return Ok(Vec::new()) };
    let phrase = letters.phrase.as_deref();
    let of_work = if view.viewer.sees(Topic::Work) { view.viewer.condition("w") } else { "0".into() };
    // The newest come first, so that the first few are all that is read.
    let (titled, order, condition) = if phrase.is_some() {
        ("search_work".to_owned(), "search_work.rowid", "search_work MATCH ?3")
    } else {
        let newest = format!("SELECT number, title FROM work_orders ORDER BY number DESC LIMIT {MOST_READ}");
        (format!("({newest}) t"), "t.number", "instr(lower(t.title), lower(?1)) > 0")
    };
    let number = numbered(&letters);
    let mut hits = Vec::new();
    for sql in [
        &format!(
            "SELECT 'asset', code, name, NULL FROM assets WHERE id IN ({}) AND retired_at IS NULL AND {}
             ORDER BY instr(lower(code), lower(?1)) <> 1, length(name), code LIMIT ?2",
            ids("assets", &letters),
            view.viewer.reaches("assets.id"),
        ),
        &format!(
            "SELECT 'meter', m.code, m.name, a.name FROM meters m JOIN assets a ON a.id = m.asset_id
             WHERE {} AND {} AND m.retired_at IS NULL AND m.id IN (
                 {} UNION SELECT id FROM meters WHERE asset_id IN ({}))
             ORDER BY instr(lower(m.code), lower(?1)) <> 1, length(m.name), m.code LIMIT ?2",
            u8::from(view.viewer.sees(Topic::Meters)),
            view.viewer.reaches("m.asset_id"),
            ids("meters", &letters),
            ids("assets", &letters),
        ),
        &format!(
            "SELECT 'work_order', CAST(number AS TEXT), title, place FROM (
                 SELECT * FROM (SELECT w.number, w.title, a.name AS place FROM work_orders w
                     JOIN assets a ON a.id = w.asset_id
                     WHERE ({number}) AND {of_work} ORDER BY w.number DESC LIMIT ?2)
                 UNION
                 SELECT * FROM (SELECT w.number, w.title, a.name FROM {titled}
                     CROSS JOIN work_orders w ON w.number = {order} JOIN assets a ON a.id = w.asset_id
                     WHERE {condition} AND {of_work} ORDER BY {order} DESC LIMIT ?2))
             ORDER BY CAST(number AS TEXT) <> ?1, number DESC LIMIT ?2"
        ),
        "SELECT 'codebook', code, name, NULL FROM codebooks
         WHERE instr(lower(code || ' ' || name), lower(?1)) > 0 ORDER BY name LIMIT ?2",
        "SELECT 'code', b.code, c.name, c.level || ' of ' || b.name FROM codes c JOIN codebooks b ON b.id = c.codebook_id
         WHERE c.status = 'active' AND instr(lower(c.code || ' ' || c.name), lower(?1)) > 0
         ORDER BY length(c.name), c.name, b.name LIMIT ?2",
    ] {
        let mut select = conn.prepare_cached(sql)?;
        // A statement takes as many values as it has places for.
        let all = params![letters.text, limit, phrase];
        let places = select.parameter_count();
        let rows = select.query_map(&all[..places], |row| {
            Ok(Hit { kind: row.get(0)?, code: row.get(1)?, name: row.get(2)?, place: row.get(3)? })
        })?;
        for hit in rows {
            hits.push(hit?);
        }
    }
    Ok(hits)
}

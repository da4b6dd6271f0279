//! The jump box: assets, meters, work, codebooks and their codes by a few letters.

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

/// What has `text` in its code or name, codes that begin with it first, at most `limit` of each kind; of work what is seen,
/// and meters where they are.
///
/// # Errors
/// SQLite's own.
pub fn find(view: &View, text: &str, limit: usize) -> Result<Vec<Hit>> {
    let conn = view.conn;
    let text = text.trim();
    if text.is_empty() {
        return Ok(Vec::new());
    }
    let mut hits = Vec::new();
    let of_work = if view.viewer.sees(Topic::Work) { view.viewer.condition("w") } else { "0".into() };
    for sql in [
        "SELECT 'asset', code, name, NULL FROM assets
         WHERE retired_at IS NULL AND instr(lower(code || ' ' || name), lower(?1)) > 0
         ORDER BY instr(lower(code), lower(?1)) <> 1, length(name), code LIMIT ?2",
        &format!(
            "SELECT 'meter', m.code, m.name, a.name FROM meters m JOIN assets a ON a.id = m.asset_id
             WHERE {} AND m.retired_at IS NULL AND instr(lower(m.code || ' ' || m.name || ' ' || a.name), lower(?1)) > 0
             ORDER BY instr(lower(m.code), lower(?1)) <> 1, length(m.name), m.code LIMIT ?2",
            u8::from(view.viewer.sees(Topic::Meters))
        ),
        &format!(
            "SELECT 'work_order', CAST(w.number AS TEXT), w.title, a.name FROM work_orders w
             JOIN assets a ON a.id = w.asset_id
             WHERE {of_work} AND instr(lower(w.number || ' ' || w.title), lower(?1)) > 0
             ORDER BY CAST(w.number AS TEXT) <> ?1, w.raised_at DESC LIMIT ?2"
        ),
        "SELECT 'codebook', code, name, NULL FROM codebooks
         WHERE instr(lower(code || ' ' || name), lower(?1)) > 0 ORDER BY name LIMIT ?2",
        "SELECT 'code', b.code, c.name, c.level || ' of ' || b.name FROM codes c JOIN codebooks b ON b.id = c.codebook_id
         WHERE c.status = 'active' AND instr(lower(c.code || ' ' || c.name), lower(?1)) > 0
         ORDER BY length(c.name), c.name, b.name LIMIT ?2",
    ] {
        let mut select = conn.prepare_cached(sql)?;
        let rows = select.query_map(params![text, limit], |row| {
            Ok(Hit { kind: row.get(0)?, code: row.get(1)?, name: row.get(2)?, place: row.get(3)? })
        })?;
        for hit in rows {
            hits.push(hit?);
        }
    }
    Ok(hits)
}

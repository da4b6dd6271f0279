//! What a key reaches: all below one asset, or everything.

use crate::ground::{error::Result, tx::Tx};
use rusqlite::params;

/// Whether the meter of that code is read below the asset that the actor is bounded by; there may be no such meter.
///
/// # Errors
/// SQLite's own.
pub(crate) fn reaches_meter(tx: &Tx, code: &str) -> Result<bool> {
    let Some(scope) = tx.actor.scope else { return Ok(true) };
    let mut find = tx.conn.prepare_cached(
        "WITH RECURSIVE line (id) AS (
             SELECT asset_id FROM meters WHERE code = ?1
             UNION SELECT p.parent_id FROM placements p JOIN line ON p.asset_id = line.id
             WHERE p.parent_id IS NOT NULL AND p.from_at <= ?2 AND (p.to_at IS NULL OR p.to_at > ?2))
         SELECT 1 FROM line WHERE id = ?3",
    )?;
    Ok(find.exists(params![code, tx.now, scope])?)
}

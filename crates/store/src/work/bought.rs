//! What is bought and of whom: called by its name, and known from the first entry that names it.

use crate::ground::{error::Result, sql::Rows, tx::Tx};
use rusqlite::{OptionalExtension, params};

/// Things that have names.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Bought {
    Item,
    Supplier,
}

impl Bought {
    fn table(self) -> &'static str {
        match self {
            Self::Item => "items",
            Self::Supplier => "suppliers",
        }
    }
}

/// The id of that name, which is new where nothing has it.
pub(crate) fn id_of(tx: &Tx, what: Bought, name: Option<&str>) -> Result<Option<i64>> {
    let Some(name) = name else { return Ok(None) };
    let table = what.table();
    let mut select = tx.conn.prepare_cached(&format!("SELECT id FROM {table} WHERE name = ?1"))?;
    if let Some(id) = select.query_row([name], |row| row.get(0)).optional()? {
        return Ok(Some(id));
    }
    tx.conn.prepare_cached(&format!("INSERT INTO {table} (name) VALUES (?1)"))?.execute([name])?;
    Ok(Some(tx.conn.last_insert_rowid()))
}

/// Names that have the letters, in their order.
///
/// # Errors
/// SQLite's own.
pub fn names(rows: &dyn Rows, what: Bought, letters: &str, most: usize) -> Result<Vec<String>> {
    let table = what.table();
    let mut select = rows.sql().conn.prepare_cached(&format!(
        "SELECT name FROM {table} WHERE instr(lower(name), lower(?1)) > 0 ORDER BY name COLLATE NOCASE LIMIT ?2"
    ))?;
    let found = select.query_map(params![letters.trim(), most], |row| row.get(0))?;
    Ok(found.collect::<rusqlite::Result<_>>()?)
}

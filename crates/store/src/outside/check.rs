//! Whether the data is sound: as SQLite sees it, and by what is kept twice.

use crate::{
    ground::{
        error::{Result, StoreError},
        files::{Files, Size},
        migrations, pool,
    },
    watch::readings::check_blocks,
};
use rusqlite::Connection;
use serde::Serialize;
use std::path::Path;

/// One thing that was looked at.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Checked {
    pub what: &'static str,
    /// What is wrong, the first few of it; none where all is well.
    pub faults: Vec<String>,
}

/// Faults told at the most.
const MOST: usize = 20;

/// Sums that are kept beside the rows they are of: what differs, as a sentence each.
const KEPT: [(&str, &str); 3] = [
    (
        "hours and cost of orders are those of their entries",
        "SELECT 'order ' || w.number || ' keeps ' || w.cost || ' and ' || w.spent_ms || ' ms, its entries come to '
             || ifnull(sum(e.amount), 0) || ' and ' || ifnull(sum(e.hours_ms), 0) || ' ms'
         FROM work_orders w LEFT JOIN entries e ON e.work_order = w.number GROUP BY w.number
         HAVING w.cost <> ifnull(sum(e.amount), 0) OR w.spent_ms <> ifnull(sum(e.hours_ms), 0)",
    ),
    (
        "counts of readings are those of their rows and blocks",
        "SELECT 'meter ' || m.code || ' keeps ' || c.readings || ' readings, of them ' || c.in_rows || ' as rows; there are '
             || (r.rows + b.sealed) || ', of them ' || r.rows
         FROM reading_counts c JOIN meters m ON m.id = c.meter_id
         JOIN (SELECT m.id, count(r.at) AS rows FROM meters m LEFT JOIN readings r ON r.meter_id = m.id GROUP BY m.id) r
             ON r.id = m.id
         JOIN (SELECT m.id, ifnull(sum(b.readings), 0) AS sealed FROM meters m
             LEFT JOIN reading_blocks b ON b.meter_id = m.id GROUP BY m.id) b ON b.id = m.id
         WHERE c.readings <> r.rows + b.sealed OR c.in_rows <> r.rows",
    ),
    (
        "orders stand in the state of their last move",
        "SELECT 'order ' || w.number || ' stands as ' || w.state || ', its last move was to ' || ifnull(s.to_state, 'none')
         FROM work_orders w LEFT JOIN state_changes s ON s.id = (SELECT l.id FROM state_changes l
             WHERE l.work_order = w.number ORDER BY l.at DESC, l.id DESC LIMIT 1)
         WHERE w.state IS NOT s.to_state",
    ),
];

fn texts(conn: &Connection, sql: &str) -> Result<Vec<String>> {
    let mut select = conn.prepare(sql)?;
    let found = select.query_map([], |row| row.get(0))?.take(MOST);
    Ok(found.collect::<rusqlite::Result<_>>()?)
}

/// Files that a row names and that are not there, or hold something else.
fn files_lost(conn: &Connection, files: &Files) -> Result<Vec<String>> {
    let mut select = conn.prepare("SELECT name FROM files ORDER BY id")?;
    let names = select.query_map([], |row| row.get::<_, String>(0))?;
    let mut faults = Vec::new();
    for name in names {
        let name = name?;
        match files.get(&name, Size::Whole) {
            Ok(bytes) if Files::name(&bytes) == name => {}
            Ok(_) => faults.push(format!("{} holds something else", files.path(&name, Size::Whole).display())),
            Err(error) => faults.push(error.to_string()),
        }
        if faults.len() == MOST {
            break;
        }
    }
    Ok(faults)
}

/// What SQLite finds wrong: torn pages, and unless it is `quick` indexes that do not fit their rows.
///
/// # Errors
/// SQLite's own.
pub(crate) fn sound(conn: &Connection, quick: bool) -> Result<Vec<String>> {
    let sql = if quick { "PRAGMA quick_check" } else { "PRAGMA integrity_check" };
    Ok(texts(conn, sql)?.into_iter().filter(|line| line != "ok").collect())
}

/// Looks through all data of a database, one state of it, while others may write.
///
/// # Errors
/// [`StoreError::Newer`] for a database of a newer version, SQLite's own for one that can't be read at all.
pub fn check(database: &Path) -> Result<Vec<Checked>> {
    if !database.exists() {
        return Err(StoreError::not_found("database", database.display()));
    }
    let conn = pool::reader(database)?;
    if migrations::version(&conn)? > migrations::latest() {
        return Err(StoreError::Newer);
    }
    conn.execute_batch("BEGIN")?;
    let mut all = vec![Checked { what: "pages and indexes", faults: sound(&conn, false)? }];
    let dangling =
        "SELECT \"table\" || ' row ' || ifnull(rowid, '?') || ' names no ' || parent FROM pragma_foreign_key_check";
    all.push(Checked { what: "references", faults: texts(&conn, dangling)? });
    all.push(Checked { what: "blocks of readings", faults: check_blocks(&conn, MOST)? });
    if migrations::has_table(&conn, "files")? {
        all.push(Checked { what: "files beside the database", faults: files_lost(&conn, &Files::beside(database))? });
    }
    for (what, sql) in KEPT {
        all.push(Checked { what, faults: texts(&conn, sql)? });
    }
    Ok(all)
}

//! The schema, in numbered steps that only go forward.

use crate::ground::error::{Result, StoreError};
use rusqlite::Connection;
use rusqlite_migration::{M, Migrations};

const STEPS: &[M] = &[
    M::up(include_str!("migrations/0001_thread.sql")),
    M::up(include_str!("migrations/0002_setup.sql")),
    M::up(include_str!("migrations/0003_answers.sql")),
    M::up(include_str!("migrations/0004_mended.sql")),
    M::up(include_str!("migrations/0005_sound.sql")),
    M::up(include_str!("migrations/0006_keys.sql")),
    M::up(include_str!("migrations/0007_points.sql")),
    M::up(include_str!("migrations/0008_search.sql")),
    M::up(include_str!("migrations/0009_facts.sql")),
    M::up(include_str!("migrations/0010_views.sql")),
    M::up(include_str!("migrations/0011_words.sql")),
    M::up(include_str!("migrations/0012_then.sql")),
    M::up(include_str!("migrations/0013_whole.sql")),
    M::up(include_str!("migrations/0014_access.sql")),
    M::up(include_str!("migrations/0015_scopes.sql")),
    M::up(include_str!("migrations/0016_passkeys.sql")),
    M::up(include_str!("migrations/0017_pins.sql")),
    M::up(include_str!("migrations/0018_reported.sql")),
    M::up(include_str!("migrations/0019_several.sql")),
    M::up(include_str!("migrations/0020_week.sql")),
    M::up(include_str!("migrations/0021_upkeep.sql")),
    M::up(include_str!("migrations/0022_jobs.sql")),
    M::up(include_str!("migrations/0023_decisions.sql")),
    M::up(include_str!("migrations/0024_cycles.sql")),
    M::up(include_str!("migrations/0025_follow_on.sql")),
    M::up(include_str!("migrations/0026_storeroom.sql")),
    M::up(include_str!("migrations/0027_conflicts.sql")),
    M::up(include_str!("migrations/0028_feeds.sql")),
    M::up(include_str!("migrations/0029_classes.sql")),
    M::up(include_str!("migrations/0030_files.sql")),
    M::up(include_str!("migrations/0031_checks.sql")),
    M::up(include_str!("migrations/0032_rounds.sql")),
    M::up(include_str!("migrations/0033_shift.sql")),
    M::up(include_str!("migrations/0034_step_hours.sql")),
    M::up(include_str!("migrations/0035_doing.sql")),
    M::up(include_str!("migrations/0036_done_earlier.sql")),
    M::up(include_str!("migrations/0037_when_attached.sql")),
    M::up(include_str!("migrations/0038_column_file.sql")),
    M::up(include_str!("migrations/0039_run_on_ends.sql")),
    M::up(include_str!("migrations/0040_counters_that_hold.sql")),
    M::up(include_str!("migrations/0041_downtime_corrected.sql")),
    M::up(include_str!("migrations/0042_findings.sql")),
];

/// The version of the schema that this program has.
pub(crate) fn latest() -> usize {
    STEPS.len()
}

/// The version of a database's schema; 0 for one without any.
pub(crate) fn version(conn: &Connection) -> Result<usize> {
    let version: i64 = conn.pragma_query_value(None, "user_version", |row| row.get(0))?;
    usize::try_from(version).map_err(|error| StoreError::corrupt("schema", error))
}

/// Brings a database up to the latest version of the schema, row by row where its tables changed.
///
/// # Errors
/// [`StoreError::Newer`] for one that is beyond it.
pub(crate) fn to_latest(conn: &mut Connection) -> Result<()> {
    Migrations::from_slice(STEPS).to_latest(conn).map_err(|error| match error {
        rusqlite_migration::Error::MigrationDefinition(
            rusqlite_migration::MigrationDefinitionError::DatabaseTooFarAhead,
        ) => StoreError::Newer,
        rusqlite_migration::Error::RusqliteError { err, .. } => StoreError::Sqlite(err),
        other => StoreError::corrupt("schema", other),
    })
}

/// Whether a database has a table: one of an older version may have none of that name.
pub(crate) fn has_table(conn: &Connection, name: &str) -> Result<bool> {
    Ok(conn.prepare("SELECT 1 FROM sqlite_schema WHERE name = ?1")?.exists([name])?)
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::BTreeMap;

    /// A value that fits a column: 1 for ids, counts and instants, words and JSON where a step reads them.
    fn fitting(table: &str, column: &str, kind: &str) -> String {
        match (table, column, kind) {
            ("alarms", "kind", _) => "'limit'",
            ("alarms" | "earlier_answers", "response", _) => "'raised'",
            ("work_orders", "state", _) => "'dropped'",
            ("work_orders", "source", _) => "'ladder'",
            ("people", "role", _) => "'administrator'",
            (_, "definition" | "held_by" | "before" | "after" | "detail", "TEXT") => "'{}'",
            (_, "side", "TEXT") => "'high'",
            (_, _, "TEXT") => "'x'",
            (_, _, "BLOB") => "x'00'",
            _ => "1",
        }
        .into()
    }

    fn tables(conn: &Connection) -> Vec<String> {
        let mut select = conn
            .prepare("SELECT name FROM pragma_table_list WHERE type = 'table' AND schema = 'main' AND name NOT LIKE 'sqlite_%' ORDER BY name")
            .unwrap();
        select.query_map([], |row| row.get(0)).unwrap().map(|name| name.unwrap()).collect()
    }

    /// One row in every table, each with the id 1, so that all references hold.
    fn fill(conn: &Connection) {
        conn.execute_batch("PRAGMA foreign_keys = OFF; PRAGMA ignore_check_constraints = ON").unwrap();
        for table in tables(conn) {
            let mut select = conn.prepare(&format!("SELECT name, type FROM pragma_table_info('{table}')")).unwrap();
            let columns: Vec<(String, String)> = select
                .query_map([], |row| Ok((row.get(0)?, row.get(1)?)))
                .unwrap()
                .map(|column| column.unwrap())
                .collect();
            let names: Vec<&str> = columns.iter().map(|(name, _)| name.as_str()).collect();
            let values: Vec<String> = columns.iter().map(|(name, kind)| fitting(&table, name, kind)).collect();
            // Triggers write rows of their own into some tables.
            let insert = format!("INSERT OR IGNORE INTO {table} ({}) VALUES ({})", names.join(", "), values.join(", "));
            conn.execute(&insert, []).unwrap_or_else(|error| panic!("{insert}: {error}"));
        }
    }

    fn counts(conn: &Connection) -> BTreeMap<String, i64> {
        let count = |table: String| {
            let rows = conn.query_row(&format!("SELECT count(*) FROM {table}"), [], |row| row.get(0)).unwrap();
            (table, rows)
        };
        tables(conn).into_iter().map(count).collect()
    }

    #[test]
    fn every_version_comes_up_to_the_latest_and_keeps_a_row_of_every_table() {
        for older in 1..=STEPS.len() {
            let mut conn = Connection::open_in_memory().unwrap();
            Migrations::from_slice(STEPS).to_version(&mut conn, older).unwrap();
            fill(&conn);
            let before = counts(&conn);
            assert!(before.values().all(|rows| *rows > 0), "{before:?}");
            to_latest(&mut conn).unwrap();
            let after = counts(&conn);
            for (table, rows) in &before {
                // What earlier answers there were stand with the newest since step 4.
                let kept = if table == "earlier_answers" { "alarm_answers" } else { table };
                assert!(after.get(kept).is_some_and(|kept| kept >= rows), "{table} from version {older}: {after:?}");
            }
            if before.contains_key("earlier_answers") {
                assert_eq!(after["alarm_answers"], 2, "the earlier answer and the newest, each with its work");
            }
            let broken: i64 =
                conn.query_row("SELECT count(*) FROM pragma_foreign_key_check", [], |row| row.get(0)).unwrap();
            assert_eq!(broken, 0, "references from version {older}");
            let settled: Option<i64> = conn.query_row("SELECT settled_at FROM entries", [], |row| row.get(0)).unwrap();
            assert_eq!(settled, Some(1), "cost of dropped work from version {older}");
        }
    }
}

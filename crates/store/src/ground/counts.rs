//! How much there is of what a system that watches the server asks for.

use crate::ground::{error::Result, rows::word, sql::Rows};
use tally_core::work::WorkState;

/// Counted without a look at every row.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Counts {
    pub readings: i64,
    pub alarms: i64,
    pub open_work: i64,
    pub outbox: i64,
    pub deliveries: i64,
}

/// As they are.
///
/// # Errors
/// SQLite's own.
pub fn counts(rows: &dyn Rows) -> Result<Counts> {
    let conn = rows.sql().conn;
    let open: Vec<String> =
        WorkState::ALL.into_iter().filter(|state| state.is_open()).map(|state| format!("'{}'", word(&state))).collect();
    let open = open.join(", ");
    let count = |sql: &str| conn.prepare_cached(sql)?.query_row([], |row| row.get::<_, i64>(0));
    Ok(Counts {
        readings: count("SELECT ifnull(sum(readings), 0) FROM reading_counts")?,
        alarms: count("SELECT count(*) FROM alarms WHERE left_at IS NULL")?,
        open_work: count(&format!("SELECT count(*) FROM work_orders WHERE state IN ({open})"))?,
        outbox: count("SELECT count(*) FROM outbox WHERE sent_at IS NULL AND failed IS NULL")?,
        deliveries: count("SELECT count(*) FROM deliveries WHERE delivered_at IS NULL AND next_at IS NOT NULL")?,
    })
}

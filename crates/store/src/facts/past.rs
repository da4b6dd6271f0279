//! Facts as they were at an instant, by what had been recorded by another.

use super::{load::columns, plant, read, read::Wanted};
use crate::ground::error::Result;
use rusqlite::Connection;
use tally_core::{
    facts::{AsOf, Snapshot},
    ground::time::Instant,
};

/// Makes facts those of a past instant. Where all that is known now counts, nothing is read.
///
/// # Errors
/// SQLite's own, and [`crate::StoreError::Corrupt`].
pub fn as_of(conn: &Connection, facts: &Snapshot, then: AsOf) -> Result<Snapshot> {
    if then.known == Instant::LATEST {
        return Ok(facts.as_of(then));
    }
    let known = Some(then.known);
    let mut past = facts.clone();
    plant::reload_calendars(conn, &mut past, known)?;
    plant::reload_assets(conn, &mut past, known)?;
    let rows = Wanted { ids: None, known };
    let downtimes = columns(|take| read::downtimes(conn, &past.tree, rows, take))?;
    let failures = columns(|take| read::failures(conn, &past.tree, rows, take))?;
    let alarms = columns(|take| read::alarms(conn, &past.tree, rows, take))?;
    past.put_known(downtimes, failures, alarms);
    Ok(past.as_of(then))
}

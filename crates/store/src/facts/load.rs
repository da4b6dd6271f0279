//! All facts, read at start.

use super::{plant, read, read::Wanted, running, steps::steps};
use crate::ground::{error::Result, sql::Rows};
use rusqlite::Connection;
use std::{collections::HashSet, sync::Arc};
use tally_core::{
    facts::{Entries, Happened, Names, Snapshot, columns::Part},
    plant::assets::Tree,
};

/// The newest change there is.
///
/// # Errors
/// SQLite's own.
pub fn newest_change(conn: &Connection) -> Result<i64> {
    let mut select = conn.prepare_cached("SELECT ifnull(max(seq), 0) FROM changes")?;
    Ok(select.query_row([], |row| row.get(0))?)
}

/// Reads everything through one connection.
///
/// # Errors
/// SQLite's own, and [`crate::StoreError::Corrupt`].
pub fn load(rows: &dyn Rows) -> Result<Snapshot> {
    let conn = rows.sql().conn;
    let mut snapshot = beside(conn)?;
    let entries = entries(conn, &snapshot.tree)?;
    let others = happened(conn, &mut snapshot)?;
    snapshot.fill(Happened { entries, ..others });
    Ok(snapshot)
}

/// Reads everything through two connections at once, each of which sees one state of the data; `None` where they see two.
///
/// # Errors
/// As [`load`].
pub(crate) fn load_by_two(conn: &Connection, other: Connection) -> Result<Option<Snapshot>> {
    other.execute_batch("BEGIN")?;
    let mut snapshot = beside(conn)?;
    if newest_change(&other)? != snapshot.change {
        return Ok(None);
    }
    let tree = snapshot.tree.clone();
    std::thread::scope(|scope| {
        let reading = scope.spawn(move || entries(&other, &tree));
        let others = happened(conn, &mut snapshot)?;
        let entries = reading.join().unwrap_or_else(|panicked| std::panic::resume_unwind(panicked))?;
        snapshot.fill(Happened { entries, ..others });
        Ok(Some(snapshot))
    })
}

/// All but what happened.
fn beside(conn: &Connection) -> Result<Snapshot> {
    let mut snapshot = Snapshot { change: newest_change(conn)?, ..Snapshot::default() };
    plant::reload_settings(conn, &mut snapshot)?;
    plant::reload_calendars(conn, &mut snapshot, None)?;
    plant::reload_assets(conn, &mut snapshot, None)?;
    plant::reload_worth(conn, &mut snapshot)?;
    let mut names = Names::default();
    plant::reload_names(conn, &mut names)?;
    snapshot.names = names.into();
    let counters = conn
        .prepare("SELECT id FROM meters WHERE running_hours = 1")?
        .query_map([], |row| row.get(0))?
        .collect::<rusqlite::Result<HashSet<i64>>>()?;
    running::read(conn, &mut snapshot, &counters)?;
    Ok(snapshot)
}

fn entries(conn: &Connection, tree: &Tree) -> Result<Entries> {
    let mut entries = Entries::default();
    read::entries(conn, tree, None, |row| entries.push(row))?;
    Ok(entries)
}

/// All that happened but entries.
fn happened(conn: &Connection, snapshot: &mut Snapshot) -> Result<Happened> {
    let mut happened = Happened::default();
    let tree = snapshot.tree.clone();
    read::downtimes(conn, &tree, Wanted::default(), |row| happened.downtimes.push(row))?;
    read::failures(conn, &tree, Wanted::default(), |row| happened.failures.push(row))?;
    let names = Arc::make_mut(&mut snapshot.names);
    let (works, fields) = (&mut happened.works, &mut happened.fields);
    read::works(conn, &tree, names, None, |row| works.push(row), |row| fields.push(row))?;
    read::alarms(conn, &tree, Wanted::default(), |row| happened.alarms.push(row))?;
    read::moves(conn, None, |row| happened.moves.push(row))?;
    steps(conn, &tree, None, |row| happened.steps.push(row))?;
    read::cycles(conn, snapshot, None, |row| happened.cycles.push(row))?;
    Ok(happened)
}

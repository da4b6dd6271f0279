//! All facts, read at start.

use super::{plant, read, read::Wanted, running, steps::steps};
use crate::ground::{error::Result, sql::Rows};
use rusqlite::Connection;
use std::{collections::HashSet, sync::Arc};
use tally_core::{
    facts::{
        Downtimes, Entered, Failures, Fields, Happened, Names, Snapshot, Works,
        columns::{Columns, Part},
    },
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
    let first = first_half(conn, &snapshot.tree)?;
    let second = second_half(conn, &mut snapshot)?;
    snapshot.fill(first.with(second));
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
        let reading = scope.spawn(move || first_half(&other, &tree));
        let second = second_half(conn, &mut snapshot)?;
        let first = reading.join().unwrap_or_else(|panicked| std::panic::resume_unwind(panicked))?;
        snapshot.fill(first.with(second));
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

/// Rows as columns.
pub(super) fn columns<P: Part>(read: impl FnOnce(&mut dyn FnMut(P::Row)) -> Result<()>) -> Result<Columns<P>> {
    Ok(Columns::of(&rows::<P>(read)?))
}

/// Rows as they come.
fn rows<P: Part>(read: impl FnOnce(&mut dyn FnMut(P::Row)) -> Result<()>) -> Result<P> {
    let mut rows = P::default();
    read(&mut |row| rows.push(row))?;
    Ok(rows)
}

/// What takes as long to be read as all else that happened.
struct FirstHalf {
    entered: Entered,
    downtimes: Columns<Downtimes>,
    failures: Columns<Failures>,
}

impl FirstHalf {
    fn with(self, second: Happened) -> Happened {
        let Self { entered, downtimes, failures } = self;
        Happened { entered, downtimes, failures, ..second }
    }
}

fn first_half(conn: &Connection, tree: &Tree) -> Result<FirstHalf> {
    Ok(FirstHalf {
        entered: Entered::of(rows(|take| read::entries(conn, tree, None, take))?),
        downtimes: columns(|take| read::downtimes(conn, tree, Wanted::default(), take))?,
        failures: columns(|take| read::failures(conn, tree, Wanted::default(), take))?,
    })
}

/// All else that happened.
fn second_half(conn: &Connection, snapshot: &mut Snapshot) -> Result<Happened> {
    let tree = snapshot.tree.clone();
    let names = Arc::make_mut(&mut snapshot.names);
    let (mut works, mut fields) = (Works::default(), Fields::default());
    read::works(conn, &tree, names, None, |row| works.push(row), |row| fields.push(row))?;
    Ok(Happened {
        works,
        fields: Columns::of(&fields),
        alarms: columns(|take| read::alarms(conn, &tree, Wanted::default(), take))?,
        moves: columns(|take| read::moves(conn, None, take))?,
        steps: columns(|take| steps(conn, &tree, None, take))?,
        cycles: columns(|take| read::cycles(conn, snapshot, None, take))?,
        ..Happened::default()
    })
}

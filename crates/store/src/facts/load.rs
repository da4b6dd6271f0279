//! All facts, read at start.

use super::{plant, read, read::Wanted, running, steps::steps};
use crate::ground::{error::Result, sql::Rows};
use rusqlite::Connection;
use std::{collections::HashSet, sync::Arc};
use tally_core::{
    facts::{
        Entered, Happened, Names, Outcomes, Pile, Snapshot,
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
    let entered = entered(conn, &snapshot.tree)?;
    let happened = happened(conn, &mut snapshot)?;
    snapshot.fill(Happened { entered, ..happened });
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
        let reading = scope.spawn(move || entered(&other, &tree));
        let happened = happened(conn, &mut snapshot)?;
        let entered = reading.join().unwrap_or_else(|panicked| std::panic::resume_unwind(panicked))?;
        snapshot.fill(Happened { entered, ..happened });
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
    Ok(pile(read)?.columns())
}

/// Rows as they come.
fn pile<P: Part>(read: impl FnOnce(&mut dyn FnMut(P::Row)) -> Result<()>) -> Result<Pile<P>> {
    let mut pile = Pile::default();
    read(&mut |row| pile.push(row))?;
    Ok(pile)
}

/// What was entered takes as long to be read as all else that happened.
fn entered(conn: &Connection, tree: &Tree) -> Result<Entered> {
    Ok(Entered::of(pile(|take| read::entries(conn, tree, None, take))?))
}

/// All else that happened.
fn happened(conn: &Connection, snapshot: &mut Snapshot) -> Result<Happened> {
    let tree = snapshot.tree.clone();
    let names = Arc::make_mut(&mut snapshot.names);
    let failures = columns(|take| read::failures(conn, &tree, Wanted::default(), take))?;
    let moves = columns(|take| read::moves(conn, None, take))?;
    let mut outcomes = Outcomes::of(&moves, &failures);
    let (mut works, mut fields) = (Pile::default(), Pile::default());
    read::works(conn, &tree, names, None, |row| works.push(outcomes.complete(row)), |row| fields.push(row))?;
    Ok(Happened {
        downtimes: columns(|take| read::downtimes(conn, &tree, Wanted::default(), take))?,
        failures,
        moves,
        works: works.columns(),
        fields: fields.columns(),
        alarms: columns(|take| read::alarms(conn, &tree, Wanted::default(), take))?,
        steps: columns(|take| steps(conn, &tree, None, take))?,
        cycles: columns(|take| read::cycles(conn, snapshot, None, take))?,
        ..Happened::default()
    })
}

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
    let at_assets = at_assets(conn, &snapshot.tree)?;
    let of_work = of_work(conn, &mut snapshot)?;
    snapshot.fill(joined(at_assets, of_work));
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
        let reading = scope.spawn(move || at_assets(&other, &tree));
        let of_work = of_work(conn, &mut snapshot)?;
        let at_assets = reading.join().unwrap_or_else(|panicked| std::panic::resume_unwind(panicked))?;
        snapshot.fill(joined(at_assets, of_work));
        Ok(Some(snapshot))
    })
}

/// All but what happened.
pub(super) fn beside(conn: &Connection) -> Result<Snapshot> {
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

/// What was entered at assets, stood and alarmed: it takes as long to be read as what is [of work](of_work).
fn at_assets(conn: &Connection, tree: &Tree) -> Result<Happened> {
    Ok(Happened {
        entered: Entered::of(pile(|take| read::entries(conn, tree, None, take))?),
        downtimes: columns(|take| read::downtimes(conn, tree, Wanted::default(), take))?,
        alarms: columns(|take| read::alarms(conn, tree, Wanted::default(), take))?,
        ..Happened::default()
    })
}

/// Orders, with what became of them and of upkeep.
fn of_work(conn: &Connection, snapshot: &mut Snapshot) -> Result<Happened> {
    let tree = snapshot.tree.clone();
    let names = Arc::make_mut(&mut snapshot.names);
    let failures = columns(|take| read::failures(conn, &tree, Wanted::default(), take))?;
    let moves = columns(|take| read::moves(conn, None, take))?;
    let mut outcomes = Outcomes::of(&moves, &failures);
    let (mut works, mut fields) = (Pile::default(), Pile::default());
    read::works(conn, &tree, names, None, |row| works.push(outcomes.complete(row)), |row| fields.push(row))?;
    Ok(Happened {
        failures,
        moves,
        works: works.columns(),
        fields: fields.columns(),
        steps: columns(|take| steps(conn, &tree, None, take))?,
        cycles: columns(|take| read::cycles(conn, snapshot, None, take))?,
        ..Happened::default()
    })
}

/// All that happened.
fn joined(at_assets: Happened, of_work: Happened) -> Happened {
    let Happened { entered, downtimes, alarms, .. } = at_assets;
    Happened { entered, downtimes, alarms, ..of_work }
}

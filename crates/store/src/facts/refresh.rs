//! Facts brought up to the newest change, row by row.

use super::{
    load::{columns, load, newest_change},
    plant, read,
    read::Wanted,
    running,
    steps::steps,
};
use crate::ground::error::Result;
use rusqlite::Connection;
use std::{
    collections::{HashMap, HashSet},
    sync::Arc,
};
use tally_core::facts::{Changed, OfWork, Snapshot};

/// Whether another process that opened the data swept what came after a change: then it can't be read bit by bit.
pub(super) fn is_swept(conn: &Connection, change: i64) -> Result<bool> {
    let mut select = conn.prepare_cached("SELECT ifnull(min(seq), 0) FROM changes")?;
    let oldest: i64 = select.query_row([], |row| row.get(0))?;
    Ok(oldest > change + 1)
}

/// Brings a snapshot up to the newest change, reading only what changed.
///
/// # Errors
/// SQLite's own, and [`crate::StoreError::Corrupt`].
pub fn refresh(conn: &Connection, snapshot: &mut Snapshot) -> Result<()> {
    let newest = newest_change(conn)?;
    // Another reader may have brought it further than this connection can see.
    if newest <= snapshot.change {
        return Ok(());
    }
    if is_swept(conn, snapshot.change)? {
        *snapshot = load(conn)?;
        return Ok(());
    }
    let mut by_kind: HashMap<String, HashSet<i64>> = HashMap::new();
    let mut select = conn.prepare_cached("SELECT kind, id FROM changes WHERE seq > ?1")?;
    let mut rows = select.query([snapshot.change])?;
    while let Some(row) = rows.next()? {
        by_kind.entry(row.get(0)?).or_default().insert(row.get(1)?);
    }
    if by_kind.contains_key("settings") {
        plant::reload_settings(conn, snapshot)?;
    }
    if by_kind.contains_key("calendar") {
        plant::reload_calendars(conn, snapshot, None)?;
    }
    if by_kind.contains_key("names") {
        plant::reload_names(conn, Arc::make_mut(&mut snapshot.names))?;
    }
    if let Some(ids) = by_kind.get("asset")
        && !plant::refresh_assets(conn, snapshot, ids)?
    {
        // Assets are numbered anew, and with them everything that happened.
        *snapshot = load(conn)?;
        return Ok(());
    }
    if by_kind.contains_key("worth") {
        plant::reload_worth(conn, snapshot)?;
    }
    if let Some(counters) = by_kind.get("running") {
        running::read(conn, snapshot, counters)?;
    }
    let tree = snapshot.tree.clone();
    if let Some(ids) = by_kind.get("entry") {
        let changes = changed(ids, |take| read::entries(conn, &tree, Some(ids), |row| take(row.id.0, row)))?;
        snapshot.change_entries(changes);
    }
    if let Some(ids) = by_kind.get("downtime") {
        let changes = changed(ids, |take| read::downtimes(conn, &tree, Wanted::of(ids), |row| take(row.id.0, row)))?;
        snapshot.change_downtimes(changes);
    }
    if let Some(ids) = by_kind.get("failure") {
        let changes = changed(ids, |take| read::failures(conn, &tree, Wanted::of(ids), |row| take(row.id.0, row)))?;
        snapshot.change_failures(changes);
    }
    if let Some(ids) = by_kind.get("work") {
        let names = Arc::make_mut(&mut snapshot.names);
        let mut of_work = OfWork::default();
        let version = |row| of_work.fields.push(row);
        let changes =
            changed(ids, |take| read::works(conn, &tree, names, Some(ids), |row| take(row.number.0, row), version))?;
        read::moves(conn, Some(ids), |row| of_work.moves.push(row))?;
        steps(conn, &tree, Some(ids), |row| of_work.steps.push(row))?;
        snapshot.change_works(changes, of_work);
    }
    if let Some(ids) = by_kind.get("alarm") {
        let changes = changed(ids, |take| read::alarms(conn, &tree, Wanted::of(ids), |row| take(row.id.0, row)))?;
        snapshot.change_alarms(changes);
    }
    // Their days are told in the zone that is set.
    let zone_may_differ = by_kind.contains_key("settings") && !snapshot.cycles.is_empty();
    let changed_cycles = by_kind.get("cycle");
    if zone_may_differ {
        snapshot.cycles = columns(|take| read::cycles(conn, snapshot, None, take))?;
    } else if let Some(ids) = changed_cycles {
        let changes = changed(ids, |take| read::cycles(conn, snapshot, Some(ids), |row| take(row.id.0, row)))?;
        snapshot.change_cycles(changes);
    }
    snapshot.change = newest;
    Ok(())
}

/// The rows of some ids, and those of them that are gone.
fn changed<R>(ids: &HashSet<i64>, read: impl FnOnce(&mut dyn FnMut(i64, R)) -> Result<()>) -> Result<Vec<Changed<R>>> {
    let mut rows: HashMap<i64, R> = HashMap::new();
    read(&mut |id, row| drop(rows.insert(id, row)))?;
    Ok(ids.iter().map(|id| (*id, rows.remove(id))).collect())
}

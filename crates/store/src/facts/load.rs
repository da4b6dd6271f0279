//! The tally's snapshot: read whole at start, then kept current by what the table `changes` says.

use crate::{
    ground::{
        error::{Result, StoreError},
        rows::{from_json, list_of},
        sql::Rows,
    },
    plant::settings,
    watch::readings::{exchanges, history},
};
use rusqlite::{Connection, Row};
use std::collections::{HashMap, HashSet};
use tally_core::{
    facts::{Assignment, DowntimeFact, EntryFact, Fact, Facts, FailureFact, RunningCounter, Snapshot, WorkFact},
    ground::{
        calendar::zone,
        ids::{AssetId, DowntimeId, EntryId, FailureId, MeterId, WorkOrderId},
        time::{HOUR, Instant, Span},
    },
    plant::assets::{EffectSpan, Node, Placement, Tree},
    watch::readings::Columns,
};

/// The newest change there is.
///
/// # Errors
/// SQLite's own.
pub fn newest_change(conn: &Connection) -> Result<i64> {
    let mut select = conn.prepare_cached("SELECT ifnull(max(seq), 0) FROM changes")?;
    Ok(select.query_row([], |row| row.get(0))?)
}

/// Reads everything.
///
/// # Errors
/// SQLite's own, and [`StoreError::Corrupt`].
pub fn load(rows: &dyn Rows) -> Result<Snapshot> {
    let conn = rows.sql().conn;
    let mut snapshot = Snapshot { change: newest_change(conn)?, ..Snapshot::default() };
    reload_tree(conn, &mut snapshot)?;
    snapshot.entries.apply(entries(conn, None)?);
    snapshot.downtimes.apply(downtimes(conn, None)?);
    snapshot.failures.apply(failures(conn, None)?);
    snapshot.works.apply(works(conn, None)?);
    let counters = conn
        .prepare("SELECT id FROM meters WHERE running_hours = 1")?
        .query_map([], |row| row.get(0))?
        .collect::<rusqlite::Result<HashSet<i64>>>()?;
    read_running(conn, &mut snapshot, &counters)?;
    Ok(snapshot)
}

/// Brings a snapshot up to the newest change, reading only what changed.
///
/// # Errors
/// SQLite's own, and [`StoreError::Corrupt`].
pub fn refresh(conn: &Connection, snapshot: &mut Snapshot) -> Result<()> {
    let newest = newest_change(conn)?;
    // Another reader may have brought it further than this connection can see.
    if newest <= snapshot.change {
        return Ok(());
    }
    // Another process that opened the data swept the table: what it swept can't be read bit by bit.
    let oldest: i64 = conn.prepare_cached("SELECT min(seq) FROM changes")?.query_row([], |row| row.get(0))?;
    if oldest > snapshot.change + 1 {
        *snapshot = load(conn)?;
        return Ok(());
    }
    let mut by_kind: HashMap<String, HashSet<i64>> = HashMap::new();
    let mut select = conn.prepare_cached("SELECT kind, id FROM changes WHERE seq > ?1")?;
    let mut rows = select.query([snapshot.change])?;
    while let Some(row) = rows.next()? {
        by_kind.entry(row.get(0)?).or_default().insert(row.get(1)?);
    }
    if by_kind.contains_key("tree") {
        reload_tree(conn, snapshot)?;
    }
    if let Some(counters) = by_kind.get("running") {
        read_running(conn, snapshot, counters)?;
    }
    apply(&mut snapshot.entries, by_kind.get("entry"), |ids| entries(conn, Some(ids)))?;
    apply(&mut snapshot.downtimes, by_kind.get("downtime"), |ids| downtimes(conn, Some(ids)))?;
    apply(&mut snapshot.failures, by_kind.get("failure"), |ids| failures(conn, Some(ids)))?;
    apply(&mut snapshot.works, by_kind.get("work"), |ids| works(conn, Some(ids)))?;
    snapshot.change = newest;
    Ok(())
}

fn apply<F: Fact>(
    facts: &mut Facts<F>,
    changed: Option<&HashSet<i64>>,
    read: impl FnOnce(&HashSet<i64>) -> Result<Vec<(i64, Option<F>)>>,
) -> Result<()> {
    let Some(changed) = changed else { return Ok(()) };
    let mut rows = read(changed)?;
    let found: HashSet<i64> = rows.iter().map(|(id, _)| *id).collect();
    rows.extend(changed.difference(&found).map(|gone| (*gone, None)));
    facts.apply(rows);
    Ok(())
}

/// Runs a query over all rows, or over those of the given ids.
fn query<F>(
    conn: &Connection,
    all: &str,
    key: &str,
    ids: Option<&HashSet<i64>>,
    mut read: impl FnMut(&Row) -> Result<(i64, F)>,
) -> Result<Vec<(i64, Option<F>)>> {
    let mut found = Vec::new();
    let mut take = |mut rows: rusqlite::Rows| -> Result<()> {
        while let Some(row) = rows.next()? {
            let (id, fact) = read(row)?;
            found.push((id, Some(fact)));
        }
        Ok(())
    };
    match ids {
        None => take(conn.prepare(all)?.query([])?)?,
        Some(ids) => {
            let ids = list_of(ids.iter().copied());
            take(conn.prepare_cached(&format!("{all} WHERE {key} IN rarray(?1)"))?.query([ids])?)?;
        }
    }
    Ok(found)
}

fn entries(conn: &Connection, ids: Option<&HashSet<i64>>) -> Result<Vec<(i64, Option<EntryFact>)>> {
    let sql = "SELECT id, asset_id, work_order, kind, at, amount, hours_ms, settled_at FROM entries";
    query(conn, sql, "id", ids, |row| {
        let id = row.get(0)?;
        let fact = EntryFact {
            id: EntryId(id),
            asset: row.get(1)?,
            work: row.get(2)?,
            kind: row.get(3)?,
            at: row.get(4)?,
            cost: row.get(5)?,
            hours_ms: row.get(6)?,
            settled_at: row.get::<_, Option<Instant>>("settled_at")?.unwrap_or(Instant::LATEST),
        };
        Ok((id, fact))
    })
}

fn downtimes(conn: &Connection, ids: Option<&HashSet<i64>>) -> Result<Vec<(i64, Option<DowntimeFact>)>> {
    let sql = "SELECT id, asset_id, work_order, kind, start_at, end_at FROM downtimes";
    query(conn, sql, "id", ids, |row| {
        let id = row.get(0)?;
        let fact = DowntimeFact {
            id: DowntimeId(id),
            asset: row.get(1)?,
            work: row.get(2)?,
            kind: row.get(3)?,
            start: row.get(4)?,
            end: row.get::<_, Option<Instant>>("end_at")?.unwrap_or(Instant::LATEST),
        };
        Ok((id, fact))
    })
}

fn failures(conn: &Connection, ids: Option<&HashSet<i64>>) -> Result<Vec<(i64, Option<FailureFact>)>> {
    let sql = "SELECT id, asset_id, work_order, failed_at, effect FROM failure_reports";
    query(conn, sql, "id", ids, |row| {
        let id = row.get(0)?;
        let fact = FailureFact {
            id: FailureId(id),
            asset: row.get(1)?,
            work: row.get(2)?,
            at: row.get(3)?,
            effect: row.get(4)?,
        };
        Ok((id, fact))
    })
}

fn works(conn: &Connection, ids: Option<&HashSet<i64>>) -> Result<Vec<(i64, Option<WorkFact>)>> {
    let mut states: HashMap<i64, Vec<(Instant, tally_core::work::WorkState)>> = HashMap::new();
    // In the order they were made where the instant is the same: the last one counts.
    let order = "SELECT work_order, at, to_state, id FROM state_changes";
    let mut changes = query(conn, order, "work_order", ids, |row| {
        let state = row.get(2)?;
        Ok((row.get(0)?, (row.get::<_, i64>(1)?, row.get::<_, i64>(3)?, state)))
    })?;
    changes.sort_by_key(|(_, change)| change.as_ref().map(|(at, id, _)| (*at, *id)));
    for (work, change) in changes {
        if let Some((at, _, state)) = change {
            states.entry(work).or_default().push((Instant::from_ms(at), state));
        }
    }
    let sql = "SELECT number, asset_id, raised_at, estimated_hours FROM work_orders";
    query(conn, sql, "number", ids, |row| {
        let number = row.get(0)?;
        let hours: Option<f64> = row.get(3)?;
        let fact = WorkFact {
            number: WorkOrderId(number),
            asset: row.get(1)?,
            raised_at: row.get(2)?,
            estimated_ms: hours.map(|hours| (hours * HOUR as f64).round() as i64),
            states: states.remove(&number).unwrap_or_default(),
        };
        Ok((number, fact))
    })
}

/// The tree with all its placements, effects and lives.
pub(crate) fn load_tree(conn: &Connection) -> Result<Tree> {
    let mut nodes: Vec<Node> = Vec::new();
    let mut place: HashMap<i64, usize> = HashMap::new();
    let mut select = conn.prepare("SELECT id, commissioned_at, retired_at FROM assets ORDER BY name, id")?;
    let mut rows = select.query([])?;
    while let Some(row) = rows.next()? {
        let id: i64 = row.get(0)?;
        let from = row.get::<_, Option<Instant>>("commissioned_at")?.unwrap_or(Instant::EARLIEST);
        let to = row.get::<_, Option<Instant>>("retired_at")?.unwrap_or(Instant::LATEST);
        let life = Span::new(from, to).map_err(|error| StoreError::corrupt("assets", error))?;
        place.insert(id, nodes.len());
        nodes.push(Node { id: AssetId(id), placements: Vec::new(), effects: Vec::new(), life });
    }
    let mut select =
        conn.prepare("SELECT asset_id, parent_id, from_at, to_at FROM placements ORDER BY asset_id, from_at")?;
    let mut rows = select.query([])?;
    while let Some(row) = rows.next()? {
        if let Some(&index) = place.get(&row.get::<_, i64>(0)?) {
            nodes[index].placements.push(Placement {
                parent: row.get(1)?,
                from: row.get("from_at")?,
                to: row.get::<_, Option<Instant>>("to_at")?.unwrap_or(Instant::LATEST),
            });
        }
    }
    let mut select =
        conn.prepare("SELECT asset_id, effect, from_at, to_at FROM parent_effects ORDER BY asset_id, from_at")?;
    let mut rows = select.query([])?;
    while let Some(row) = rows.next()? {
        if let Some(&index) = place.get(&row.get::<_, i64>(0)?) {
            nodes[index].effects.push(EffectSpan {
                effect: from_json("parent_effects", &row.get::<_, String>(1)?)?,
                from: row.get("from_at")?,
                to: row.get::<_, Option<Instant>>("to_at")?.unwrap_or(Instant::LATEST),
            });
        }
    }
    Ok(Tree::new(nodes))
}

fn reload_tree(conn: &Connection, snapshot: &mut Snapshot) -> Result<()> {
    let settings = settings::get(conn)?;
    snapshot.zone = zone(&settings.time_zone).map_err(|error| StoreError::corrupt("settings", error))?;
    snapshot.fiscal_month = i8::try_from(settings.fiscal_month).unwrap_or(1);
    snapshot.tree = load_tree(conn)?.into();
    snapshot.calendars.clear();
    let mut select = conn.prepare("SELECT id, definition FROM calendars")?;
    let mut rows = select.query([])?;
    while let Some(row) = rows.next()? {
        snapshot.calendars.insert(row.get(0)?, from_json("calendars", &row.get::<_, String>(1)?)?);
    }
    snapshot.assignments = vec![Vec::new(); snapshot.tree.len()];
    let mut select = conn.prepare("SELECT asset_id, calendar_id, from_at, to_at FROM asset_calendars")?;
    let mut rows = select.query([])?;
    while let Some(row) = rows.next()? {
        if let Some(index) = snapshot.tree.index(row.get(0)?) {
            snapshot.assignments[index].push(Assignment {
                calendar: row.get(1)?,
                from: row.get("from_at")?,
                to: row.get::<_, Option<Instant>>("to_at")?.unwrap_or(Instant::LATEST),
            });
        }
    }
    Ok(())
}

/// Running-hours counters by meter id, as hours since their first reading, across rollovers and exchanges. Where nothing but
/// newer readings came, only those are read; one that is none any more goes.
fn read_running(conn: &Connection, snapshot: &mut Snapshot, counters: &HashSet<i64>) -> Result<()> {
    let mut meter = conn.prepare_cached("SELECT * FROM meters WHERE id = ?1")?;
    for id in counters {
        let meter_id = MeterId(*id);
        let mut found = meter.query([id])?;
        let row = match found.next()? {
            Some(row) if row.get::<_, bool>("running_hours")? => row,
            _ => {
                snapshot.remove_running(meter_id);
                continue;
            }
        };
        let (asset, rules) = (row.get("asset_id")?, crate::watch::meters::rules(row)?);
        let until = row.get::<_, Option<Instant>>("retired_at")?.unwrap_or(Instant::LATEST);
        let revised = history::counts(conn, meter_id)?.revised;
        let known = snapshot.take_running(meter_id).filter(|known| known.revised == revised);
        let mut counter = known.unwrap_or(RunningCounter {
            meter: meter_id,
            readings: Vec::new(),
            last: None,
            revised,
            until: Instant::LATEST,
        });
        counter.until = until;
        let from = counter.last.map_or(Instant::EARLIEST, |last| last.at.plus(1));
        let newer = match Span::new(from, Instant::LATEST) {
            Ok(span) => history::columns(conn, meter_id, span)?,
            Err(_) => Columns::default(),
        };
        let exchanges = exchanges::of(conn, meter_id)?;
        for reading in newer.iter() {
            counter.push(&rules, reading, &exchanges);
        }
        snapshot.put_running(asset, counter);
    }
    Ok(())
}

//! Rows that happened, from the database into columns.

use crate::ground::{
    error::{Result, StoreError},
    rows::list_of,
};
use rusqlite::{Connection, Row};
use std::collections::{HashMap, HashSet};
use tally_core::{
    facts::{DowntimeFact, EntryFact, FailureFact, MoveFact, Names, WorkFact, columns::fits},
    ground::{
        ids::AssetId,
        time::{HOUR, Instant},
    },
    plant::assets::Tree,
};

/// Hands every row of a query to `take`, or only those whose `key` is one of some ids.
fn each(
    conn: &Connection,
    all: &str,
    key: &str,
    ids: Option<&HashSet<i64>>,
    mut take: impl FnMut(&Row) -> Result<()>,
) -> Result<()> {
    match ids {
        None => {
            let mut select = conn.prepare(all)?;
            let mut rows = select.query([])?;
            while let Some(row) = rows.next()? {
                take(row)?;
            }
        }
        Some(ids) => {
            let mut select = conn.prepare_cached(&format!("{all} WHERE {key} IN rarray(?1)"))?;
            let mut rows = select.query([list_of(ids.iter().copied())])?;
            while let Some(row) = rows.next()? {
                take(row)?;
            }
        }
    }
    Ok(())
}

/// The number of an asset in the tree.
fn number(tree: &Tree, asset: i64) -> Result<u32> {
    let index = tree.index(AssetId(asset)).and_then(|index| u32::try_from(index).ok());
    index.ok_or_else(|| StoreError::corrupt("assets", format!("there is no asset {asset}")))
}

/// An id that fits into its column.
fn id(table: &'static str, row: &Row) -> Result<i64> {
    let id = row.get(0)?;
    if fits(id) { Ok(id) } else { Err(StoreError::corrupt(table, format!("its id {id} is too great"))) }
}

pub(super) fn entries(
    conn: &Connection,
    tree: &Tree,
    ids: Option<&HashSet<i64>>,
    mut take: impl FnMut(EntryFact),
) -> Result<()> {
    let sql =
        "SELECT id, asset_id, work_order, kind, at, amount, hours_ms, settled_at, recorded_at, person_id FROM entries";
    each(conn, sql, "id", ids, |row| {
        id("entries", row)?;
        take(EntryFact {
            id: row.get(0)?,
            asset: number(tree, row.get(1)?)?,
            work: row.get(2)?,
            kind: row.get(3)?,
            at: row.get(4)?,
            cost: row.get(5)?,
            hours_ms: row.get(6)?,
            settled_at: row.get::<_, Option<Instant>>(7)?.unwrap_or(Instant::LATEST),
            recorded_at: row.get(8)?,
            person: row.get(9)?,
        });
        Ok(())
    })
}

pub(super) fn downtimes(
    conn: &Connection,
    tree: &Tree,
    ids: Option<&HashSet<i64>>,
    mut take: impl FnMut(DowntimeFact),
) -> Result<()> {
    let sql = "SELECT id, asset_id, work_order, kind, start_at, end_at, recorded_at FROM downtimes";
    each(conn, sql, "id", ids, |row| {
        id("downtimes", row)?;
        take(DowntimeFact {
            id: row.get(0)?,
            asset: number(tree, row.get(1)?)?,
            work: row.get(2)?,
            kind: row.get(3)?,
            start: row.get(4)?,
            end: row.get::<_, Option<Instant>>(5)?.unwrap_or(Instant::LATEST),
            recorded_at: row.get(6)?,
        });
        Ok(())
    })
}

pub(super) fn failures(
    conn: &Connection,
    tree: &Tree,
    ids: Option<&HashSet<i64>>,
    mut take: impl FnMut(FailureFact),
) -> Result<()> {
    let sql =
        "SELECT id, asset_id, work_order, failed_at, effect, problem_id, cause_id, remedy_id, coded_at, recorded_at
        FROM failure_reports";
    each(conn, sql, "id", ids, |row| {
        id("failure_reports", row)?;
        take(FailureFact {
            id: row.get(0)?,
            asset: number(tree, row.get(1)?)?,
            work: row.get(2)?,
            at: row.get(3)?,
            effect: row.get(4)?,
            problem: row.get(5)?,
            cause: row.get(6)?,
            remedy: row.get(7)?,
            coded_at: row.get(8)?,
            recorded_at: row.get(9)?,
        });
        Ok(())
    })
}

/// Work without its `until`, which its moves say. Departments are called by their names.
pub(super) fn works(
    conn: &Connection,
    tree: &Tree,
    names: &mut Names,
    ids: Option<&HashSet<i64>>,
    mut take: impl FnMut(WorkFact),
) -> Result<()> {
    let sql = "SELECT number, asset_id, kind, source, source_severity, raised_at, raised_by, recorded_at, risk_rank, window_end,
            target_start, target_finish, scheduled_start, scheduled_end, crew_id, department, assignee_id, asked_id,
            estimated_hours, state, state_since, waiting_for, verdict, spent_ms, cost
        FROM work_orders";
    each(conn, sql, "number", ids, |row| {
        id("work_orders", row)?;
        let hours: Option<f64> = row.get(18)?;
        let department = match row.get_ref(15)? {
            rusqlite::types::ValueRef::Null => None,
            text => Some(names.department(text.as_str().map_err(rusqlite::Error::from)?)),
        };
        take(WorkFact {
            number: row.get(0)?,
            asset: number(tree, row.get(1)?)?,
            kind: row.get(2)?,
            source: row.get(3)?,
            source_severity: row.get(4)?,
            raised_at: row.get(5)?,
            raised_by: row.get(6)?,
            recorded_at: row.get(7)?,
            rank: row.get(8)?,
            window_end: row.get(9)?,
            target_start: row.get(10)?,
            target_finish: row.get(11)?,
            scheduled_start: row.get(12)?,
            scheduled_end: row.get(13)?,
            crew: row.get(14)?,
            department,
            assignee: row.get(16)?,
            asked: row.get(17)?,
            estimated_ms: hours.map(|hours| (hours * HOUR as f64).round() as i64),
            state: row.get(19)?,
            state_since: row.get(20)?,
            waiting_for: row.get(21)?,
            verdict: row.get(22)?,
            spent_ms: row.get(23)?,
            cost: row.get(24)?,
            until: Instant::LATEST,
        });
        Ok(())
    })
}

/// Moves between states, each work order's in the order in which they count: where the instant is the same, the one made later.
pub(super) fn moves(conn: &Connection, works: Option<&HashSet<i64>>, mut take: impl FnMut(MoveFact)) -> Result<()> {
    let sql = "SELECT work_order, at, to_state, recorded_at, id FROM state_changes";
    match works {
        // In order of the index by work, at and id, which is how they count.
        None => {
            let (mut of, mut step) = (0, 0u16);
            each(conn, &format!("{sql} ORDER BY work_order, at, id"), "work_order", None, |row| {
                let work = id("state_changes", row)?;
                step = if of == work { step.saturating_add(1) } else { 0 };
                of = work;
                take(MoveFact { work: row.get(0)?, step, at: row.get(1)?, to: row.get(2)?, recorded_at: row.get(3)? });
                Ok(())
            })
        }
        Some(_) => {
            let mut found: HashMap<i64, Vec<(Instant, i64, MoveFact)>> = HashMap::new();
            each(conn, sql, "work_order", works, |row| {
                let (work, at) = (id("state_changes", row)?, row.get(1)?);
                let fact = MoveFact { work: row.get(0)?, step: 0, at, to: row.get(2)?, recorded_at: row.get(3)? };
                found.entry(work).or_default().push((at, row.get(4)?, fact));
                Ok(())
            })?;
            for mut of_work in found.into_values() {
                of_work.sort_by_key(|(at, id, _)| (*at, *id));
                for ((_, _, fact), step) in of_work.into_iter().zip(0u16..) {
                    take(MoveFact { step, ..fact });
                }
            }
            Ok(())
        }
    }
}

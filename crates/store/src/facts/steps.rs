//! Steps of orders that take hours elsewhere than at the order's asset, from job sheets and what was ticked off.

use crate::ground::{
    error::Result,
    rows::{from_json, list_of},
};
use rusqlite::{Connection, OptionalExtension};
use std::collections::{HashMap, HashSet};
use tally_core::{
    facts::StepFact,
    ground::{
        ids::{AssetId, WorkOrderId},
        time::{HOUR, Instant},
    },
    plant::assets::Tree,
    work::JobSheet,
};

/// A step that takes hours, by its place in its sheet.
struct Timed {
    place: u16,
    asset: Option<u32>,
    hours_ms: i64,
}

/// Steps of all orders, or of some, whose job sheet has one that takes hours at an asset that it names.
pub(super) fn steps(
    conn: &Connection,
    tree: &Tree,
    works: Option<&HashSet<i64>>,
    mut take: impl FnMut(StepFact),
) -> Result<()> {
    let of_works = jobs(conn, works)?;
    let mut sheets: HashMap<i64, Vec<Timed>> = HashMap::new();
    for (_, version) in &of_works {
        if !sheets.contains_key(version) {
            sheets.insert(*version, timed(conn, tree, *version)?);
        }
    }
    let of_works: Vec<(i64, &[Timed])> = of_works
        .iter()
        .filter_map(|(work, version)| Some((*work, sheets.get(version)?.as_slice())))
        .filter(|(_, steps)| !steps.is_empty())
        .collect();
    if of_works.is_empty() {
        return Ok(());
    }
    let settled = settled(conn, of_works.iter().map(|(work, _)| *work))?;
    for (work, steps) in of_works {
        for Timed { place, asset, hours_ms } in steps {
            let settled_at = settled.get(&(work, *place)).copied().unwrap_or(Instant::LATEST);
            take(StepFact { work: WorkOrderId(work), place: *place, asset: *asset, hours_ms: *hours_ms, settled_at });
        }
    }
    Ok(())
}

/// Orders with the versions of the job sheets that they took.
fn jobs(conn: &Connection, works: Option<&HashSet<i64>>) -> Result<Vec<(i64, i64)>> {
    let sql = "SELECT number, job_version_id FROM work_orders WHERE job_version_id IS NOT NULL";
    let pair = |row: &rusqlite::Row| Ok((row.get(0)?, row.get(1)?));
    let found = match works {
        None => conn.prepare(sql)?.query_map([], pair)?.collect::<rusqlite::Result<_>>()?,
        Some(works) => conn
            .prepare_cached(&format!("{sql} AND number IN rarray(?1)"))?
            .query_map([list_of(works.iter().copied())], pair)?
            .collect::<rusqlite::Result<_>>()?,
    };
    Ok(found)
}

/// The steps of a sheet that take hours; none where all of them are at the order's own asset.
fn timed(conn: &Connection, tree: &Tree, version: i64) -> Result<Vec<Timed>> {
    let mut select = conn.prepare_cached("SELECT sheet FROM job_sheet_versions WHERE id = ?1")?;
    let sheet: JobSheet =
        from_json("job_sheet_versions", &select.query_row([version], |row| row.get::<_, String>(0))?)?;
    let mut steps = Vec::new();
    for (step, place) in sheet.steps.iter().zip(0u16..) {
        let Some(hours) = step.hours else { continue };
        let asset = match &step.asset {
            Some(code) => dense(conn, tree, code)?,
            None => None,
        };
        steps.push(Timed { place, asset, hours_ms: (hours * HOUR as f64).round() as i64 });
    }
    if steps.iter().all(|step| step.asset.is_none()) {
        steps.clear();
    }
    Ok(steps)
}

/// The place of an asset in the tree; none where there is no such asset any more.
fn dense(conn: &Connection, tree: &Tree, code: &str) -> Result<Option<u32>> {
    let mut select = conn.prepare_cached("SELECT id FROM assets WHERE code = ?1")?;
    let id: Option<AssetId> = select.query_row([code], |row| row.get(0)).optional()?;
    Ok(id.and_then(|id| tree.index(id)).and_then(|index| u32::try_from(index).ok()))
}

/// When steps were done or skipped, by order and place.
fn settled(conn: &Connection, works: impl Iterator<Item = i64>) -> Result<HashMap<(i64, u16), Instant>> {
    let mut select = conn.prepare_cached(
        "SELECT work_order, place, at FROM job_ticks WHERE line = 'step' AND work_order IN rarray(?1)",
    )?;
    let rows = select.query_map([list_of(works)], |row| Ok(((row.get(0)?, row.get(1)?), row.get(2)?)))?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

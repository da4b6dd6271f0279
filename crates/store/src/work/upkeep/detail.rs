//! One plan with the cycles it had, and how many were done in time.

use super::{
    courses::{Which, courses},
    forward::require_reached,
};
use crate::{
    ground::{
        error::{Result, StoreError},
        view::View,
    },
    plant::{assets::NamedAsset, settings},
};
use jiff::civil::Date;
use rusqlite::OptionalExtension;
use serde::Serialize;
use tally_core::{
    ground::{
        ids::{AssetId, CrewId, PlanId, WorkOrderId},
        time::Instant,
    },
    work::{WorkState, plans::is_in_time},
};
use utoipa::ToSchema;

/// A cycle that was settled.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct CycleRow {
    pub number: i64,
    pub asset: NamedAsset,
    /// Before any move.
    pub due: String,
    pub moved_to: Option<String>,
    /// The count at which it was due.
    pub mark: Option<f64>,
    /// Its work; none where it was missed.
    pub work_order: Option<WorkOrderId>,
    pub state: Option<WorkState>,
    pub brought_forward: bool,
    pub done_on: Option<String>,
    /// Done by its date and a tenth of its interval; none while that can still be.
    pub in_time: Option<bool>,
}

/// The next cycle on one asset.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct NextCycle {
    pub asset: NamedAsset,
    pub number: i64,
    pub due: String,
    pub on: String,
    pub mark: Option<f64>,
    /// What the counter reads, and its use a day.
    pub count: Option<f64>,
    pub per_day: Option<f64>,
    /// Its work is open.
    pub is_open: bool,
}

/// A plan with its cycles.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct PlanDetail {
    pub code: String,
    pub name: String,
    pub status: String,
    /// Of the first assets, by their codes.
    pub next: Vec<NextCycle>,
    /// How many assets it is for.
    pub assets: usize,
    /// The newest first.
    pub cycles: Vec<CycleRow>,
    /// Of all cycles told: how many were judged, and how many of them were done in time.
    pub judged: usize,
    pub in_time: usize,
}

/// Cycles and assets told.
const MOST_TOLD: usize = 200;

/// One plan.
///
/// # Errors
/// [`StoreError::NotFound`], [`StoreError::NotTheirs`] for another crew's, [`StoreError::Beyond`] for one on assets that the viewer does not reach.
pub fn detail(view: &View, code: &str) -> Result<PlanDetail> {
    let zone = settings::time_zone(view)?;
    let today = view.now.in_zone(&zone).date();
    require_reached(view.conn, view.viewer.bounds(), code)?;
    let mut select = view.conn.prepare_cached(
        "SELECT p.id, p.name, p.status, ifnull(p.crew_id, a.crew_id) FROM upkeep_plans p LEFT JOIN assets a ON a.id = p.asset_id
         WHERE p.code = ?1",
    )?;
    let found: Option<(PlanId, String, String, Option<CrewId>)> =
        select.query_row([code], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?, row.get(3)?))).optional()?;
    let (plan, name, status, crew) = found.ok_or_else(|| StoreError::not_found("upkeep plan", code))?;
    if !view.viewer.sees_work_of(crew) {
        return Err(StoreError::NotTheirs(format!("upkeep plan {code} is another crew's, or not yours to see")));
    }
    let tree = &view.facts()?.tree;
    let within = crate::work::week::within(view, None)?;
    let reached = |asset: AssetId| tree.index(asset).is_some_and(|index| within[index]);
    let mut all = courses(view.conn, Which::These(&[plan]), view.now, &zone)?;
    all.retain(|course| reached(course.asset));
    let next = all.iter().filter(|_| status == "active").take(MOST_TOLD).map(|course| {
        let cycle = course.recurrence.next_cycle(&course.standing, today);
        NextCycle {
            asset: NamedAsset { code: course.asset_code.clone(), name: course.asset_name.clone() },
            number: cycle.number,
            due: cycle.due.to_string(),
            on: cycle.on.to_string(),
            mark: cycle.mark,
            count: course.standing.counter.map(|counter| counter.count),
            per_day: course.per_day(),
            is_open: course.standing.open.is_some(),
        }
    });
    let next = next.collect();
    let mut select = view.conn.prepare_cached(
        "SELECT c.number, a.id, a.code, a.name, c.due, c.moved_to, c.mark, c.work_order, w.state, c.brought_forward, c.grace_days,
             (SELECT max(s.at) FROM state_changes s WHERE s.work_order = c.work_order AND s.to_state = 'done'
                 AND w.state IN ('done', 'returned', 'closed'))
         FROM upkeep_cycles c JOIN assets a ON a.id = c.asset_id LEFT JOIN work_orders w ON w.number = c.work_order
         WHERE c.plan_id = ?1 AND c.outcome IS NOT NULL ORDER BY c.due DESC, a.code, c.number LIMIT ?2",
    )?;
    let mut rows = select.query([plan.0, MOST_TOLD as i64])?;
    let mut cycles = Vec::new();
    while let Some(row) = rows.next()? {
        if !reached(row.get(1)?) {
            continue;
        }
        let due_text: String = row.get(4)?;
        let due: Date = due_text.parse().map_err(|error| StoreError::corrupt("upkeep_cycles", error))?;
        let (state, grace): (Option<WorkState>, u32) = (row.get(8)?, row.get(10)?);
        let done: Option<Instant> = row.get(11)?;
        let done = done.map(|at| at.in_zone(&zone).date());
        let may_still = done.is_none() && state.is_some_and(|state| state != WorkState::Dropped);
        let is_judged = !may_still || !is_in_time(due, grace, Some(today));
        cycles.push(CycleRow {
            number: row.get(0)?,
            asset: NamedAsset { code: row.get(2)?, name: row.get(3)? },
            due: due_text,
            moved_to: row.get(5)?,
            mark: row.get(6)?,
            work_order: row.get(7)?,
            state,
            brought_forward: row.get(9)?,
            done_on: done.map(|on| on.to_string()),
            in_time: is_judged.then(|| is_in_time(due, grace, done)),
        });
    }
    Ok(PlanDetail {
        code: code.into(),
        name,
        status,
        next,
        assets: all.len(),
        judged: cycles.iter().filter(|cycle| cycle.in_time.is_some()).count(),
        in_time: cycles.iter().filter(|cycle| cycle.in_time == Some(true)).count(),
        cycles,
    })
}

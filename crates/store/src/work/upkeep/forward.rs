//! A plan done early: by hand, or because a limit says so.

use super::{
    courses::{Course, Which, courses},
    settle::raise,
};
use crate::{
    ground::{
        error::{Result, StoreError},
        reach,
        tx::Tx,
    },
    plant::{assets, settings},
};
use rusqlite::{Connection, OptionalExtension};
use tally_core::{
    access::{bounds::Bounds, roles::Action},
    ground::ids::{AssetId, PlanId, WorkOrderId},
};

/// What came of bringing a plan forward.
pub(crate) enum Forwarded {
    /// Its next cycle was raised.
    Raised(WorkOrderId),
    /// The work of a cycle is open already.
    Open(WorkOrderId),
}

/// The id of a plan that makes work; `field` names it in errors.
///
/// # Errors
/// [`StoreError::Invalid`].
pub(crate) fn require_active(conn: &Connection, code: &str, field: &str) -> Result<PlanId> {
    let mut select = conn.prepare_cached("SELECT id, status FROM upkeep_plans WHERE code = ?1")?;
    let found: Option<(PlanId, String)> = select.query_row([code], |row| Ok((row.get(0)?, row.get(1)?))).optional()?;
    match found {
        None => Err(StoreError::invalid(field, format!("there is no upkeep plan {code:?}"))),
        Some((_, status)) if status != "active" => {
            Err(StoreError::invalid(field, format!("upkeep plan {code:?} is {status}")))
        }
        Some((plan, _)) => Ok(plan),
    }
}

/// Refuses a plan that is for nothing that is reached, in the words for one there is not.
///
/// # Errors
/// [`StoreError::Beyond`].
pub(super) fn require_reached(conn: &Connection, bounds: &Bounds, code: &str) -> Result<()> {
    if !bounds.is_bounded() {
        return Ok(());
    }
    let reaches = reach::condition(bounds, "a.id");
    let mut select = conn.prepare_cached(&format!(
        "SELECT 1 FROM upkeep_plans p JOIN assets a ON a.id = p.asset_id WHERE p.code = ?1 AND {reaches}
         UNION ALL SELECT 1 FROM upkeep_plans p JOIN assets a ON a.class_id = p.class_id WHERE p.code = ?1 AND {reaches}"
    ))?;
    if select.exists([code])? { Ok(()) } else { Err(StoreError::Beyond { kind: "upkeep plan", id: code.into() }) }
}

fn open_work(conn: &Connection, plan: PlanId, asset: AssetId) -> Result<Option<WorkOrderId>> {
    let mut select = conn.prepare_cached(
        "SELECT number FROM work_orders WHERE plan_id = ?1 AND asset_id = ?2
             AND state IN ('raised', 'planning', 'waiting', 'ready', 'scheduled', 'under_way') ORDER BY number LIMIT 1",
    )?;
    Ok(select.query_row([plan.0, asset.0], |row| row.get(0)).optional()?)
}

/// Raises the next cycle of a plan now, with the reason in its text, unless work of it is open. A plan that is not for the asset
/// is done on its own asset.
///
/// # Errors
/// [`StoreError::Invalid`] where the plan is for no asset that is there.
pub(crate) fn bring_forward(tx: &mut Tx, plan: PlanId, asset: AssetId, reason: &str) -> Result<Forwarded> {
    let zone = settings::time_zone(tx)?;
    let all = courses(tx.conn, Which::These(&[plan]), tx.now, &zone)?;
    let course = all.iter().find(|course| course.asset == asset).or(all.first());
    let Some(course) = course else {
        return Err(StoreError::invalid("plan", "there is no asset that it is for"));
    };
    if let Some(open) = open_work(tx.conn, plan, course.asset)? {
        return Ok(Forwarded::Open(open));
    }
    let today = tx.now.in_zone(&zone).date();
    let cycle = course.recurrence.next_cycle(&course.standing, today);
    let work = raise(tx, course, &cycle, &zone, Some(reason))?;
    Ok(Forwarded::Raised(work))
}

/// Raises the next cycle of a plan now, by hand.
///
/// # Errors
/// [`StoreError::Invalid`] for a plan that makes no work or an asset that it is not for, [`StoreError::Conflict`] where work of it
/// is open.
pub fn raise_now(tx: &mut Tx, code: &str, asset: Option<&str>) -> Result<WorkOrderId> {
    tx.require(Action::PlanWork)?;
    require_reached(tx.conn, &tx.actor.bounds, code)?;
    let plan = require_active(tx.conn, code, "code")?;
    let zone = settings::time_zone(tx)?;
    let all = courses(tx.conn, Which::These(&[plan]), tx.now, &zone)?;
    let course: &Course = match asset {
        Some(asset) => {
            let asset = assets::require_reached_in(tx, asset, "asset")?;
            let of_asset = all.iter().find(|course| course.asset == asset);
            of_asset.ok_or_else(|| StoreError::invalid("asset", "the plan is not for it"))?
        }
        None => match all.as_slice() {
            [one] => one,
            [] => return Err(StoreError::invalid("asset", "there is no asset that the plan is for")),
            _ => return Err(StoreError::invalid("asset", "say for which, the plan is for several")),
        },
    };
    assets::require_reached_in(tx, &course.asset_code, "asset")?;
    match bring_forward(tx, plan, course.asset, "")? {
        Forwarded::Raised(work) => Ok(work),
        Forwarded::Open(open) => Err(StoreError::Conflict(format!("its work is open already: order {open}"))),
    }
}

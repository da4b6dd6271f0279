//! What work and failures came to here: what the finder's best is weighed by.

use super::load::{FailedOf, Loaded};
use crate::ground::{error::Result, view::View};
use std::collections::HashMap;
use tally_core::{
    ground::{
        ids::AssetId,
        time::{HOUR, Instant},
    },
    plant::assets::{ParentEffect, Tree},
    watch::limits::finder::Worth,
};

/// Mean cost of such work and of such failures, their downtime among it. None where either is not known.
pub(super) fn of(view: &View, loaded: &Loaded) -> Result<Option<Worth>> {
    if loaded.usual.from == 0 || loaded.usual.cost <= 0.0 || loaded.rows.is_empty() {
        return Ok(None);
    }
    let by_hour = downtime_costs(view)?;
    let mut sum = 0.0;
    for (failed, at) in loaded.rows.iter().zip(&loaded.past.failures) {
        sum += failed.cost + downtime_cost(view, failed, *at, &by_hour)?;
    }
    let failure = sum / loaded.rows.len() as f64;
    Ok((failure > 0.0).then_some(Worth { work: loaded.usual.cost, failure }))
}

/// The mean of several meters'.
pub(super) fn mean(worths: &[Worth]) -> Option<Worth> {
    let count = worths.len() as f64;
    let of = |value: fn(&Worth) -> f64| worths.iter().map(value).sum::<f64>() / count;
    (!worths.is_empty()).then(|| Worth { work: of(|worth| worth.work), failure: of(|worth| worth.failure) })
}

/// How the best is chosen.
pub(super) fn words(worth: Option<Worth>) -> &'static str {
    match worth {
        Some(_) => {
            "The best weighs what the failures it caught came to here, with the cost of their downtime, against what the work it \
             raised would: both at their means."
        }
        None => {
            "The best is the one that caught most, then the one with least work: what such work and such failures cost is not \
             known here."
        }
    }
}

/// Minor units per hour of unplanned downtime, by asset.
fn downtime_costs(view: &View) -> Result<HashMap<AssetId, f64>> {
    let mut select =
        view.conn.prepare_cached("SELECT id, downtime_cost FROM assets WHERE downtime_cost IS NOT NULL")?;
    let rows = select.query_map([], |row| Ok((row.get(0)?, row.get::<_, i64>(1)? as f64)))?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

/// What the unplanned downtime of a failure's order cost: its hours at the rate of the highest asset that it put down through
/// a chain of *yes*.
fn downtime_cost(view: &View, failed: &FailedOf, at: Instant, by_hour: &HashMap<AssetId, f64>) -> Result<f64> {
    let mut select = view.conn.prepare_cached(
        "SELECT asset_id, start_at, end_at FROM downtimes WHERE work_order = ?1 AND kind = 'unplanned'",
    )?;
    let mut rows = select.query([failed.work])?;
    let mut cost = 0.0;
    while let Some(row) = rows.next()? {
        let (start, end): (Instant, Instant) =
            (row.get("start_at")?, row.get::<_, Option<Instant>>("end_at")?.unwrap_or(view.now));
        let hours = end.since(start) as f64 / HOUR as f64;
        cost += hours * rate(&view.facts()?.tree, row.get(0)?, at, by_hour);
    }
    Ok(cost)
}

fn rate(tree: &Tree, asset: AssetId, at: Instant, by_hour: &HashMap<AssetId, f64>) -> f64 {
    let Some(mut index) = tree.index(asset) else { return 0.0 };
    let mut rate = by_hour.get(&asset).copied().unwrap_or(0.0);
    while *tree.effect_at(index, at) == ParentEffect::Yes
        && let Some(parent) = tree.parent_at(index, at)
    {
        index = parent;
        rate = by_hour.get(&tree.node(index).id).copied().unwrap_or(rate);
    }
    rate
}

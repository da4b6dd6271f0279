//! The tally of the whole demo for a year, beside plain SQL for the same answer.

use crate::measure::{ROUNDS, median};
use anyhow::Result;
use rusqlite::Connection;
use std::{collections::HashMap, time::Instant as Stopwatch};
use tally_core::{
    facts::Snapshot,
    ground::{
        ids::AssetId,
        time::{DAY, Instant, Span},
    },
    plant::assets::Basis,
    tally::{
        Question, figures,
        indicators::{CATALOGUE, Indicator},
    },
};
use tally_demo::{TODAY, ensure, opening, plan::Size};
use tally_store::{Store, StoreError};

/// Cost for each asset and all below it, as the tree was at each entry's instant.
const COST: &str = "WITH RECURSIVE line (asset, at, amount) AS (
        SELECT asset_id, at, amount FROM entries WHERE at >= ?1 AND at < ?2
        UNION ALL
        SELECT p.parent_id, l.at, l.amount FROM line l JOIN placements p
            ON p.asset_id = l.asset AND p.from_at <= l.at AND (p.to_at IS NULL OR p.to_at > l.at)
        WHERE p.parent_id IS NOT NULL)
    SELECT asset, sum(amount) FROM line GROUP BY asset";

fn by_sql(path: &std::path::Path, year: Span) -> Result<(HashMap<i64, i64>, f64)> {
    let conn = Connection::open(path)?;
    let mut select = conn.prepare(COST)?;
    let (mut times, mut answer) = (Vec::new(), HashMap::new());
    for round in 0..=ROUNDS {
        let start = Stopwatch::now();
        let rows = select.query_map([year.start().ms(), year.end().ms()], |row| Ok((row.get(0)?, row.get(1)?)))?;
        answer = rows.collect::<rusqlite::Result<_>>()?;
        if round > 0 {
            times.push(start.elapsed().as_secs_f64());
        }
    }
    Ok((answer, median(&mut times)))
}

fn by_tally(snapshot: &Snapshot, indicators: &[Indicator], q: Question) -> (Vec<(AssetId, f64)>, f64) {
    let ids: Vec<AssetId> = (0..snapshot.tree.len()).map(|index| snapshot.tree.node(index).id).collect();
    let (mut times, mut answer) = (Vec::new(), Vec::new());
    for round in 0..=ROUNDS {
        let start = Stopwatch::now();
        answer = figures(snapshot, &ids, indicators, q);
        if round > 0 {
            times.push(start.elapsed().as_secs_f64());
        }
    }
    let first = answer.iter().map(|row| row.first().and_then(|figure| figure.value).unwrap_or_default());
    (ids.into_iter().zip(first).collect(), median(&mut times))
}

/// Prints times and ratios.
pub fn bench() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let now = opening(TODAY);
    let store = Store::open(folder.path(), now)?;
    ensure(&store, TODAY, Size::Full, |_| ())?;
    let year = Span::new(now.plus(-365 * DAY), now)?;
    let (sql, sql_time) = by_sql(store.path(), year)?;
    let start = Stopwatch::now();
    store.read(Instant::LATEST, |view| view.facts().map(|_| ()))?;
    let read = start.elapsed().as_secs_f64();
    let all: Vec<Indicator> = CATALOGUE.iter().map(|definition| definition.id).collect();
    let (assets, (costs, cost_time), (_, all_time)) = store.read(Instant::LATEST, |view| {
        let snapshot = view.facts()?;
        let q = Question { period: year, now: Instant::LATEST, basis: Basis::AsWas };
        let cost = by_tally(snapshot, &[Indicator::CostTotal], q);
        Ok::<_, StoreError>((snapshot.tree.len(), cost, by_tally(snapshot, &all, Question { now, ..q })))
    })?;
    for (asset, cost) in costs {
        let same = sql.get(&asset.0).copied().unwrap_or_default();
        anyhow::ensure!((cost - same as f64).abs() < 0.5, "asset {asset}: {cost} by the tally, {same} by SQL");
    }
    println!("\ntally of the whole demo for a year, {assets} assets (medians of {ROUNDS}):");
    println!("  {:6.1} ms  cost of every asset, by SQL over the tables", sql_time * 1e3);
    println!("  {:6.1} ms  the same answer, by the tally", cost_time * 1e3);
    println!("  {:6.1} ms  all {} indicators of every asset, by the tally", all_time * 1e3, all.len());
    println!("  {:6.1} ms  reading the snapshot, once at start", read * 1e3);
    println!("  ratio of the tally's cost to SQL's: {:.2}", cost_time / sql_time);
    Ok(())
}

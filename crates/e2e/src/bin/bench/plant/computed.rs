//! Figures of every asset for a year, beside a bare loop over prepared columns and plain SQL for the same answers.

use crate::measure::{ROUNDS, median};
use anyhow::{Result, ensure};
use std::{collections::HashMap, path::Path, time::Instant as Stopwatch};
use tally_core::{
    facts::{Snapshot, columns::Part},
    ground::{
        ids::AssetId,
        time::{DAY, HOUR, Instant, Span},
    },
    plant::assets::{Basis, NOBODY},
    tally::{Question, indicators::Indicator, values},
};
use tally_e2e::{plant, plant::NOW};
use tally_store::{Store, StoreError};

const EIGHT: [Indicator; 8] = [
    Indicator::CostLabour,
    Indicator::CostMaterial,
    Indicator::CostService,
    Indicator::CostTool,
    Indicator::Failures,
    Indicator::UnplannedDowntime,
    Indicator::OpenWork,
    Indicator::OpenHours,
];

/// What the bare loop goes over: columns without anything that could change, each row's asset by its place in tree order.
#[derive(Default)]
struct Prepared {
    parent: Vec<u32>,
    asset_at: Vec<u32>,
    entries: (Vec<i64>, Vec<u32>, Vec<u8>, Vec<i64>),
    failures: (Vec<i64>, Vec<u32>, Vec<u8>),
    /// Start, end, and where it enters; whether an asset puts its parent down.
    downtimes: Vec<(i64, i64, u32)>,
    puts_down: Vec<bool>,
    open: Vec<(u32, i64)>,
}

fn prepare(facts: &Snapshot, q: Question) -> Prepared {
    let shape = facts.tree.shape_at(q.period.end().plus(-1));
    let mut place = vec![0u32; facts.tree.len()];
    (0u32..).zip(shape.order()).for_each(|(at, asset)| place[*asset as usize] = at);
    let mut prepared = Prepared { asset_at: shape.order().to_vec(), ..Prepared::default() };
    for &asset in shape.order() {
        let above = shape.parent(asset);
        prepared.parent.push(if above == NOBODY { NOBODY } else { place[above as usize] });
        let effect = facts.tree.effect_at(asset as usize, q.period.end().plus(-1));
        prepared.puts_down.push(*effect == tally_core::plant::assets::ParentEffect::Yes);
    }
    for part in facts.entries.parts() {
        prepared.entries.0.extend(part.at.iter());
        prepared.entries.1.extend(part.asset.iter().map(|asset| place[*asset as usize]));
        prepared.entries.2.extend(&part.kind);
        prepared.entries.3.extend(part.cost.iter());
    }
    for part in facts.failures.parts() {
        prepared.failures.0.extend(part.at.iter());
        prepared.failures.1.extend(part.asset.iter().map(|asset| place[*asset as usize]));
        prepared.failures.2.extend(&part.effect);
    }
    for row in facts.downtimes.rows().filter(|row| row.kind == tally_core::plant::downtime::DowntimeKind::Unplanned) {
        prepared.downtimes.push((row.start.ms(), row.end.ms().min(q.now.ms()), place[row.asset as usize]));
    }
    for part in facts.works.parts() {
        for row in (0..part.len()).map(|place| part.row(place)).filter(|row| row.until == Instant::LATEST) {
            let left = row.estimated_ms.map_or(0, |estimated| (estimated - row.spent_ms).max(0));
            prepared.open.push((place[row.asset as usize], left));
        }
    }
    prepared
}

/// Sums per asset, then up the tree: eight of them.
fn bare(prepared: &Prepared, year: Span) -> Vec<[i64; 8]> {
    let (from, to) = (year.start().ms(), year.end().ms());
    let mut sums = vec![[0i64; 8]; prepared.parent.len()];
    let (at, asset, kind, cents) = &prepared.entries;
    let rows = at.partition_point(|at| *at < from)..at.partition_point(|at| *at < to);
    for row in rows {
        sums[asset[row] as usize][kind[row] as usize] += cents[row];
    }
    let (at, asset, effect) = &prepared.failures;
    for row in at.partition_point(|at| *at < from)..at.partition_point(|at| *at < to) {
        sums[asset[row] as usize][4] += i64::from(effect[row] < 2);
    }
    for (asset, left) in &prepared.open {
        sums[*asset as usize][6] += 1;
        sums[*asset as usize][7] += left;
    }
    for below in (0..sums.len()).rev() {
        let above = prepared.parent[below];
        if above != NOBODY {
            let added = sums[below];
            let sum = &mut sums[above as usize];
            (0..8).for_each(|cell| sum[cell] += added[cell]);
        }
    }
    let mut ends = vec![i64::MIN; sums.len()];
    for &(start, end, enter) in &prepared.downtimes {
        let (start, end) = (start.max(from), end.min(to));
        if start >= end {
            continue;
        }
        let mut asset = enter;
        loop {
            let counted = &mut ends[asset as usize];
            if end > *counted {
                sums[asset as usize][5] += end - start.max(*counted);
                *counted = end;
            }
            let above = prepared.parent[asset as usize];
            if above == NOBODY || !prepared.puts_down[asset as usize] {
                break;
            }
            asset = above;
        }
    }
    sums
}

const COST_BY_SQL: &str = "WITH RECURSIVE line (asset, at, kind, amount) AS (
        SELECT asset_id, at, kind, amount FROM entries WHERE at >= ?1 AND at < ?2
        UNION ALL
        SELECT p.parent_id, l.at, l.kind, l.amount FROM line l JOIN placements p
            ON p.asset_id = l.asset AND p.from_at <= l.at AND (p.to_at IS NULL OR p.to_at > l.at)
        WHERE p.parent_id IS NOT NULL)
    SELECT asset, sum(amount) FILTER (WHERE kind = 'labour'), sum(amount) FILTER (WHERE kind = 'material'),
        sum(amount) FILTER (WHERE kind = 'service'), sum(amount) FILTER (WHERE kind = 'tool') FROM line GROUP BY asset";
const FAILURES_BY_SQL: &str = "WITH RECURSIVE line (asset, at) AS (
        SELECT asset_id, failed_at FROM failure_reports WHERE failed_at >= ?1 AND failed_at < ?2 AND effect <> 'incipient'
        UNION ALL
        SELECT p.parent_id, l.at FROM line l JOIN placements p
            ON p.asset_id = l.asset AND p.from_at <= l.at AND (p.to_at IS NULL OR p.to_at > l.at)
        WHERE p.parent_id IS NOT NULL)
    SELECT asset, count(*) FROM line GROUP BY asset";

/// Prints ratios; all answers are the same.
pub fn bench(folder: &Path) -> Result<()> {
    let now = Instant::parse(NOW)?;
    let year = Span::new(now.plus(-365 * DAY), now)?;
    let q = Question { period: year, now, basis: Basis::AsWas };
    let conn = plant::database(folder)?;
    let bounds = [year.start().ms(), year.end().ms()];
    let start = Stopwatch::now();
    let mut by_sql: HashMap<i64, [i64; 5]> = HashMap::new();
    let mut select = conn.prepare(COST_BY_SQL)?;
    let mut rows = select.query(bounds)?;
    while let Some(row) = rows.next()? {
        let cell = |place| row.get::<_, Option<i64>>(place).map(Option::unwrap_or_default);
        by_sql.insert(row.get(0)?, [cell(1)?, cell(2)?, cell(3)?, cell(4)?, 0]);
    }
    let mut select = conn.prepare(FAILURES_BY_SQL)?;
    let mut rows = select.query(bounds)?;
    while let Some(row) = rows.next()? {
        by_sql.entry(row.get(0)?).or_default()[4] = row.get(1)?;
    }
    let sql = start.elapsed().as_secs_f64();
    let store = Store::open(folder, now)?;
    let start = Stopwatch::now();
    store.read(now, |view| view.facts().map(|_| ()))?;
    println!("  {:8.2} s   to read all facts; wanted within 5 s of the start", start.elapsed().as_secs_f64());
    store.read(now, |view| {
        let facts = view.facts()?;
        let ids: Vec<AssetId> = (0..facts.tree.len()).map(|index| facts.tree.node(index).id).collect();
        let prepared = prepare(facts, q);
        let (mut ours, mut bares) = (Vec::new(), Vec::new());
        let (mut told, mut summed) = (Vec::new(), Vec::new());
        for round in 0..=ROUNDS {
            let start = Stopwatch::now();
            told = values(facts, &EIGHT, q, None);
            let our = start.elapsed().as_secs_f64();
            let start = Stopwatch::now();
            summed = bare(&prepared, year);
            if round > 0 {
                ours.push(our);
                bares.push(start.elapsed().as_secs_f64());
            }
        }
        let (our, bare) = (median(&mut ours), median(&mut bares));
        println!("  eight indicators of {} assets for a year (median of {ROUNDS}):", ids.len());
        println!("  {:8.1} ms  by the tally", our * 1e3);
        println!(
            "  {:8.1} ms  by a bare loop over prepared columns: {:.2} times; wanted at most 3",
            bare * 1e3,
            our / bare
        );
        println!("  {:8.1} ms  five of them by plain SQL: {:.0} times; wanted 50 or more", sql * 1e3, sql / our);
        let same = same(&prepared, &ids, &told, &summed, &by_sql);
        same.map_err(|error| StoreError::Conflict(error.to_string()))
    })?;
    Ok(())
}

/// That every answer is the others': cost and failures by SQL, which follows what was moved; the rest by the bare loop, which does
/// not, nor knows calendars and groups.
fn same(
    prepared: &Prepared,
    ids: &[AssetId],
    told: &[Vec<Option<f64>>],
    summed: &[[i64; 8]],
    by_sql: &HashMap<i64, [i64; 5]>,
) -> Result<()> {
    for (place, asset) in prepared.asset_at.iter().enumerate() {
        let figure = |which: usize| told[which][*asset as usize].unwrap_or_default();
        let id = ids[*asset as usize];
        let sql = by_sql.get(&id.0).copied().unwrap_or_default();
        for which in 0..5 {
            ensure!(
                (figure(which) - sql[which] as f64).abs() < 0.5,
                "asset {id} {:?}: {} and {}",
                EIGHT[which],
                figure(which),
                sql[which]
            );
        }
        let bare = &summed[place];
        ensure!(figure(6) == bare[6] as f64, "asset {id}: {} open, {} by the bare loop", figure(6), bare[6]);
        let hours = bare[7] as f64 / HOUR as f64;
        ensure!((figure(7) - hours).abs() < 1e-6, "asset {id}: {} h open, {hours} by the bare loop", figure(7));
    }
    Ok(())
}

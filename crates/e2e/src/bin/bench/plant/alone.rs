//! What each indicator takes alone: where the time of all together goes.

use anyhow::Result;
use std::{path::Path, time::Instant as Stopwatch};
use tally_core::{
    facts::Snapshot,
    ground::{
        ids::AssetId,
        time::{DAY, Instant, Span},
    },
    plant::assets::Basis,
    tally::{
        Places, Question, Scope, figures_of,
        indicators::{CATALOGUE, Indicator},
    },
};
use tally_e2e::plant::NOW;
use tally_store::{Store, StoreError};

/// A unit of it, with 5 % of all assets.
const UNIT: AssetId = AssetId(3);

fn took(facts: &Snapshot, scope: Option<AssetId>, depth: u32, indicators: &[Indicator], q: Question) -> f64 {
    let rows = Places::new(facts, Scope { asset: scope, depth, ..Scope::default() }, q);
    let once = || {
        let start = Stopwatch::now();
        rows.as_ref().map(|rows| figures_of(facts, rows, indicators, q));
        start.elapsed().as_secs_f64() * 1e3
    };
    (0..4).map(|_| once()).fold(f64::INFINITY, f64::min)
}

/// Prints the indicators by what they take, each alone, and all together.
pub fn bench(folder: &Path) -> Result<()> {
    let now = Instant::parse(NOW)?;
    let store = Store::open(folder, now)?;
    store.read(now, |view| {
        let facts = view.facts()?;
        let q = |days: i64| Some(Question { period: Span::new(now.plus(-days * DAY), now).ok()?, now, basis: Basis::AsWas });
        let (Some(year), Some(month)) = (q(365), q(30)) else { return Ok(()) };
        let all: Vec<Indicator> = CATALOGUE.iter().map(|one| one.id).collect();
        let alone = |indicators: &[Indicator]| {
            [(None, 1, year), (None, 0, month), (Some(UNIT), 1, month)]
                .map(|(scope, depth, q)| took(facts, scope, depth, indicators, q))
        };
        let mut each: Vec<(String, [f64; 3])> =
            all.iter().map(|one| (format!("{one:?}"), alone(&[*one]))).collect();
        each.sort_by(|a, b| b.1[0].total_cmp(&a.1[0]));
        each.push(("all".into(), alone(&all)));
        println!("  ms of each alone: the whole and one level for a year, the whole for a month, a unit and one level for a month");
        for (name, [year, month, unit]) in each {
            println!("  {year:8.1} {month:8.1} {unit:8.1}  {name}");
        }
        Ok::<_, StoreError>(())
    })?;
    Ok(())
}

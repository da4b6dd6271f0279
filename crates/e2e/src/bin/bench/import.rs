//! A plant's files taken in, beside bare inserts of the same rows.

use crate::measure::median;
use anyhow::Result;
use rusqlite::{Connection, params};
use std::time::Instant as Stopwatch;
use tally_core::{ground::time::Instant, outside::files::Table};
use tally_store::{
    Actor, Store, StoreError,
    access::people,
    plant::master::{Given, GivenRow, Kind, take},
};

const ASSETS: usize = 20_000;
const METERS: usize = 5_000;
const ROUNDS: usize = 5;

/// Children before parents, so that sorting them is part of what is measured.
fn assets() -> String {
    let mut csv = String::from("code,name,level,parent,class,criticality,crew,parent_effect,replacement_value\n");
    for i in (0..ASSETS).rev() {
        let parent = if i == 0 { String::new() } else { format!("A-{}", (i - 1) / 8) };
        let effect = if i % 2 == 0 { "no" } else { "yes" };
        let criticality = ["A", "B", "C"][i % 3];
        csv.push_str(&format!(
            "A-{i},Asset {i},equipment,{parent},class-{},{criticality},crew-{},{effect},{i}.50\n",
            i % 12,
            i % 5
        ));
    }
    csv
}

fn meters() -> String {
    let mut csv = String::from("code,asset,name,kind,unit,plausible_low,plausible_high,longest_silence\n");
    for i in 0..METERS {
        csv.push_str(&format!("M-{i},A-{},Meter {i},measurement,bar,0,100,14 d\n", i * 4));
    }
    csv
}

fn import(store: &Store, admin: &Actor, kind: Kind, csv: &str) -> Result<usize> {
    let table = Table::open(csv.as_bytes())?;
    let rows = table.lines().map(|(line, cells)| GivenRow { line, cells: cells.map(|l| l.cells), was: vec![] });
    let receipt = store.write(admin.clone(), Instant::parse("2026-01-01T00:00:00Z")?, |tx| {
        let given = Given { columns: &table.columns, rows, decimal: table.decimal(), zone: None, source: "bench" };
        take(tx, kind, given, &mut |_, _| true)
    });
    let receipt = receipt.map_err(|error: StoreError| anyhow::anyhow!(error))?;
    anyhow::ensure!(receipt.refused == 0, "{:?}", receipt.lines.first());
    Ok(receipt.added)
}

/// The same cells into one table each, with their keys, durable.
fn bare(folder: &std::path::Path, files: &[&str]) -> Result<f64> {
    let mut conn = Connection::open(folder.join("bare.db"))?;
    conn.pragma_update(None, "journal_mode", "WAL")?;
    conn.pragma_update(None, "synchronous", "FULL")?;
    conn.execute_batch("CREATE TABLE rows (file INTEGER, code TEXT, cells TEXT, PRIMARY KEY (file, code)) STRICT")?;
    let start = Stopwatch::now();
    let tx = conn.transaction()?;
    for (file, csv) in files.iter().enumerate() {
        let mut insert = tx.prepare("INSERT INTO rows VALUES (?1, ?2, ?3)")?;
        for line in csv.lines().skip(1) {
            insert.execute(params![file as i64, line.split(',').next(), line])?;
        }
    }
    tx.commit()?;
    Ok(start.elapsed().as_secs_f64())
}

/// Prints times and the ratio.
pub fn bench() -> Result<()> {
    let (assets, meters) = (assets(), meters());
    let (mut ours, mut bares) = (Vec::new(), Vec::new());
    for _ in 0..ROUNDS {
        let folder = tempfile::tempdir()?;
        let store = Store::open(folder.path(), Instant::parse("2026-01-01T00:00:00Z")?)?;
        let admin = store.read(Instant::LATEST, |view| people::first_administrator(view))?;
        bares.push(bare(folder.path(), &[&assets, &meters])?);
        let start = Stopwatch::now();
        let added = import(&store, &admin, Kind::Assets, &assets)? + import(&store, &admin, Kind::Meters, &meters)?;
        ours.push(start.elapsed().as_secs_f64());
        anyhow::ensure!(added == ASSETS + METERS, "{added}");
    }
    let (our, bare) = (median(&mut ours), median(&mut bares));
    println!(
        "\nimport of {ASSETS} assets and {METERS} meters, checked, placed, audited, durable (medians of {ROUNDS}):"
    );
    println!(
        "  {our:6.2} s, wanted below 10 s; {bare:.2} s for bare inserts of the same lines, ratio {:.1}",
        our / bare
    );
    Ok(())
}

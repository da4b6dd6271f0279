//! Readings taken in, beside bare inserts of the same rows.

use crate::measure::{ROUNDS, median};
use anyhow::Result;
use rusqlite::{Connection, params};
use serde_json::json;
use std::{path::Path, time::Instant as Stopwatch};
use tally_core::{
    ground::{time::Instant, value::IncomingValue},
    watch::{
        batch::{Batch, Incoming, Row},
        limits::Ladder,
        readings::Source,
    },
};
use tally_store::{
    Actor, Store,
    access::people,
    plant::assets,
    watch::{limits, meters, readings},
};

const ROWS: usize = 10_000;
const METERS: usize = 100;
fn code(meter: usize) -> String {
    format!("M{meter:03}")
}

/// Round by round the same rows: a minute a reading, a hundred meters in turn, now and then beyond the first rung.
fn rows(round: usize) -> Vec<(usize, i64, f64)> {
    let per_meter = ROWS / METERS;
    (0..ROWS)
        .map(|i| {
            let (meter, n) = (i % METERS, i / METERS);
            let at = 1_700_000_000_000 + ((round * per_meter + n) as i64) * 60_000;
            let value = 50.0 + ((i * 7919) % 400) as f64 / 10.0 + if (n + meter) % 97 == 0 { 30.0 } else { 0.0 };
            (meter, at, value)
        })
        .collect()
}

fn bare(folder: &Path, name: &str) -> Result<Connection> {
    let conn = Connection::open(folder.join(name))?;
    conn.pragma_update(None, "journal_mode", "WAL")?;
    conn.pragma_update(None, "synchronous", "FULL")?;
    conn.pragma_update(None, "cache_size", -64_000)?;
    conn.execute_batch(
        "CREATE TABLE readings (meter_id INTEGER NOT NULL, at INTEGER NOT NULL, value REAL NOT NULL,
             batch_id INTEGER NOT NULL, flags INTEGER NOT NULL, PRIMARY KEY (meter_id, at)) STRICT, WITHOUT ROWID",
    )?;
    Ok(conn)
}

fn insert_bare(conn: &mut Connection, rows: &[(usize, i64, f64)]) -> Result<f64> {
    let start = Stopwatch::now();
    let tx = conn.transaction()?;
    {
        let mut insert =
            tx.prepare_cached("INSERT INTO readings (meter_id, at, value, batch_id, flags) VALUES (?1, ?2, ?3, 1, 0)")?;
        for (meter, at, value) in rows {
            insert.execute(params![*meter as i64, at, value])?;
        }
    }
    tx.commit()?;
    Ok(start.elapsed().as_secs_f64())
}

fn plant(store: &Store, admin: &Actor, now: Instant) -> Result<()> {
    store.write(admin.clone(), now, |tx| {
        assets::add(tx, &serde_json::from_value(json!({"code": "A", "name": "A", "level": "unit"})).unwrap_or_else(|e| unreachable!("{e}")))?;
        for meter in 0..METERS {
            let new = json!({"code": code(meter), "asset": "A", "kind": "measurement", "unit": "Cel"});
            meters::add(tx, &serde_json::from_value(new).unwrap_or_else(|e| unreachable!("{e}")))?;
            let ladder: Ladder = serde_json::from_value(json!({"raise_interval_seconds": 86_400, "rungs": [
                {"side": "high", "severity": "alert", "setpoint": 100.0, "deadband": 5.0, "response": {"kind": "record"}},
                {"side": "high", "severity": "danger", "setpoint": 115.0, "deadband": 5.0, "response": {"kind": "raise"}},
                {"side": "low", "severity": "alert", "setpoint": 20.0, "deadband": 5.0, "response": {"kind": "raise"}}]}))
            .unwrap_or_else(|e| unreachable!("{e}"));
            limits::set(tx, &code(meter), &limits::NewLadder { reason: "bench".into(), ladder })?;
        }
        Ok::<_, tally_store::StoreError>(())
    })?;
    Ok(())
}

fn ingest(store: &Store, admin: &Actor, now: Instant, rows: &[(usize, i64, f64)]) -> Result<f64> {
    let rows: Vec<Row> = rows
        .iter()
        .map(|(meter, at, value)| {
            Ok(Incoming { meter: code(*meter), at: Instant::from_ms(*at), value: IncomingValue::Number(*value) })
        })
        .collect();
    let batch = Batch { source: Source::Gateway, name: None, strict: true };
    let start = Stopwatch::now();
    let receipt = store.write(admin.clone(), now, |tx| readings::ingest(tx, &rows, batch))?;
    let took = start.elapsed().as_secs_f64();
    anyhow::ensure!(receipt.accepted == ROWS, "{receipt:?}");
    Ok(took)
}

/// What the ratio to a bound was, round by round.
fn print_ratio(name: &str, ratios: &mut [f64]) {
    let middle = median(ratios);
    let (least, most) = (ratios.first().copied().unwrap_or_default(), ratios.last().copied().unwrap_or_default());
    println!("  ratio to {name}: {middle:.2} (spread {least:.2} to {most:.2}); wanted 0.60 or more");
}

/// Prints rates and ratios.
pub fn bench() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let now = Instant::parse("2026-01-01T00:00:00Z")?;
    let store = Store::open(folder.path(), now)?;
    let admin = store.read(Instant::LATEST, |view| people::first_administrator(view))?;
    plant(&store, &admin, now)?;
    let mut conn = bare(folder.path(), "as_sent.db")?;
    let mut sorted_conn = bare(folder.path(), "sorted.db")?;
    let (mut ours, mut bares, mut sorteds) = (Vec::new(), Vec::new(), Vec::new());
    // The first round of each warms the caches and is not counted.
    for round in 0..=ROUNDS {
        let rows = rows(round);
        let mut sorted = rows.clone();
        sorted.sort_by_key(|(meter, at, _)| (*meter, *at));
        let bare = insert_bare(&mut conn, &rows)?;
        let our = ingest(&store, &admin, now, &rows)?;
        let bare_sorted = insert_bare(&mut sorted_conn, &sorted)?;
        if round > 0 {
            bares.push(bare);
            sorteds.push(bare_sorted);
            ours.push(our);
        }
    }
    let ratios = |bound: &[f64]| -> Vec<f64> { bound.iter().zip(&ours).map(|(bare, our)| bare / our).collect() };
    let (mut to_bare, mut to_sorted) = (ratios(&bares), ratios(&sorteds));
    let rate = |seconds: f64| ROWS as f64 / seconds;
    println!("ingest of {ROWS} readings of {METERS} meters, each with three rungs, checked, evaluated and durable:");
    println!("  bare inserts {:9.0} rows/s (median of {ROUNDS})", rate(median(&mut bares)));
    println!("  the same, sorted by meter and instant first {:9.0} rows/s", rate(median(&mut sorteds)));
    println!("  ingest       {:9.0} rows/s", rate(median(&mut ours)));
    print_ratio("bare inserts", &mut to_bare);
    print_ratio("sorted bare inserts", &mut to_sorted);
    Ok(())
}

/// The same through HTTP and JSON, one batch after the other; printed beside, because it is what a gateway sees.
pub async fn over_http() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let now = Instant::parse("2026-01-01T00:00:00Z")?;
    {
        let store = Store::open(folder.path(), now)?;
        let admin = store.read(Instant::LATEST, |view| people::first_administrator(view))?;
        plant(&store, &admin, now)?;
    }
    let server = tally_e2e::Server::serve_release(folder.path())?;
    let mut rates = Vec::new();
    for round in 0..=ROUNDS {
        let batch: Vec<serde_json::Value> = rows(round)
            .into_iter()
            .map(|(meter, at, value)| json!({"meter": code(meter), "at": Instant::from_ms(at), "value": value}))
            .collect();
        let start = Stopwatch::now();
        let receipt = server.post("/readings", json!(batch)).await?;
        let took = start.elapsed().as_secs_f64();
        anyhow::ensure!(receipt["accepted"] == ROWS, "{receipt}");
        if round > 0 {
            rates.push(ROWS as f64 / took);
        }
    }
    println!("  through HTTP and JSON {:9.0} rows/s, the writing of the JSON included", median(&mut rates));
    Ok(())
}

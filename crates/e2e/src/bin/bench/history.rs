//! A large history: sealed blocks written directly, then loaded, added to, and asked about.

use crate::{limits::calm, measure::median};
use anyhow::Result;
use serde_json::json;
use std::{path::Path, time::Instant as Stopwatch};
use tally_core::{
    ground::{
        time::{Instant, Span},
        value::IncomingValue,
    },
    watch::{
        batch::{Batch, Incoming, Row},
        limits::Ladder,
        readings::{Columns, Reading, Source},
    },
};
use tally_store::{
    Store,
    access::people,
    plant::assets,
    watch::{
        families, meters, readings, replay,
        replay::{FinderAsked, JudgedBy},
    },
};

pub const LARGE: usize = 2_600_000;
const FAMILY: usize = 1_000;
const EACH: usize = 10_000;
const ROUNDS: usize = 9;

/// Meters of the demo's kinds: a temperature by tenths, a velocity by hundredths, a counter of hours.
fn of_kind(kind: usize, readings: usize) -> Columns {
    let mut rng = fastrand::Rng::with_seed(kind as u64);
    let mut hours = 0.0;
    (0..readings)
        .map(|n| {
            let value = match kind % 3 {
                0 => ((560.0 + (n as f64 / 700.0).sin() * 80.0 + rng.f64() * 30.0).round()) / 10.0,
                1 => ((260.0 + rng.f64() * 35.0).round()) / 100.0,
                _ => {
                    hours += 0.1;
                    (hours * 10.0_f64).round() / 10.0
                }
            };
            // Clocks of devices are a little off.
            Reading { at: Instant::from_ms(n as i64 * 60_000 + i64::from(rng.u8(0..50))), value }
        })
        .collect()
}

fn size(path: &Path) -> u64 {
    path.metadata().map_or(0, |file| file.len())
}

fn ladder() -> Ladder {
    serde_json::from_value(json!({"raise_interval_seconds": 604_800, "rungs": [
        {"side": "high", "severity": "alert", "setpoint": 70.0, "deadband": 2.0, "response": {"kind": "raise"}},
        {"side": "high", "severity": "danger", "setpoint": 84.0, "deadband": 2.0, "response": {"kind": "raise"}}]}))
    .unwrap_or_else(|e| unreachable!("{e}"))
}

/// Rates of taking in batches of 1,000 readings of 100 meters: so many a second, in the middle.
fn ingest_rate(store: &Store, codes: &[String], from: i64, now: Instant) -> Result<f64> {
    let admin = store.read(Instant::LATEST, |view| people::first_administrator(view))?;
    let mut rates = Vec::new();
    for round in 0..30_i64 {
        let rows: Vec<Row> = (0..1_000_i64)
            .map(|n| {
                let at = Instant::from_ms(from + (round * 10 + n / 100) * 60_000);
                let meter = codes[usize::try_from(n % 100).unwrap_or(0)].clone();
                Ok(Incoming { meter, at, value: IncomingValue::Number(50.0 + (n % 7) as f64) })
            })
            .collect();
        let batch = Batch { source: Source::Gateway, name: None, strict: true };
        let start = Stopwatch::now();
        store.write(admin.clone(), now, |tx| readings::ingest(tx, &rows, batch))?;
        rates.push(1_000.0 / start.elapsed().as_secs_f64());
    }
    Ok(median(&mut rates))
}

/// A plant with a large meter, a family of meters, and `more` meters of 100,000 readings.
pub fn plant(folder: &Path, now: Instant, more: usize) -> Result<(Store, Vec<String>)> {
    let store = Store::open(folder, now)?;
    let admin = store.read(Instant::LATEST, |view| people::first_administrator(view))?;
    let codes: Vec<String> = (0..more.max(100)).map(|n| format!("M{n:04}")).collect();
    store.write(admin, now, |tx| {
        assets::add_class(tx, "motor", "Motors")?;
        let asset = json!({"code": "A", "name": "A", "level": "unit", "class": "motor"});
        assets::add(tx, &serde_json::from_value(asset).unwrap_or_else(|e| unreachable!("{e}")))?;
        let of_family = (0..FAMILY).map(|n| (format!("F{n:04}"), "Temperature"));
        let plain = codes.iter().map(|code| (code.clone(), code.as_str()));
        for (code, name) in std::iter::once(("LARGE".to_owned(), "Large")).chain(of_family).chain(plain) {
            let new = json!({"code": code, "name": name, "asset": "A", "kind": "measurement", "unit": "Cel"});
            meters::add(tx, &serde_json::from_value(new).unwrap_or_else(|e| unreachable!("{e}")))?;
        }
        Ok::<_, tally_store::StoreError>(())
    })?;
    Ok((store, codes))
}

/// A hundred million readings, unless `--small` asks for a tenth.
pub fn bench(small: bool) -> Result<()> {
    let now = Instant::parse("2026-01-01T00:00:00Z")?;
    let more = if small { 90 } else { 975 };
    let (bare, full) = (tempfile::tempdir()?, tempfile::tempdir()?);
    let (empty, codes) = plant(bare.path(), now, 100)?;
    let (store, full_codes) = plant(full.path(), now, more)?;
    let admin = store.read(Instant::LATEST, |view| people::first_administrator(view))?;
    let start = Stopwatch::now();
    let large = calm(LARGE);
    let large_id = store.read(Instant::LATEST, |view| meters::require(view, "LARGE"))?;
    store.write(admin.clone(), now, |tx| readings::fill_blocks(tx, large_id, &large))?;
    let kinds: Vec<Columns> = (0..6).map(|kind| of_kind(kind, 100_000)).collect();
    for (n, code) in full_codes.iter().enumerate() {
        store.write(admin.clone(), now, |tx| {
            let id = meters::require(tx, code)?;
            readings::fill_blocks(tx, id, &kinds[n % kinds.len()])
        })?;
    }
    let family: Vec<Columns> = (0..6).map(|kind| of_kind(3 * kind, EACH)).collect();
    store.write(admin.clone(), now, |tx| {
        for n in 0..FAMILY {
            let id = meters::require(tx, &format!("F{n:04}"))?;
            readings::fill_blocks(tx, id, &family[n % family.len()])?;
        }
        Ok::<_, tally_store::StoreError>(())
    })?;
    let total = LARGE + full_codes.len() * 100_000 + FAMILY * EACH;
    println!(
        "{:.1} million readings in blocks, written in {:.0} s:",
        total as f64 / 1e6,
        start.elapsed().as_secs_f64()
    );
    let bytes: i64 = rusqlite::Connection::open(store.path())?.query_row(
        "SELECT sum(length(columns)) FROM reading_blocks WHERE meter_id > ?1 + 1000",
        [large_id.0],
        |row| row.get(0),
    )?;
    let of_kinds = (full_codes.len() * 100_000) as f64;
    println!("  {:.2} bytes a reading of the demo's kinds of meters; wanted at most 6", bytes as f64 / of_kinds);
    println!("  {:.2} bytes a reading on disk, all told", size(store.path()) as f64 / total as f64);
    let later = 1_800_000_000_000;
    let (on_empty, on_full) = (
        ingest_rate(&empty, &codes, later, now.plus(i64::MAX / 4))?,
        ingest_rate(&store, &full_codes, later, now.plus(i64::MAX / 4))?,
    );
    println!(
        "  ingest: {:.2} of its rate on an empty database ({on_full:.0} rows/s); wanted 0.80 or more",
        on_full / on_empty
    );
    let mut cold = Vec::new();
    for _ in 0..ROUNDS {
        // A store of its own, which remembers nothing yet.
        let fresh = Store::open(store.path().parent().unwrap_or(store.path()), now)?;
        let start = Stopwatch::now();
        let read = fresh.read(now, |view| readings::whole(view, large_id))?;
        cold.push(start.elapsed().as_secs_f64() * 1e3);
        anyhow::ensure!(read.len() == LARGE);
    }
    println!("  {:.0} ms to load {LARGE} readings cold; wanted under 200", median(&mut cold));
    asked(&store)
}

/// What an engineer waits for, in process: the network and the drawing come on top.
fn asked(store: &Store) -> Result<()> {
    let now = Instant::parse("2026-01-01T00:00:00Z")?;
    let (mut drags, mut finders, mut families_ms) = (Vec::new(), Vec::new(), Vec::new());
    for round in 0..=ROUNDS {
        store.read(now, |view| {
            let asked = JudgedBy::default();
            let timed = |times: &mut Vec<f64>, work: &dyn Fn() -> tally_store::Result<()>| {
                let start = Stopwatch::now();
                work()?;
                if round > 0 {
                    times.push(start.elapsed().as_secs_f64() * 1e3);
                }
                Ok::<_, tally_store::StoreError>(())
            };
            timed(&mut drags, &|| {
                replay::of_meter(view, "LARGE", Span::ALWAYS, Some(ladder()), &asked, None).map(|_| ())
            })?;
            let which = FinderAsked { rung: 0, steps: Some(50), compare_deadbands: false };
            timed(&mut finders, &|| {
                replay::finder(view, "LARGE", Span::ALWAYS, Some(ladder()), &which, &asked).map(|_| ())
            })?;
            timed(&mut families_ms, &|| {
                families::replay_of(view, "motor", "Temperature", Span::ALWAYS, Some(ladder()), &asked).map(|_| ())
            })
        })?;
    }
    println!(
        "  {:.0} ms from a ladder to its verdict over {LARGE} readings looked at before; wanted under 100 on screen",
        median(&mut drags)
    );
    println!("  {:.0} ms for 50 points of the finder; wanted under 500", median(&mut finders));
    println!(
        "  {:.0} ms for a family of {FAMILY} meters with {EACH} readings each; wanted under 1000",
        median(&mut families_ms)
    );
    Ok(())
}

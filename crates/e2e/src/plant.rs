//! A seeded plant of a hundred times the demo's size, written straight into the tables.

use anyhow::{Context, Result};
use rusqlite::{Connection, params};
use std::path::{Path, PathBuf};
use tally_core::ground::{
    calendar::{Calendar, WeeklyHours},
    time::{DAY, HOUR, Instant},
};
use tally_store::Store;

/// How much there is of everything.
#[derive(Debug, Clone, Copy)]
pub struct Size {
    pub assets: usize,
    pub orders: usize,
    pub downtimes: usize,
    pub meters: usize,
}

/// Moves between states of an order, and entries on ten of them.
const MOVES: usize = 6;
const ENTRIES_OF_TEN: usize = 39;

impl Size {
    pub const WHOLE: Self = Self { assets: 100_000, orders: 1_000_000, downtimes: 300_000, meters: 20_000 };
    pub const SMALL: Self = Self { assets: 10_000, orders: 100_000, downtimes: 30_000, meters: 2_000 };

    /// Entries of cost.
    #[must_use]
    pub fn entries(self) -> usize {
        self.orders / 10 * ENTRIES_OF_TEN
    }
}

/// When the plant is looked at; its history are the five years before.
pub const NOW: &str = "2026-01-01T00:00:00Z";
const YEARS_MS: i64 = 5 * 365 * DAY;
/// Goes up when the plant is made in another way.
const VERSION: u32 = 2;

/// The folder of the plant, made where it is not there already.
///
/// # Errors
/// When it can't be written.
pub fn kept(size: Size) -> Result<PathBuf> {
    let folder = crate::root().join(format!("target/bench-plant/{}-{VERSION}", size.assets));
    let done = folder.join("done");
    if !done.exists() {
        std::fs::remove_dir_all(&folder).or_else(|error| match error.kind() {
            std::io::ErrorKind::NotFound => Ok(()),
            _ => Err(error),
        })?;
        std::fs::create_dir_all(&folder)?;
        write(&folder, size)?;
        std::fs::write(&done, "")?;
    }
    // What it was written by may be older than this program.
    drop(Store::open(&folder, Instant::parse(NOW)?)?);
    Ok(folder)
}

/// Writes a plant into an empty folder.
///
/// # Errors
/// When it can't be written.
pub fn write(folder: &Path, size: Size) -> Result<()> {
    drop(Store::open(folder, Instant::parse(NOW)?)?);
    let mut conn = Connection::open(folder.join("fair-tally.db"))?;
    conn.pragma_update(None, "synchronous", "OFF")?;
    conn.pragma_update(None, "cache_size", -400_000)?;
    conn.pragma_update(None, "foreign_keys", false)?;
    // Triggers and indexes come back when all rows are there.
    let asides: Vec<(String, String, String)> = conn
        .prepare("SELECT type, name, sql FROM sqlite_master WHERE type IN ('trigger', 'index') AND sql IS NOT NULL")?
        .query_map([], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?)))?
        .collect::<rusqlite::Result<_>>()?;
    for (kind, name, _) in &asides {
        conn.execute_batch(&format!("DROP {kind} {name}"))?;
    }
    let tx = conn.transaction()?;
    let mut rng = fastrand::Rng::with_seed(20_260_101);
    people(&tx)?;
    assets(&tx, size, &mut rng)?;
    meters(&tx, size)?;
    work(&tx, size, &mut rng)?;
    downtimes(&tx, size, &mut rng)?;
    tx.commit()?;
    for (_, _, sql) in
        asides.iter().filter(|(kind, ..)| kind == "index").chain(asides.iter().filter(|(kind, ..)| kind == "trigger"))
    {
        conn.execute_batch(sql)?;
    }
    for table in ["search_assets", "search_meters", "search_work", "words_of_assets", "words_of_work"] {
        conn.execute_batch(&format!("INSERT INTO {table} ({table}) VALUES ('rebuild')"))?;
    }
    conn.execute_batch("INSERT INTO changes (kind, id) VALUES ('names', 0); ANALYZE; PRAGMA wal_checkpoint(TRUNCATE)")?;
    Ok(())
}

const CREWS: i64 = 20;
/// Ids of the crews' people: those before are of the installation itself.
const PEOPLE: std::ops::RangeInclusive<i64> = 101..=399;
const CLASSES: i64 = 12;

fn people(conn: &Connection) -> Result<()> {
    for crew in 1..=CREWS {
        let department = format!("Department {}", crew % 5 + 1);
        conn.execute(
            "INSERT INTO crews (id, code, name, department, weekly_hours) VALUES (?1, ?2, ?3, ?4, 200)",
            params![crew, format!("crew-{crew}"), format!("Crew {crew}"), department],
        )?;
    }
    for person in PEOPLE {
        conn.execute(
            "INSERT INTO people (id, code, name, role, crew_id, rate) VALUES (?1, ?2, ?3, 'technician', ?4, 5200)",
            params![person, format!("p{person}"), format!("Person {person}"), person % CREWS + 1],
        )?;
    }
    for class in 1..=CLASSES {
        conn.execute(
            "INSERT INTO equipment_classes (id, code, name) VALUES (?1, ?2, ?3)",
            params![class, format!("class-{class}"), format!("Class {class}")],
        )?;
        conn.execute(
            "INSERT INTO codebooks (id, code, name, class_id) VALUES (?1, ?2, ?3, ?1)",
            params![class, format!("book-{class}"), format!("Book {class}")],
        )?;
        for problem in 0..10 {
            conn.execute(
                "INSERT INTO codes (id, codebook_id, level, code, name, place) VALUES (?1, ?2, 'problem', ?3, ?4, ?5)",
                params![class * 10 + problem, class, format!("P{problem}"), format!("Problem {problem}"), problem],
            )?;
        }
    }
    let daily = (0..7).map(|weekday| WeeklyHours { weekday, from_minute: 6 * 60, to_minute: 22 * 60 }).collect();
    let calendar = Calendar { time_zone: "UTC".into(), hours: daily, seasons: vec![], closed: vec![] };
    conn.execute(
        "INSERT INTO calendars (id, code, name, definition) VALUES (1, 'two', 'Two shifts', ?1)",
        [serde_json::to_string(&calendar)?],
    )?;
    Ok(())
}

/// The number of the asset that stands above an asset: a site, 20 units, 25 systems each, 20 machines each, the rest parts.
fn parent(asset: usize) -> Option<usize> {
    match asset {
        1 => None,
        2..=21 => Some(1),
        22..=521 => Some(2 + (asset - 22) / 25),
        522..=10_521 => Some(22 + (asset - 522) / 20),
        _ => Some(522 + (asset - 10_522) % 10_000),
    }
}

fn assets(conn: &Connection, size: Size, rng: &mut fastrand::Rng) -> Result<()> {
    let begins = Instant::EARLIEST.ms();
    let now = Instant::parse(NOW)?.ms();
    let mut asset = conn.prepare(
        "INSERT INTO assets (id, code, name, kind, level, class_id, criticality, crew_id, retired_at, recorded_at, recorded_by)
         VALUES (?1, ?2, ?3, 'position', ?4, ?5, ?6, ?7, ?8, 0, 1)",
    )?;
    let mut place = conn.prepare(
        "INSERT INTO placements (asset_id, parent_id, from_at, to_at, reason, recorded_at, recorded_by)
         VALUES (?1, ?2, ?3, ?4, 'made', 0, 1)",
    )?;
    let mut effect = conn.prepare(
        "INSERT INTO parent_effects (asset_id, from_at, effect, recorded_at, recorded_by) VALUES (?1, ?2, ?3, 0, 1)",
    )?;
    for id in 1..=size.assets {
        let (level, word) = match id {
            1 => ("site", "Site"),
            2..=21 => ("unit", "Unit"),
            22..=521 => ("system", "System"),
            522..=10_521 => ("equipment", "Machine"),
            _ => ("part", "Part"),
        };
        let retired = rng.u8(..).is_multiple_of(50).then(|| now - rng.i64(0..YEARS_MS)).filter(|_| level == "part");
        let criticality = ["A", "B", "C"][rng.usize(0..3)];
        asset.execute(params![
            id,
            format!("A{id:06}"),
            format!("{word} {id}"),
            level,
            rng.i64(1..=CLASSES),
            criticality,
            rng.i64(1..=CREWS),
            retired,
        ])?;
        // A few machines were moved to another system.
        let moved = (level == "equipment" && rng.u8(..) < 5).then(|| now - rng.i64(0..YEARS_MS));
        place.execute(params![id, parent(id), begins, moved])?;
        if let Some(at) = moved {
            place.execute(params![id, rng.i64(22..522), at, None::<i64>])?;
        }
        let puts_down = match (level, rng.u8(0..100)) {
            ("system", 0..50) | ("equipment", 0..60) | ("part", 0..70) => Some(r#"{"kind":"yes"}"#),
            ("part", 70..72) => Some(r#"{"kind":"group","name":"pair","needs":1}"#),
            _ => None,
        };
        if let Some(puts_down) = puts_down {
            effect.execute(params![id, begins, puts_down])?;
        }
    }
    let mut calendar = conn.prepare(
        "INSERT INTO asset_calendars (asset_id, calendar_id, from_at, recorded_at, recorded_by) VALUES (?1, 1, ?2, 0, 1)",
    )?;
    for unit in [2, 5, 9] {
        calendar.execute(params![unit, begins])?;
    }
    Ok(())
}

fn meters(conn: &Connection, size: Size) -> Result<()> {
    let ladder = serde_json::json!({"raise_interval_seconds": 604_800, "rungs": [
        {"side": "high", "severity": "alert", "setpoint": 70.0, "deadband": 2.0, "response": {"kind": "raise"}},
        {"side": "high", "severity": "danger", "setpoint": 84.0, "deadband": 2.0, "response": {"kind": "raise"}}]});
    let ladder = ladder.to_string();
    let now = Instant::parse(NOW)?.ms();
    let mut meter = conn.prepare(
        "INSERT INTO meters (id, code, asset_id, name, kind, unit, recorded_at, recorded_by)
         VALUES (?1, ?2, ?3, ?4, 'measurement', 'Cel', 0, 1)",
    )?;
    let mut version = conn.prepare(
        "INSERT INTO ladder_versions (meter_id, number, starts_at, reason, definition, recorded_at, recorded_by)
         VALUES (?1, 1, 0, 'first', ?2, 0, 1)",
    )?;
    let mut reading =
        conn.prepare("INSERT INTO readings (meter_id, at, value, batch_id, flags) VALUES (?1, ?2, ?3, 0, 0)")?;
    let mut count = conn.prepare("INSERT INTO reading_counts (meter_id, readings, in_rows) VALUES (?1, 20, 20)")?;
    for id in 1..=size.meters {
        let name = ["Temperature", "Vibration velocity", "Pressure"][id % 3];
        meter.execute(params![id, format!("M{id:05}"), 521 + id % (size.assets - 600), name])?;
        version.execute(params![id, ladder])?;
        count.execute([id])?;
        for day in 0..20 {
            reading.execute(params![id, now - (20 - day) * DAY, 40.0 + ((id as i64 * 7 + day) % 29) as f64])?;
        }
    }
    Ok(())
}

const WORDS: [&str; 12] =
    ["Replace", "seal", "bearing", "noise", "Inspect", "pump", "valve", "leak", "belt", "Lubricate", "sensor", "Align"];

/// What is bought, and of how many.
const ITEMS: i64 = 400;
const SUPPLIERS: i64 = 25;

fn work(conn: &Connection, size: Size, rng: &mut fastrand::Rng) -> Result<()> {
    for (table, count) in [("items", ITEMS), ("suppliers", SUPPLIERS)] {
        let mut name = conn.prepare(&format!("INSERT INTO {table} (id, name) VALUES (?1, ?2)"))?;
        for id in 1..=count {
            name.execute(params![id, format!("{table} {id}")])?;
        }
    }
    let now = Instant::parse(NOW)?.ms();
    let start = now - YEARS_MS;
    let mut order = conn.prepare(
        "INSERT INTO work_orders (number, title, text, kind, asset_id, source, raised_at, raised_by, recorded_at, risk_rank,
             window_end, scheduled_start, crew_id, department, assignee_id, estimated_hours, state, state_since, spent_ms, cost)
         VALUES (?1, ?2, '', ?3, ?4, 'person', ?5, ?6, ?5, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14, ?15, ?16, ?17)",
    )?;
    let mut step = conn.prepare(
        "INSERT INTO state_changes (work_order, from_state, to_state, at, recorded_at, recorded_by) VALUES (?1, ?2, ?3, ?4, ?4, 1)",
    )?;
    let mut entry = conn.prepare(
        "INSERT INTO entries (work_order, asset_id, kind, at, person_id, quantity, unit_price, amount, hours_ms, description,
             settled_at, recorded_at, recorded_by, item_id, supplier_id)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?4, 1, ?12, ?13)",
    )?;
    let mut failure = conn.prepare(
        "INSERT INTO failure_reports (work_order, asset_id, codebook_id, problem_id, failed_at, effect, coded_at, recorded_at,
             recorded_by) VALUES (?1, ?2, 1, ?3, ?4, ?5, ?4, ?4, 1)",
    )?;
    let kinds = [
        "corrective_immediate",
        "corrective_deferred",
        "condition_based",
        "predetermined",
        "predetermined",
        "inspection",
        "improvement",
    ];
    let states = ["raised", "planning", "ready", "under_way", "done", "closed"];
    for n in 0..size.orders {
        let number = n as i64 + 1_001;
        let raised = start + YEARS_MS / size.orders as i64 * n as i64;
        let asset = rng.usize(1..=size.assets);
        let kind = kinds[rng.usize(0..kinds.len())];
        // Most are closed within two months; one in two hundred stands for years.
        let (crew, pace) = (rng.i64(1..=CREWS), if rng.u8(..) == 7 { 400 * DAY } else { 10 * DAY });
        let (mut at, mut state, mut since) = (raised, "raised", raised);
        let mut from = None;
        for to in states.into_iter().take(MOVES) {
            if at >= now {
                break;
            }
            step.execute(params![number, from, to, at])?;
            (state, since, from) = (to, at, Some(to));
            at += rng.i64(HOUR..pace);
        }
        let settled = (state == "closed").then_some(since);
        let (mut spent, mut cost) = (0, 0);
        for _ in 0..ENTRIES_OF_TEN / 10 + usize::from(n % 10 < ENTRIES_OF_TEN % 10) {
            let when = (raised + rng.i64(0..20 * DAY)).min(now - 1);
            let labour = rng.u8(0..10) < 5;
            let (kind, hours_ms, amount) = if labour {
                let half_hours = rng.i64(1..16);
                ("labour", half_hours * HOUR / 2, half_hours * 2_600)
            } else {
                (["material", "service", "tool"][rng.usize(0..3)], 0, rng.i64(500..80_000))
            };
            (spent, cost) = (spent + hours_ms, cost + amount);
            let person = labour.then(|| rng.i64(PEOPLE));
            let quantity = if labour { (hours_ms as f64 / HOUR as f64).to_string() } else { "1".into() };
            let bought = (kind == "material").then(|| (amount % ITEMS + 1, amount % SUPPLIERS + 1));
            let (item, supplier) = bought.unzip();
            entry.execute(params![
                number, asset, kind, when, person, quantity, "5200", amount, hours_ms, "line", settled, item, supplier
            ])?;
        }
        if n % 5 == 0 {
            let effect = ["critical", "degraded", "incipient"][rng.usize(0..3)];
            failure.execute(params![number, asset, rng.i64(10..130), raised, effect])?;
        }
        let title = format!("{} {} {n}", WORDS[rng.usize(0..12)], WORDS[rng.usize(0..12)]);
        order.execute(params![
            number,
            title,
            kind,
            asset,
            raised,
            rng.i64(PEOPLE),
            rng.i64(1..=5),
            raised + 28 * DAY,
            rng.bool().then_some(raised + 5 * DAY),
            crew,
            format!("Department {}", crew % 5 + 1),
            rng.bool().then(|| rng.i64(PEOPLE)),
            (rng.u8(0..10) < 8).then(|| f64::from(rng.u8(1..40))),
            state,
            since,
            spent,
            cost,
        ])?;
    }
    Ok(())
}

fn downtimes(conn: &Connection, size: Size, rng: &mut fastrand::Rng) -> Result<()> {
    let now = Instant::parse(NOW)?.ms();
    let mut down = conn.prepare(
        "INSERT INTO downtimes (asset_id, work_order, kind, start_at, end_at, recorded_at, recorded_by)
         VALUES (?1, ?2, ?3, ?4, ?5, ?4, 1)",
    )?;
    for _ in 0..size.downtimes {
        let start = now - rng.i64(0..YEARS_MS);
        let end = start + rng.i64(HOUR / 2..20 * HOUR);
        let kind = ["unplanned", "unplanned", "planned", "external"][rng.usize(0..4)];
        // The order that was raised about then.
        let order = 1_001 + (start - (now - YEARS_MS)) / (YEARS_MS / size.orders as i64);
        let asset = rng.usize(1..=size.assets);
        down.execute(params![asset, (kind == "unplanned").then_some(order), kind, start, (end < now).then_some(end)])?;
    }
    Ok(())
}

/// The way to the database of a plant.
///
/// # Errors
/// SQLite's own.
pub fn database(folder: &Path) -> Result<Connection> {
    let conn = Connection::open(folder.join("fair-tally.db")).context("the plant's database")?;
    conn.pragma_update(None, "cache_size", -64_000)?;
    Ok(conn)
}

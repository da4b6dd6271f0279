//! Upkeep of a large plant: the year ahead of five thousand plans, and ten thousand orders that fall due on one day, raised while
//! others look and readings come in.

use crate::measure::{ROUNDS, median};
use anyhow::{Context, Result};
use serde_json::{Value, json};
use std::{
    fmt::Write,
    sync::{
        Arc,
        atomic::{AtomicBool, Ordering},
    },
    time::{Duration, Instant as Stopwatch},
};
use tally_e2e::Server;

const ASSETS: usize = 10_000;
const PLANS: usize = 5_000;
const CREWS: usize = 10;
const OPENING: &str = "2026-03-02T09:00:00Z";
/// The day on which a plan of each asset falls due.
const FALLS_DUE: &str = "2027-06-01";

/// Every fourth goes by running hours, the others by days; each crew has its peak in autumn.
fn plans() -> String {
    let mut rows =
        String::from("code,name,asset,status,every_days,every_units,first_count,first_due,crew,estimated_hours\n");
    for n in 0..PLANS {
        let crew = n % CREWS;
        let every = [30, 90, 180, 365][n % 4];
        let day =
            if every == 365 { format!("2026-10-{:02}", 1 + n % 28) } else { format!("2026-03-{:02}", 3 + n % 28) };
        let (days, units, count, first) =
            if n % 16 == 3 { (String::new(), "500", "500", String::new()) } else { (every.to_string(), "", "", day) };
        let hours = 1 + n % 7;
        let _ = writeln!(rows, "P{n},Plan {n},A{n},active,{days},{units},{count},{first},C{crew},{hours}");
    }
    rows
}

async fn plant(server: &Server) -> Result<()> {
    for n in 0..CREWS {
        let crew =
            json!({"code": format!("C{n}"), "name": format!("Crew {n}"), "department": "D", "weekly_hours": 160.0});
        server.post("/crews", crew).await?;
    }
    let mut assets = String::from("code,name,level,parent\nROOT,Root,site,\n");
    let mut meters = String::from("code,asset,name,kind,unit,resolution,running_hours\n");
    for n in 0..ASSETS {
        let _ = writeln!(assets, "A{n},Asset {n},equipment,ROOT");
        if n % 16 == 3 && n < PLANS {
            let _ = writeln!(meters, "H{n},A{n},Running hours,counter,h,0.1,yes");
        }
    }
    server.import("assets", assets).await?;
    server.import("meters", meters).await?;
    let mut readings = String::from("meter,at,value\n");
    for n in (3..PLANS).step_by(16) {
        for day in 1..=28 {
            let _ = writeln!(readings, "H{n},2026-02-{day:02}T12:00:00Z,{}", day * 8);
        }
    }
    server.import("readings", readings).await?;
    server.import("upkeep-plans", plans()).await
}

async fn time(server: &Server, path: &str) -> Result<f64> {
    let mut times = Vec::new();
    for round in 0..=ROUNDS {
        let start = Stopwatch::now();
        server.get(path).await?;
        if round > 0 {
            times.push(start.elapsed().as_secs_f64() * 1e3);
        }
    }
    Ok(median(&mut times))
}

/// Looks and sends readings until it is told to end; the slowest of each, in milliseconds.
async fn meanwhile(server: Arc<Server>, ends: Arc<AtomicBool>) -> Result<(f64, f64, usize)> {
    let (mut look, mut send, mut done) = (0.0_f64, 0.0_f64, 0);
    let mut tick = tokio::time::interval(Duration::from_millis(50));
    while !ends.load(Ordering::Relaxed) {
        tick.tick().await;
        let start = Stopwatch::now();
        server.get("/work-orders?state=open&limit=60").await?;
        look = look.max(start.elapsed().as_secs_f64() * 1e3);
        let start = Stopwatch::now();
        let at = format!("2026-03-01T{:02}:{:02}:00Z", done / 60 % 24, done % 60);
        server.post("/readings", json!([{"meter": "FREE", "at": at, "value": 1.0}])).await?;
        send = send.max(start.elapsed().as_secs_f64() * 1e3);
        done += 1;
    }
    Ok((look, send, done))
}

/// Prints times and ratios.
pub async fn bench() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Arc::new(Server::serve_release_at(folder.path(), OPENING)?);
    plant(&server).await?;
    let free = json!({"code": "FREE", "asset": "A0", "name": "Free", "kind": "measurement", "unit": "bar"});
    server.post("/meters", free).await?;
    server.put("/clock", json!({"now": OPENING})).await?;
    println!("\nupkeep: {PLANS} plans on {ASSETS} assets, {CREWS} crews (median of {ROUNDS}):");
    let plain = time(&server, "/clock").await?;
    for path in ["/upkeep/year", "/upkeep/year?crew=C3", "/upkeep/levelling"] {
        let took = time(&server, path).await?;
        println!("  {took:6.1} ms  {path} ({:.0} times the clock)", took / plain);
    }
    let level: Value = server.get("/upkeep/levelling").await?;
    println!(
        "  levelling: {} moves, peak {} h to {} h, beyond the crews' hours {} h to {} h",
        level["moves"].as_array().map_or(0, Vec::len),
        level["peak_before_hours"],
        level["peak_after_hours"],
        level["over_before_hours"],
        level["over_after_hours"],
    );
    let mut rows = String::from("code,name,asset,status,every_days,first_due,crew,estimated_hours\n");
    for n in 0..ASSETS {
        let _ = writeln!(rows, "Y{n},Yearly {n},A{n},active,3650,{FALLS_DUE},C{},1", n % CREWS);
    }
    server.import("upkeep-plans", rows).await?;
    let open = async || -> Result<u64> {
        server.get("/work-orders?state=open&limit=1").await?["totals"]["count"].as_u64().context("a count")
    };
    let before = open().await?;
    let ends = Arc::new(AtomicBool::new(false));
    let others = tokio::spawn(meanwhile(server.clone(), ends.clone()));
    let start = Stopwatch::now();
    server.put("/clock", json!({"now": format!("{FALLS_DUE}T09:00:00Z")})).await?;
    let took = start.elapsed().as_secs_f64();
    ends.store(true, Ordering::Relaxed);
    let (look, send, asked) = others.await??;
    let raised = open().await? - before;
    println!(
        "  {raised} orders raised in {took:.1} s ({:.0} a second); meanwhile {asked} looks and batches of readings: slowest \
         {look:.0} ms and {send:.0} ms",
        raised as f64 / took
    );
    Ok(())
}

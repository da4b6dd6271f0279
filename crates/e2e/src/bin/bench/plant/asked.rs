//! What screens ask a server for, over HTTP.

use crate::measure::{ROUNDS, median};
use anyhow::{Context, Result, ensure};
use serde_json::json;
use std::{
    path::Path,
    time::{Duration, Instant as Stopwatch},
};
use tally_e2e::{Server, plant::NOW};

/// The indicators that are asked for most, instead of all there are.
macro_rules! sixteen {
    ($path:literal) => {
        concat!(
            $path,
            "&indicators=cost_total,cost_labour,cost_material,cost_service,cost_tool,cost_ytd,cost_life,",
            "unplanned_downtime,planned_downtime,external_downtime,availability,failures,mtbf,mttr,open_work,open_hours"
        )
    };
}

/// Path, and what is wanted of it in milliseconds, where something is.
const ASKED: &[(&str, f64)] = &[
    ("/tally?period=2025&depth=1", 100.0),
    ("/tally?scope=A000003&period=2025-06&depth=1", f64::NAN),
    ("/tally?period=2025&by=month", f64::NAN),
    (sixteen!("/tally?period=2025&depth=1"), 50.0),
    (sixteen!("/tally?scope=A000003&period=2025-06&depth=1"), 5.0),
    (sixteen!("/tally?period=2025&by=month"), 150.0),
    ("/tally/ranking?by=cost_total&period=2025", 200.0),
    ("/tally/changed?indicator=cost_total&period=2025", 100.0),
    ("/tally/backlog?months=12", 100.0),
    ("/tally/downtime?scope=A000003&period=2025-06", 20.0),
    ("/tally/forecast?period=2025", 200.0),
    ("/work-orders/already-raised?asset=A000003&title=bearing%20runs%20hot", 30.0),
    ("/work/week", 100.0),
    ("/shift?person=p101", 50.0),
    ("/shift?crew=crew-1", 50.0),
    ("/headlines", 10.0),
    ("/assets?depth=1", 50.0),
    ("/work-orders?state=open", 30.0),
    ("/work-orders?sort=number&descending=true", 30.0),
    ("/work-orders?scope=A000003&state=open", 30.0),
    ("/work-orders?text=bearing", 400.0),
    ("/work-orders?text=be", 400.0),
    ("/search?q=bear", 20.0),
    ("/search?q=A0012", 20.0),
    ("/master/assets", 50.0),
    ("/master/meters", 50.0),
    ("/meters", 50.0),
];

/// Kilobytes that a process holds.
fn resident(pid: u32) -> Result<f64> {
    let status = std::fs::read_to_string(format!("/proc/{pid}/status"))?;
    let line = status.lines().find_map(|line| line.strip_prefix("VmRSS:")).context("how much the server holds")?;
    Ok(line.trim().trim_end_matches("kB").trim().parse()?)
}

/// Starts a server, and says in how many seconds it answers with a figure.
async fn started(folder: &Path) -> Result<(Server, f64)> {
    let start = Stopwatch::now();
    let server = Server::serve_release_at(folder, NOW)?;
    server.get("/tally?period=2025-06&indicators=failures&depth=0").await?;
    Ok((server, start.elapsed().as_secs_f64()))
}

/// How long a server may take to write its column file.
const FILE_WITHIN: Duration = Duration::from_secs(150);

/// A server that began with its column file; prints what that and a start without one took.
async fn ready(folder: &Path) -> Result<Server> {
    let file = folder.join("fair-tally.columns");
    if file.exists() {
        std::fs::remove_file(&file)?;
    }
    let (server, without) = started(folder).await?;
    let start = Stopwatch::now();
    while !file.exists() {
        ensure!(start.elapsed() < FILE_WITHIN, "no column file was written");
        tokio::time::sleep(Duration::from_secs(1)).await;
    }
    drop(server);
    let (server, with) = started(folder).await?;
    println!("  {with:8.2} s   from the start of a server to its first figure; wanted within 5");
    println!(
        "  {without:8.2} s   the same without its column file, which takes {:.0} MB",
        std::fs::metadata(&file)?.len() as f64 / 1e6
    );
    Ok(server)
}

/// Prints times, each beside what is wanted.
pub async fn bench(folder: &Path) -> Result<()> {
    let server = ready(folder).await?;
    println!("  what screens ask for, over HTTP (median of {ROUNDS}):");
    for (path, wanted) in ASKED {
        let mut times = Vec::new();
        for round in 0..=ROUNDS {
            let start = Stopwatch::now();
            server.fetch(path).await?;
            if round > 0 {
                times.push(start.elapsed().as_secs_f64() * 1e3);
            }
        }
        let path = path.split(",cost_labour").next().unwrap_or(path);
        match wanted.is_nan() {
            true => println!("  {:8.1} ms  {path}", median(&mut times)),
            false => println!("  {:8.1} ms  {path}; wanted within {wanted}", median(&mut times)),
        }
    }
    let mut after = Vec::new();
    for round in 0..=ROUNDS {
        let entry = json!({"kind": "tool", "quantity": "1", "unit_price": "100", "description": "Puller"});
        server.post("/work-orders/1000000/entries", entry).await?;
        let asked = "/tally?scope=A000003&period=2025-12&indicators=failures&depth=0";
        let start = Stopwatch::now();
        server.get(asked).await?;
        let first = start.elapsed().as_secs_f64() * 1e3;
        let start = Stopwatch::now();
        server.get(asked).await?;
        if round > 0 {
            after.push(first - start.elapsed().as_secs_f64() * 1e3);
        }
    }
    println!("  {:8.1} ms  more for the next answer after one entry; wanted within 5", median(&mut after));
    println!("  {:8.0} MB  that the server holds; wanted at most 700", resident(server.pid())? / 1024.0);
    Ok(())
}

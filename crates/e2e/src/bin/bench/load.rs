//! Many who ask at once: the tally and the list of work, while readings come in.

use anyhow::{Context, Result};
use serde_json::{Value, json};
use std::{
    sync::{
        Arc,
        atomic::{AtomicBool, Ordering},
    },
    time::{Duration, Instant as Stopwatch},
};
use tally_core::ground::time::Instant;
use tally_e2e::Server;

const CONNECTIONS: usize = 16;
const LASTS: Duration = Duration::from_secs(10);
const READINGS_A_SECOND: i64 = 1_000;

const TALLY: &str = "/tally?period=last_12_months&depth=1";
const WORK: &str = "/work-orders?state=open";

/// Asks for the paths in turn, on so many connections, until the time is over; how long each answer took, in milliseconds.
async fn asked(server: &Arc<Server>, paths: &'static [&'static str]) -> Result<Vec<f64>> {
    let mut asking = Vec::new();
    for first in 0..CONNECTIONS {
        let server = server.clone();
        asking.push(tokio::spawn(async move {
            let (begun, mut times) = (Stopwatch::now(), Vec::new());
            for path in paths.iter().cycle().skip(first) {
                if begun.elapsed() > LASTS {
                    break;
                }
                let start = Stopwatch::now();
                server.get(path).await?;
                times.push(start.elapsed().as_secs_f64() * 1e3);
            }
            Ok::<_, anyhow::Error>(times)
        }));
    }
    let mut times = Vec::new();
    for one in asking {
        times.extend(one.await??);
    }
    times.sort_by(f64::total_cmp);
    Ok(times)
}

/// Sends a thousand readings a second until it is told to end; how many were taken.
async fn send(server: Arc<Server>, meters: Vec<String>, first: i64, ends: Arc<AtomicBool>) -> Result<u64> {
    let (mut taken, mut at) = (0, first);
    let mut second = tokio::time::interval(Duration::from_secs(1));
    while !ends.load(Ordering::Relaxed) {
        second.tick().await;
        let batch: Vec<Value> = (0..READINGS_A_SECOND)
            .map(|n| {
                let meter = &meters[n as usize % meters.len()];
                json!({"meter": meter, "at": Instant::from_ms(at + n / meters.len() as i64), "value": 40.0 + (n % 7) as f64})
            })
            .collect();
        at += 1_000;
        taken += server.post("/readings", Value::Array(batch)).await?["accepted"].as_u64().unwrap_or(0);
    }
    Ok(taken)
}

/// Prints rates and ratios.
pub async fn bench() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Arc::new(Server::demo(folder.path(), true)?);
    let now = Instant::parse(server.get("/clock").await?["now"].as_str().context("an instant")?)?;
    let mut meters = Vec::new();
    for n in 0..50 {
        let meter = json!({"code": format!("LOAD-{n}"), "asset": "G1", "name": format!("Load {n}"), "kind": "measurement", "unit": "Cel"});
        server.post("/meters", meter).await?;
        meters.push(format!("LOAD-{n}"));
    }
    println!("\n{CONNECTIONS} connections on the demo for {} s:", LASTS.as_secs());
    let ends = Arc::new(AtomicBool::new(false));
    let sending = tokio::spawn(send(server.clone(), meters, now.plus(-3_600_000).ms(), ends.clone()));
    let times = asked(&server, &[TALLY, WORK]).await?;
    ends.store(true, Ordering::Relaxed);
    let taken = sending.await??;
    let at = |share: f64| times[((times.len() - 1) as f64 * share) as usize];
    println!(
        "  tally and list of work in turn, while {:.0} readings a second come in:",
        taken as f64 / LASTS.as_secs_f64()
    );
    println!(
        "  {:8.1} ms  half of the answers, {:.1} ms 99 of 100: {:.2} times; wanted at most 4",
        at(0.5),
        at(0.99),
        at(0.99) / at(0.5)
    );
    println!("  {:8.0}     answers a second", times.len() as f64 / LASTS.as_secs_f64());
    let times = asked(&server, &[WORK]).await?;
    println!(
        "  {:8.0}     answers a second of the list of work alone; wanted 960",
        times.len() as f64 / LASTS.as_secs_f64()
    );
    Ok(())
}

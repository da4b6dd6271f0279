//! What each screen asks for, over HTTP on the whole demo.

use crate::measure::{ROUNDS, median};
use anyhow::{Context, Result};
use std::time::Instant as Stopwatch;
use tally_e2e::Server;

/// Server-side times of what each screen asks for, over HTTP on the demo data.
pub async fn bench() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let start = Stopwatch::now();
    let server = Server::demo(folder.path(), true)?;
    println!("\ndemo plant made and served in {:.2} s", start.elapsed().as_secs_f64());
    println!("what the screens ask for, over HTTP on the demo data (median of {ROUNDS}):");
    let plain = time(&server, "/clock").await?;
    println!("  {:6.1} ms  the clock, which asks the data nothing", plain * 1e3);
    for path in [
        "/assets?depth=3",
        "/meters?period=last_12_months",
        "/meters/G1-TEN-PRS/readings?period=last_12_months&points=1200",
        "/meters/G1-TEN-PRS/alarms?period=last_12_months",
        "/work-orders?state=open",
        "/work-orders?limit=60",
        "/tally?scope=G1&period=last_12_months&depth=1",
        "/tally?scope=G1&period=last_12_months&depth=0&indicators=cost_total&why=true",
        "/codebooks/hydraulics",
        "/start",
        "/master/assets?limit=100",
        "/master/meters?scope=G1&sort=name",
        "/export/assets.csv",
    ] {
        let took = time(&server, path).await?;
        println!("  {:6.1} ms  {path}", took * 1e3);
    }
    Ok(())
}

async fn time(server: &Server, path: &str) -> Result<f64> {
    let mut times = Vec::new();
    for round in 0..=ROUNDS {
        let start = Stopwatch::now();
        server.get(path).await.context("the demo server")?;
        if round > 0 {
            times.push(start.elapsed().as_secs_f64());
        }
    }
    Ok(median(&mut times))
}

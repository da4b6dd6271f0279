//! Measured ratios. Nothing here is asserted; each figure stands beside a bound measured in the same run.

mod import;
mod ingest;
mod screens;
mod tally;

use anyhow::Result;

const ROUNDS: usize = 11;

fn median(times: &mut [f64]) -> f64 {
    times.sort_by(f64::total_cmp);
    times[times.len() / 2]
}

#[tokio::main(flavor = "current_thread")]
async fn main() -> Result<()> {
    ingest::bench()?;
    import::bench()?;
    tally::bench()?;
    screens::bench().await
}

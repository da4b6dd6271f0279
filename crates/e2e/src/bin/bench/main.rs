//! Measured ratios. Nothing here is asserted; each figure stands beside a bound measured in the same run.

mod drag;
mod history;
mod import;
mod ingest;
mod limits;
mod load;
mod measure;
mod offline;
mod plant;
mod screens;
mod tally;
mod upkeep;

use anyhow::Result;

#[tokio::main(flavor = "current_thread")]
async fn main() -> Result<()> {
    // One of them by its name, or all.
    let asked: Vec<String> = std::env::args().skip(1).collect();
    let wanted = |name: &str| asked.iter().all(|word| word.starts_with("--")) || asked.iter().any(|word| word == name);
    if wanted("ingest") {
        ingest::bench()?;
        ingest::over_http().await?;
    }
    if wanted("limits") {
        limits::bench();
    }
    if wanted("history") {
        history::bench(asked.iter().any(|word| word == "--small"))?;
    }
    if wanted("drag") {
        drag::bench().await?;
    }
    if wanted("import") {
        import::bench()?;
    }
    if wanted("tally") {
        tally::bench()?;
    }
    // Minutes to make, so only where it is asked for.
    if asked.iter().any(|word| word == "plant") {
        plant::bench(asked.iter().any(|word| word == "--small")).await?;
    }
    if wanted("load") {
        load::bench().await?;
    }
    if wanted("upkeep") {
        upkeep::bench().await?;
    }
    if wanted("offline") {
        offline::bench().await?;
    }
    if wanted("screens") {
        screens::bench().await?;
    }
    Ok(())
}

//! How soon *Shift* opens on a phone, with and without a network.

use crate::measure::median;
use anyhow::{Context, Result};
use tally_e2e::{Browser, Page, Server, proxy::Proxy};

const ROUNDS: usize = 9;

/// Milliseconds from going there until the line of time is shown.
async fn opens(page: &Page) -> Result<f64> {
    let mut times = Vec::new();
    for _ in 0..ROUNDS {
        page.go("/shift").await?;
        let shown = "return new Promise((then) => { const look = () => document.querySelector('[data-test=shift-says]') \
            ? then(performance.now()) : requestAnimationFrame(look); look() })";
        times.push(page.script(shown).await?.as_f64().context("a time")?);
    }
    Ok(median(&mut times))
}

/// Prints both, on the demo.
pub async fn bench() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::demo(folder.path(), true)?;
    let proxy = Proxy::to(&server.address).await?;
    let browser = Browser::open(390, 844).await?;
    let page = browser.at(&proxy.address);
    page.sign_in(&server, "tobin").await?;
    page.go("/shift").await?;
    page.kept().await?;
    println!("\nShift on a phone, from going there until its line is shown (median of {ROUNDS}):");
    let with = opens(&page).await?;
    proxy.cut();
    let without = opens(&page).await?;
    println!("  {with:6.0} ms  with a network");
    println!("  {without:6.0} ms  without: {:.2} times; wanted within 1000", without / with);
    Ok(())
}

//! The list of all work, scrolled in a browser that counts its frames.

use anyhow::{Context, Result};
use std::path::Path;
use tally_e2e::{Browser, Server, plant::NOW};

/// Scrolls for ten seconds, as fast as a wheel that is spun, and keeps the time of every frame.
const SCROLL: &str = "
    return new Promise((done) => {
        const [times, begun] = [[], performance.now()];
        let before = begun;
        const frame = (now) => {
            times.push(now - before);
            before = now;
            window.scrollBy(0, 240);
            if (now - begun < 10000) requestAnimationFrame(frame);
            else done(times.slice(1).sort((a, b) => a - b));
        };
        requestAnimationFrame(frame);
    })";

/// Prints how long frames took.
pub async fn bench(folder: &Path) -> Result<()> {
    let server = Server::serve_release_at(folder, NOW)?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server.address);
    page.go("/work").await?;
    page.find("[data-test=order]").await?;
    let times = page.script(SCROLL).await?;
    let times: Vec<f64> = times.as_array().context("times")?.iter().filter_map(serde_json::Value::as_f64).collect();
    let at = |share: f64| times[((times.len() - 1) as f64 * share) as usize];
    let way = page.script("return Math.round(window.scrollY)").await?;
    println!(
        "  {:8.1} ms  a frame of the list of all work scrolled, {:.1} ms 99 of 100, {:.1} ms the slowest ({} frames, {way} pixels)",
        at(0.5),
        at(0.99),
        at(1.0),
        times.len()
    );
    Ok(())
}

//! The list of all work, scrolled in a browser that counts its frames.

use anyhow::{Context, Result};
use std::path::Path;
use tally_e2e::{Browser, Server, plant::NOW};

/// Scrolls for ten seconds, as fast as a wheel that is spun, and keeps the time of every frame.
const SCROLL: &str = "
    return new Promise((done) => {
        const scrolls = (one) => ['auto', 'scroll'].includes(getComputedStyle(one).overflowY);
        let box = document.querySelector('[data-test=list-row]').parentElement;
        while (box.parentElement && !(scrolls(box) && box.scrollHeight > box.clientHeight)) box = box.parentElement;
        const [times, begun] = [[], performance.now()];
        let before = begun;
        const frame = (now) => {
            times.push(now - before);
            before = now;
            box.scrollTop += 240;
            if (now - begun < 10000) requestAnimationFrame(frame);
            else done({ times: times.slice(1).sort((a, b) => a - b), way: box.scrollTop });
        };
        requestAnimationFrame(frame);
    })";

/// Prints how long frames took.
pub async fn bench(folder: &Path) -> Result<()> {
    let server = Server::serve_release_at(folder, NOW)?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/reports/work").await?;
    page.find("[data-test=list-row]").await?;
    let scrolled = page.script(SCROLL).await?;
    let way = scrolled["way"].as_f64().unwrap_or_default();
    let times: Vec<f64> =
        scrolled["times"].as_array().context("times")?.iter().filter_map(serde_json::Value::as_f64).collect();
    let at = |share: f64| times[((times.len() - 1) as f64 * share) as usize];
    println!(
        "  {:8.1} ms  a frame of the list of all work scrolled, {:.1} ms 99 of 100, {:.1} ms the slowest ({} frames, {way:.0} pixels)",
        at(0.5),
        at(0.99),
        at(1.0),
        times.len()
    );
    Ok(())
}

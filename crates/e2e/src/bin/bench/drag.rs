//! What an engineer sees: from a setpoint that moves to the new verdict on the screen, in a real browser.

use crate::{
    history::{LARGE, plant},
    limits::calm,
    measure::median,
};
use anyhow::{Context, Result};
use serde_json::json;
use tally_core::ground::time::Instant;
use tally_e2e::{Browser, Server};
use tally_store::{
    access::people,
    watch::{meters, readings},
};

/// Moves the alert rung's setpoint as typing or dragging does, again and again, each time waiting for the verdict to be
/// another and for the frame that shows it. Answers how long each took, in milliseconds.
const MOVE: &str = "
    const verdict = () => document.querySelector('[data-test=replay]').textContent
    const frame = () => new Promise((shown) => requestAnimationFrame(() => setTimeout(shown)))
    const field = document.querySelector('[data-test=rung-high-alert] [name=setpoint]')
    const took = []
    for (let setpoint = 76.4; setpoint < 84.5; setpoint += 0.4) {
        const before = verdict()
        const start = performance.now()
        field.value = setpoint.toFixed(1)
        field.dispatchEvent(new Event('input', { bubbles: true }))
        while (verdict() === before && performance.now() - start < 5000) await frame()
        took.push(performance.now() - start)
    }
    return took";

pub async fn bench() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let now = Instant::parse("2026-01-01T00:00:00Z")?;
    {
        let (store, _) = plant(folder.path(), now, 0)?;
        let admin = store.read(Instant::LATEST, |view| people::first_administrator(view))?;
        let large = store.read(Instant::LATEST, |view| meters::require(view, "LARGE"))?;
        store.write(admin, now, |act| readings::fill_blocks(act, large, &calm(LARGE)))?;
    }
    let server = Server::serve_release(folder.path())?;
    let rung = |severity, setpoint| {
        json!({"side": "high", "severity": severity, "setpoint": setpoint, "deadband": 2.0,
            "response": {"kind": "raise"}})
    };
    let ladder = json!({"reason": "to be moved", "raise_interval_seconds": 604_800,
        "rungs": [rung("alert", 76.0), rung("danger", 90.0)]});
    server.put("/meters/LARGE/ladder", ladder).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/watch/LARGE?period=1970-01-01..1974-12-31").await?;
    page.see("[data-test=verdict]", "work order").await?;
    let took = page.script(MOVE).await?;
    let mut took: Vec<f64> =
        took.as_array().context("the script answers a list")?.iter().filter_map(serde_json::Value::as_f64).collect();
    let worst = took.iter().copied().fold(0.0, f64::max);
    println!(
        "from a setpoint to its verdict on screen, {LARGE} readings: {:.0} ms (median of {}, worst {worst:.0}); wanted \
         under 100",
        median(&mut took),
        took.len()
    );
    Ok(())
}

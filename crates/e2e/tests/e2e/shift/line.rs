//! The line of time of a technician, on a phone.

use super::plant::OPENING;
use anyhow::{Context, Result, ensure};
use serde_json::json;
use tally_e2e::{Browser, Server};

async fn plant(server: &Server) -> Result<()> {
    for (code, name, parent) in [("U1", "Unit one", None), ("P1", "Pump", Some("U1")), ("F1", "Fan", Some("U1"))] {
        let level = if parent.is_none() { "unit" } else { "equipment" };
        server.post("/assets", json!({"code": code, "name": name, "level": level, "parent": parent})).await?;
    }
    let crew = json!({"code": "fit", "name": "Fitters", "department": "Works", "weekly_hours": 40.0});
    server.post("/crews", crew).await?;
    for (code, name) in [("tess", "Tess Field"), ("tom", "Tom Dale")] {
        let person = json!({"code": code, "name": name, "role": "technician", "rate": 5_000, "crew": "fit"});
        server.post("/people", person).await?;
    }
    Ok(())
}

/// Raises work that is ready, for somebody on a day.
async fn work(server: &Server, title: &str, asset: &str, rank: u8, who: Option<&str>, start: &str) -> Result<i64> {
    let new = json!({"title": title, "kind": "inspection", "asset": asset, "risk_rank": rank, "state": "ready",
        "crew": "fit", "assignee": who, "estimated_hours": 1.5});
    let number = server.post("/work-orders", new).await?["number"].as_i64().context("a number")?;
    let (status, told) =
        server.send("PATCH", &format!("/work-orders/{number}"), Some(json!({ "scheduled_start": start }))).await?;
    ensure!(status == 200, "{told}");
    Ok(number)
}

#[tokio::test]
async fn what_is_late_stands_above_now_and_what_is_finished_folds_away() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let grease = work(&server, "Grease the fan", "F1", 4, Some("tess"), "2026-03-02T08:00:00Z").await?;
    work(&server, "Seal the pump", "P1", 2, Some("tess"), "2026-03-02T10:00:00Z").await?;
    work(&server, "Listen to the pump", "P1", 3, None, "2026-03-02T12:00:00Z").await?;
    work(&server, "Clean the fan", "F1", 3, Some("tom"), "2026-03-02T12:00:00Z").await?;
    work(&server, "Align the pump", "P1", 3, Some("tess"), "2026-03-01T08:00:00Z").await?;
    work(&server, "Balance the fan", "F1", 3, Some("tess"), "2026-03-04T08:00:00Z").await?;
    let browser = Browser::open(390, 844).await?;
    let page = browser.page(&server).await?;
    page.sign_in(&server, "tess").await?;
    page.go("/shift").await?;
    page.see("[data-test=shift-says]", "5 jobs to do, 1 late").await?;
    let shown = "return [...document.querySelectorAll('.shift h2, .shift .now, .shift .row strong')].map((one) => \
        one.matches('.now') ? 'now' : one.textContent.trim())";
    // What is late first, then the mark, then today by rank with what is nobody's yet, then the day after tomorrow.
    let line = json!([
        "Late",
        "Align the pump",
        "now",
        "Today",
        "Seal the pump",
        "Listen to the pump",
        "Grease the fan",
        "Wed 4 Mar 2026",
        "Balance the fan"
    ]);
    let found = page.script(shown).await?;
    ensure!(found == line, "{found}");
    let wide = page.script("return document.documentElement.scrollWidth").await?;
    ensure!(wide == 390, "nothing goes beyond the screen: {wide}");
    let low = "return [...document.querySelectorAll('.shift .row, .shift .asks')].filter((one) => \
        one.getBoundingClientRect().height < 44).length";
    ensure!(page.script(low).await? == 0, "targets that a thumb misses");
    // What is begun stands at now; what is finished today is folded away.
    server.post(&format!("/work-orders/{grease}/state"), json!({"to": "under_way"})).await?;
    page.see("[data-test=part-now]", "Grease the fan").await?;
    server.post(&format!("/work-orders/{grease}/state"), json!({"to": "done"})).await?;
    page.see("[data-test=part-finished]", "Finished today: 1").await?;
    page.press_text("[data-test=part-finished]", "Finished today").await?;
    page.see("[data-test=part-finished]", "Grease the fan").await?;
    // By asset, by rank, and of the whole crew; the address says it to somebody else.
    page.press("[data-test=shift-ask]").await?;
    page.fill("[name=shift-find]", "pump").await?;
    page.see_count(".shift .row", 3).await?;
    page.fill("[name=shift-rank]", "2").await?;
    page.see_count(".shift .row", 1).await?;
    page.go("/shift?until=2026-03-03").await?;
    page.see("[data-test=part-today]", "Seal the pump").await?;
    page.see_count("[data-test='part-2026-03-04']", 0).await?;
    page.fill("[name=shift-until]", "2026-03-04").await?;
    page.see("[data-test='part-2026-03-04']", "Balance the fan").await?;
    page.go("/shift?crew=fit").await?;
    page.see("h1", "Fitters").await?;
    page.see("[data-test=part-today]", "Clean the fan").await?;
    page.press("[data-test=part-today] a").await?;
    page.see("article h1", "Seal the pump").await?;
    Ok(())
}

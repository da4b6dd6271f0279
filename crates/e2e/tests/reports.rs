//! What a planner wants to know of work and entries, found by pressing: hours and cost by person in five presses, kept as a
//! view, and taken along as a file.

use anyhow::{Context, Result, ensure};
use serde_json::json;
use tally_e2e::{Browser, Server};

const OPENING: &str = "2026-03-02T09:00:00Z";

/// Two people with rates of 40.00 and 55.00 an hour, two orders, and 3, 2 and 1.5 hours.
async fn plant(server: &Server) -> Result<()> {
    server.post("/assets", json!({"code": "P1", "name": "Pump", "level": "equipment"})).await?;
    for (code, name, rate) in [("ena", "Ena Brook", 4_000), ("ole", "Ole Marsh", 5_500)] {
        server.post("/people", json!({"code": code, "name": name, "role": "technician", "rate": rate})).await?;
    }
    for title in ["Look at the oil", "Paint the guard"] {
        let order = json!({"title": title, "kind": "inspection", "asset": "P1", "risk_rank": 3});
        server.post("/work-orders", order).await?;
    }
    for (order, person, hours) in [(1_001, "ena", "3"), (1_002, "ena", "2"), (1_002, "ole", "1.5")] {
        server.post(&format!("/work-orders/{order}/state"), json!({"to": "in_progress"})).await.ok();
        let entry = json!({"kind": "labour", "person": person, "quantity": hours, "description": "at it"});
        server.post(&format!("/work-orders/{order}/entries"), entry).await?;
    }
    Ok(())
}

#[tokio::test]
async fn hours_and_cost_by_person_are_five_presses_away_and_kept_as_a_view() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server.address);
    page.go("/codes?period=2026").await?;
    page.press_text("body", "Reports").await?;
    page.see("[data-test=list-totals]", "3").await?;
    page.press("[data-test=group-by] summary").await?;
    page.press("[data-test=by-person] input").await?;
    // Rate times hours, by hand: (3 + 2) × 40 and 1.5 × 55.
    for (person, figures) in [("Ena Brook", ["5.0", "200.00"]), ("Ole Marsh", ["1.5", "82.50"])] {
        let row = person_row(&page, person).await?;
        for figure in figures {
            ensure!(row.contains(figure), "{person}: {figure} is not in {row:?}");
        }
    }
    let all = page.see("table.groups tfoot", "All of it").await?;
    ensure!(all.contains("6.5") && all.contains("282.50"), "{all}");
    page.press("[data-test=views] summary").await?;
    page.fill("[name=view-name]", "By person").await?;
    page.press("[data-test=views] button[type=submit]").await?;
    page.see("[data-test=views] .view", "By person").await?;
    page.go("/reports/entries?period=2026").await?;
    ensure!(page.all("table.groups").await?.is_empty(), "as it comes, nothing is grouped");
    page.press("[data-test=views] summary").await?;
    page.press_text("[data-test=views]", "By person").await?;
    page.see_count("[data-test=group]", 2).await?;
    page.see("[data-test=views] summary", "By person").await?;
    // The file holds what is listed, money in units of the currency.
    let file = page.script("return document.querySelector('a[href*=\".csv/file\"]').href").await?;
    let text = reqwest::get(file.as_str().context("a file")?).await?.text().await?;
    for line in ["Ena Brook,ena,2,5,200.00", "Ole Marsh,ole,1,1.5,82.50"] {
        ensure!(text.lines().any(|one| one == line), "{line} is not in {text}");
    }
    Ok(())
}

async fn person_row(page: &tally_e2e::Page, person: &str) -> Result<String> {
    page.see("table.groups", person).await?;
    let script = format!(
        "return [...document.querySelectorAll('[data-test=group]')].find((row) => row.innerText.includes('{person}'))?.innerText"
    );
    Ok(page.script(&script).await?.as_str().context("a row")?.to_owned())
}

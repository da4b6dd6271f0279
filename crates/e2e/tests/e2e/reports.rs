//! What a planner wants to know of work and entries, found by pressing: hours and cost by person in five presses, kept as a
//! view, and taken along as a file.

use anyhow::{Context, Result, ensure};
use calamine::Reader;
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
    let page = browser.page(&server).await?;
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
    let text = String::from_utf8(server.download(file.as_str().context("a file")?).await?)?;
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

/// Rows of the first sheet of a workbook, each cell as text.
async fn workbook(server: &Server, address: &str) -> Result<Vec<Vec<String>>> {
    let bytes = server.download(address).await?;
    let mut book: calamine::Xlsx<_> = calamine::open_workbook_from_rs(std::io::Cursor::new(bytes))?;
    let sheet = book.worksheet_range_at(0).context("a sheet")??;
    Ok(sheet.rows().map(|row| row.iter().map(ToString::to_string).collect()).collect())
}

#[tokio::test]
async fn work_by_department_and_state_is_opened_kept_and_read_back_from_a_workbook() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    server.post("/assets", json!({"code": "P1", "name": "Pump", "level": "equipment"})).await?;
    for (crew, department) in [("ropes", "Lifts"), ("snow", "Snow")] {
        server
            .post("/crews", json!({"code": crew, "name": crew, "department": department, "weekly_hours": 80}))
            .await?;
    }
    for (title, crew, state) in [
        ("Grease the rope", "ropes", None),
        ("Splice the rope", "ropes", Some("planning")),
        ("Turn the sheave", "ropes", Some("planning")),
        ("Sharpen the tiller", "snow", None),
    ] {
        let order = json!({"title": title, "kind": "inspection", "asset": "P1", "risk_rank": 3, "crew": crew});
        let number = server.post("/work-orders", order).await?["number"].as_i64().context("a number")?;
        if let Some(state) = state {
            server.post(&format!("/work-orders/{number}/state"), json!({"to": state})).await?;
        }
    }
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/reports/work").await?;
    page.press("[data-test=group-by] summary").await?;
    page.press("[data-test=by-department] input").await?;
    page.press("[data-test=by-state] input").await?;
    page.see_count("[data-test=group]", 5).await?;
    let told = page.script("return [...document.querySelectorAll('[data-test=group]')].map((row) => row.innerText.replaceAll(/[^a-zA-Z0-9]+/g, ' ').trim().split(' ').slice(0, 2).join(' '))").await?;
    ensure!(told == json!(["Lifts 3", "raised 1", "planning 2", "Snow 1", "raised 1"]), "{told}");
    // A group opens into its rows.
    page.script("document.querySelectorAll('[data-test=group] button')[2].click()").await?;
    page.see_count(".below [data-test=list-row]", 2).await?;
    let rows = page.see(".below", "Turn the sheave").await?;
    ensure!(rows.contains("Splice the rope") && !rows.contains("Grease"), "{rows}");
    page.press("[data-test=views] summary").await?;
    page.fill("[name=view-name]", "By department").await?;
    page.press("[data-test=views] button[type=submit]").await?;
    page.see("[data-test=views] .view", "By department").await?;
    let file = page.script("return document.querySelector('a[href*=\".xlsx/file\"]').href").await?;
    let read = workbook(&server, file.as_str().context("a file")?).await?;
    let begins = |row: &Vec<String>| row.iter().take(3).cloned().collect::<Vec<_>>().join("|");
    let wanted =
        ["Department|State|Rows", "Lifts||3", "Lifts|raised|1", "Lifts|planning|2", "Snow||1", "Snow|raised|1"];
    ensure!(read.iter().map(begins).collect::<Vec<_>>() == wanted, "{read:?}");
    Ok(())
}

#[tokio::test]
async fn hours_and_cost_of_an_asset_on_a_day_are_by_person() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    // The day before, and another asset: neither counts.
    server.post("/assets", json!({"code": "P2", "name": "Fan", "level": "equipment"})).await?;
    let order = json!({"title": "Dust it", "kind": "inspection", "asset": "P2", "risk_rank": 3});
    let other = server.post("/work-orders", order).await?["number"].as_i64().context("a number")?;
    for (order, at) in [(1_001, "2026-03-01T08:00:00Z"), (other, "2026-03-02T08:00:00Z")] {
        let entry = json!({"kind": "labour", "person": "ole", "quantity": "8", "at": at, "description": "elsewhere"});
        server.post(&format!("/work-orders/{order}/entries"), entry).await?;
    }
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/reports/entries?period=2026-03-02..2026-03-03&scope=P1").await?;
    page.press("[data-test=group-by] summary").await?;
    page.press("[data-test=by-person] input").await?;
    page.see_count("[data-test=group]", 2).await?;
    for (person, hours) in [("Ena Brook", "5.0"), ("Ole Marsh", "1.5")] {
        let row = person_row(&page, person).await?;
        ensure!(row.contains(hours), "{row}");
    }
    let all = page.see("table.groups tfoot", "All of it").await?;
    ensure!(all.contains("6.5") && all.contains("282.50"), "{all}");
    Ok(())
}

/// From a figure to its why, and on to all of its rows as a list that comes to the same and can be grouped.
#[tokio::test]
async fn the_rows_of_a_figure_are_a_list() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/tally?period=2026&why=cost_total~P1").await?;
    page.see("[data-test=why-total]", "282.50").await?;
    page.press("[data-test=why-list]").await?;
    page.see("[data-test=list-figure]", "Cost of Pump").await?;
    let sums = page.see("[data-test=list-sums]", "282.50").await?;
    ensure!(sums.contains("counted"), "{sums}");
    page.press("[data-test=group-by] summary").await?;
    page.press("[data-test=by-person] input").await?;
    let row = person_row(&page, "Ole Marsh").await?;
    ensure!(row.contains("82.50"), "{row}");
    page.press("[data-test=list-figure] button").await?;
    page.see_count("[data-test=list-figure]", 0).await?;
    Ok(())
}

/// Work as it stood on a past day, chosen in the list; whoever gets the link sees the same.
#[tokio::test]
async fn work_is_listed_as_it_stood_on_a_past_day() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), "2026-02-20T09:00:00Z")?;
    server.post("/assets", json!({"code": "P1", "name": "Pump", "level": "equipment"})).await?;
    let order = json!({"title": "Look at the oil", "kind": "inspection", "asset": "P1", "risk_rank": 3});
    server.post("/work-orders", order.clone()).await?;
    server.put("/clock", json!({"now": OPENING})).await?;
    server.post("/work-orders/1001/state", json!({"to": "planning"})).await?;
    server.post("/work-orders", order).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/reports/work").await?;
    page.see("[data-test=list-totals]", "2 work orders").await?;
    page.press("[data-test=as-of] summary").await?;
    page.script("const at = document.querySelector('[name=as_of]'); at.value = '2026-02-25T10:00'; at.dispatchEvent(new Event('input', { bubbles: true }))").await?;
    page.see("[data-test=list-past]", "As it was on 25 Feb 2026").await?;
    page.see("[data-test=list-totals]", "1 work order").await?;
    let row = page.see("[data-test=list-row]", "Look at the oil").await?;
    ensure!(row.contains("raised") && !row.contains("planning"), "{row}");
    let address = page.script("return location.pathname + location.search").await?;
    page.go("/").await?;
    page.go(address.as_str().context("an address")?).await?;
    page.see("[data-test=list-totals]", "1 work order").await?;
    Ok(())
}

/// The list of work goes on by itself when it is scrolled to its end, however often.
#[tokio::test]
async fn a_long_list_goes_on_where_it_is_scrolled_to() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    server.post("/assets", json!({"code": "P1", "name": "Pump", "level": "equipment"})).await?;
    for number in 0..260 {
        let order = json!({"title": format!("Look {number}"), "kind": "inspection", "asset": "P1", "risk_rank": 3});
        server.post("/work-orders", order).await?;
    }
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/work").await?;
    page.find("[data-test=order]").await?;
    let told = server.get("/work-orders?state=open&limit=500").await?;
    let last = told["work_orders"].as_array().and_then(|all| all.last()).context("orders")?["number"].to_string();
    for _ in 0..40 {
        let shown = page
            .script("const all = document.getElementById('screen'); all.scrollTo(0, all.scrollHeight); return document.body.innerText")
            .await?;
        if shown.as_str().is_some_and(|text| text.contains(&last)) {
            return Ok(());
        }
        tokio::time::sleep(std::time::Duration::from_millis(250)).await;
    }
    anyhow::bail!("order {last} is never reached")
}

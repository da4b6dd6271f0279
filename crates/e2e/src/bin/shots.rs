//! Takes the pictures of docs/screenshots/ from the demo data. With a folder, a width and a height (and `dark`) it takes every
//! screen at that size into that folder instead, to look at.

use anyhow::Result;
use std::path::Path;
use tally_e2e::{Browser, Page, Server, root};

/// Hours and cost of a year by crew and by what they were spent on.
const REPORT: &str = "/reports/entries?period=2025&ask=%7B%22group%22%3A%5B%7B%22column%22%3A%22order_crew%22%7D%2C%7B%22column%22%3A%22order_work_kind%22%7D%5D%7D";

/// File, address, what must be seen first, width and height.
const SHOTS: &[(&str, &str, &str, u32, u32)] = &[
    ("start", "/", "[data-test=first-figure]", 1280, 800),
    ("watch", "/watch", "table.ledger .spark polyline", 1280, 800),
    ("meter", "/watch/G1-TEN-PRS", "[data-test=meter-alarm]", 1280, 800),
    ("alarms", "/alarms", "[data-test=alarm-now]", 1280, 800),
    ("shift", "/shift?crew=mech", "[data-test=part-today]", 1280, 800),
    ("work", "/work", "[data-test=order]", 1280, 800),
    ("week", "/work/week", "[data-test=queue] [data-test^=card-]", 1280, 800),
    ("year", "/work/year", "[data-test^=plan-]", 1280, 800),
    ("report", REPORT, "[data-test=group]", 1280, 800),
    ("tally", "/tally?scope=G1", "[data-test=tally-G1-DRV]", 1280, 800),
    ("why", "/tally?scope=G1&why=unplanned_downtime~G1", "[data-test=why-total]", 1280, 800),
    ("codes", "/codes/hydraulics", "li.level-2", 1280, 800),
    ("setup", "/setup/assets?scope=G1", "[data-test=master-row]", 1280, 800),
    ("backlog", "/tally/backlog?scope=OMB", "[data-test=cut-state]", 1280, 800),
    ("downtime", "/tally/downtime?scope=G1&period=2026-01", "[data-test=lane-G1]", 1280, 800),
    ("headlines", "/headlines?scope=OMB", "[data-test=headline-worst_rank]", 1280, 800),
];

async fn shoot(page: &Page, browser: &Browser, name: &str, wait_for: &str, size: (u32, u32)) -> Result<()> {
    browser.resize(size.0, size.1).await?;
    page.find(wait_for).await?;
    // Two frames after the last data: the canvas has drawn.
    page.script("return new Promise(done => requestAnimationFrame(() => requestAnimationFrame(() => done(1))))")
        .await?;
    page.picture(&root().join("docs/screenshots").join(format!("{name}.png"))).await
}

/// Every screen at one size.
async fn at_one_size(page: &Page, browser: &Browser, folder: &Path, size: (u32, u32), dark: bool) -> Result<()> {
    std::fs::create_dir_all(folder)?;
    browser.resize(size.0, size.1).await?;
    page.go("/codes").await?;
    let (tree, scheme) = (size.0 >= 760, if dark { "dark" } else { "light" });
    page.script(&format!(
        "localStorage.setItem('fair-tally-tree', '{tree}'); localStorage.setItem('vueuse-color-scheme', '{scheme}')"
    ))
    .await?;
    for (name, address, ..) in SHOTS {
        page.go(address).await?;
        page.find("main h1").await?;
        tokio::time::sleep(std::time::Duration::from_millis(600)).await;
        let wide = page.script("return document.documentElement.scrollWidth - window.innerWidth").await?;
        if wide.as_i64().unwrap_or(0) > 0 {
            println!("{name} runs {wide} pixels beyond the right edge");
        }
        page.picture(&folder.join(format!("{name}.png"))).await?;
    }
    Ok(())
}

#[tokio::main(flavor = "current_thread")]
async fn main() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::demo(folder.path(), true)?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    let given: Vec<String> = std::env::args().skip(1).collect();
    if let [to, width, height, rest @ ..] = given.as_slice() {
        let size = (width.parse()?, height.parse()?);
        return at_one_size(&page, &browser, Path::new(to), size, rest.contains(&"dark".to_owned())).await;
    }
    for (name, address, wait_for, width, height) in SHOTS {
        page.go(address).await?;
        shoot(&page, &browser, name, wait_for, (*width, *height)).await?;
    }
    // A check sheet as a technician has it in their hand, half filled in.
    let look = server.get("/work-orders?scope=G1-DRV&state=scheduled&text=Daily%20look").await?;
    if let Some(number) = look["work_orders"][0]["number"].as_i64() {
        let order = server.get(&format!("/work-orders/{number}")).await?;
        browser.resize(390, 844).await?;
        page.script("localStorage.setItem('fair-tally-tree', 'false')").await?;
        page.go(&format!("/work/{number}/checks/{}", order["checks"][0]["id"])).await?;
        page.fill("[name=answer-vibration]", "3.1").await?;
        page.fill("[name=answer-oil-level]", "16").await?;
        page.see("[data-test=standing]", "Kept").await?;
        page.script("window.scrollTo(0, 0)").await?;
        page.find("[data-test=question-oil-level] .outside").await?;
        page.picture(&folder.path().join("sheet.png")).await?;
    }
    // Beside it yesterday's job, begun this morning.
    let left = server.get("/work-orders?scope=G1-DRV&text=Tighten%20the%20guard").await?;
    if let Some(number) = left["work_orders"][0]["number"].as_i64() {
        page.sign_in(&server, "tobin").await?;
        page.go(&format!("/shift/{number}")).await?;
        page.press("[data-test=start-own]").await?;
        page.see("[data-test=own-time]", "0 h 00").await?;
        page.script("document.getElementById('screen').scrollTo(0, 0)").await?;
        page.picture(&folder.path().join("job.png")).await?;
        let phones = ["sheet.png", "job.png"].map(|name| folder.path().join(name));
        page.side_by_side(&phones, &root().join("docs/screenshots/phone.png")).await?;
        page.sign_in(&server, "admin").await?;
        page.go("/shift").await?;
    }
    page.script("localStorage.setItem('fair-tally-tree', 'true')").await?;
    browser.resize(1280, 800).await?;
    let found = server.get("/work-orders?scope=G1-TEN&source=ladder&state=open").await?;
    if let Some(number) = found["work_orders"][0]["number"].as_i64() {
        browser.resize(1280, 800).await?;
        page.go(&format!("/work/{number}")).await?;
        shoot(&page, &browser, "work-order", "[data-test=work-why] polyline", (1280, 800)).await?;
    }
    page.go("/watch/G1-DRV-GBX-ACC").await?;
    page.press_text("form.ladder", "Add a high rung").await?;
    page.fill("[data-test=rung-high-alert] [name=setpoint]", "6").await?;
    page.press("[data-test=find-high-alert]").await?;
    shoot(&page, &browser, "replay", "[data-test=take-best]", (1280, 1000)).await
}

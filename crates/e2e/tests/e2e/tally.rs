//! What somebody finds in the tally by pressing: the work behind a red headline, two winters compared, why a lift became dearer,
//! and two charts on one sheet of paper.

use anyhow::{Context, Result, ensure};
use serde_json::{Value, json};
use tally_e2e::{Browser, Page, Server};

const OPENING: &str = "2026-03-02T09:00:00Z";

async fn asset(server: &Server, code: &str, name: &str, parent: Option<&str>) -> Result<()> {
    let level = if parent.is_some() { "equipment" } else { "unit" };
    let new = json!({"code": code, "name": name, "level": level, "parent": parent, "parent_effect": {"kind": "yes"}});
    server.post("/assets", new).await.map(|_| ())
}

async fn order(server: &Server, title: &str, asset: &str, kind: &str, rank: u8) -> Result<i64> {
    let new = json!({"title": title, "kind": kind, "asset": asset, "risk_rank": rank, "estimated_hours": 4});
    server.post("/work-orders", new).await?["number"].as_i64().context("a number")
}

/// Seals for a lift: in February of 2025 of one supplier at 10.00, a year later of another at 12.00.
async fn seals(server: &Server, number: i64) -> Result<()> {
    for (at, quantity, price, supplier) in
        [("2025-02-10T10:00:00Z", "4", "1000", "Old Seals"), ("2026-02-10T10:00:00Z", "6", "1200", "New Seals")]
    {
        let entry = json!({"kind": "material", "quantity": quantity, "unit_price": price, "description": "Seals",
            "item": "Seal", "supplier": supplier, "at": at});
        server.post(&format!("/work-orders/{number}/entries"), entry).await?;
    }
    Ok(())
}

async fn plant(server: &Server) -> Result<[i64; 2]> {
    asset(server, "LIFT", "North lift", None).await?;
    asset(server, "MOT", "Motor", Some("LIFT")).await?;
    let worst = order(server, "Brake opens late", "MOT", "corrective_immediate", 1).await?;
    let other = order(server, "Change the seals", "LIFT", "predetermined", 3).await?;
    seals(server, other).await?;
    Ok([worst, other])
}

async fn opened(server: &Server) -> Result<(Browser, Page)> {
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(server).await?;
    Ok((browser, page))
}

#[tokio::test]
async fn from_a_red_headline_to_the_work_behind_it_in_three_presses() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    let [worst, _] = plant(&server).await?;
    let (_browser, page) = opened(&server).await?;
    page.go("/tally").await?;
    page.press_text("nav.parts", "Headlines").await?;
    page.see("[data-test=headline-worst_rank].bad", "1 order of rank 1 stands open").await?;
    page.press("[data-test=headline-worst_rank] a").await?;
    page.see("[data-test=list-totals]", "1 work order").await?;
    page.press_text("table.ledger", &worst.to_string()).await?;
    page.see_address(&format!("/work/{worst}")).await?;
    page.see("main", "Brake opens late").await?;
    // Without a connection it keeps what it showed, and says so.
    page.go("/headlines").await?;
    page.see("[data-test=headline-worst_rank]", "rank 1").await?;
    server.kill()?;
    // It asks again every ten seconds.
    tokio::time::sleep(std::time::Duration::from_secs(10)).await;
    page.see("[data-test=headlines-old]", "No connection").await?;
    page.see("[data-test=headline-worst_rank]", "rank 1").await?;
    Ok(())
}

/// 40.00 in one February and 72.00 in the next: 32.00 more, of which 20.00 are two more seals and 12.00 their price.
#[tokio::test]
async fn why_a_lift_became_dearer_is_found_down_to_the_supplier() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let (_browser, page) = opened(&server).await?;
    page.go("/tally?scope=LIFT&period=2026-02&columns=cost_total,raised").await?;
    page.press("[data-test=against] summary").await?;
    page.press("[data-test=against-last_year] input").await?;
    page.see("[data-test=tally-LIFT] [data-test=moved-cost_total]", "▲ 80 %").await?;
    page.press("[data-test=tally-LIFT] [data-test=moved-cost_total]").await?;
    page.see("[data-test=changed-words]", "Cost: 32 EUR more").await?;
    page.see("[data-test=changed-supplier]", "New Seals").await?;
    let item = page.see("[data-test=changed-item]", "Seal").await?;
    ensure!(item.contains("quantity +20, price +12"), "{item}");
    page.press("[data-test=changed-supplier] [data-test=changed-rows]").await?;
    page.see("[data-test=list-totals]", "1 entry of cost").await?;
    page.see("[data-test=list-sums]", "72.00").await?;
    Ok(())
}

/// The winters are named by their days, and what stood in each is told side by side.
#[tokio::test]
async fn two_winters_are_compared() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    for (start, end) in
        [("2025-01-05T08:00:00Z", "2025-01-05T10:00:00Z"), ("2026-01-05T08:00:00Z", "2026-01-05T13:00:00Z")]
    {
        let down = json!({"kind": "unplanned", "start": start, "end": end});
        server.post("/assets/MOT/downtime", down).await?;
    }
    let (_browser, page) = opened(&server).await?;
    page.go("/tally?scope=LIFT&period=2025-12-01..2026-03-01&columns=unplanned_downtime,availability").await?;
    page.see("[data-test=tally-LIFT] [data-test=figure-unplanned_downtime]", "5.0").await?;
    page.press("[data-test=against] summary").await?;
    page.fill("[name=against-from]", "2024-12-01").await?;
    page.script(
        "for (const [name, day] of [['against-from', '2024-12-01'], ['against-to', '2025-03-01']]) {
            const field = document.querySelector(`[name=${name}]`); field.value = day; field.dispatchEvent(new Event('input')) }",
    )
    .await?;
    page.press("[data-test=against-dates]").await?;
    page.press("[data-test=against] summary").await?;
    page.press("[data-test=beside]").await?;
    let cell = page.see("[data-test=tally-LIFT] td:nth-child(2)", "+3.0").await?;
    ensure!(cell.contains("2.0") && cell.contains("▲ 150 %"), "{cell}");
    // The line of time says who stopped it.
    page.press_text("nav.parts", "Downtime").await?;
    page.see("[data-test=downtime-headline]", "North lift stood 5.0 h unplanned").await?;
    page.see("[data-test=stopped-by]", "Motor").await?;
    let bars = page
        .script(
            "return [...document.querySelectorAll('[data-test=stopped-by] .bar span')]
                .map((bar) => Math.abs(parseFloat(bar.style.width) - parseInt(bar.closest('td').innerText)))",
        )
        .await?;
    let off: Vec<f64> = bars.as_array().into_iter().flatten().map(|one| one.as_f64().unwrap_or(f64::MAX)).collect();
    assert!(!off.is_empty() && off.iter().all(|off| *off <= 1.0), "a bar is as long as the share beside it: {bars}");
    page.see("[data-test=lane-MOT]", "Motor").await?;
    Ok(())
}

/// A backlog longer than its setting comes as counts by what is below first; a press on a crew holds the rest to it.
#[tokio::test]
async fn a_long_backlog_comes_as_counts_and_a_press_holds_the_rest() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    server
        .post("/crews", json!({"code": "mech", "name": "Mechanics", "department": "Lifts", "weekly_hours": 80}))
        .await?;
    let number = order(&server, "Grease the rope", "LIFT", "inspection", 4).await?;
    server.send("PATCH", &format!("/work-orders/{number}"), Some(json!({"crew": "mech"}))).await?;
    let (_browser, page) = opened(&server).await?;
    page.go("/tally/backlog?scope=LIFT").await?;
    page.see("[data-test=backlog-headline]", "3 open orders, 12 h 00 to do").await?;
    page.see_count("table.ledger tbody tr", 3).await?;
    page.press("[data-test=cut-crew-mech]").await?;
    page.see("[data-test=backlog-headline]", "1 open order").await?;
    page.see("[data-test=cut-crew]", "none").await?;
    page.see("[data-test=cut-rank]", "Rank 4").await?;
    let mut settings = server.get("/settings").await?;
    settings["longest_list"] = json!(2);
    for beyond in ["second_approval_off", "limited_states", "locales", "change"] {
        settings.as_object_mut().context("settings")?.remove(beyond);
    }
    server.put("/settings", settings).await?;
    page.go("/tally/backlog?scope=LIFT").await?;
    page.see_count("[data-test=backlog-child]", 2).await?;
    page.see("table.ledger", "Motor").await?;
    page.press("[data-test=as-orders]").await?;
    page.see("table.ledger", "Grease the rope").await?;
    Ok(())
}

#[tokio::test]
async fn two_charts_of_years_stand_on_one_sheet() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let (_browser, page) = opened(&server).await?;
    page.go("/tally/years?scope=LIFT&of=cost_total,raised&years=2025,2026").await?;
    page.see("[data-test=years-cost_total] [data-test=year-row]", "2025").await?;
    let table = page.see("[data-test=years-cost_total] table", "72").await?;
    ensure!(table.contains("40"), "{table}");
    page.see("[data-test=years-raised] table", "2026").await?;
    ensure!(page.sheets().await? == 1, "both on one sheet");
    Ok(())
}

/// A budget that is set shows in the cost of its year; taken away, it can be had back.
#[tokio::test]
async fn a_budget_is_set_and_shows_in_the_cost_of_its_year() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let (_browser, page) = opened(&server).await?;
    page.go("/setup/values?scope=LIFT").await?;
    page.fill("[name=value]", "100").await?;
    page.press("[data-test=set-value]").await?;
    page.see("[data-test=value-row]", "North lift").await?;
    page.go("/tally/cost?scope=LIFT&period=2026-02").await?;
    let row = page.see("[data-test=forecast-LIFT]", "72").await?;
    ensure!(row.contains("100") && row.contains("72 %"), "{row}");
    page.go("/setup/values?scope=LIFT").await?;
    page.press_text("[data-test=value-row]", "Take away").await?;
    page.see("main", "Nothing is set by date yet").await?;
    page.press_text("body", "Undo").await?;
    page.see("[data-test=value-row]", "100").await?;
    let told: Value = server.get("/values?kind=budget").await?;
    ensure!(told[0]["value"] == json!(10_000.0), "{told}");
    Ok(())
}

/// What is asked for wrongly is said by its field.
#[tokio::test]
async fn what_can_not_be_told_is_said() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    for (path, said) in [
        ("/tally?indicators=happiness", "there is no indicator"),
        ("/tally?basis=sideways", "basis"),
        ("/tally?period=0001-01-01..9999-01-01&by=month&scope=LIFT", ""),
        ("/tally?as_of=1900-01-01T00:00:00Z", "as_of"),
        ("/tally?as_of=2040-01-01T00:00:00Z", "lies ahead"),
        ("/tally/changed?indicator=mtbf&scope=LIFT", "take those apart"),
        ("/tally/changed?indicator=cost_total&by=colour", "colour"),
        ("/tally/backlog?state=lost", "lost"),
        ("/tally/backlog?age=9", "0 to 4"),
        ("/tally/ranking?by=luck", "there is no indicator"),
        ("/tally?crew=nobody", "there is no crew"),
        ("/tally?rank=7", "1 to 5"),
        ("/values?kind=luck", "kind"),
    ] {
        let began = std::time::Instant::now();
        let (status, body) = server.send("GET", path, None).await?;
        ensure!(began.elapsed().as_secs() < 20, "{path} is answered in bounded time");
        match said {
            "" => ensure!(status == 200, "{path}: {body}"),
            _ => ensure!(status == 400 || status == 422, "{path}: {status} {body}"),
        }
        ensure!(body.to_string().contains(said), "{path}: {body}");
    }
    Ok(())
}

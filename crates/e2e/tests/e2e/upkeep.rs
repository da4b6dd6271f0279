//! Upkeep: a job described once, a plan that makes its work, a year that is levelled, and a plan that a limit brings forward.

use anyhow::{Context, Result, ensure};
use serde_json::{Value, json};
use tally_e2e::{Browser, Page, Server};

/// A Monday.
const OPENING: &str = "2026-03-02T09:00:00Z";

async fn plant(server: &Server) -> Result<()> {
    for (code, name, parent) in [("U1", "Unit one", None), ("G1", "Gearbox one", Some("U1"))] {
        let level = if parent.is_none() { "unit" } else { "equipment" };
        server.post("/assets", json!({"code": code, "name": name, "level": level, "parent": parent})).await?;
    }
    server
        .post("/crews", json!({"code": "red", "name": "Red crew", "department": "Works", "weekly_hours": 40.0}))
        .await?;
    for (code, name, role, crew) in
        [("pavel", "Pavel Moor", "planner", None), ("tom", "Tom Dale", "technician", Some("red"))]
    {
        server.post("/people", json!({"code": code, "name": name, "role": role, "crew": crew})).await?;
    }
    let meter = json!({"code": "VIB", "asset": "G1", "name": "Vibration", "kind": "measurement", "unit": "mm/s"});
    server.post("/meters", meter).await?;
    Ok(())
}

/// A plan, but for what a test sets up by hand.
async fn plan(server: &Server, code: &str, first_due: &str, hours: &str) -> Result<()> {
    let row = json!({"code": code, "name": format!("Plan {code}"), "asset": "G1", "status": "active", "every_days": "365",
        "first_due": first_due, "crew": "red", "estimated_hours": hours, "tolerance_days": "21"});
    let receipt = server.post("/master/upkeep-plans", json!({"rows": [{"values": row}]})).await?;
    ensure!(receipt["added"] == 1, "{receipt}");
    Ok(())
}

async fn on(server: &Server, code: &str) -> Result<String> {
    let plan = server.get(&format!("/upkeep/plans/{code}")).await?;
    Ok(plan["next"][0]["on"].as_str().context("a next cycle")?.to_owned())
}

/// Pixels from one week to the next.
async fn week_wide(page: &Page) -> Result<f64> {
    let wide = page.script("return document.querySelector('.lane').clientWidth / 52").await?;
    wide.as_f64().context("a lane")
}

#[tokio::test]
async fn a_year_is_levelled_by_hand_and_by_itself() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    // The week of 7 September has 30 and 25 hours of forty, the one after 20.
    plan(&server, "A", "2026-09-08", "30").await?;
    plan(&server, "B", "2026-09-09", "25").await?;
    plan(&server, "C", "2026-09-16", "20").await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.sign_in(&server, "pavel").await?;
    page.go("/work/year").await?;
    page.see("[data-test=year-says]", "1 week holds more upkeep than a crew can do.").await?;
    page.see("[data-test=year-says]", "week of 7 Sept 2026, 55 of 40 h").await?;
    // It finds the least there is to do: one of them goes a week earlier. Taken, and taken back.
    page.press("[data-test=level]").await?;
    page.see("[data-test=levelling]", "Moving 1 cycle takes the fullest week from 55 h to 30 h").await?;
    page.see("[data-test=levelling]", "Everything was tried: nothing is better.").await?;
    page.press("[data-test=take-levelling]").await?;
    page.see("[data-test=year-says]", "No week holds more upkeep than a crew can do.").await?;
    page.see("[data-test=undo]", "1 cycle moved").await?;
    page.press_text("[data-test=undo]", "Undo").await?;
    page.see("[data-test=year-says]", "1 week holds more").await?;
    ensure!((on(&server, "A").await?, on(&server, "B").await?) == ("2026-09-08".into(), "2026-09-09".into()));
    // By hand: two weeks later, where another has twenty hours already; and by the menu, back a week.
    let wide = week_wide(&page).await?;
    page.drag_by("[data-test=cycle-A-1]", (wide * 2.0).round() as i64, 0).await?;
    page.see("[data-test=year-says]", "No week holds more").await?;
    ensure!(on(&server, "A").await? == "2026-09-22", "{}", on(&server, "A").await?);
    page.press("[data-test=cycle-A-1]").await?;
    page.fill("[name=move-to]", "28").await?;
    page.press("[data-test=move-cycle]").await?;
    page.see("[data-test=year-says]", "week of 14 Sept 2026, 50 of 40 h").await?;
    ensure!(on(&server, "A").await? == "2026-09-15");
    // Beyond its three weeks it goes nowhere.
    page.drag_by("[data-test=cycle-A-1]", (wide * 9.0).round() as i64, 0).await?;
    page.see("[data-test=year-says]", "week of 14 Sept 2026, 50 of 40 h").await?;
    ensure!(on(&server, "A").await? == "2026-09-15");
    Ok(())
}

/// A plan of every thirteen weeks: the whole year of it goes a week later by one drag, and back by one press.
#[tokio::test]
async fn later_cycles_go_along() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    plan(&server, "A", "2026-03-17", "8").await?;
    let change = json!({"rows": [{"values": {"code": "A", "every_days": "91"}}]});
    let receipt = server.post("/master/upkeep-plans", change).await?;
    ensure!(receipt["changed"] == 1, "{receipt}");
    let days = async || -> Result<Vec<String>> {
        let year = server.get("/upkeep/year").await?;
        let next = year["plans"][0]["cycles"].as_array().context("cycles")?.iter().take(3);
        Ok(next.filter_map(|cycle| Some(cycle["on"].as_str()?.to_owned())).collect())
    };
    let planned = ["2026-03-17", "2026-06-16", "2026-09-15"];
    ensure!(days().await? == planned, "{:?}", days().await?);
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.sign_in(&server, "pavel").await?;
    page.go("/work/year").await?;
    page.press("[name=along]").await?;
    let wide = week_wide(&page).await?;
    page.drag_by("[data-test=cycle-A-1]", wide.round() as i64, 0).await?;
    page.see("[data-test=undo]", "24 Mar 2026").await?;
    ensure!(days().await? == ["2026-03-24", "2026-06-23", "2026-09-22"], "{:?}", days().await?);
    page.press_text("[data-test=undo]", "Undo").await?;
    page.see_count("[data-test=undo]", 0).await?;
    ensure!(days().await? == planned, "{:?}", days().await?);
    Ok(())
}

#[tokio::test]
async fn a_plan_makes_work_that_follows_a_job_sheet() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let browser = Browser::open(1280, 900).await?;
    let page = browser.page(&server).await?;
    page.sign_in(&server, "pavel").await?;
    page.go("/setup/job-sheets/new").await?;
    for (field, text) in [("job-code", "OIL"), ("job-title", "Change the oil"), ("job-status", "active")] {
        page.fill(&format!("[name={field}]"), text).await?;
    }
    page.fill("[data-test=step-0] [name=step-text]", "Drain and fill").await?;
    page.fill("[data-test=step-0] [name=step-hours]", "2.5").await?;
    page.fill("[data-test=step-0] [name=step-meters]", "VIP").await?;
    page.fill("[name=job-permits]", "Lock the drive").await?;
    page.press("[data-test=save-sheet]").await?;
    // A wrong code is said where it stands; what was typed is kept.
    page.see("[data-test=step-0]", "there is no meter \"VIP\"").await?;
    page.fill("[data-test=step-0] [name=step-meters]", "VIB").await?;
    page.press("[data-test=save-sheet]").await?;
    page.see(".sheet h1", "Change the oil").await?;

    page.go("/setup/upkeep-plans/new").await?;
    let fields = [
        ("code", "G1-OIL"),
        ("name", "Yearly oil change"),
        ("asset", "G1"),
        ("status", "active"),
        ("every_days", "365"),
        ("first_due", "2026-03-20"),
        ("lead_days", "7"),
        ("crew", "red"),
        ("job_sheet", "OIL"),
    ];
    for (field, text) in fields {
        page.fill(&format!("form.fields [name={field}]"), text).await?;
    }
    page.press("[data-test=save-row]").await?;
    page.see("[data-test=plan-cycles]", "Next on Gearbox one: 20 Mar 2026").await?;

    // A week before it is due it is there, for whoever does it.
    server.put("/clock", json!({"now": "2026-03-13T09:00:00Z"})).await?;
    let work = server.get("/work-orders?state=open").await?;
    let number = work["work_orders"][0]["number"].as_i64().context("work")?;
    page.sign_in(&server, "tom").await?;
    page.go(&format!("/work/{number}")).await?;
    page.see("[data-test=work-cycle]", "Cycle 1 of Yearly oil change, every 365 days; due 20 Mar 2026.").await?;
    page.see("[data-test=job]", "Lock the drive").await?;
    page.see("[data-test=job]", "read VIB").await?;
    page.press("[data-test=tick-permit-0]").await?;
    page.see("[data-test=job]", "Tom Dale").await?;
    let order = server.get(&format!("/work-orders/{number}")).await?;
    ensure!(order["job"]["permits"][0]["ticked_by"] == "Tom Dale" && order["estimated_hours"] == 2.5, "{order}");
    ensure!(order["window_end"].as_str() > Some("2026-04-20"), "a tenth of a year after it is due");
    Ok(())
}

#[tokio::test]
async fn a_limit_brings_a_plan_forward() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    plan(&server, "BEARING", "2026-09-08", "6").await?;
    server.post("/people", json!({"code": "erin", "name": "Erin Marsh", "role": "engineer"})).await?;
    let reading = async |at: &str, value: f64| -> Result<Value> {
        server.post("/readings", json!([{"meter": "VIB", "at": at, "value": value}])).await
    };
    reading("2026-03-01T08:00:00Z", 2.0).await?;
    let browser = Browser::open(1280, 900).await?;
    let page = browser.page(&server).await?;
    page.sign_in(&server, "erin").await?;
    let response = json!({"kind": "record"});
    let rung = json!({"side": "high", "severity": "serious", "setpoint": 7.0, "deadband": 0.5, "response": response});
    server.put("/meters/VIB/ladder", json!({"reason": "first", "rungs": [rung]})).await?;
    page.go("/watch/VIB").await?;
    page.fill("[data-test=rung-high-serious] [aria-label=Response]", "bring_forward").await?;
    page.press("[data-test=rung-high-serious] summary").await?;
    page.fill("[data-test=rung-high-serious] [name=plan]", "BEARING").await?;
    page.fill("[name=reason]", "the bearing is changed before it breaks").await?;
    page.press("form.ladder button[type=submit]").await?;
    page.see("ol[aria-label=Versions]", "the bearing is changed before it breaks").await?;

    reading("2026-03-02T08:00:00Z", 8.5).await?;
    let work = server.get("/work-orders?state=open").await?;
    ensure!(work["totals"]["count"] == 1, "{work}");
    let number = work["work_orders"][0]["number"].as_i64().context("work")?;
    page.go(&format!("/work/{number}")).await?;
    page.see("article h1", "Plan BEARING").await?;
    page.see("[data-test=work-cycle]", "due 8 Sept 2026, brought forward").await?;
    page.see("[data-test=work-cycle]", "Vibration read 8.5 mm/s").await?;
    // In the year its work stands where it is to be done, and the next cycle a year after.
    let year = server.get("/upkeep/year").await?;
    ensure!(year["plans"][0]["cycles"][0]["work_order"] == number, "{year}");
    Ok(())
}

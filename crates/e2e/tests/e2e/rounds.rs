//! A round, from the desk where it is set up to the phone on which it is walked, and what follows from it.

use anyhow::{Context, Result, ensure};
use serde_json::json;
use tally_e2e::{Browser, Server};

const OPENING: &str = "2026-03-02T09:00:00Z";

async fn plant(server: &Server) -> Result<()> {
    let assets = [
        ("U1", "Unit one", "unit", None),
        ("D1", "Drive", "system", Some("U1")),
        ("G1", "Gearbox", "equipment", Some("D1")),
        ("B1", "Brake", "equipment", Some("D1")),
        ("P1", "Platform gate", "equipment", Some("U1")),
    ];
    for (code, name, level, parent) in assets {
        server.post("/assets", json!({"code": code, "name": name, "level": level, "parent": parent})).await?;
    }
    for (code, name) in [("fit", "Fitters"), ("brk", "Brakes")] {
        let crew = json!({"code": code, "name": name, "department": "Works", "weekly_hours": 40.0});
        server.post("/crews", crew).await?;
    }
    server.post("/people", json!({"code": "pavel", "name": "Pavel Moor", "role": "planner"})).await?;
    let tess = json!({"code": "tess", "name": "Tess Field", "role": "technician", "rate": 5_000, "crew": "fit"});
    server.post("/people", tess).await?;
    let dry = json!({"title": "Look at a gearbox", "status": "active", "assets": ["G1"], "questions": [
        {"key": "dry", "text": "Is it dry?", "asks": {"kind": "pass_fail"}, "compulsory": true,
            "rules": [{"is": {"when": "among", "values": ["fail"]}, "title": "Seal the gearbox",
                "work_kind": "corrective_deferred", "risk_rank": 3, "trade": "Fitter", "crew": "fit"}]}]});
    server.put("/check-sheets/GEARBOX", dry).await?;
    let gap = json!({"title": "Measure the gap", "status": "active", "questions": [
        {"key": "gap", "text": "Gap", "asks": {"kind": "number", "unit": "mm"}, "compulsory": true, "low": 1.0, "high": 2.0,
            "rules": [{"is": {"when": "above", "value": 2.0}, "title": "Set the brake", "work_kind": "condition_based",
                "risk_rank": 2, "trade": "Brakes", "crew": "brk"}]}]});
    server.put("/check-sheets/GAP", gap).await.map(drop)
}

#[tokio::test]
async fn a_round_is_set_up_walked_on_a_phone_and_followed_by_work() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let browser = Browser::open(1280, 900).await?;
    let page = browser.page(&server).await?;
    page.sign_in(&server, "pavel").await?;
    page.go("/setup/rounds").await?;
    page.see("main", "No rounds yet").await?;
    page.press("[data-test=add-row]").await?;
    for (field, text) in [("round-code", "DRIVE"), ("round-title", "Round of the drive"), ("round-status", "active")] {
        page.fill(&format!("[name={field}]"), text).await?;
    }
    // The brake stands first by mistake; an asset there is not is named where it stands.
    page.fill("[data-test=visit-0] [name=work-asset]", "B9").await?;
    page.fill("[data-test=visit-0] [name=visit-sheet]", "check GAP").await?;
    page.press("[data-test=add-visit]").await?;
    page.fill("[data-test=visit-1] [name=work-asset]", "G1").await?;
    page.press("[data-test=add-visit]").await?;
    page.fill("[data-test=visit-2] [name=work-asset]", "P1").await?;
    page.fill("[data-test=visit-2] [name=visit-text]", "The gate locks").await?;
    page.press("[data-test=save-sheet]").await?;
    page.see("[data-test=visit-0]", "there is no asset \"B9\"").await?;
    page.fill("[data-test=visit-0] [name=work-asset]", "B1").await?;
    page.press("[aria-label='Move visit 2 up']").await?;
    page.see("[data-test=round-map]", "Gearbox").await?;
    page.press("[data-test=save-sheet]").await?;
    page.see(".sheet", "version 1 by Pavel Moor").await?;
    let kept = server.get("/job-sheets/DRIVE").await?;
    let visits: Vec<_> = kept["steps"].as_array().context("steps")?.iter().map(|step| step["asset"].clone()).collect();
    ensure!(visits == ["G1", "B1", "P1"] && kept["round"] == "in_order", "{kept}");

    // A plan raises it: one order, three visits.
    page.go("/setup/upkeep-plans/new").await?;
    let fields = [
        ("code", "D1-ROUND"),
        ("name", "Weekly round"),
        ("asset", "D1"),
        ("status", "active"),
        ("every_days", "7"),
        ("first_due", "2026-03-03"),
        ("lead_days", "2"),
        ("job_sheet", "DRIVE"),
    ];
    for (field, text) in fields {
        page.fill(&format!("form.fields [name={field}]"), text).await?;
    }
    page.press("[data-test=save-row]").await?;
    // Where this took more than a minute, the clock's duties have come by, and the work is there: "Work on Drive is open".
    page.see("[data-test=plan-cycles]", "on Drive").await?;
    server.put("/clock", json!({"now": "2026-03-02T09:10:00Z"})).await?;
    let work = server.get("/work-orders?state=open").await?;
    ensure!(work["totals"]["count"] == 1, "{work}");
    let number = work["work_orders"][0]["number"].as_i64().context("work")?;

    let phone = Browser::open(390, 844).await?;
    let page = phone.page(&server).await?;
    page.sign_in(&server, "tess").await?;
    page.go(&format!("/work/{number}")).await?;
    page.see("[data-test=round-stand]", "3 visits of 3 to go").await?;
    let wide = page.script("return document.documentElement.scrollWidth").await?;
    ensure!(wide == 390, "nothing goes beyond the screen: {wide}");
    page.see_count("[data-test=visit-skip-1]", 0).await?;
    page.press("[data-test=visit-check-0]").await?;
    page.press("[data-test=question-dry] [data-test=choose-fail]").await?;
    page.press("[data-test=finish-check]").await?;
    page.see("[data-test=raised]", "Seal the gearbox").await?;
    page.press("[data-test=back-to-order]").await?;
    page.see("[data-test=round-stand]", "2 visits of 3 to go").await?;
    page.press("[data-test=visit-check-1]").await?;
    page.fill("[name=answer-gap]", "2.4").await?;
    page.press("[data-test=finish-check]").await?;
    page.see("[data-test=raised]", "Set the brake").await?;
    page.press("[data-test=back-to-order]").await?;
    // The gate can't be reached: without a reason it is not left out.
    page.press("[data-test=visit-skip-2]").await?;
    page.press("[data-test=skip-send]").await?;
    page.see("[data-test=visit-2]", "say why it is left out").await?;
    page.fill("[name=skip-reason]", "platform closed").await?;
    page.press("[data-test=skip-send]").await?;
    page.see("[data-test=visit-2]", "Skipped by Tess Field: platform closed").await?;
    page.see("[data-test=round-stand]", "All 3 visits are done or skipped").await?;
    // Two rules of two trades, each on the asset of its visit.
    let open = server.get("/work-orders?state=open").await?;
    let of = |title: &str| open["work_orders"].as_array().unwrap().iter().find(|one| one["title"] == title).cloned();
    let (seal, set) = (of("Seal the gearbox").context("seal")?, of("Set the brake").context("set")?);
    ensure!(seal["crew"] == "fit" && seal["asset"]["code"] == "G1", "{seal}");
    ensure!(set["crew"] == "brk" && set["asset"]["code"] == "B1", "{set}");
    let order = server.get(&format!("/work-orders/{number}")).await?;
    ensure!(order["job"]["open_steps"] == 0 && order["checks"].as_array().map(Vec::len) == Some(2), "{order}");
    Ok(())
}

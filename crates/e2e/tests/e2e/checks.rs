//! Check sheets: built and tried at a desk, filled in on a phone, also when the page is closed or the network is gone meanwhile.

use anyhow::{Result, ensure};
use serde_json::json;
use tally_e2e::{Browser, Server};

const OPENING: &str = "2026-03-02T09:00:00Z";

async fn plant(server: &Server) -> Result<()> {
    for (code, name, parent) in [("U1", "Unit one", None), ("T1", "Tension unit", Some("U1"))] {
        let level = if parent.is_none() { "unit" } else { "equipment" };
        server.post("/assets", json!({"code": code, "name": name, "level": level, "parent": parent})).await?;
    }
    let meter = json!({"code": "T1-BAR", "asset": "T1", "name": "Pressure", "kind": "measurement", "unit": "bar"});
    server.post("/meters", meter).await?;
    let ladder = json!({"reason": "r", "rungs": [{"side": "low", "severity": "alert", "setpoint": 100.0, "deadband": 2.0,
        "response": {"kind": "raise", "title": "Pressure is low"}}]});
    server.put("/meters/T1-BAR/ladder", ladder).await?;
    for (code, name) in [("hyd", "Hydraulics"), ("fit", "Fitters")] {
        let crew = json!({"code": code, "name": name, "department": "Works", "weekly_hours": 40.0});
        server.post("/crews", crew).await?;
    }
    for (code, name, role) in [("pavel", "Pavel Moor", "planner"), ("tess", "Tess Field", "technician")] {
        server.post("/people", json!({"code": code, "name": name, "role": role, "rate": 5_000})).await?;
    }
    Ok(())
}

/// The sheet of the second story, as the first one builds it.
async fn sheet(server: &Server) -> Result<()> {
    let sheet = json!({"title": "Look at the tension", "status": "active", "assets": ["T1"], "questions": [
        {"key": "bar", "text": "Pressure", "asks": {"kind": "reading", "meter": "Pressure"}, "compulsory": true,
            "rules": [{"is": {"when": "below", "value": 110.0}, "title": "Find the leak", "work_kind": "condition_based",
                "risk_rank": 2, "trade": "Hydraulics", "crew": "hyd"}]},
        {"key": "rod", "text": "Rod", "asks": {"kind": "number", "unit": "mm"}, "compulsory": true, "low": 200, "high": 900},
        {"key": "hoses", "text": "Are the hoses sound?", "asks": {"kind": "pass_fail"}, "compulsory": true,
            "rules": [{"is": {"when": "among", "values": ["fail"]}, "title": "Renew the hose", "work_kind": "corrective_deferred",
                "risk_rank": 3, "trade": "Fitter", "crew": "fit"}]},
        {"key": "which", "text": "Which one?", "asks": {"kind": "text"},
            "only_if": {"question": "hoses", "is": {"when": "among", "values": ["fail"]}}},
        {"key": "who", "text": "Who looked", "asks": {"kind": "signature"}}]});
    server.put("/check-sheets/TENSION", sheet).await.map(drop)
}

#[tokio::test]
async fn a_check_sheet_is_built_and_tried_at_a_desk() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.sign_in(&server, "pavel").await?;
    page.go("/setup/check-sheets").await?;
    page.see("main", "No check sheets yet").await?;
    page.press("[data-test=add-row]").await?;
    page.fill("[name=check-code]", "TENSION").await?;
    page.fill("[name=check-title]", "Look at the tension").await?;
    page.fill("[data-test=question-0] [name=question-text]", "Are the hoses sound?").await?;
    page.press("[data-test=add-rule-0]").await?;
    page.fill("[data-test=rule-0-0] [name=rule-title]", "Renew the hose").await?;
    page.see("[data-test=trial]", "raise nothing").await?;
    page.press("[data-test=add-question]").await?;
    page.fill("[data-test=question-1] [name=question-text]", "Which one?").await?;
    page.fill("[data-test=question-1] [name=question-kind]", "text").await?;
    page.fill("[data-test=question-1] [name=question-only-if]", "q1").await?;
    // Nothing was said yet of which answer it is asked by: the form names the field, and keeps what was typed.
    page.see("[data-test=trial]", "Once nothing is missing above").await?;
    page.press("[data-test=save-sheet]").await?;
    page.see("[data-test=question-1]", "say which answers").await?;
    page.press("[data-test=question-1] input[value=fail]").await?;
    page.see_count("[data-test=trial] [data-test=question-q2]", 0).await?;
    page.press("[data-test=trial] [data-test=choose-fail]").await?;
    page.see("[data-test=trial]", "Which one?").await?;
    page.see("[data-test=trial]", "Renew the hose").await?;
    page.press("[data-test=save-sheet]").await?;
    page.see("h1", "Look at the tension").await?;
    page.see("form", "version 1 by Pavel Moor").await?;
    // The second question moves above the first by keyboard; then it can't be asked by that any more, and says so.
    page.press("[aria-label='Move question 2 up']").await?;
    page.press("[data-test=save-sheet]").await?;
    page.see("[data-test=question-0]", "must be a question before it").await?;
    let kept = server.get("/check-sheets/TENSION").await?;
    ensure!(kept["version"] == 1 && kept["sheet"]["questions"][0]["key"] == "q1", "{kept}");
    Ok(())
}

#[tokio::test]
async fn what_is_asked_elsewhere_is_taken_with_a_picture_that_helps() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    sheet(&server).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.sign_in(&server, "pavel").await?;
    let photo = folder.path().join("hose.png");
    page.picture(&photo).await?;
    page.go("/setup/check-sheets/new").await?;
    page.fill("[name=check-code]", "SECOND").await?;
    page.fill("[name=check-title]", "Look at the hoses").await?;
    page.fill("[name=check-status]", "active").await?;
    page.press("[data-test=question-library]").await?;
    page.fill("[name=library-text]", "SOUND hoses").await?;
    page.see_count("[data-test=library] li", 1).await?;
    page.see("[data-test=library]", "pass or fail, 1 answer raises work").await?;
    page.press("[data-test=take-question]").await?;
    page.press_text(".el-dialog__footer", "Enough").await?;
    page.see_count("[data-test=question-1]", 0).await?;
    page.give_file("[data-test=question-0] [name=photos]", &photo).await?;
    page.find("[data-test=trial] [data-test=help-picture] img").await?;
    page.press("[data-test=save-sheet]").await?;
    page.see("form", "version 1 by Pavel Moor").await?;
    let kept = server.get("/check-sheets/SECOND").await?;
    let question = &kept["sheet"]["questions"][0];
    ensure!(question["rules"][0]["title"] == "Renew the hose" && question["picture"].is_string(), "{kept}");
    // Whoever fills it in sees the picture, and large where they press it.
    let order = json!({"title": "Weekly look", "kind": "inspection", "asset": "T1", "risk_rank": 3, "state": "ready"});
    let number = server.post("/work-orders", order).await?["number"].as_i64().unwrap_or_default();
    let check = server.post(&format!("/work-orders/{number}/checks"), json!({"sheet": "SECOND"})).await?;
    page.go(&format!("/work/{number}/checks/{}", check["id"])).await?;
    page.press("[data-test=help-picture]").await?;
    let shown = "const shown = document.querySelector('[data-test=help-picture].large img'); return shown.complete && shown.naturalWidth";
    let mut width = page.script(shown).await?;
    for _ in 0..200 {
        if width.as_i64().is_some_and(|width| width > 0) {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(50)).await;
        width = page.script(shown).await?;
    }
    ensure!(width.as_i64().is_some_and(|width| width > 400), "{width}");
    Ok(())
}

#[tokio::test]
async fn a_technician_fills_a_check_sheet_in_on_a_phone() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    sheet(&server).await?;
    let order = json!({"title": "Weekly look", "kind": "inspection", "asset": "T1", "risk_rank": 3, "state": "ready"});
    let number = server.post("/work-orders", order).await?["number"].as_i64().unwrap_or_default();
    let browser = Browser::open(390, 844).await?;
    let page = browser.page(&server).await?;
    page.sign_in(&server, "tess").await?;
    page.go(&format!("/work/{number}")).await?;
    // What is meant for the asset is offered first.
    page.press("[data-test=add-check]").await?;
    page.see("[data-test=check-choices]", "meant for Tension unit").await?;
    page.press("[data-test=add-TENSION]").await?;
    page.press_text("[data-test=check-TENSION]", "Look at the tension").await?;
    page.see("h1", "Look at the tension").await?;
    let wide = page.script("return document.documentElement.scrollWidth").await?;
    ensure!(wide == 390, "nothing goes beyond the screen: {wide}");
    let small = "return [...document.querySelectorAll('.check button, .check input, .check label.button')].filter((one) => \
        one.type !== 'file' && one.checkVisibility() && one.getBoundingClientRect().height < 38).map((one) => one.outerHTML)";
    let small = page.script(small).await?;
    ensure!(small == json!([]), "targets that a thumb misses: {small}");
    page.fill("[name=answer-bar]", "96").await?;
    page.fill("[name=answer-rod]", "950").await?;
    page.see("[data-test=question-rod]", "outside 200 to 900 mm").await?;
    page.see("[data-test=standing]", "Kept").await?;
    // The network goes: what is answered now is kept here, also when the page is loaded anew.
    page.cut_off(&["/answers"]).await?;
    page.press("[data-test=question-hoses] [data-test=choose-fail]").await?;
    page.fill("[name=answer-which]", "the upper one").await?;
    page.see("[data-test=standing]", "No network").await?;
    page.cut_off(&[]).await?;
    page.go(&format!("/work/{number}")).await?;
    page.press_text("[data-test=check-TENSION]", "Look at the tension").await?;
    page.see("[data-test=standing]", "Kept").await?;
    let answers = server.get(&format!("/work-orders/{number}/checks/1")).await?["answers"].clone();
    ensure!(answers.as_array().is_some_and(|all| all.len() == 4), "{answers}");
    // Signed by typing the name, for who can't draw.
    page.fill("[data-test=question-who] input.line", "Tess Field").await?;
    page.press("[data-test=question-hoses] h2").await?;
    page.see_count("[data-test=question-who] img", 1).await?;
    page.press("[data-test=finish-check]").await?;
    page.see("[data-test=finished]", "Finished by Tess Field").await?;
    // Each answer raised the work of its own trade; the reading went through its limits.
    page.see("[data-test=raised]", "Find the leak").await?;
    page.see("[data-test=raised]", "Renew the hose").await?;
    let open = server.get("/work-orders?state=open").await?;
    ensure!(open["totals"]["count"] == 4, "the order, one by the limit, two by answers: {open}");
    let of = |title: &str| open["work_orders"].as_array().unwrap().iter().find(|one| one["title"] == title).cloned();
    let leak = of("Find the leak").unwrap_or_default();
    ensure!(leak["source"] == "answer_rule" && leak["crew"] == "hyd", "{leak}");
    let text = server.get(&format!("/work-orders/{}", leak["number"])).await?["text"].clone();
    ensure!(text.as_str().is_some_and(|text| text.ends_with("Pressure 96 bar, below 110 bar")), "{text}");
    ensure!(of("Pressure is low").is_some() && of("Renew the hose").is_some_and(|one| one["crew"] == "fit"), "{open}");
    Ok(())
}

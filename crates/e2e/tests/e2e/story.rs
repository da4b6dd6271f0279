//! The whole thread by hand in a real browser, on a plant of its own, ending in figures computed here by hand.

use anyhow::Result;
use serde_json::json;
use tally_e2e::{Browser, PASSWORD, Page, Server};

const OPENING: &str = "2026-03-02T09:00:00Z";

/// Site, unit, drive and gearbox with a bearing; everything below puts what is above it down.
async fn plant(server: &Server) -> Result<()> {
    server.post("/equipment-classes", json!({"code": "gearbox", "name": "Gearboxes"})).await?;
    for (code, name, level, parent) in [
        ("MILL", "Mill", "site", None),
        ("LINE-1", "Line 1", "unit", Some("MILL")),
        ("DRIVE", "Drive", "system", Some("LINE-1")),
        ("GEAR", "Gearbox", "equipment", Some("DRIVE")),
        ("BEAR", "Bearing", "part", Some("GEAR")),
    ] {
        let asset = json!({"code": code, "name": name, "level": level, "parent": parent, "class": "gearbox",
            "commissioned_at": "2025-01-01T00:00:00Z", "criticality": "A", "parent_effect": {"kind": "yes"}});
        server.post("/assets", asset).await?;
    }
    let meter = json!({"code": "ACC", "asset": "BEAR", "name": "Peak acceleration", "kind": "measurement", "unit": "[g]",
        "plausible_low": 0.0, "plausible_high": 200.0});
    server.post("/meters", meter).await?;
    let tess = json!({"code": "tess", "name": "Tess Orme", "role": "technician", "crew": null, "rate": 4800});
    server.post("/people", tess).await?;
    let book = json!({"name": "Gearboxes", "class": "gearbox", "problems": [
        {"code": "NOISE", "name": "Noise", "below": [{"code": "WORN", "name": "Bearing worn", "below": [
            {"code": "NEW", "name": "Bearing replaced", "renews": true}]}]}]});
    server.put("/codebooks/gearbox", book).await?;
    Ok(())
}

async fn set_a_limit(page: &Page) -> Result<()> {
    page.go("/watch").await?;
    page.see("main", "1 meter,").await?;
    page.press("[data-test=meter]").await?;
    page.see("h1", "Peak acceleration").await?;
    page.press_text("form.ladder", "Add a high rung").await?;
    page.fill("[data-test=rung-high-alert] [name=setpoint]", "4").await?;
    page.press("[data-test=rung-high-alert] summary").await?;
    page.fill("[data-test=rung-high-alert] [name=deadband]", "2.5").await?;
    page.fill("[data-test=rung-high-alert] [name=title]", "Look at the bearing").await?;
    // A rung below the milder one is refused in words, and what was typed stays.
    page.press_text("form.ladder", "Add a high rung").await?;
    page.fill("[data-test=rung-high-serious] [name=setpoint]", "3").await?;
    page.fill("[name=reason]", "First limits").await?;
    page.press("form.ladder button[type=submit]").await?;
    page.see("[data-test=rung-high-serious]", "serious high at 3 must lie above alert high at 4").await?;
    page.fill("[data-test=rung-high-serious] [name=setpoint]", "9").await?;
    page.press("form.ladder button[type=submit]").await?;
    page.see("ol[aria-label=Versions]", "First limits").await?;
    Ok(())
}

async fn import_readings(page: &Page, server: &Server, folder: &std::path::Path) -> Result<()> {
    server.put("/clock", json!({"now": "2026-03-02T10:00:00Z"})).await?;
    let file = folder.join("readings.csv");
    let rows = [
        "meter,at,value",
        "ACC,2026-03-02T09:10:00Z,1.1",
        "ACC,2026-03-02T09:20:00Z,1.3",
        "ACC,yesterday,1.2",
        "ACC,2026-03-02T09:40:00Z,5.2",
        "ACX,2026-03-02T09:40:00Z,5.2",
        "ACC,2026-03-02T09:50:00Z,4.8",
    ];
    std::fs::write(&file, rows.join("\n"))?;
    page.press_text("main", "Import readings").await?;
    page.give_file("input[name=file]", &file).await?;
    page.see("[data-test=import-sum]", "4 new").await?;
    page.see("[data-test=import-sum]", "2 refused").await?;
    page.see("[data-test=import-sum]", "1 alarm and raise or join 1 work order").await?;
    page.see_count("[data-test=row-refused]", 2).await?;
    let table = page.see("[data-test=import] table", "there is no meter").await?;
    assert!(table.contains("\"yesterday\" is no time"), "{table}");
    page.press("[data-test=import-keep]").await?;
    page.see_count("[data-test=import-sum]", 0).await?;
    page.go("/watch/ACC").await?;
    page.see("[data-test=meter-alarm]", "raised work").await?;
    let alarm = page.see("[data-test=meter-alarm]", "5.2 g").await?;
    assert!(alarm.contains("still standing"), "{alarm}");
    Ok(())
}

async fn do_the_work(page: &Page, server: &Server) -> Result<()> {
    page.press("[data-test=meter-alarm] a").await?;
    page.see("[data-test=work-why]", "read 5.2 g and entered the").await?;
    page.see("[data-test=work-why]", "rung at 4 g on 2 Mar 2026, 09:40, as set in version 1").await?;
    page.see("article", "Peak acceleration: 5.2 g, above 4 g.").await?;
    page.press("[data-test=move-ready]").await?;
    page.see("[data-test=state]", "ready").await?;
    page.press("[data-test=move-under_way]").await?;
    page.see("[data-test=state]", "under way").await?;
    // The next morning the session has ended over night: signed in again above it, the page goes on where it was.
    server.put("/clock", json!({"now": "2026-03-03T09:00:00Z"})).await?;
    page.see("dialog h2", "Your session has ended").await?;
    page.fill("dialog [name=password]", PASSWORD).await?;
    page.press("dialog [data-test=sign-in]").await?;
    page.see_count("dialog h2", 0).await?;
    page.press("[data-test=type-hours]").await?;
    page.fill("[name=typed-hours]", "7.5").await?;
    page.fill("[name=hours-at]", "2026-03-02T15:00").await?;
    page.fill("[aria-label='Somebody else']", "tess").await?;
    page.press("[data-test=save-hours]").await?;
    page.see_count("[data-test=entry]", 1).await?;
    for (kind, fields) in [
        (
            "material",
            vec![
                ("description", "Bearing set"),
                ("quantity", "3"),
                ("price", "43.95"),
                ("entry-at", "2026-03-02T15:00"),
            ],
        ),
        (
            "tool",
            vec![("description", "Puller"), ("quantity", "1"), ("price", "22.50"), ("entry-at", "2026-03-02T15:00")],
        ),
    ] {
        page.press(&format!("[data-test=add-{kind}]")).await?;
        for (name, value) in fields {
            page.fill(&format!("form.inset [name={name}]"), value).await?;
        }
        page.press("[data-test=save-entry]").await?;
    }
    page.see_count("[data-test=entry]", 3).await?;
    // 7.5 h at 48.00, 3 at 43.95, and 22.50.
    page.see("[data-test=cost]", "514.35").await?;
    page.press("[data-test=add-downtime]").await?;
    page.fill("[name=start]", "2026-03-02T10:00").await?;
    page.fill("[name=end]", "2026-03-02T09:00").await?;
    page.press("[data-test=save-downtime]").await?;
    page.see("form [role=alert]", "must lie after the start").await?;
    page.fill("[name=end]", "2026-03-02T16:30").await?;
    page.press("[data-test=save-downtime]").await?;
    page.see("[data-test=downtime]", "6 h 30").await?;
    // A year typed wrong is questioned; the hour is corrected, and what was deleted comes back.
    page.press("[data-test=correct-downtime]").await?;
    page.fill("[name=start]", "2025-03-02T10:00").await?;
    page.see("[data-test=odd-downtime]", "That is longer than a week.").await?;
    page.fill("[name=start]", "2026-03-02T09:30").await?;
    page.press("[data-test=save-downtime]").await?;
    page.see("form [role=alert]", "say why it is corrected").await?;
    page.fill("[name=downtime-reason]", "It stood half an hour earlier").await?;
    page.press("[data-test=save-downtime]").await?;
    page.see("[data-test=downtime]", "7 h").await?;
    page.press_text("[data-test=undo]", "Undo").await?;
    page.see("[data-test=downtime]", "6 h 30").await?;
    page.press("[data-test=delete-downtime]").await?;
    page.fill("[name=delete-reason]", "It ran").await?;
    page.press("[data-test=delete-downtime-confirm]").await?;
    page.see("[data-test=downtime-of-work]", "None was reported.").await?;
    page.press_text("[data-test=undo]", "Undo").await?;
    page.see("[data-test=downtime]", "6 h 30").await?;
    page.press("[data-test=new-failure]").await?;
    for code in ["problem-NOISE", "cause-WORN", "remedy-NEW"] {
        page.press(&format!("[data-test={code}]")).await?;
    }
    page.fill("[name=failed-at]", "2026-03-02T10:00").await?;
    // A limit that finds something finds it early, as a rule; here it stopped.
    page.fill("[name=effect]", "critical").await?;
    page.press("[data-test=save-failure]").await?;
    page.see("[data-test=failure] dl", "Bearing replaced").await?;
    Ok(())
}

async fn close_the_work(page: &Page) -> Result<()> {
    page.press("[data-test=move-done]").await?;
    page.fill("[name=verdict]", "found_it").await?;
    page.fill("[name=done-at]", "2026-03-02T17:00").await?;
    page.press("[data-test=move-confirm]").await?;
    page.see("[data-test=state]", "done").await?;
    // The rung still stands by a reading of before: it raises nothing, and waits for the next one.
    page.go("/alarms?show=unconfirmed").await?;
    page.see("[data-test=unconfirmed]", "Look at the bearing").await?;
    page.see("[data-test=show-unconfirmed]", "1 repair not yet confirmed").await?;
    page.press("[data-test=read-now]").await?;
    page.fill("[data-test=unconfirmed] input", "1").await?;
    page.press("[data-test=unconfirmed] form button").await?;
    page.see("main", "Every repair is confirmed").await?;
    page.see("[data-test=show-standing]", "0 standing").await?;
    page.go("/work/1001").await?;
    page.press("[data-test=move-closed]").await?;
    page.see("[data-test=move-confirm]", "Close work 1001").await?;
    page.press("[data-test=move-confirm]").await?;
    page.see("[data-test=state]", "closed").await?;
    page.see("article", "514.35 settled, 0.00 provisional").await?;
    // Codes of closed work are corrected, with a reason.
    page.press("[data-test=edit-failure]").await?;
    page.press("[data-test=save-failure]").await?;
    page.see("[data-test=failure] [role=alert]", "say why its codes are corrected").await?;
    page.fill("[name=failure-reason]", "Looked at again").await?;
    page.press("[data-test=save-failure]").await?;
    page.see("[data-test=failure] dl", "Bearing replaced").await?;
    Ok(())
}

async fn read_the_figures(page: &Page) -> Result<()> {
    page.go("/tally?period=2026-03&scope=MILL").await?;
    // March up to the morning of the third: 57 h required around the clock, 6.5 h of them down.
    for asset in ["MILL", "LINE-1", "DRIVE", "GEAR", "BEAR"] {
        let row = format!("[data-test=tally-{asset}]");
        page.see(&format!("{row} [data-test=figure-cost_total]"), "514").await?;
        page.see(&format!("{row} [data-test=figure-unplanned_downtime]"), "6.5").await?;
        page.see(&format!("{row} [data-test=figure-availability]"), "88.6 %").await?;
        page.see(&format!("{row} [data-test=figure-failures]"), "1").await?;
        page.see(&format!("{row} [data-test=figure-mtbf]"), "50.5").await?;
        page.see(&format!("{row} [data-test=figure-mttr]"), "6.5").await?;
        page.see(&format!("{row} [data-test=figure-open_work]"), "0").await?;
        if asset != "MILL" && asset != "BEAR" {
            page.press(&format!("{row} .fold")).await?;
        }
    }
    page.press("[data-test=tally-MILL] [data-test=figure-cost_total]").await?;
    page.see(".why", "settled 514.35, provisional 0.00").await?;
    let why = page.see(".why", "Bearing set").await?;
    for amount in ["360.00", "131.85", "22.50"] {
        assert!(why.contains(amount), "{amount} is missing in {why}");
    }
    // Where there is too little room beside it, figures are moved: the names, and what stands above them, stay in sight.
    page.script("Object.assign(document.querySelector('.tally').parentElement.style, { width: '420px' })").await?;
    page.script("document.querySelector('.tally').scrollLeft = 60").await?;
    page.wait_for(
        "const table = document.querySelector('.tally');
        const isSeen = (cell) => {
            const { left, right, top, bottom } = cell.getBoundingClientRect();
            return [left + 9, right - 9].every((x) => cell.contains(document.elementFromPoint(x, (top + bottom) / 2)));
        };
        return table.scrollLeft > 0 && ['th', 'td.stays'].every((cell) => isSeen(table.querySelector(cell))) ? 1 : 0",
    )
    .await?;
    page.press("[data-test=why-row]").await?;
    page.see_address("/work/1001").await?;
    page.see("h1 ~ .state, article h1", "Look at the bearing").await?;
    Ok(())
}

#[tokio::test]
async fn from_a_limit_to_a_figure_and_back_to_the_work() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    set_a_limit(&page).await?;
    import_readings(&page, &server, folder.path()).await?;
    do_the_work(&page, &server).await?;
    close_the_work(&page).await?;
    read_the_figures(&page).await
}

#[tokio::test]
async fn the_screens_do_what_hands_and_keys_ask_for() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let readings: Vec<_> = (0..48)
        .map(|hour| json!({"meter": "ACC", "at": format!("2026-02-{:02}T{:02}:00:00Z", 1 + hour / 24, hour % 24), "value": 2.0 + f64::from(hour % 5)}))
        .collect();
    server.post("/readings", json!(readings)).await?;
    let rung = json!({"reason": "first", "rungs": [{"side": "high", "severity": "alert", "setpoint": 5.0, "deadband": 0.5,
        "response": {"kind": "record"}}]});
    server.put("/meters/ACC/ladder", rung).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/watch/ACC?period=2026-02").await?;
    let value = || page.script("return document.querySelector('[data-test=line-high-alert]').ariaValueNow");
    page.find("[data-test=line-high-alert]").await?;
    assert_eq!(value().await?, "5");
    page.drag_down("[data-test=line-high-alert]", 60).await?;
    let dragged: f64 = value().await?.as_str().unwrap_or_default().parse()?;
    assert!((2.5..4.9).contains(&dragged), "dragged down to {dragged}");
    page.see("form.ladder", "Save as version 2").await?;
    page.press_text("form.ladder", "Take back").await?;
    assert_eq!(value().await?, "5");
    // The verdict follows the hand. The values go 2, 3, 4, 5, 6 again and again for 48 hours: 5 is reached nine times, 3
    // ten times, and left at each 2.
    let entered = "[data-test=replay] dl div:first-child";
    page.see("[data-test=replay]", "What the limits in force come to").await?;
    page.see(entered, "entered 9 times").await?;
    page.fill("[data-test=rung-high-alert] [name=setpoint]", "3").await?;
    page.see(entered, "entered 10 times").await?;
    page.see("[data-test=replay]", "What these limits would have done").await?;
    // They ended less than 30 days before the period does, so they are no nuisance yet.
    page.see("[data-test=verdict]", "No failure came in the period; 0 nuisance warnings, 0 work orders").await?;
    page.see_count("[data-test=would-be-alarm]", 10).await?;
    // Spells hours apart are one warning. It stands from the first of February on, for three whole horizons of 7 days.
    page.fill("[name=horizon]", "7").await?;
    page.see("[data-test=verdict]", "3 nuisance warnings").await?;
    page.see_address("horizon=7").await?;
    // Where each spell is a warning of its own, nine ended for nothing; and a link says by what was judged.
    page.fill("[name=calm]", "0").await?;
    page.see("[data-test=verdict]", "12 nuisance warnings").await?;
    page.see_address("calm=0").await?;
    page.fill("[name=calm]", "7").await?;
    page.fill("[name=least]", "serious").await?;
    page.see("[data-test=verdict]", "0 nuisance warnings").await?;
    page.see_address("least=serious").await?;
    page.fill("[name=least]", "alert").await?;
    page.fill("[name=horizon]", "30").await?;
    page.see("[data-test=verdict]", "0 nuisance warnings").await?;
    page.press("[data-test=find-high-alert]").await?;
    page.see("[data-test=finder]", "Press a column to take its setpoint").await?;
    page.see("[data-test=finder]", "No setpoint catches a failure of the period in time").await?;
    // 46.5 hours after the first spell began.
    let work = json!({"title": "Seized", "kind": "corrective_immediate", "asset": "BEAR", "risk_rank": 2});
    let made = server.post("/work-orders", work).await?;
    let failure = json!({"failed_at": "2026-02-02T23:30:00Z", "effect": "critical", "problem": "NOISE"});
    server.put(&format!("/work-orders/{}/failure", made["number"]), failure).await?;
    page.go("/watch/ACC?period=2026-02").await?;
    page.fill("[data-test=rung-high-alert] [name=setpoint]", "3").await?;
    page.see("[data-test=verdict]", "Catches the failure, 1 day before").await?;
    page.fill("[name=lead]", "3").await?;
    page.see("[data-test=verdict]", "Warns of the failure too late").await?;
    page.fill("[name=lead]", "1").await?;
    page.press("[data-test=find-high-alert]").await?;
    page.see("[data-test=finder]", "Most caught for least work").await?;
    page.press("[data-test=take-best]").await?;
    // All catch it and cost alike: the first of the grid, 2 + 4/51, entered once and never left (below 1.58).
    page.see(entered, "entered 1 time").await?;
    page.press_text("form.ladder", "Take back").await?;
    // Zoomed in by the wheel, and back.
    page.see(".bar", "48 readings").await?;
    page.wheel_in(".trend canvas", 4).await?;
    page.press_text(".bar", "Whole period").await?;
    page.see(".bar", "wheel zooms").await?;
    // A reading entered by hand: refused in words first, with what was typed kept.
    page.press_text("main", "Enter a reading").await?;
    page.fill("form.inset [name=value]", "a lot").await?;
    page.press("form.inset button[type=submit]").await?;
    page.see("form.inset [role=alert]", "\"a lot\" is not a number").await?;
    page.fill("form.inset [name=value]", "6.5").await?;
    page.press("form.inset button[type=submit]").await?;
    page.see(".now", "6.5 g").await?;
    // The jump box leads to an asset, and the period steps by a key.
    page.press("[role=combobox]").await?;
    page.fill("[role=combobox]", "gearb").await?;
    page.see("[role=option]", "Gearbox").await?;
    page.press("[role=option]").await?;
    page.see_address("scope=GEAR").await?;
    page.press_key("[").await?;
    page.see_address("period=2026-01").await?;
    // Work raised by hand; sorted by open work, its line comes first in the tally.
    page.go("/work?scope=LINE-1").await?;
    page.press_text("main", "Raise work").await?;
    page.fill("[name=work-title]", "Paint the guard").await?;
    page.fill("[name=work-asset]", "NOWHERE").await?;
    page.press("[data-test=raise]").await?;
    page.see(".el-dialog [role=alert]", "there is no asset \"NOWHERE\"").await?;
    page.fill("[name=work-asset]", "GEAR").await?;
    page.press("[data-test=raise]").await?;
    page.see("article h1", "Paint the guard").await?;
    page.go("/tally?by=open_work&desc=yes").await?;
    page.see("[data-test=tally-LINE-1] [data-test=figure-open_work]", "2").await?;
    // The codebook: a new cause is kept, and found again by the server.
    page.go("/codes/gearbox").await?;
    page.see("h1", "Gearboxes").await?;
    page.press("[data-test=add-problem]").await?;
    page.fill("main li.level-0:last-of-type [aria-label='Code of the problem']", "HOT").await?;
    page.press("[data-test=save-codebook]").await?;
    page.see("main [role=alert]", "the problem HOT needs a name").await?;
    page.fill("main li.level-0:last-of-type input.name", "Runs hot").await?;
    page.press("[data-test=save-codebook]").await?;
    page.see("nav[aria-label=Codebooks]", "2 problems").await?;
    let book = server.get("/codebooks/gearbox").await?;
    assert_eq!(book["problems"][1]["name"], "Runs hot");
    Ok(())
}

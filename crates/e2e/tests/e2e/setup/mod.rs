//! A plant set up by hand in a real browser: from files with mistakes, by moving a motor, by changing many at once.

mod roles;

use anyhow::Result;
use serde_json::json;
use std::path::{Path, PathBuf};
use tally_e2e::{Browser, Page, Server};

const OPENING: &str = "2026-03-02T09:00:00Z";

fn file(folder: &Path, name: &str, lines: &[&str]) -> Result<PathBuf> {
    let file = folder.join(name);
    std::fs::write(&file, lines.join("\r\n"))?;
    Ok(file)
}

/// Assets with three mistakes: an unknown parent, a level that is none, a code given twice.
async fn import_assets(page: &Page, folder: &Path) -> Result<()> {
    let bad = file(
        folder,
        "assets.csv",
        &[
            "code;name;level;parent;class;replacement_value",
            "PUMP-1;Feed pump 1;equipment;HALL;pump;12.500,00",
            "MILL;Mill;site;;;",
            "HALL;Boiler hall;system;MIL;;",
            "PUMP-2;Feed pump 2;machine;HALL;pump;12.500,00",
            "MILL;Mill again;site;;;",
        ],
    )?;
    page.give_file("input[name=file]", &bad).await?;
    let sum = page.see("[data-test=import-sum]", "4 refused").await?;
    assert!(sum.contains("1 new"), "{sum}");
    page.see_count("[data-test=row-refused]", 4).await?;
    let rows = page.see("[data-test=import] table", "there is no asset \"MIL\"").await?;
    for words in ["there is no asset \"HALL\"", "\"machine\" is none of", "line 3 gives MILL already"] {
        assert!(rows.contains(words), "{words} is missing in {rows}");
    }
    let mended = file(
        folder,
        "assets-mended.csv",
        &[
            "code;name;level;parent;class;replacement_value",
            "PUMP-1;Feed pump 1;equipment;HALL;pump;12.500,00",
            "MILL;Mill;site;;;",
            "HALL;Boiler hall;system;MILL;;",
            "PUMP-2;Feed pump 2;equipment;HALL;pump;12.500,00",
        ],
    )?;
    page.give_file("input[name=file]", &mended).await?;
    let sum = page.see("[data-test=import-sum]", "0 refused").await?;
    assert!(sum.contains("4 new") && sum.contains("Also added: equipment class pump"), "{sum}");
    page.press("[data-test=import-keep]").await?;
    page.see("aside[aria-label='Asset tree']", "Mill").await?;
    page.see("aside[aria-label='Asset tree']", "Boiler hall").await?;
    Ok(())
}

async fn import_meters_and_people(page: &Page, folder: &Path) -> Result<()> {
    page.press("[data-test=import-meters]").await?;
    let bad = file(
        folder,
        "meters.csv",
        &[
            "code,asset,name,kind,unit,plausible_low,plausible_high,longest_silence",
            "P1-BAR,PUMP-1,Pressure,measurement,bar,0,100,36 h",
            "P2-BAR,PUMP-2,Pressure,measurement,bar,100,0,36 h",
        ],
    )?;
    page.give_file("input[name=file]", &bad).await?;
    page.see("[data-test=row-refused]", "the plausible range must run from lower to higher").await?;
    std::fs::write(&bad, std::fs::read_to_string(&bad)?.replace("100,0,36 h", "0,100,36 h"))?;
    page.give_file("input[name=file]", &bad).await?;
    page.see("[data-test=import-sum]", "2 new").await?;
    page.press("[data-test=import-keep]").await?;
    page.press("[data-test=import-people]").await?;
    let people = file(folder, "people.csv", &["code,name,role,crew,rate", "tess,Tess Orme,technician,day,48"])?;
    page.give_file("input[name=file]", &people).await?;
    page.see("[data-test=import-sum]", "Also added: crew day").await?;
    page.press("[data-test=import-keep]").await?;
    page.go("/setup/people/tess").await?;
    page.see("article h1", "Tess Orme").await?;
    let rate = page.script("return document.querySelector('article [name=rate]').value").await?;
    assert_eq!(rate, "48.00");
    Ok(())
}

#[tokio::test]
async fn from_an_empty_installation_to_a_limit_by_three_files_with_mistakes() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/").await?;
    page.see("h1", "Four steps").await?;
    page.press_text("[data-test=step]:first-child", "Import assets").await?;
    import_assets(&page, folder.path()).await?;
    import_meters_and_people(&page, folder.path()).await?;
    // A limit on what was imported, and it works.
    page.go("/watch/P1-BAR").await?;
    page.press_text("form.ladder", "Add a high rung").await?;
    page.fill("[data-test=rung-high-alert] [name=setpoint]", "60").await?;
    page.fill("[name=reason]", "First limits").await?;
    page.press("form.ladder button[type=submit]").await?;
    page.see("ol[aria-label=Versions]", "First limits").await?;
    page.press_text("main", "Enter a reading").await?;
    page.fill("form.inset [name=value]", "64,5").await?;
    // The clock stands still, and the period ends with it.
    server.put("/clock", json!({"now": "2026-03-02T09:30:00Z"})).await?;
    page.fill("form.inset [name=at]", "2026-03-02T09:10").await?;
    page.press("form.inset button[type=submit]").await?;
    page.see("[data-test=meter-alarm]", "64.5 bar").await?;
    page.go("/").await?;
    page.see("[data-test=first-risk]", "pressure at 64.5 bar, above 60 bar").await?;
    // What was set up is known, with who did it.
    page.go("/setup/changes").await?;
    let changes = page.see("[data-test=changes]", "asset PUMP-1").await?;
    assert!(changes.contains("added by Administrator"), "{changes}");
    Ok(())
}

/// Two lifts with a drive each; a motor in the first, with 100.00 spent on it in January.
async fn two_lifts(server: &Server) -> Result<()> {
    for (code, name, level, parent) in [
        ("SITE", "Site", "site", None),
        ("LIFT-A", "Lift A", "unit", Some("SITE")),
        ("LIFT-B", "Lift B", "unit", Some("SITE")),
        ("DRIVE-A", "Drive A", "system", Some("LIFT-A")),
        ("DRIVE-B", "Drive B", "system", Some("LIFT-B")),
        ("MOTOR", "Motor", "equipment", Some("DRIVE-A")),
    ] {
        let kind = if code == "MOTOR" { "item" } else { "position" };
        let asset = json!({"code": code, "name": name, "kind": kind, "level": level, "parent": parent,
            "commissioned_at": "2025-01-01T00:00:00Z"});
        server.post("/assets", asset).await?;
    }
    let work = json!({"title": "Mend the motor", "kind": "improvement", "asset": "MOTOR", "risk_rank": 3});
    server.post("/work-orders", work).await?;
    for (price, at) in [("10000", "2026-01-10T12:00:00Z"), ("5000", "2026-01-30T12:00:00Z")] {
        let entry = json!({"kind": "tool", "quantity": "1", "unit_price": price, "description": "Puller", "at": at});
        server.post("/work-orders/1001/entries", entry).await?;
    }
    Ok(())
}

#[tokio::test]
async fn a_motor_moved_between_lifts_leaves_its_past_and_takes_its_history() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    two_lifts(&server).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/setup/assets/MOTOR").await?;
    page.press("[data-test=move-asset]").await?;
    page.fill("form.inset [name=work-asset]", "MOTOR").await?;
    page.fill("[name=move-at]", "2026-01-20T08:00").await?;
    page.fill("[name=move-reason]", "Lift B needs the stronger motor").await?;
    page.press("[data-test=save-move]").await?;
    page.see("form.inset [role=alert]", "the new parent would sit below the asset itself").await?;
    page.fill("form.inset [name=work-asset]", "DRIVE-B").await?;
    page.press("[data-test=save-move]").await?;
    page.see_count("[data-test=placement]", 2).await?;
    page.see("[data-test=placement]", "Lift B needs the stronger motor").await?;
    // 100.00 stay with lift A, where they were spent; 50.00 count for lift B; the motor has all of it.
    let cost = async |asset: &str, expected: &str| -> Result<()> {
        page.see(&format!("[data-test=tally-{asset}] [data-test=figure-cost_total]"), expected).await?;
        Ok(())
    };
    page.go("/tally?period=2026-01&scope=SITE").await?;
    for (asset, expected) in [("SITE", "150"), ("LIFT-A", "100"), ("LIFT-B", "50")] {
        cost(asset, expected).await?;
    }
    page.go("/tally?period=2026-01&scope=MOTOR").await?;
    cost("MOTOR", "150").await?;
    // Below each drive, the motor's share has a row of its own that says from when to when; so has what the drive itself costs.
    for (drive, stood, expected) in [("DRIVE-A", "left 20 Jan 2026", "100"), ("DRIVE-B", "came 20 Jan 2026", "50")] {
        page.go(&format!("/tally?period=2026-01&scope={drive}")).await?;
        page.see("[data-test=tally-MOTOR]", stood).await?;
        cost("MOTOR", expected).await?;
    }
    let work = json!({"title": "Mend the drive", "kind": "improvement", "asset": "DRIVE-B", "risk_rank": 3});
    server.post("/work-orders", work).await?;
    let entry = json!({"kind": "tool", "quantity": "1", "unit_price": "700", "description": "Puller",
        "at": "2026-01-11T12:00:00Z"});
    server.post("/work-orders/1002/entries", entry).await?;
    page.go("/tally?period=2026-01&scope=DRIVE-B").await?;
    cost("DRIVE-B", "57").await?;
    page.see("[data-test=tally-DRIVE-B-own]", "itself").await?;
    cost("DRIVE-B-own", "7").await?;
    page.go("/tally?period=2026-01&scope=SITE&basis=as_is").await?;
    for (asset, expected) in [("SITE", "157"), ("LIFT-A", "0"), ("LIFT-B", "157")] {
        cost(asset, expected).await?;
    }
    Ok(())
}

/// Whatever is opened below it, row by row: what a motor's coil cost while the motor stood elsewhere is no part of this lift.
#[tokio::test]
async fn rows_opened_below_a_moved_motor_add_up_to_it() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    two_lifts(&server).await?;
    for (code, parent) in [("WINDING", "MOTOR"), ("COIL", "WINDING")] {
        let part = json!({"code": code, "name": code, "kind": "position", "level": "part", "parent": parent,
            "commissioned_at": "2025-01-01T00:00:00Z"});
        server.post("/assets", part).await?;
    }
    let work = json!({"title": "Mend the coil", "kind": "improvement", "asset": "COIL", "risk_rank": 3});
    server.post("/work-orders", work).await?;
    for (price, at) in [("3000", "2026-01-10T12:00:00Z"), ("500", "2026-01-30T12:00:00Z")] {
        let entry = json!({"kind": "tool", "quantity": "1", "unit_price": price, "description": "Wire", "at": at});
        server.post("/work-orders/1002/entries", entry).await?;
    }
    let moved = json!({"parent": "DRIVE-B", "at": "2026-01-20T08:00:00Z", "reason": "Stronger"});
    server.post("/assets/MOTOR/move", moved).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    for (scope, path, motor, coil) in
        [("LIFT-B", "LIFT-B/DRIVE-B/MOTOR/WINDING", "55", "5"), ("LIFT-A", "LIFT-A/DRIVE-A/MOTOR/WINDING", "130", "30")]
    {
        page.go(&format!("/tally?period=2026-01&scope={scope}")).await?;
        for row in path.split('/').skip(1) {
            page.press(&format!("[data-test=tally-{row}] .fold")).await?;
        }
        for (row, expected) in [("MOTOR", motor), ("WINDING", coil), ("COIL", coil)] {
            let cell = format!("[data-test=tally-{row}] [data-test=figure-cost_total]");
            page.see(&cell, expected).await?;
            page.press(&cell).await?;
            page.see("[data-test=why-figure]", &format!("{expected} EUR")).await?;
        }
        // Of the motor's own, only what was while it stood here.
        let own = "[data-test=tally-MOTOR-own] [data-test=figure-cost_total]";
        page.see(own, if scope == "LIFT-B" { "50" } else { "100" }).await?;
        page.press(own).await?;
        page.see("[data-test=why-figure]", if scope == "LIFT-B" { "50 EUR" } else { "100 EUR" }).await?;
    }
    // The sites as roots, opened down to the motor's coil.
    page.go("/tally?period=2026-01").await?;
    for row in ["LIFT-A", "DRIVE-A", "MOTOR", "WINDING"] {
        page.press(&format!("[data-test=tally-{row}] .fold")).await?;
    }
    page.see("[data-test=tally-COIL] [data-test=figure-cost_total]", "30").await?;
    Ok(())
}

#[tokio::test]
async fn many_are_changed_at_once_and_taken_back_and_keys_lead_everywhere() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    two_lifts(&server).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/setup/assets?sort=level").await?;
    page.see("[data-test=master-total]", "6 assets").await?;
    for code in ["DRIVE-A", "DRIVE-B"] {
        page.press(&format!("[aria-label='Select {code}']")).await?;
    }
    page.fill("[name=many-field]", "criticality").await?;
    page.fill("form.many [name=criticality]", "A").await?;
    page.press_text("form.many", "Show what changes").await?;
    page.see("[data-test=many-preview]", "2 would change").await?;
    page.see("[data-test=many-preview] table", "criticality: empty → A").await?;
    page.press("[data-test=many-keep]").await?;
    page.see("[data-test=undo]", "2 changed: criticality").await?;
    let criticality = async || anyhow::Ok(server.get("/assets/DRIVE-A").await?["criticality"].clone());
    assert_eq!(criticality().await?, "A");
    page.press_text("[data-test=undo]", "Undo").await?;
    page.see_count("[data-test=undo]", 0).await?;
    assert_eq!(criticality().await?, json!(null));
    // A form of one row: what is wrong stands beside its field, and what was typed stays.
    page.go("/setup/assets/new").await?;
    page.fill("article [name=code]", "SPARE 1").await?;
    page.fill("article [name=name]", "Spare motor").await?;
    page.press("[data-test=save-row]").await?;
    page.see("article form", "\"SPARE 1\" is no code").await?;
    page.fill("article [name=code]", "SPARE-1").await?;
    page.fill("article [name=level]", "equipment").await?;
    page.press("[data-test=save-row]").await?;
    page.see_address("/setup/assets/SPARE-1").await?;
    page.see("article h1", "Spare motor").await?;
    // Settings: refused by field, then kept; the history says who.
    page.go("/setup/installation").await?;
    page.fill("[name=currency]", "eur").await?;
    page.press("[data-test=save-settings]").await?;
    page.see("form.installation", "stays as it is once there are entries")
        .await
        .map(|_| ())
        .or(page.see("form.installation", "use an ISO 4217 code").await.map(|_| ()))?;
    page.fill("[name=currency]", "EUR").await?;
    page.fill("[name=rank-1]", "1").await?;
    page.press("[data-test=save-settings]").await?;
    page.see("form.installation [data-test=changes]", "rank_windows: [2,7,28,90,180] → [1,7,28,90,180]").await?;
    // Numbers and dates are written as elsewhere.
    page.fill("[name=locale]", "de-DE").await?;
    page.press("[data-test=save-settings]").await?;
    page.see("form.installation [data-test=changes]", "locale: en-GB → de-DE").await?;
    page.see("form.installation [name=fiscal]", "Januar").await?;
    page.fill("[name=locale]", "en-GB").await?;
    page.press("[data-test=save-settings]").await?;
    page.see("form.installation [name=fiscal]", "January").await?;
    // Keys.
    page.go("/watch").await?;
    page.find("h1, .empty").await?;
    page.press_key("?").await?;
    page.see(".el-dialog", "the period before, the period after").await?;
    page.press_key("\u{e00c}").await?;
    page.see_count(".el-dialog", 0).await?;
    page.press_key("g").await?;
    page.press_key("s").await?;
    page.see_address("/setup/assets").await?;
    page.find("[data-test=master-row]").await?;
    page.press_key("j").await?;
    page.press_key("j").await?;
    let second = page.script("return document.activeElement.textContent.trim()").await?;
    assert_eq!(second, "DRIVE-B");
    page.press("[role=combobox]").await?;
    page.fill("[role=combobox]", "import re").await?;
    page.see("[role=option]", "Import readings").await?;
    page.press("[role=option]").await?;
    page.see_address("/setup/files/readings").await?;
    page.see("[data-test=import]", "Import readings").await?;
    Ok(())
}

/// Its alarms are held as long, and answer when it is back.
async fn put_out_of_use_and_back(page: &Page, server: &Server) -> Result<()> {
    server.post("/meters", json!({"code": "BAR", "asset": "DRIVE-A", "kind": "measurement", "unit": "bar"})).await?;
    let rung = json!({"side": "high", "severity": "alert", "setpoint": 5.0, "response": {"kind": "raise"}});
    server.put("/meters/BAR/ladder", json!({"reason": "first", "rungs": [rung]})).await?;
    page.go("/setup/assets/LIFT-A").await?;
    page.see("[data-test=out-of-use]", "in use").await?;
    page.press("[data-test=put-out-of-use]").await?;
    page.press("[data-test=save-out-of-use]").await?;
    page.see("[data-test=out-of-use] [role=alert]", "say why").await?;
    page.fill("[name=out-reason]", "Stripped down for the overhaul").await?;
    page.press("[data-test=save-out-of-use]").await?;
    page.see("[data-test=out-of-use]", "Stripped down for the overhaul").await?;
    server.put("/clock", json!({"now": "2026-03-02T10:00:00Z"})).await?;
    server.post("/readings", json!([{"meter": "BAR", "at": "2026-03-02T09:30:00Z", "value": 9.0}])).await?;
    page.go("/alarms?show=held").await?;
    page.see("[data-test=alarm-now]", "out of use: Stripped down for the overhaul").await?;
    page.press("[data-test=show-out_of_use]").await?;
    page.press("[data-test=back-in-use]").await?;
    page.see_count("[data-test=back-in-use]", 0).await?;
    page.press("[data-test=show-standing]").await?;
    page.see("[data-test=alarm-now]", "raised work").await?;
    Ok(())
}

/// A calendar, what being down does to the parent, and a picture, each from a date on or at once.
#[tokio::test]
async fn an_asset_gets_a_calendar_an_effect_and_a_picture() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    two_lifts(&server).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/setup/calendars").await?;
    page.press("[data-test=add-row]").await?;
    page.fill("form.calendar [name=code]", "shift").await?;
    page.fill("form.calendar [name=name]", "Two shifts").await?;
    page.fill("form.calendar [name=week]", "Mon-Fri 06:00 to 22:00").await?;
    page.press("[data-test=save-calendar]").await?;
    page.see("form.calendar [role=alert]", "is no such line as Mon–Fri 06:00–22:00").await?;
    page.fill("form.calendar [name=week]", "Mon-Fri 6:00 - 22:00").await?;
    page.press("[data-test=save-calendar]").await?;
    page.see("main table", "Mon–Fri 06:00–22:00").await?;
    page.go("/setup/assets/LIFT-A").await?;
    page.press_text(".place section:nth-child(4)", "Change").await?;
    page.fill("[name=asset-calendar]", "shift").await?;
    page.fill("[name=calendar-at]", "2026-02-02T00:00").await?;
    page.press_text(".place form.inset", "Save").await?;
    page.see(".place", "2 Feb 2026 – now").await?;
    page.see(".place", "Two shifts").await?;
    page.press("[data-test=change-effect]").await?;
    page.fill("[name=effect]", "group").await?;
    page.fill("[name=effect-group]", "lifts").await?;
    page.fill("[name=effect-at]", "2026-02-09T00:00").await?;
    page.press_text(".place form.inset", "Save").await?;
    page.see(".place", "one of the lifts: what it belongs to is down while fewer than 1 of them are up").await?;
    // From Saturday to Monday night it was down.
    let down = json!({"kind": "unplanned", "start": "2026-02-14T00:00:00Z", "end": "2026-02-17T00:00:00Z"});
    server.post("/assets/LIFT-A/downtime", down).await?;
    page.go("/tally?scope=LIFT-A&period=2026-02").await?;
    // Saturday and Sunday are not required; of Monday the sixteen hours are.
    page.see("[data-test=tally-LIFT-A] [data-test=figure-unplanned_downtime]", "16.0").await?;
    put_out_of_use_and_back(&page, &server).await?;
    let picture = folder.path().join("lift.png");
    page.go("/setup/assets/LIFT-A").await?;
    page.find("[name=picture]").await?;
    page.picture(&picture).await?;
    page.give_file("[name=picture]", &picture).await?;
    page.find(".place img[alt='Picture of Lift A']").await?;
    page.press_text(".place", "Take it away").await?;
    page.see_count(".place img", 0).await?;
    Ok(())
}

//! What a person's hands meet: drafts that are kept, addresses that say what is shown, keys that close one thing, and failures
//! that say so.

mod shown;

use anyhow::{Context, Result, ensure};
use serde_json::json;
use tally_e2e::{Browser, PASSWORD, Page, Server};

const OPENING: &str = "2026-03-02T09:00:00Z";
const ESCAPE: &str = "\u{e00c}";

/// A gearbox with a vibration and its limit, two engineers, and two orders.
async fn plant(server: &Server) -> Result<()> {
    server.post("/equipment-classes", json!({"code": "gearbox", "name": "Gearboxes"})).await?;
    let asset = json!({"code": "G1", "name": "Gearbox one", "level": "equipment", "class": "gearbox"});
    server.post("/assets", asset).await?;
    let meter =
        json!({"code": "V1", "asset": "G1", "name": "Vibration velocity", "kind": "measurement", "unit": "mm/s"});
    server.post("/meters", meter).await?;
    for (code, name) in [("ena", "Ena Brook"), ("ole", "Ole Marsh")] {
        server.post("/people", json!({"code": code, "name": name, "role": "engineer"})).await?;
    }
    let rung =
        json!({"side": "high", "severity": "alert", "setpoint": 6.0, "deadband": 0.5, "response": {"kind": "record"}});
    server.put("/meters/V1/ladder", json!({"reason": "first", "rungs": [rung]})).await?;
    for title in ["Look at the oil", "Paint the guard"] {
        server
            .post("/work-orders", json!({"title": title, "kind": "inspection", "asset": "G1", "risk_rank": 3}))
            .await?;
    }
    let book = json!({"name": "Gearboxes", "class": "gearbox", "problems": [{"code": "NOISE", "name": "Noise"}]});
    server.put("/codebooks/gearbox", book).await?;
    Ok(())
}

async fn acting(browser: &Browser, server: &Server, person: &str) -> Result<Page> {
    let page = browser.page(server).await?;
    page.sign_in(server, person).await?;
    Ok(page)
}

async fn set_limit(page: &Page, setpoint: &str, reason: &str) -> Result<()> {
    page.fill("[data-test=rung-high-alert] [name=setpoint]", setpoint).await?;
    page.fill("[name=reason]", reason).await
}

const SAVE: &str = "form.ladder button[type=submit]";

#[tokio::test]
async fn two_engineers_edit_one_ladder_and_neither_writes_over_the_other_unseen() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let (first, second) = (Browser::open(1280, 800).await?, Browser::open(1280, 800).await?);
    let (ena, ole) = (acting(&first, &server, "ena").await?, acting(&second, &server, "ole").await?);
    ena.go("/watch/V1").await?;
    ole.go("/watch/V1").await?;
    set_limit(&ole, "8", "It trips too often").await?;
    set_limit(&ena, "7", "By the standard").await?;
    ena.press(SAVE).await?;
    ena.see("ol[aria-label=Versions]", "By the standard").await?;
    // What Ole typed is still there when he saves it; he is told who was first, and what she wrote.
    ole.press(SAVE).await?;
    ole.see("form.ladder", "Ena Brook changed this").await?;
    let told = ole.see("[data-test=newer]", "version 2 by Ena Brook").await?;
    ensure!(told.contains("By the standard"), "{told}");
    let typed =
        ole.script("return document.querySelector('[data-test=rung-high-alert] [name=setpoint]').value").await?;
    ensure!(typed == "8", "{typed}");
    ensure!(server.get("/meters/V1/ladder").await?["rungs"][0]["setpoint"] == 7.0);
    ole.press("[data-test=keep-mine]").await?;
    ole.see_count("[data-test=newer]", 0).await?;
    ole.press(SAVE).await?;
    ole.see("ol[aria-label=Versions]", "It trips too often").await?;
    ensure!(server.get("/meters/V1/ladder").await?["number"] == 3);
    // Where nothing was typed, the newest shows by itself the next time it is read.
    ena.go("/watch/V1").await?;
    let typed =
        ena.script("return document.querySelector('[data-test=rung-high-alert] [name=setpoint]')?.value").await?;
    ensure!(typed == "8" || typed.is_null(), "{typed}");
    // Nobody leaves a draft without being asked.
    set_limit(&ena, "9", "").await?;
    ena.press_text("nav[aria-label=Workspaces]", "Codes").await?;
    ena.see(".leaving", "Your changes to the limits of Vibration velocity are not saved").await?;
    ena.press_text(".leaving", "Stay here").await?;
    ena.see_address("/watch/V1").await?;
    ena.press_text("nav[aria-label=Workspaces]", "Codes").await?;
    ena.press_text(".leaving", "Leave without saving").await?;
    ena.see_address("/codes").await?;
    Ok(())
}

#[tokio::test]
async fn what_was_typed_for_a_cancelled_move_goes_out_with_no_other() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/work/1001").await?;
    page.press("[data-test=move-dropped]").await?;
    page.fill("[name=note]", "Nobody needs it").await?;
    page.press_text("form.inset", "Cancel").await?;
    page.press("[data-test=move-ready]").await?;
    page.see("[data-test=state]", "ready").await?;
    let order = server.get("/work-orders/1001").await?;
    ensure!(!order["history"].to_string().contains("Nobody needs it"), "{}", order["history"]);
    // A colleague moves it on while somebody here has the old state in sight.
    page.press("[data-test=move-dropped]").await?;
    page.fill("[name=note]", "Nobody needs it").await?;
    server.post("/work-orders/1001/state", json!({"to": "under_way"})).await?;
    page.press("[data-test=move-confirm]").await?;
    page.see(".moves [role=alert]", "changed this at").await?;
    page.see("[data-test=state]", "under way").await?;
    Ok(())
}

#[tokio::test]
async fn the_address_says_what_is_shown_and_esc_closes_one_thing() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/work?state=raised&sort=number").await?;
    page.press_text("main", "Paint the guard").await?;
    page.see("article h1", "Paint the guard").await?;
    // Esc on a button of an inset form closes the form, and the order with the next one; the filters stay.
    page.press("[data-test=move-dropped]").await?;
    page.script("document.querySelector('form.inset button[type=button]').focus()").await?;
    page.press_key(ESCAPE).await?;
    page.see_count("form.inset", 0).await?;
    page.see("article h1", "Paint the guard").await?;
    page.script("document.activeElement.blur()").await?;
    page.press_key(ESCAPE).await?;
    page.see_count("article", 0).await?;
    page.see_address("state=raised").await?;
    page.see_address("sort=number").await?;
    // Work is raised by its command on the work screen too.
    page.press("[role=combobox]").await?;
    page.fill("[role=combobox]", "raise work").await?;
    page.press("[role=option]").await?;
    page.see(".el-dialog", "Raise work").await?;
    page.see_address("raise=yes").await?;
    page.press_key(ESCAPE).await?;
    page.see_count(".el-dialog", 0).await?;
    // A search follows the way back, and pauses in typing are no steps of it.
    page.go("/work").await?;
    page.find("[data-test=order]").await?;
    page.fill("[aria-label='Filter work']", "oil").await?;
    page.see_address("text=oil").await?;
    page.see_count("[data-test=order]", 1).await?;
    page.fill("[aria-label='Filter work']", "paint").await?;
    page.see_address("text=paint").await?;
    page.press_text("[data-test=order]", "Paint the guard").await?;
    page.see("article h1", "Paint the guard").await?;
    page.script("history.back()").await?;
    page.see_count("article", 0).await?;
    let typed = page.script("return document.querySelector('[aria-label=\"Filter work\"]').value").await?;
    ensure!(typed == "paint", "{typed}");
    Ok(())
}

#[tokio::test]
async fn keys_without_ctrl_can_be_switched_off_and_do_nothing_in_a_text() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/work?raise=yes").await?;
    page.find("aside[aria-label='Asset tree']").await?;
    let dialog_text = ".el-dialog textarea";
    page.press(dialog_text).await?;
    page.press_key("C:\\oil").await?;
    page.see_count("aside[aria-label='Asset tree']", 1).await?;
    let typed = page.script("return document.querySelector('.el-dialog textarea').value").await?;
    ensure!(typed == "C:\\oil", "{typed}");
    page.go("/codes").await?;
    page.find("h1").await?;
    page.press_key("?").await?;
    page.press("[name=letter-keys]").await?;
    page.press_key(ESCAPE).await?;
    page.see_count(".el-dialog", 0).await?;
    page.script("document.activeElement.blur()").await?;
    page.press_key("\\").await?;
    page.press_key("g").await?;
    page.press_key("w").await?;
    page.press_key("?").await?;
    page.see_count("aside[aria-label='Asset tree']", 1).await?;
    page.see_address("/codes").await?;
    page.see_count(".el-dialog", 0).await?;
    Ok(())
}

#[tokio::test]
async fn a_failure_is_a_sentence_and_can_be_tried_again() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.cut_off(&["/api/v1/settings", "/api/v1/assets"]).await?;
    page.go("/work").await?;
    page.see("main", "The installation can’t be read").await?;
    page.see("main [role=alert]", "The server does not answer.").await?;
    page.see("aside[aria-label='Asset tree'] [role=alert]", "The server does not answer.").await?;
    page.cut_off(&[]).await?;
    page.press("main [data-test=try-again]").await?;
    page.see("[data-test=totals]", "2 open work orders").await?;
    page.press("aside[aria-label='Asset tree'] [data-test=try-again]").await?;
    page.see("aside[aria-label='Asset tree']", "Gearbox one").await?;
    Ok(())
}

/// What the last person saw is gone from the screen before the next one's comes.
#[tokio::test]
async fn another_person_sees_nothing_of_the_last_one() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    server.post("/people", json!({"code": "rita", "name": "Rita Moor", "role": "requester"})).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/work/1001").await?;
    page.see("article h1", "Look at the oil").await?;
    server.sign_in("rita").await?;
    page.press("[data-test=person]").await?;
    page.press("[data-test=sign-out]").await?;
    page.see("h1", "Sign in").await?;
    page.fill("[name=username]", "rita").await?;
    page.fill("[name=password]", PASSWORD).await?;
    page.press("[data-test=sign-in]").await?;
    page.see("article [role=alert]", "work order 1001 is not yours to see").await?;
    page.see_count("article h1", 0).await?;
    page.see_count("[data-test=order]", 0).await?;
    let shown = page.script("return document.querySelector('main').innerText").await?;
    let shown = shown.as_str().context("text")?;
    ensure!(!shown.contains("Look at the oil"), "{shown}");
    Ok(())
}

#[tokio::test]
async fn a_link_shows_the_stretch_that_was_zoomed_into_and_hours_that_are_none_are_said() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let readings: Vec<_> = (0..48)
        .map(|hour| json!({"meter": "V1", "at": format!("2026-02-{:02}T{:02}:00:00Z", 1 + hour / 24, hour % 24), "value": 2.0}))
        .collect();
    server.post("/readings", json!(readings)).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/watch/V1?period=2026-02").await?;
    page.see(".bar", "48 readings").await?;
    page.wheel_in(".trend canvas", 4).await?;
    page.see_address("view=2026-02-").await?;
    let zoomed = page.script("return location.pathname + location.search").await?;
    let shown = page.script("return document.querySelector('.bar span').innerText.split('·')[0]").await?;
    page.go("/codes").await?;
    page.go(zoomed.as_str().context("an address")?).await?;
    page.see(".bar", "Whole period").await?;
    page.see(".bar", shown.as_str().context("what is shown")?.trim()).await?;
    page.press_text(".bar", "Whole period").await?;
    page.see(".bar", "wheel zooms").await?;
    tokio::time::sleep(std::time::Duration::from_millis(900)).await;
    let address = page.script("return location.search").await?;
    ensure!(address == "?period=2026-02", "{address}");
    page.go("/work?raise=yes").await?;
    page.fill("[name=work-title]", "Grease it").await?;
    page.fill("[name=work-asset]", "G1").await?;
    page.fill("[name=work-hours]", "two").await?;
    page.press("[data-test=raise]").await?;
    page.see(".el-dialog [role=alert]", "is not a number").await?;
    page.fill("[name=work-hours]", "2,5").await?;
    page.press("[data-test=raise]").await?;
    page.see("article h1", "Grease it").await?;
    ensure!(server.get("/work-orders/1003").await?["estimated_hours"] == 2.5);
    // Open downtime is ended only when the question, which names it, is answered with yes.
    server.post("/work-orders/1003/downtime", json!({"kind": "unplanned", "start": "2026-03-02T08:00:00Z"})).await?;
    page.go("/work/1003").await?;
    page.press_text("article", "It runs again").await?;
    page.see(".ending", "End the downtime of Gearbox one since 2 Mar 2026, 08:00?").await?;
    page.press_text(".ending", "Leave it").await?;
    ensure!(server.get("/work-orders/1003").await?["downtime"][0]["end"].is_null());
    page.press_text("article", "It runs again").await?;
    page.press_text(".ending", "End it").await?;
    page.see("article", "2 Mar 2026, 09:00").await?;
    ensure!(server.get("/work-orders/1003").await?["downtime"][0]["end"] == "2026-03-02T09:00:00Z");
    Ok(())
}

/// Two alarms stand on two meters.
async fn two_alarms(server: &Server) -> Result<()> {
    plant(server).await?;
    let meter = json!({"code": "T1", "asset": "G1", "name": "Oil temperature", "kind": "measurement", "unit": "Cel"});
    server.post("/meters", meter).await?;
    for (meter, setpoint, value) in [("V1", 6.0, 9.0), ("T1", 80.0, 95.0)] {
        let rung = json!({"side": "high", "severity": "alert", "setpoint": setpoint, "response": {"kind": "notify"}});
        server.put(&format!("/meters/{meter}/ladder"), json!({"reason": "told", "rungs": [rung]})).await?;
        let reading = json!([{"meter": meter, "at": "2026-03-02T08:30:00Z", "value": value}]);
        server.post("/readings", reading).await?;
    }
    Ok(())
}

/// What somebody else acknowledged meanwhile is not acknowledged again; what was acknowledged by mistake is taken back.
#[tokio::test]
async fn an_acknowledgement_goes_to_what_is_left_and_is_taken_back() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    two_alarms(&server).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = acting(&browser, &server, "ena").await?;
    page.go("/alarms").await?;
    page.see("main h1", "2 of 2 alarms nobody has acknowledged").await?;
    page.press("[aria-label='Select all rows shown']").await?;
    page.see("[data-test=acknowledge-chosen]", "Acknowledge 2 selected").await?;
    let alarms = server.get("/alarms").await?;
    let of = |name: &str| {
        let all = alarms["alarms"].as_array().into_iter().flatten();
        all.clone().find(|alarm| alarm["meter"] == name).map(|alarm| alarm["id"].clone()).context("an alarm")
    };
    server.post(&format!("/alarms/{}/acknowledge", of("T1")?), json!({})).await?;
    page.see("main h1", "1 of 2 alarms nobody has acknowledged").await?;
    page.see("[data-test=acknowledge-chosen]", "Acknowledge 1 selected").await?;
    page.press("[data-test=acknowledge-chosen]").await?;
    page.see("main h1", "0 of 2 alarms nobody has acknowledged").await?;
    page.see("[data-test=undo]", "Acknowledged: Gearbox one, Vibration velocity").await?;
    page.press_text("[data-test=undo]", "Undo").await?;
    page.see("main h1", "1 of 2 alarms nobody has acknowledged").await?;
    page.see_count("[data-test=undo]", 0).await?;
    let by = |alarms: &serde_json::Value, id: &serde_json::Value| {
        let all = alarms["alarms"].as_array().into_iter().flatten();
        all.clone().find(|alarm| alarm["id"] == *id).map(|alarm| alarm["acknowledged_by"].clone())
    };
    let alarms = server.get("/alarms").await?;
    ensure!(by(&alarms, &of("V1")?) == Some(json!(null)), "{alarms}");
    ensure!(by(&alarms, &of("T1")?) == Some(json!("Administrator")), "{alarms}");
    Ok(())
}

/// Nothing that nobody takes back happens at one press: the button or the question names what it ends.
#[tokio::test]
async fn what_ends_for_good_is_asked_by_its_name() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    server.put("/tags", json!({"tag": "PLC.V7", "meter": "V1", "unit": "mm/s"})).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/work/1001").await?;
    page.press("[data-test=move-dropped]").await?;
    page.see("[data-test=move-confirm]", "Drop work 1001").await?;
    page.press("[data-test=move-confirm]").await?;
    page.see(".moves [role=alert]", "note: say why the work is dropped").await?;
    ensure!(server.get("/work-orders/1001").await?["state"] == "raised");
    page.fill(".moves [name=note]", "Twice the same").await?;
    page.press("[data-test=move-confirm]").await?;
    page.see_count("[data-test=move-confirm]", 0).await?;
    ensure!(server.get("/work-orders/1001").await?["state"] == "dropped");
    page.go("/setup/outside").await?;
    page.press_text("[data-test=tag]", "Remove").await?;
    page.see(".ending", "Remove the tag PLC.V7?").await?;
    page.press_text(".ending", "Leave it").await?;
    page.see("[data-test=tag]", "PLC.V7").await?;
    page.press_text("[data-test=tag]", "Remove").await?;
    page.press_text(".ending", "Remove it").await?;
    page.see_count("[data-test=tag]", 0).await?;
    Ok(())
}

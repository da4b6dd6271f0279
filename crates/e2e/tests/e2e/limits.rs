//! Limits in a real browser: dragged and saved with the verdict in sight, shelved, written for a family, and live while a
//! gateway plays.

use anyhow::{Context, Result};
use serde_json::{Value, json};
use std::process::{Command, Stdio};
use tally_e2e::{Browser, Page, Server, binary};

const OPENING: &str = "2026-03-02T09:00:00Z";

/// Two gearboxes with a vibration each, an engineer and a planner.
async fn plant(server: &Server) -> Result<()> {
    server.post("/equipment-classes", json!({"code": "gearbox", "name": "Gearboxes"})).await?;
    server.post("/assets", json!({"code": "MILL", "name": "Mill", "level": "site"})).await?;
    for (n, name) in [(1, "Gearbox one"), (2, "Gearbox two")] {
        let code = format!("G{n}");
        let asset = json!({"code": code, "name": name, "level": "equipment", "parent": "MILL", "class": "gearbox"});
        server.post("/assets", asset).await?;
        let meter = json!({"code": format!("V{n}"), "asset": code, "name": "Vibration velocity", "kind": "measurement",
            "unit": "mm/s", "plausible_low": 0.0, "plausible_high": 50.0});
        server.post("/meters", meter).await?;
    }
    for (code, name, role) in [("ena", "Ena Brook", "engineer"), ("pia", "Pia Marsh", "planner")] {
        server.post("/people", json!({"code": code, "name": name, "role": role, "crew": null, "rate": null})).await?;
    }
    Ok(())
}

/// February, four times a day: 2, 3, 4, 5 mm/s again and again.
async fn readings(server: &Server, meter: &str) -> Result<()> {
    let rows: Vec<Value> = (0..112)
        .map(|n| {
            let at = format!("2026-02-{:02}T{:02}:00:00Z", 1 + n / 4, 6 * (n % 4));
            json!({"meter": meter, "at": at, "value": f64::from(2 + n % 4)})
        })
        .collect();
    server.post("/readings", json!(rows)).await?;
    Ok(())
}

fn rung(setpoint: f64) -> Value {
    json!({"reason": "first", "rungs": [{"side": "high", "severity": "alert", "setpoint": setpoint, "deadband": 0.5,
        "response": {"kind": "raise", "title": "Check {asset}", "tell": ["pia"]}}]})
}

/// The verdict follows the hand, and what is saved is what the hand left.
async fn drag_and_save(page: &Page, server: &Server) -> Result<()> {
    page.go("/watch/V1?period=2026-02").await?;
    let entered = "[data-test=replay] dl div:first-child";
    page.see(entered, "entered 0 times").await?;
    let verdict = page.see("[data-test=verdict]", "0 work orders").await?;
    // From 6 down to somewhere between 4 and 5: entered at every 5, 28 times.
    page.drag_down("[data-test=line-high-alert]", 68).await?;
    page.see(entered, "entered 28 times").await?;
    let after = page.see("[data-test=verdict]", "work order").await?;
    assert_ne!(verdict, after);
    page.see_count("[data-test=would-be-alarm]", 28).await?;
    page.fill("[name=reason]", "It shook for weeks before").await?;
    page.press("form.ladder button[type=submit]").await?;
    page.see("ol[aria-label=Versions]", "It shook for weeks before").await?;
    let saved = server.get("/meters/V1/ladder").await?;
    let setpoint = saved["rungs"][0]["setpoint"].as_f64().context("a setpoint")?;
    assert!((4.0..5.0).contains(&setpoint), "{setpoint}");
    page.press("[data-test=version-2]").await?;
    page.see("[data-test=change]", "alert high setpoint: 6 → ").await?;
    // The baseline proposes: mean 3.5 of 112 readings; the chart's line takes it over.
    page.press("[data-test=panel-proposals]").await?;
    page.see("[data-test=proposal]", "112").await?;
    page.press("[data-test=take-percentile]").await?;
    page.see("form.ladder", "Save as version 3").await?;
    page.press_text("form.ladder", "Take back").await?;
    page.press("[data-test=panel-forecast]").await?;
    page.see("[data-test=forecast]", "Where it is heading").await?;
    page.find("[data-test=forecast-line]").await?;
    Ok(())
}

async fn shelve(page: &Page, server: &Server) -> Result<()> {
    page.press_text("main", "Shelve").await?;
    page.fill("[name=shelf-until]", "2026-03-02T20:00").await?;
    page.press("form.inset button[type=submit]").await?;
    page.see("form.inset [role=alert]", "say why its alarms are held back").await?;
    page.fill("[name=shelf-reason]", "Coupling is being aligned").await?;
    page.press("form.inset button[type=submit]").await?;
    page.see("[data-test=shelf-note]", "Coupling is being aligned").await?;
    server.put("/clock", json!({"now": "2026-03-02T10:00:00Z"})).await?;
    server.post("/readings", json!([{"meter": "V1", "at": "2026-03-02T09:30:00Z", "value": 9.0}])).await?;
    page.go("/alarms?show=held").await?;
    let held = page.see("[data-test=alarm-now]", "9 mm/s").await?;
    assert!(held.contains("shelved until 2 Mar 2026, 20:00: Coupling is being aligned"), "{held}");
    page.press("[data-test=show-shelved]").await?;
    page.see("[data-test=shelf]", "Coupling is being aligned").await?;
    // When the shelf ends, what still stands answers, and the screen says so by itself.
    page.press("[data-test=show-standing]").await?;
    server.put("/clock", json!({"now": "2026-03-02T21:00:00Z"})).await?;
    page.see("[data-test=alarm-now]", "raised work").await?;
    page.press("[data-test=alarm-now] input").await?;
    page.press("[data-test=acknowledge-chosen]").await?;
    page.see("[data-test=alarm-now]", "acknowledged by").await?;
    // The work says why it came so late.
    page.press("[data-test=alarm-now] a.in-text").await?;
    page.see("[data-test=answers]", "still entered, raised work, this one").await?;
    Ok(())
}

async fn write_for_the_family(page: &Page, server: &Server) -> Result<()> {
    page.go("/families").await?;
    page.press_text("[data-test=family]", "Gearboxes: Vibration velocity").await?;
    page.see("h1", "2 meters").await?;
    page.press_text("form.ladder", "Add a high rung").await?;
    page.fill("[data-test=rung-high-alert] [name=setpoint]", "7").await?;
    page.see("[data-test=family-preview]", "1 of 2 meters would change, 1 keeps its own").await?;
    page.see("[data-test=family-preview]", "1 begin and 1 work order be raised at once").await?;
    assert_eq!(server.get("/meters/V2/ladder").await?["number"], 0, "only shown so far");
    page.fill("[name=reason]", "By the standard").await?;
    page.press("form.ladder button[type=submit]").await?;
    page.see_count("[data-test=family-preview]", 0).await?;
    assert_eq!(server.get("/meters/V2/ladder").await?["rungs"][0]["setpoint"], 7.0);
    page.see("main table", "deviates").await?;
    page.press("[data-test=family-replay] [data-test=given] summary").await?;
    page.see("[data-test=given]", "A failure that two of the meters can see counts for each of them.").await?;
    Ok(())
}

/// Entered at 8, left at 2, three times in 40 minutes: chattering once an hour is what counts.
async fn count_chattering(page: &Page, server: &Server) -> Result<()> {
    let values = [2.0, 8.0, 2.0, 8.0, 2.0, 8.0];
    server.put("/clock", json!({"now": "2026-03-02T23:00:00Z"})).await?;
    let readings: Vec<_> = (0..)
        .zip(values)
        .map(|(n, value)| json!({"meter": "V2", "at": format!("2026-03-02T22:{n}0:00Z"), "value": value}))
        .collect();
    server.post("/readings", json!(readings)).await?;
    page.go("/alarms/performance?period=2026-03").await?;
    page.see("[data-test=performance-chattering]", "0").await?;
    page.fill("[name=chatter-within]", "3600").await?;
    page.see_address("chatter=3/3600").await?;
    page.see("[data-test=performance-chattering]", "1").await?;
    Ok(())
}

#[tokio::test]
async fn limits_are_dragged_shelved_and_written_for_a_family() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    readings(&server, "V1").await?;
    // Calm again, so that no rung is entered when the limit is dragged down.
    server.post("/readings", json!([{"meter": "V1", "at": "2026-03-01T12:00:00Z", "value": 2.0}])).await?;
    server.put("/meters/V1/ladder", rung(6.0)).await?;
    server.post("/readings", json!([{"meter": "V2", "at": "2026-03-02T08:00:00Z", "value": 8.0}])).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    drag_and_save(&page, &server).await?;
    shelve(&page, &server).await?;
    write_for_the_family(&page, &server).await?;
    count_chattering(&page, &server).await
}

/// An address that hangs up: what is sent to it is tried once while the clock stands, and again when somebody asks for it.
async fn send_to_an_address_that_is_out(page: &Page, server: &Server) -> Result<()> {
    let listener = std::net::TcpListener::bind("127.0.0.1:0")?;
    let address = format!("http://{}/", listener.local_addr()?);
    let (calls, called) = std::sync::mpsc::channel();
    std::thread::spawn(move || listener.incoming().try_for_each(|call| calls.send(call.is_ok())));
    let patience = std::time::Duration::from_secs(20);
    page.press_text("section[aria-label=Webhooks]", "Add an address").await?;
    page.fill("[name=url]", &address).await?;
    page.fill("[name=secret]", "short").await?;
    page.press("form[aria-label=Webhook] button[type=submit]").await?;
    page.see("form[aria-label=Webhook] [role=alert]", "needs 16 characters").await?;
    page.fill("[name=secret]", "0123456789abcdef").await?;
    page.press("form[aria-label=Webhook] button[type=submit]").await?;
    page.see("[data-test=webhook]", &address).await?;
    server.post("/work-orders/1001/state", json!({"to": "ready"})).await?;
    page.press("section[aria-label=Webhooks] summary").await?;
    page.see("[data-test=delivery] td:nth-child(4)", "1").await?;
    anyhow::ensure!(called.try_iter().count() == 1, "it was not sent just once");
    page.press_text("[data-test=delivery]", "Send again").await?;
    anyhow::ensure!(called.recv_timeout(patience)?, "it was not sent again");
    // It is stopped only when the question, which names it, is answered with yes.
    page.press_text("[data-test=webhook]", "Stop").await?;
    page.see(".ending", &format!("Stop {address}?")).await?;
    page.press_text(".ending", "Leave it").await?;
    page.see("[data-test=webhook]", &address).await?;
    page.press_text("[data-test=webhook]", "Stop").await?;
    page.press_text(".ending", "Stop it").await?;
    page.see_count("[data-test=webhook]", 0).await?;
    Ok(())
}

#[tokio::test]
async fn a_gateway_plays_while_the_chart_moves_and_the_mail_says_what_the_work_says() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    server
        .post("/people", json!({"code": "gateway", "name": "Gateway", "role": "gateway", "crew": null, "rate": null}))
        .await?;
    server.put("/meters/V1/ladder", rung(6.0)).await?;
    server.put("/tags", json!({"tag": "PLC.V1", "meter": "V1", "unit": "m/s"})).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/watch/V1?period=2026-03").await?;
    page.see(".now", "never read").await?;
    page.see(".trend", "Nothing was read").await?;
    // Under the gateway's own name and in its own unit: 0.002 m/s is 2 mm/s. Five steps of a minute, the last above 6.
    let file = folder.path().join("plc.csv");
    let rows = [0.002, 0.003, 0.004, 0.005, 0.0075];
    let lines = (0..).zip(rows).map(|(n, value)| format!("PLC.V1,2026-03-02T08:0{n}:00Z,{value}\n"));
    std::fs::write(&file, format!("meter,at,value\n{}", lines.collect::<String>()))?;
    let mut gateway = Command::new(binary(false))
        .args(["gateway", "--speed", "30", "--together", "60", "--fault", "duplicates", "--url"])
        .args([server.address.as_str(), "--file"])
        .arg(&file)
        .env("FAIR_TALLY_KEY", server.key("plc", "gateway").await?)
        .stdout(Stdio::null())
        .spawn()?;
    page.see(".now", "3 mm/s").await?;
    page.see(".now", "7.5 mm/s").await?;
    page.see("[data-test=meter-alarm]", "raised work").await?;
    anyhow::ensure!(gateway.wait()?.success(), "the gateway failed");
    page.press("[data-test=meter-alarm] a").await?;
    let article = page.see("article", "Check Gearbox one").await?;
    let words = "Vibration velocity: 7.5 mm/s, above 6 mm/s.";
    assert!(article.contains(words), "{article}");
    page.go("/setup/outside").await?;
    page.see("[data-test=message]", "Pia Marsh").await?;
    page.see("[data-test=message]", "outbox/00000001.eml").await?;
    page.press("[data-test=message] .subject").await?;
    page.see("[data-test=message-body]", words).await?;
    let mail = std::fs::read_to_string(folder.path().join("outbox/00000001.eml"))?;
    anyhow::ensure!(mail.contains(words) && mail.contains("Subject: Check Gearbox one"), "{mail}");
    send_to_an_address_that_is_out(&page, &server).await?;
    // A reading that does not hold is voided with its reason.
    page.go("/watch/V1?panel=readings").await?;
    page.press_text("[data-test=reading]", "Void").await?;
    page.press("[data-test=reading] form button").await?;
    page.see("[data-test=reading] [role=alert]", "say why the reading does not hold").await?;
    page.fill("[name=void-reason]", "Somebody leant on the sensor").await?;
    page.press("[data-test=reading] form button").await?;
    page.see("[data-test=voided]", "Somebody leant on the sensor").await?;
    page.see(".now", "5 mm/s").await?;
    Ok(())
}

#[tokio::test]
async fn a_danger_rung_waits_for_a_second_engineer_on_screen() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let settings = server.get("/settings").await?;
    let mut strict = settings;
    strict["second_approval"] = json!(true);
    server.put("/settings", strict).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/watch/V1").await?;
    page.press_text("form.ladder", "Add a high rung").await?;
    page.fill("[data-test=rung-high-alert] [aria-label=Severity]", "danger").await?;
    page.fill("[data-test=rung-high-danger] [name=setpoint]", "11").await?;
    page.fill("[name=reason]", "After the seizure").await?;
    page.press("form.ladder button[type=submit]").await?;
    page.see("[data-test=proposed-version]", "After the seizure").await?;
    page.see_count("[data-test=approve]", 0).await?;
    page.sign_in(&server, "ena").await?;
    page.go("/watch/V1").await?;
    page.press("[data-test=approve]").await?;
    page.see("ol[aria-label=Versions]", "Administrator and Ena Brook").await?;
    page.see_count("[data-test=proposed-version]", 0).await?;
    // The same for a family: V2 has nothing until the other one has said yes.
    page.go("/families/gearbox/Vibration velocity").await?;
    page.press_text("form.ladder", "Add a high rung").await?;
    page.fill("[data-test=rung-high-alert] [aria-label=Severity]", "danger").await?;
    page.fill("[data-test=rung-high-danger] [name=setpoint]", "9").await?;
    page.see("[data-test=family-preview]", "once a second engineer approves").await?;
    page.fill("[name=reason]", "For both of them").await?;
    page.press("form.ladder button[type=submit]").await?;
    page.see("[data-test=proposed-version]", "For both of them").await?;
    page.see_count("[data-test=approve]", 0).await?;
    assert_eq!(server.get("/meters/V2/ladder").await?["number"], 0);
    page.sign_in(&server, "admin").await?;
    page.go("/families/gearbox/Vibration velocity").await?;
    page.press("[data-test=approve]").await?;
    page.see_count("[data-test=proposed-version]", 0).await?;
    assert_eq!(server.get("/meters/V2/ladder").await?["rungs"][0]["setpoint"], 9.0);
    // And for the switch itself.
    page.go("/setup/installation").await?;
    page.press("[name=second_approval]").await?;
    page.press("[data-test=save-settings]").await?;
    page.see("[data-test=proposed-version]", "one engineer alone changes danger rungs").await?;
    assert_eq!(server.get("/settings").await?["second_approval"], true);
    page.sign_in(&server, "ena").await?;
    page.go("/setup/installation").await?;
    page.press("[data-test=approve]").await?;
    page.see_count("[data-test=proposed-version]", 0).await?;
    assert_eq!(server.get("/settings").await?["second_approval"], false);
    Ok(())
}

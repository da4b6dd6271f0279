//! Work, planned: a fault that is reported twice and joined, and a planner's Monday.

use anyhow::{Result, ensure};
use serde_json::json;
use tally_e2e::{Browser, ENTER, Server};

/// A Monday.
const OPENING: &str = "2026-03-02T09:00:00Z";

async fn plant(server: &Server) -> Result<()> {
    for (code, name, parent) in
        [("U1", "Unit one", None), ("G1", "Gearbox one", Some("U1")), ("S1", "Shaft", Some("G1"))]
    {
        let level = if parent.is_none() { "unit" } else { "equipment" };
        server.post("/assets", json!({"code": code, "name": name, "level": level, "parent": parent})).await?;
    }
    for (code, name, hours) in [("red", "Red crew", 40.0), ("blue", "Blue crew", 80.0)] {
        let crew = json!({"code": code, "name": name, "department": "Works", "weekly_hours": hours});
        server.post("/crews", crew).await?;
    }
    for (code, name, role) in [("rita", "Rita Field", "requester"), ("pavel", "Pavel Moor", "planner")] {
        server.post("/people", json!({"code": code, "name": name, "role": role})).await?;
    }
    Ok(())
}

async fn raise(server: &Server, title: &str, asset: &str, hours: f64) -> Result<i64> {
    let new = json!({"title": title, "kind": "corrective_deferred", "asset": asset, "risk_rank": 3, "crew": "red",
        "estimated_hours": hours});
    Ok(server.post("/work-orders", new).await?["number"].as_i64().unwrap_or_default())
}

async fn go_to(server: &Server, number: i64, states: &[serde_json::Value]) -> Result<()> {
    for state in states {
        server.post(&format!("/work-orders/{number}/state"), state.clone()).await?;
    }
    Ok(())
}

#[tokio::test]
async fn a_fault_that_is_reported_twice_is_one_order() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let first = raise(&server, "Oil leaks from the shaft seal", "S1", 2.0).await?;
    raise(&server, "Paint the guard", "G1", 2.0).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.sign_in(&server, "rita").await?;
    page.go("/work?scope=G1&raise=yes").await?;
    page.see("[data-test=already]", "Open here").await?;
    // She is asked where, what and how bad it is, and nothing that she can't know.
    page.see(".el-dialog", "Say what you see").await?;
    page.see("[name=work-rank]", "1: must be seen to within 2 days").await?;
    page.see_count("[name=work-kind], [name=work-hours], [data-test=also]", 0).await?;
    // On a phone all of the form is there.
    browser.resize(390, 844).await?;
    let fits = "return document.querySelector('.el-dialog').getBoundingClientRect().right <= window.innerWidth";
    ensure!(page.script(fits).await? == true, "the form goes beyond the screen");
    browser.resize(1280, 800).await?;
    page.fill("[name=work-title]", "Leaking seal, oil on the floor").await?;
    // What is alike comes first, on the part below; it is another's, so she is told of it and can't open it.
    page.see("[data-test=already]", "Already raised?").await?;
    page.see("[data-test=already] li:first-child", "Oil leaks from the shaft seal").await?;
    page.see_count("[data-test=already] a", 0).await?;
    page.press(&format!("[data-test=join-{first}]")).await?;
    // With her report it is hers to follow.
    page.see_address(&format!("/work/{first}")).await?;
    page.see("[data-test=reported-again]", "Leaking seal, oil on the floor").await?;
    page.see("[data-test=undo]", "Your report went to work").await?;
    ensure!(server.get("/work-orders?state=open").await?["totals"]["count"] == 2, "nothing was raised");
    page.press_text("[data-test=undo]", "Undo").await?;
    page.see("article", "not yours to see").await?;
    // Something else that has to do with it is raised with a link.
    page.go("/work?scope=G1&raise=yes").await?;
    page.fill("[name=work-title]", "Catch the oil below the seal").await?;
    page.see("[data-test=already]", "Already raised?").await?;
    page.press(&format!("[data-test=link-{first}]")).await?;
    // A photo goes with it; what is none is refused with its reason, and the photo stays.
    let (photo, none) = (folder.path().join("seal.png"), folder.path().join("none.png"));
    page.picture(&photo).await?;
    std::fs::write(&none, "no photo")?;
    page.give_file("[name=photos]", &photo).await?;
    page.see_count("[data-test=photo]", 1).await?;
    page.give_file("[name=photos]", &none).await?;
    page.see("[data-test=photos]", "is no photo (JPEG, PNG, WebP, GIF) and no PDF").await?;
    page.press_text("[data-test=photos]", "Leave out").await?;
    page.press("[data-test=raise]").await?;
    page.see("article h1", "Catch the oil below the seal").await?;
    page.press("[data-test=attachment]").await?;
    page.find("[data-test=whole-photo]").await?;
    let shown = "const shown = document.querySelector('[data-test=whole-photo]'); \
        return shown.decode().then(() => shown.naturalWidth)";
    ensure!(page.script(shown).await? == 1_280, "the photo is shown whole");
    page.press("[data-test=take-away]").await?;
    page.see_count("[data-test=attachment]", 0).await?;
    page.press_text("[data-test=undo]", "Undo").await?;
    page.see_count("[data-test=attachment]", 1).await?;
    let linked = server.get(&format!("/work-orders/{first}")).await?["linked"].clone();
    ensure!(linked[0]["title"] == "Catch the oil below the seal", "{linked}");
    Ok(())
}

#[tokio::test]
async fn a_planners_monday() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let planning = json!({"to": "planning"});
    let mut numbers = Vec::new();
    for (place, hours) in [6.0, 9.0, 4.0].into_iter().enumerate() {
        let number = raise(&server, &format!("Job {place}"), "G1", hours).await?;
        go_to(&server, number, std::slice::from_ref(&planning)).await?;
        numbers.push(number);
    }
    let late = raise(&server, "Fit the new seal", "S1", 5.0).await?;
    let waits = json!({"to": "waiting", "waiting_for": "parts", "expected_until": "2026-02-20T08:00:00Z"});
    go_to(&server, late, &[planning, waits]).await?;

    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.sign_in(&server, "pavel").await?;
    // What should have come by now is chased.
    page.go("/work").await?;
    page.see("[data-test=chase]", "1 to chase").await?;
    page.press("[data-test=chase]").await?;
    page.see("[data-test=totals]", "1 open work order").await?;
    page.see("table.ledger", "expected 20 Feb 2026").await?;
    // Three are made ready at once: what it would do is told before, one by one.
    page.go("/work?sort=number").await?;
    page.see_count("[data-test=order]", 4).await?;
    page.press("[aria-label='Select all rows shown']").await?;
    page.see("[data-test=chosen]", "4 chosen").await?;
    page.see("[data-test=several-says]", "3 orders change, 1 can’t").await?;
    page.press("[data-test=several-do]").await?;
    page.see("[data-test=undo]", "3 orders changed").await?;
    let ready =
        async || Ok::<_, anyhow::Error>(server.get("/work-orders?state=ready").await?["totals"]["count"].clone());
    ensure!(ready().await? == 3);
    page.press_text("[data-test=undo]", "Undo").await?;
    page.see_count("[data-test=undo]", 0).await?;
    ensure!(ready().await? == 0);
    page.press("[aria-label='Select all rows shown']").await?;
    page.see("[data-test=several-says]", "3 orders change").await?;
    page.press("[data-test=several-do]").await?;
    page.see("[data-test=undo]", "3 orders changed").await?;

    // The week: by hand, and by keyboard. The crew has forty hours, eight a day.
    page.go("/work/week").await?;
    page.see("[data-test=week-head]", "Week 10").await?;
    let (first, second) = (numbers[0], numbers[1]);
    page.drag_to(&format!("[data-test=queue] [data-test=card-{first}] p"), "[data-test=cell-red-2026-03-03]").await?;
    page.see("[data-test=cell-red-2026-03-03]", "6.0 / 8.0").await?;
    page.see("[data-test=undo]", "Moved: Job 0").await?;
    page.press(&format!("[data-test=menu-{second}]")).await?;
    page.fill("[name=move-day]", "2026-03-03").await?;
    page.press_key(ENTER).await?;
    page.press("[data-test=move-there]").await.ok();
    page.see("[data-test=cell-red-2026-03-03]", "15.0 / 8.0").await?;
    page.see(".totals", "1 day over what a crew can do").await?;
    // Too much for one day: it goes to the other crew's Thursday.
    page.drag_to(
        &format!("[data-test=cell-red-2026-03-03] [data-test=card-{second}] p"),
        "[data-test=cell-blue-2026-03-05]",
    )
    .await?;
    page.see("[data-test=cell-blue-2026-03-05]", "9.0 / 16.0").await?;
    page.see("[data-test=cell-red-2026-03-03]", "6.0 / 8.0").await?;
    let order = server.get(&format!("/work-orders/{second}")).await?;
    ensure!((&order["crew"], &order["state"]) == (&json!("blue"), &json!("scheduled")), "{order}");
    ensure!(order["scheduled_start"] == "2026-03-05T07:00:00Z", "{}", order["scheduled_start"]);
    page.press_text("[data-test=undo]", "Undo").await?;
    page.see("[data-test=cell-red-2026-03-03]", "15.0 / 8.0").await?;
    page.press(&format!("[data-test=cell-red-2026-03-03] [data-test=menu-{second}]")).await?;
    page.press("[data-test=move-off]").await?;
    page.see("[data-test=cell-red-2026-03-03]", "6.0 / 8.0").await?;
    page.see(&format!("[data-test=queue] [data-test=card-{second}]"), "Job 1").await?;
    let order = server.get(&format!("/work-orders/{second}")).await?;
    ensure!((&order["state"], &order["scheduled_start"]) == (&json!("ready"), &serde_json::Value::Null), "{order}");
    // What an order plans is changed on its page, and only that.
    page.go(&format!("/work/{second}")).await?;
    page.press("[data-test=plan]").await?;
    page.fill("[data-test=plan-form] [name=crew]", "blue").await?;
    page.fill("[data-test=plan-form] [name=estimated]", "7.5").await?;
    page.press("[data-test=plan-save]").await?;
    page.see("article dl", "0.0 of 7.5").await?;
    let order = server.get(&format!("/work-orders/{second}")).await?;
    ensure!((&order["crew"], &order["risk_rank"]) == (&json!("blue"), &json!(3)), "{order}");
    Ok(())
}

#[tokio::test]
async fn a_manager_decides_on_a_phone() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    server.post("/people", json!({"code": "mara", "name": "Mara Stone", "role": "manager"})).await?;
    let meter = json!({"code": "VIB", "asset": "G1", "name": "Vibration", "kind": "measurement", "unit": "mm/s"});
    server.post("/meters", meter).await?;
    let rung = |severity: &str, setpoint: f64| {
        json!({"side": "high", "severity": severity, "setpoint": setpoint,
            "response": {"kind": "raise", "title": "Replace the bearing", "decides": "mara"}})
    };
    let ladder = json!({"reason": "first", "rungs": [rung("serious", 7.0), rung("danger", 11.0)]});
    server.put("/meters/VIB/ladder", ladder).await?;
    // Half a unit a day: 7.5 today, and 11 a week from now.
    for (day, value) in (20..=28).zip([3.0, 3.5, 4.0, 4.5, 5.0, 5.5, 6.0, 6.5, 6.9]) {
        let reading = json!([{"meter": "VIB", "at": format!("2026-02-{day}T08:00:00Z"), "value": value}]);
        server.post("/readings", reading).await?;
    }
    server.post("/readings", json!([{"meter": "VIB", "at": "2026-03-02T08:00:00Z", "value": 7.9}])).await?;

    let browser = Browser::open(390, 844).await?;
    let page = browser.page(&server).await?;
    page.sign_in(&server, "mara").await?;
    page.go("/work/decisions").await?;
    page.see("[data-test=decisions-say]", "1 is yours to decide.").await?;
    page.press("[data-test=open-decision] a").await?;
    page.see("[data-test=decision]", "Yours to decide").await?;
    page.see("[data-test=decision]", "As it goes on it is danger (11 mm/s) on").await?;
    page.press("[data-test=decide-run_on]").await?;
    page.press("[data-test=decide]").await?;
    page.see("[data-test=decision]", "enter the date until which it runs on").await?;
    page.fill("[data-test=decision] [name=until]", "2026-03-06T08:00").await?;
    page.fill("[data-test=decision] [name=reason]", "The spare comes on Thursday").await?;
    page.press("[data-test=decide]").await?;
    page.see("[data-test=runs-on]", "It runs on until 6 Mar 2026").await?;
    page.see("[data-test=decision]", "The spare comes on Thursday").await?;
    let wide = page.script("return document.documentElement.scrollWidth - window.innerWidth").await?;
    ensure!(wide.as_i64() <= Some(0), "it runs beyond the edge: {wide}");
    ensure!(server.get("/decisions").await?["open"] == 0);
    // It stands among the risks, and is changed and withdrawn by whoever may decide.
    let order = page.script("return location.pathname").await?.as_str().unwrap_or_default().to_owned();
    page.go("/headlines").await?;
    page.see("[data-test=headline-runs_on]", "1 limit is crossed and runs on by decision, until 2026-03-06").await?;
    page.go("/alarms?show=run_on").await?;
    page.see("[data-test=running-on]", "The spare comes on Thursday").await?;
    page.go(&order).await?;
    page.press("[data-test=change-decision]").await?;
    page.press("[data-test=decide-run_on]").await?;
    page.fill("[data-test=decision] [name=until]", "2026-03-05T08:00").await?;
    page.fill("[data-test=decision] [name=reason]", "It comes a day sooner").await?;
    page.press("[data-test=decide]").await?;
    page.see("[data-test=runs-on]", "It runs on until 5 Mar 2026").await?;
    page.see("[data-test=decision-ended]", "It was withdrawn by Mara Stone").await?;
    page.press("[data-test=withdraw-decision]").await?;
    page.fill("[data-test=decision] [name=reason]", "It got louder").await?;
    page.press("[data-test=withdraw]").await?;
    page.see("[data-test=decision]", "Yours to decide").await?;
    ensure!(server.get("/decisions").await?["open"] == 1);
    Ok(())
}

/// Parts that are missing are waited for until the storeroom has them; the follow-on work is raised on two assets; both are printed.
#[tokio::test]
async fn parts_are_waited_for_and_work_follows_on() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    server.import("storeroom", "code,name,place,stock,lead_days,fits\nK-1,Shaft seal,A 2,0,14,S1\n".into()).await?;
    server.post("/master/assets", json!({"rows": [{"values": {"code": "G1", "permits": "Drive locked out"}}]})).await?;
    let sheet = json!({"title": "Renew a seal", "status": "active", "steps": [{"text": "Take the old one out", "hours": 2}],
        "parts": [{"item": "Shaft seal", "quantity": 1}]});
    server.put("/job-sheets/SEAL", sheet).await?;
    let new = json!({"title": "Renew the seal", "kind": "corrective_deferred", "asset": "S1", "risk_rank": 3, "crew": "red",
        "job_sheet": "SEAL"});
    let number = server.post("/work-orders", new).await?["number"].as_i64().unwrap_or_default();
    go_to(&server, number, &[json!({"to": "planning"})]).await?;

    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.sign_in(&server, "pavel").await?;
    page.go(&format!("/work/{number}")).await?;
    page.see("[data-test=job-parts]", "there on 16 Mar 2026 if ordered now").await?;
    page.press("[data-test=tick-asset_permit-0]").await?;
    page.see("[data-test=permits]", "Pavel Moor").await?;
    page.press("[data-test=move-waiting]").await?;
    page.press("[data-test=parts-expected]").await?;
    page.press_text("form.inset", "Set to waiting").await?;
    page.see("[data-test=state]", "waiting").await?;
    let waits = server.get(&format!("/work-orders/{number}")).await?;
    ensure!(waits["expected_until"].as_str().is_some_and(|at| at.starts_with("2026-03-16")), "{waits}");
    // Two orders follow on from it, one on each asset.
    page.press("[data-test=follow-on]").await?;
    page.see(".el-dialog", &format!("follows on from {number}")).await?;
    page.press("[data-test=also]").await?;
    page.fill("[data-test=also-0] input", "G1").await?;
    page.fill("[name=work-title]", "Look for metal in the oil").await?;
    page.see("[data-test=raise]", "Raise 2 orders").await?;
    page.press("[data-test=raise]").await?;
    page.see("article h1", "Look for metal in the oil").await?;
    page.see("[data-test=follows]", "Renew the seal").await?;
    let followed = server.get(&format!("/work-orders/{number}")).await?["followed_by"].clone();
    ensure!(followed.as_array().is_some_and(|all| all.len() == 2), "{followed}");
    // On paper each has a page of its own.
    page.go("/work/sheets?sort=number").await?;
    page.see_count("[data-test=order-sheet]", 3).await?;
    page.see("[data-test=order-sheet]", "Drive locked out").await?;
    // Her week is in her calendar, under an address that is shown once.
    page.go("/account").await?;
    page.press("[data-test=feed-red]").await?;
    let made = page.see("[data-test=feed-made]", "/work.ics").await?;
    let address = made.split_whitespace().find(|word| word.ends_with("/work.ics")).unwrap_or_default().to_owned();
    let path = address.find("/api/v1").map_or("", |at| &address[at..]).to_owned();
    let calendar = String::from_utf8(server.download(&format!("{}{path}", server.address)).await?)?;
    ensure!(calendar.starts_with("BEGIN:VCALENDAR"), "{calendar}");
    Ok(())
}

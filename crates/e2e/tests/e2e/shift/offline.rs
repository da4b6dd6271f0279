//! Work in a cellar: the way to the server is cut, two jobs are done, and all of it is there once when it is back.

use super::plant::{OPENING, plant, raise};
use anyhow::{Context, Result, ensure};
use serde_json::{Value, json};
use tally_e2e::{Browser, Page, Server, proxy::Proxy};

/// Four hours after the opening.
const BACK: &str = "2026-03-02T10:00:00Z";

/// A phone whose application and jobs are kept.
async fn phone(browser: &Browser, server: &Server, proxy: &Proxy) -> Result<Page> {
    let page = browser.at(&proxy.address);
    page.sign_in(server, "tess").await?;
    page.go("/shift").await?;
    page.see("[data-test=shift-says]", "to do").await?;
    page.kept().await?;
    Ok(page)
}

/// Waits until that picture is shown, and not only its frame.
async fn pictured(page: &Page, css: &str) -> Result<()> {
    page.wait_for(&format!("return document.querySelector({css:?})?.naturalWidth ?? 0")).await
}

async fn order(server: &Server, number: i64) -> Result<Value> {
    server.get(&format!("/work-orders/{number}")).await
}

#[tokio::test]
async fn two_jobs_are_done_without_a_network_and_are_there_once() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let sealed = raise(&server, "Renew the seal", "2026-03-01T08:00:00Z", json!({"job_sheet": "SEAL"})).await?;
    let looked = raise(&server, "Look at it", "2026-03-02T08:00:00Z", json!({"kind": "inspection"})).await?;
    server.post(&format!("/work-orders/{looked}/checks"), json!({"sheet": "LOOK"})).await?;
    let proxy = Proxy::to(&server.address).await?;
    let browser = Browser::open(390, 844).await?;
    let page = phone(&browser, &server, &proxy).await?;
    // A photo that stands with a job goes along.
    let photo = folder.path().join("seal.png");
    page.picture(&photo).await?;
    page.go(&format!("/shift/{looked}")).await?;
    page.give_file("[data-test=attachments] [name=photos]", &photo).await?;
    page.see_count("[data-test=attachment]", 1).await?;
    page.go("/shift").await?;
    page.wait_for("return (await (await caches.open('pictures')).keys()).length").await?;

    proxy.cut();
    // The application opens from the browser, and one's jobs with it.
    page.go("/shift").await?;
    page.see("[data-test=queue]", "No network").await?;
    page.press(&format!("[data-test=part-late] [data-test=shift-{sealed}]")).await?;
    page.press("[data-test=start-own]").await?;
    page.see("[data-test=state]", "under way").await?;
    page.press("[data-test=tick-step-0]").await?;
    page.see("[data-test=tick-step-0]:checked", "").await?;
    page.press("[data-test=part-K-1] [data-test=take]").await?;
    page.see("[data-test=waiting]", "Taken: 2 × Seal kit").await?;
    page.press("[data-test=new-failure]").await?;
    page.fill("[aria-label='Search codes']", "renewed").await?;
    page.press_text(".hits", "Leak").await?;
    page.press("[data-test=save-failure]").await?;
    page.see("[data-test=waiting]", "A failure is reported").await?;
    // A photo is shown at once, also when the page was closed meanwhile; what was seen besides is raised later.
    page.give_file("[data-test=attachments] [name=photos]", &photo).await?;
    pictured(&page, "[data-test=attachment] img").await?;
    page.press("[data-test=follow-on]").await?;
    page.fill("[name=work-title]", "Dress the flange").await?;
    page.press("[data-test=raise]").await?;
    page.see("[data-test=waiting]", "Raised: Dress the flange").await?;
    page.go(&format!("/shift/{sealed}")).await?;
    pictured(&page, "[data-test=attachment] img").await?;
    page.press("[data-test=complete]").await?;
    page.press("[data-test=move-confirm]").await?;
    page.see("[data-test=state]", "done").await?;
    // The other has a check sheet; what is asked and what is out of its band is known without the server.
    page.go(&format!("/shift/{looked}")).await?;
    pictured(&page, "[data-test=attachment] img").await?;
    page.press("[data-test=start-own]").await?;
    page.press("[data-test=check-LOOK] a").await?;
    page.press_text("[data-test=question-dry]", "Fail").await?;
    page.fill("[data-test=question-bar] input", "4.1").await?;
    page.give_file("[data-test=question-seen] [name=photos]", &photo).await?;
    pictured(&page, "[data-test=question-seen] img").await?;
    // Put away and taken up again, all of it is still there.
    page.press("[data-test=pause]").await?;
    page.press("[data-test=check-LOOK] a").await?;
    pictured(&page, "[data-test=question-seen] img").await?;
    page.press("[data-test=finish-check]").await?;
    page.see("[data-test=finished]", "Finished by Tess Field").await?;
    page.go("/shift").await?;
    page.see("[data-test=part-finished]", "Finished today: 1").await?;
    let untouched = order(&server, sealed).await?;
    ensure!(untouched["state"] == "ready" && untouched["entries"] == json!([]), "{untouched}");

    // Four hours later there is a network again.
    server.put("/clock", json!({ "now": BACK })).await?;
    proxy.mend();
    page.see_count("[data-test=queue] strong", 0).await?;
    for _ in 0..600 {
        if order(&server, looked).await?["checks"][0]["finished_at"].is_string() {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    }
    let asked = page.script("return document.querySelector('[data-test=queue]')?.innerText ?? ''").await?;
    ensure!(!asked.as_str().unwrap_or_default().contains("Leave it out"), "{asked}");
    let sealed = order(&server, sealed).await?;
    ensure!(sealed["state"] == "done" && sealed["cost"] == 8_000, "{sealed}");
    ensure!(sealed["failures"].as_array().map(Vec::len) == Some(1), "{sealed}");
    // It was done when it was done, not when it was sent.
    let done = sealed["history"].as_array().context("a history")?.iter().find(|event| event["to_state"] == "done");
    ensure!(done.context("it was done")?["at"].as_str().is_some_and(|at| at.starts_with("2026-03-02T06:")), "{sealed}");
    let looked = order(&server, looked).await?;
    ensure!(looked["state"] == "under_way" && looked["running"][0]["since"] == "2026-03-02T06:00:00Z", "{looked}");
    ensure!(sealed["attachments"].as_array().map(Vec::len) == Some(1), "{sealed}");
    ensure!(sealed["followed_by"][0]["title"] == "Dress the flange", "{sealed}");
    let raised = order(&server, sealed["followed_by"][0]["number"].as_i64().context("a number")?).await?;
    let ticked = &sealed["job"]["steps"][0]["ticked_at"];
    let then = [&raised["raised_at"], ticked, &sealed["entries"][0]["at"], &looked["checks"][0]["finished_at"]];
    ensure!(then.iter().all(|at| at.as_str().is_some_and(|at| at.starts_with("2026-03-02T06:"))), "{then:?}");
    let of_check = format!("/work-orders/{}/checks/{}", looked["number"], looked["checks"][0]["id"]);
    let check = server.get(&of_check).await?;
    let seen = check["answers"].as_array().context("answers")?.iter().find(|answer| answer["question"] == "seen");
    let file = seen.context("a photo")?["value"]["files"][0]["file"].as_str().context("a file")?;
    let bytes = server.download(&format!("{}/api/v1{of_check}/files/{file}", server.address)).await?;
    ensure!(bytes.len() > 1_000, "the photo is at the server");
    let read = server.get("/meters?scope=P1").await?;
    ensure!(
        read[0]["last"]["at"] == "2026-03-02T06:00:00Z" || read.to_string().contains("2026-03-02T06:00:00Z"),
        "{read}"
    );
    // What was found raised work, by its answer and by its limit, and the page says so.
    page.see("[data-test=queue]", "What you raised without a network is work").await?;
    page.see("[data-test=queue]", "raised or joined work").await?;
    let all = server.get("/work-orders?state=open").await?;
    let titles: Vec<&str> =
        all["work_orders"].as_array().context("orders")?.iter().filter_map(|row| row["title"].as_str()).collect();
    ensure!(titles.iter().filter(|title| **title == "Dry the pump").count() == 1, "{titles:?}");
    ensure!(titles.iter().filter(|title| **title == "Find out why the pressure is low").count() == 1, "{titles:?}");
    Ok(())
}

#[tokio::test]
async fn what_somebody_else_did_meanwhile_is_a_question() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let number = raise(&server, "Renew the seal", "2026-03-02T08:00:00Z", json!({"job_sheet": "SEAL"})).await?;
    let proxy = Proxy::to(&server.address).await?;
    let browser = Browser::open(390, 844).await?;
    let page = phone(&browser, &server, &proxy).await?;
    proxy.cut();
    page.go(&format!("/shift/{number}")).await?;
    page.press("[data-test=start-own]").await?;
    page.press("[data-test=tick-step-0]").await?;
    page.see("[data-test=waiting]", "Ticked off").await?;
    // Somebody puts it off meanwhile; then there is a network again.
    server.post(&format!("/work-orders/{number}/state"), json!({"to": "waiting", "waiting_for": "outage"})).await?;
    proxy.mend();
    page.see("[data-test=refused]", "Time begins").await?;
    let before = order(&server, number).await?;
    ensure!(before["state"] == "waiting" && before["job"]["steps"][0]["ticked_at"].is_null(), "{before}");
    // What comes after waits for the answer; left out, the rest goes on.
    page.press("[data-test=leave-out]").await?;
    page.see_count("[data-test=queue]", 0).await?;
    let after = order(&server, number).await?;
    ensure!(after["state"] == "waiting" && after["job"]["steps"][0]["ticked_by"] == "Tess Field", "{after}");
    Ok(())
}

/// However the network comes and goes, the page is loaded anew and the server is killed, each press counts once. More rounds by
/// `ROUNDS`.
#[tokio::test]
async fn whatever_breaks_each_press_counts_once() -> Result<()> {
    let rounds: usize = std::env::var("ROUNDS").ok().and_then(|rounds| rounds.parse().ok()).unwrap_or(10);
    let folder = tempfile::tempdir()?;
    let mut server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let number = raise(&server, "Renew the seal", "2026-03-02T08:00:00Z", json!({"job_sheet": "SEAL"})).await?;
    let proxy = Proxy::to(&server.address).await?;
    let browser = Browser::open(390, 844).await?;
    let page = phone(&browser, &server, &proxy).await?;
    page.go(&format!("/shift/{number}")).await?;
    page.see("[data-test=comments]", "Say something").await?;
    let mut drawn = fastrand::Rng::with_seed(7);
    for round in 0..rounds {
        if drawn.bool() {
            proxy.cut();
        }
        page.fill("[name=comment]", &format!("round {round}")).await?;
        page.press("[data-test=say]").await?;
        // In the middle of its way, or after it.
        if drawn.bool() {
            page.see("[data-test=comments]", &format!("round {round}")).await?;
        }
        if drawn.bool() {
            proxy.cut();
            page.go(&format!("/shift/{number}")).await?;
            page.see("[data-test=comments]", "Say something").await?;
        }
        if drawn.u8(0..3) == 0 {
            proxy.cut();
            server.kill()?;
            server = Server::serve(folder.path(), OPENING)?;
            proxy.lead_to(&server.address)?;
            // A cookie is named by the port, which is another now.
            page.sign_in(&server, "tess").await?;
        }
        proxy.mend();
        if drawn.bool() {
            page.go(&format!("/shift/{number}")).await?;
            page.see("[data-test=comments]", "Say something").await?;
        }
    }
    let waits = page.script("return document.querySelector('[data-test=queue]')?.innerText ?? ''").await?;
    page.see_count("[data-test=queue]", 0).await.with_context(|| format!("{waits}"))?;
    let said = order(&server, number).await?;
    let texts: Vec<String> = said["comments"]
        .as_array()
        .context("comments")?
        .iter()
        .filter_map(|comment| Some(comment["text"].as_str()?.to_owned()))
        .collect();
    let mut once = texts.clone();
    once.dedup();
    ensure!(once == texts, "said twice: {texts:?}");
    // What was pressed while the page went away may never have left it; whatever was shown as said is there.
    ensure!(texts.len() * 2 >= rounds, "{texts:?}");
    Ok(())
}

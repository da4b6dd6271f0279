//! A technician's day: the late job first, from why it exists to done, on a phone and at a desk.

use super::plant::{OPENING, plant, raise};
use anyhow::{Result, ensure};
use serde_json::{Value, json};
use tally_e2e::{Browser, ENTER, Page, Server};

/// What of the page can be pressed and is lower than a thumb needs; links within a text are no targets of their own.
async fn too_low(page: &Page) -> Result<Value> {
    too_low_in(page, ":is(main, header)").await
}

/// The same of a part of it.
async fn too_low_in(page: &Page, part: &str) -> Result<Value> {
    let script = "return [...document.querySelectorAll('PART :is(button, a, select, input, label:has(input), summary)')]\
        .filter((one) => one.getClientRects().length && !one.matches('p > a, span > a.in-text, .unseen, \
            input[type=checkbox], input[type=file]') && !one.closest('.el-select'))\
        .filter((one) => Math.ceil(one.getBoundingClientRect().height) < 44)\
        .map((one) => `${one.tagName} ${one.textContent.trim() || one.name || one.ariaLabel}`)";
    page.script(&script.replace("PART", part)).await
}

/// The late job, done from top to bottom. At 60.00 an hour and 40.00 a kit: 80.00 for two kits, 30.00 for half an hour each of two that
/// is typed, and 30.00 for the half hour that runs until it is done.
async fn a_day(page: &Page, server: &Server, number: i64) -> Result<()> {
    server.post(&format!("/work-orders/{number}/checks"), json!({"sheet": "LOOK"})).await?;
    page.go("/shift").await?;
    page.press(&format!("[data-test=part-late] [data-test=shift-{number}]")).await?;
    page.see_address(&format!("/shift/{number}")).await?;
    page.see("article h1", "Renew the seal").await?;
    page.press("[data-test=start-own]").await?;
    page.see("[data-test=state]", "under way").await?;
    page.see("[data-test=own-time]", "0 h 00").await?;
    page.press("[data-test=tick-step-0]").await?;
    page.see("[data-test=part-K-1]", "2 needed").await?;
    page.press("[data-test=part-K-1] [data-test=take]").await?;
    page.see("[data-test=part-K-1]", "2 needed, 2 taken").await?;
    page.see("[data-test=cost]", "80.00").await?;
    // A tube of grease was not planned; it was not needed either.
    page.press("[data-test=other-part]").await?;
    page.fill("[data-test=find-part]", "grea").await?;
    page.press("[data-test=take-K-2]").await?;
    page.see("[data-test=part-K-2]", "not planned, 1 taken").await?;
    page.press("[data-test=part-K-2] [data-test=give-back]").await?;
    page.see_count("[data-test=part-K-2]", 0).await?;
    // A check sheet asks for a photo.
    let folder = tempfile::tempdir()?;
    let photo = folder.path().join("seal.png");
    page.picture(&photo).await?;
    page.press("[data-test=check-LOOK] a").await?;
    page.see("[data-test=question-dry]", "Is it dry?").await?;
    let low = too_low(page).await?;
    ensure!(
        page.script("return innerWidth").await? != 390 || low == json!([]),
        "targets of a sheet that a thumb misses: {low}"
    );
    page.press_text("[data-test=question-dry]", "Pass").await?;
    page.give_file("[data-test=question-seen] [name=photos]", &photo).await?;
    page.see_count("[data-test=question-seen] [data-test=photo]", 1).await?;
    page.press("[data-test=finish-check]").await?;
    page.press("[data-test=back-to-order]").await?;
    page.see("[data-test=check-LOOK]", "finished by Tess Field").await?;
    // It stands while the seal is renewed.
    page.press("[data-test=stands-now]").await?;
    page.see("[data-test=missing]", "has no end yet").await?;
    server.put("/clock", json!({"now": "2026-03-02T06:30:00Z"})).await?;
    page.go(&format!("/shift/{number}")).await?;
    page.press_text("[data-test=downtime-of-work]", "It runs again").await?;
    page.press_text(".el-message-box", "End").await?;
    page.see("[data-test=downtime-of-work]", "stands still now").await?;
    // What was read is beyond its limit: other work is raised at once.
    page.fill("[data-test=read-BAR]", "4.1").await?;
    page.press("[data-test=send-readings]").await?;
    page.see("[data-test=read-receipt]", "1 reading kept; raised or joined").await?;
    // Half an hour each, for two.
    page.press("[data-test=type-hours]").await?;
    page.fill("[name=typed-hours]", "0.5").await?;
    page.press("[data-test=of-tom]").await?;
    page.press("[data-test=save-hours]").await?;
    page.see("[data-test=cost]", "140.00").await?;
    page.see("[data-test=own-time]", "0 h 30").await?;
    // The codes, in three presses: report, what was found by its letters, keep.
    page.press("[data-test=new-failure]").await?;
    page.fill("[aria-label='Search codes']", "renewed").await?;
    page.press_text(".hits", "Leak").await?;
    page.press("[data-test=save-failure]").await?;
    page.see("[data-test=failure-report]", "Seal renewed").await?;
    page.see_count("[data-test=missing]", 0).await?;
    page.fill("[name=comment]", "The flange is scored").await?;
    page.press("[name=for-colleagues]").await?;
    page.press("[data-test=say]").await?;
    page.see("[data-test=for-colleagues]", "for colleagues only").await?;
    // What was seen besides is other work; whoever raises it stays with theirs.
    page.press("[data-test=follow-on]").await?;
    page.fill("[name=work-title]", "Renew the seal again").await?;
    page.see("[data-test=already]", "Renew the seal").await?;
    let low = too_low(page).await?;
    ensure!(
        page.script("return innerWidth").await? != 390 || low == json!([]),
        "targets of raising work that a thumb misses: {low}"
    );
    page.fill("[name=work-title]", "Dress the flange").await?;
    page.press("[data-test=raise]").await?;
    page.see("[data-test=follows]", "Dress the flange").await?;
    page.see_address(&format!("/shift/{number}")).await?;
    page.press("[data-test=complete]").await?;
    page.press("[data-test=move-confirm]").await?;
    page.see("[data-test=state]", "done").await?;
    let order = server.get(&format!("/work-orders/{number}")).await?;
    ensure!(order["cost"] == 17_000 && order["running"] == json!([]), "{order}");
    ensure!(order["downtime"][0]["end"].is_string() && order["spent_hours"] == 1.5, "{order}");
    Ok(())
}

#[tokio::test]
async fn a_day_is_done_by_one_thumb() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let first = raise(&server, "Renew the seal", "2026-03-01T08:00:00Z", json!({"job_sheet": "SEAL"})).await?;
    raise(&server, "Paint the pump", "2026-03-02T08:00:00Z", json!({})).await?;
    let browser = Browser::open(390, 844).await?;
    let page = browser.page(&server).await?;
    page.sign_in(&server, "tess").await?;
    page.go("/shift").await?;
    page.press("[data-test=shift-ask]").await?;
    let low = too_low(&page).await?;
    ensure!(low == json!([]), "targets of the line that a thumb misses: {low}");
    page.go(&format!("/shift/{first}")).await?;
    page.see("[data-test=part-K-1]", "2 needed").await?;
    page.press("[data-test=type-hours]").await?;
    page.press("[data-test=new-failure]").await?;
    page.see("[data-test=problem-LEAK]", "Leak").await?;
    let low = too_low(&page).await?;
    ensure!(low == json!([]), "targets that a thumb misses: {low}");
    let wide = page.script("return document.documentElement.scrollWidth").await?;
    ensure!(wide == 390, "nothing goes beyond the screen: {wide}");
    a_day(&page, &server, first).await?;
    // What was said among colleagues is not for whoever raised something.
    page.go("/shift").await?;
    page.see("[data-test=part-finished]", "Finished today: 1").await?;
    Ok(())
}

/// A tablet is wide, and pressed with the same gloves.
#[tokio::test]
async fn a_tablet_has_targets_for_thumbs() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let number = raise(&server, "Renew the seal", "2026-03-01T08:00:00Z", json!({"job_sheet": "SEAL"})).await?;
    let browser = Browser::open(820, 1180).await?;
    let page = browser.page(&server).await?;
    page.sign_in(&server, "tess").await?;
    page.by_touch().await?;
    page.go("/shift").await?;
    page.see("[data-test=part-late]", "Renew the seal").await?;
    let low = too_low_in(&page, "main").await?;
    ensure!(low == json!([]), "targets of the line that a thumb misses: {low}");
    page.go(&format!("/shift/{number}")).await?;
    page.press("[data-test=type-hours]").await?;
    page.press("[data-test=new-failure]").await?;
    page.see("[data-test=problem-LEAK]", "Leak").await?;
    let low = too_low_in(&page, "main").await?;
    ensure!(low == json!([]), "targets of the job that a thumb misses: {low}");
    Ok(())
}

/// The same without mouse or finger: every target is reached by Tab and pressed by Enter or a blank.
#[tokio::test]
async fn a_day_is_done_by_keyboard_alone() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let number = raise(&server, "Renew the seal", "2026-03-01T08:00:00Z", json!({"job_sheet": "SEAL"})).await?;
    server.post(&format!("/work-orders/{number}/checks"), json!({"sheet": "LOOK"})).await?;
    let browser = Browser::open(1280, 900).await?;
    let page = browser.page(&server).await?;
    page.sign_in(&server, "tess").await?;
    page.go("/shift").await?;
    page.see("[data-test=part-late]", "Renew the seal").await?;
    page.tab_and(&format!("[data-test=shift-{number}]"), ENTER).await?;
    page.see("article h1", "Renew the seal").await?;
    page.tab_and("[data-test=start-own]", ENTER).await?;
    page.see("[data-test=state]", "under way").await?;
    page.tab_and("[data-test=tick-step-0]", " ").await?;
    page.see("[data-test=tick-step-0]:checked", "").await?;
    page.tab_and("[data-test=part-K-1] [data-test=take]", ENTER).await?;
    page.see("[data-test=part-K-1]", "2 taken").await?;
    // A check sheet: an answer chosen, one typed, and a photo, whose file the driver gives to what Tab has reached.
    let folder = tempfile::tempdir()?;
    let photo = folder.path().join("seal.png");
    page.picture(&photo).await?;
    page.tab_and("[data-test=check-LOOK] a", ENTER).await?;
    page.see("[data-test=question-dry]", "Is it dry?").await?;
    page.tab_and("[data-test=choose-pass]", " ").await?;
    page.tab_and("[name=answer-bar]", "5.4").await?;
    page.tab_to("[data-test=question-seen] [name=photos]").await?;
    page.give_file("[data-test=question-seen] [name=photos]", &photo).await?;
    page.see_count("[data-test=question-seen] [data-test=photo]", 1).await?;
    page.tab_and("[data-test=finish-check]", ENTER).await?;
    page.see("[data-test=finished]", "Finished by Tess Field").await?;
    page.tab_and("[data-test=back-to-order]", ENTER).await?;
    page.see("[data-test=check-LOOK]", "finished by Tess Field").await?;
    // Half an hour later, which costs 30.00: of one instant a meter keeps one reading.
    server.put("/clock", json!({"now": "2026-03-02T06:30:00Z"})).await?;
    page.go(&format!("/shift/{number}")).await?;
    page.tab_and("[data-test=read-BAR]", "5.5").await?;
    page.tab_and("[data-test=send-readings]", ENTER).await?;
    page.see("[data-test=read-receipt]", "1 reading kept").await?;
    page.tab_and("[data-test=type-hours]", ENTER).await?;
    page.tab_and("[name=typed-hours]", "0.5").await?;
    page.tab_and("[data-test=save-hours]", ENTER).await?;
    page.see("[data-test=cost]", "110.00").await?;
    page.tab_and("[data-test=new-failure]", ENTER).await?;
    page.tab_and("[aria-label='Search codes']", "renewed").await?;
    page.see(".hits", "Leak").await?;
    page.tab_and(".hits button", ENTER).await?;
    page.tab_and("[data-test=save-failure]", ENTER).await?;
    page.see("[data-test=failure-report]", "Seal renewed").await?;
    page.tab_and("[name=comment]", "The flange is scored").await?;
    page.tab_and("[data-test=say]", ENTER).await?;
    page.see("[data-test=comments]", "The flange is scored").await?;
    page.tab_and("[data-test=complete]", ENTER).await?;
    page.tab_and("[data-test=move-confirm]", ENTER).await?;
    page.see("[data-test=state]", "done").await?;
    let order = server.get(&format!("/work-orders/{number}")).await?;
    ensure!(order["state"] == "done" && order["cost"] == 14_000, "{} {}", order["state"], order["cost"]);
    Ok(())
}

#[tokio::test]
async fn the_same_at_a_desk_and_time_goes_where_one_works() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let first = raise(&server, "Renew the seal", "2026-03-01T08:00:00Z", json!({"job_sheet": "SEAL"})).await?;
    let second = raise(&server, "Paint the pump", "2026-03-02T08:00:00Z", json!({})).await?;
    let browser = Browser::open(1280, 900).await?;
    let page = browser.page(&server).await?;
    page.sign_in(&server, "tess").await?;
    a_day(&page, &server, first).await?;
    page.go(&format!("/shift/{second}")).await?;
    page.press("[data-test=start-own]").await?;
    page.see("[data-test=running-tess]", "Tess Field").await?;
    page.go("/shift").await?;
    page.see("[data-test=shift-running]", "your time runs on Paint the pump").await?;
    page.press("[data-test=shift-running]").await?;
    page.see_address(&format!("/shift/{second}")).await?;
    page.press("[data-test=stop-own]").await?;
    page.see_count("[data-test=running-tess]", 0).await?;
    Ok(())
}

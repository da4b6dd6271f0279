//! Screens of the demo that everybody can use, and paper that holds them.

use anyhow::{Context, Result};
use tally_e2e::{Barriers, Browser, Page, Server};

/// What is let pass: rule, and a part of the element at fault. Proposed setpoints are drawn at their values, however near
/// they come to each other, and can be taken from the list as well (WCAG 2.5.8: equivalent, essential).
const LET_PASS: &[(&str, &str)] = &[("target-size", "data-test=\"ghost\"")];

/// Every screen, with what is there once it is loaded.
const SCREENS: &[(&str, &str)] = &[
    ("/", "[data-test=first-figure]"),
    ("/watch", "[data-test=meter]"),
    ("/watch/G1-TEN-PRS", "[data-test=meter-alarm]"),
    ("/watch/G1-DRV-GBX-VIB?panel=proposals", "[data-test=proposal]"),
    ("/watch/G1-DRV-SBR-PAD?panel=forecast", "[data-test=reached]"),
    ("/watch/G1-TEN-PRS?panel=readings", "[data-test=reading]"),
    ("/alarms", "[data-test=alarm-now]"),
    ("/alarms/performance", "[data-test=worst-meter]"),
    ("/families", "[data-test=family]"),
    ("/families/sheaves/Liner%20wear", "[data-test=family-meter]"),
    ("/setup/outside", "[data-test=message]"),
    ("/work", "[data-test=order]"),
    ("/work/sheet", "[data-test=sheet-row]"),
    ("/work/sheets", "[data-test=order-sheet]"),
    ("/work?raise=yes", "[data-test=raise]"),
    ("/shift?crew=mech", "[data-test^=shift-2]"),
    ("/reports/cycles", "[data-test=list-row]"),
    ("/setup/storeroom", "[data-test=master-row]"),
    ("/reports/entries", "[data-test=list-sums]"),
    ("/reports/work?ask=%7B%22group%22%3A%5B%7B%22column%22%3A%22state%22%7D%5D%7D", "[data-test=group]"),
    ("/codes/gearbox", "main li.level-0"),
    ("/tally", "[data-test=tally-G1]"),
    ("/tally?why=cost_total~G1", "[data-test=why-row]"),
    ("/tally?flat=yes", "[data-test=ranked-G1]"),
    ("/tally/backlog?scope=G1", "[data-test=cut-state]"),
    ("/tally/downtime?scope=G1", "[data-test=lane-G1]"),
    ("/tally/cost?scope=G1", "[data-test=forecast-G1]"),
    ("/tally/mix?scope=G1", "[data-test=mix-hours]"),
    ("/tally/changed?scope=G1", "[data-test=changed-part]"),
    ("/tally/years?scope=G1", "[data-test=year-row]"),
    ("/headlines?scope=G1", "[data-test=headline-worst_rank]"),
    ("/setup/values", "[data-test=value-row]"),
    ("/setup/assets", "[data-test=master-row]"),
    ("/setup/assets/MOT-1", "[data-test=placement]"),
    ("/setup/meters", "[data-test=master-row]"),
    ("/setup/people/new", "[data-test=save-row]"),
    ("/setup/calendars/lift", "[data-test=save-calendar]"),
    ("/setup/installation", "[data-test=state-limit]"),
    ("/setup/files/readings", "[data-test=import]"),
    ("/setup/backups", "[data-test=backup-make]"),
    ("/setup/check-sheets/DRIVE-LOOK", "[data-test=trial]"),
    ("/setup/job-sheets/TENSION-SEALS", "[data-test=save-sheet]"),
    ("/setup/rounds", "[data-row]"),
    ("/setup/rounds/ROUND-MACHINES", "[data-test=round-map]"),
    ("/setup/keys", "[data-test=add-key]"),
    ("/setup/people/admin", "[data-test=reset-code]"),
    ("/account", "[data-test=sessions-stand]"),
    ("/setup/changes", "[data-test=changes]"),
];

/// Those, an order that follows a round with the check sheet of its first visit, and jobs of a shift.
async fn screens(server: &Server) -> Result<Vec<(String, &'static str)>> {
    let found = server.get("/work-orders?state=open&text=Weekly%20round%20of%20the%20machines").await?;
    let number = found["work_orders"][0]["number"].as_i64().context("the round of the demo")?;
    let order = server.get(&format!("/work-orders/{number}")).await?;
    let check = order["checks"][0]["id"].as_i64().context("the sheet of its first visit")?;
    let left = server.get("/work-orders?state=open&text=Tighten%20the%20guard%20of%20the%20coupling").await?;
    let left = left["work_orders"][0]["number"].as_i64().context("yesterday's job of the demo")?;
    let with_round = [
        (format!("/shift/{left}"), "[data-test=parts]"),
        (format!("/shift/{number}"), "[data-test=round-map]"),
        (format!("/work/{number}"), "[data-test=round-map]"),
        (format!("/work/{number}/checks/{check}"), "[data-test=finish-check]"),
    ];
    Ok(SCREENS.iter().map(|(path, there)| ((*path).to_owned(), *there)).chain(with_round).collect())
}

async fn barriers(page: &Page, among: Barriers) -> Result<Vec<(String, Vec<String>)>> {
    let mut found = page.barriers(among).await?;
    for (rule, elements) in &mut found {
        elements.retain(|element| !LET_PASS.iter().any(|(known, part)| known == rule && element.contains(part)));
    }
    Ok(found)
}

/// Screens at the widths of a small window and of a phone: nothing runs beyond the right edge, and nobody meets a barrier
/// that a wide window has not. A table that is wider scrolls in itself. What is found against it.
async fn in_small_windows(server: &Server) -> Result<Vec<String>> {
    let browser = Browser::open(900, 800).await?;
    let page = browser.page(server).await?;
    let screens = screens(server).await?;
    page.go("/codes").await?;
    let mut found = Vec::new();
    for (width, height) in [(900, 800), (390, 844)] {
        browser.resize(width, height).await?;
        page.script(&format!("localStorage.setItem('fair-tally-tree', '{}')", width > 760)).await?;
        for (path, there) in &screens {
            // Of the list beside it, a phone shows nothing.
            if width < 760 && path.starts_with("/setup/") && path.matches('/').count() > 2 {
                continue;
            }
            page.go(path).await?;
            // Lists are cards on a phone, without the marks of rows.
            page.find(if width > 760 { there } else { "main h1, main h2, aside h2" }).await?;
            tokio::time::sleep(std::time::Duration::from_millis(if width > 760 { 0 } else { 700 })).await;
            let beyond = page
                .script(
                    "const beyond = (one) => one.scrollWidth - one.clientWidth;
                    const bar = document.querySelector('header');
                    const main = document.querySelector('main');
                    const over = bar ? bar.getBoundingClientRect().bottom - main.getBoundingClientRect().top : 0;
                    return [beyond(document.documentElement), beyond(main), bar ? beyond(bar) : 0, Math.round(over),
                        document.documentElement.scrollHeight - innerHeight]",
                )
                .await?;
            let beyond: Vec<i64> = beyond.as_array().into_iter().flatten().filter_map(|one| one.as_i64()).collect();
            if beyond.iter().any(|pixels| *pixels > 1) {
                found.push(format!("{path} at {width}: page, screen, bar beyond the edge, bar over the screen, page scrolls: {beyond:?}"));
            }
            // A window of a desk holds the same as a larger one.
            if width > 760 {
                continue;
            }
            for (rule, elements) in barriers(&page, Barriers::All).await? {
                found.extend(elements.into_iter().map(|element| format!("{path} at {width}, {rule}: {element}")));
            }
        }
    }
    Ok(found)
}

/// What is only there when it was asked for: an order with a form, a dialog, a menu, the finder, the jump box, a shelf, an undo.
async fn with_something_open(page: &Page) -> Result<Vec<String>> {
    let mut found = Vec::new();
    for (path, presses, there) in [
        ("/work", &["[data-test=order] a"][..], "article h1"),
        ("/work?raise=yes", &[], ".el-dialog"),
        ("/work", &["details[name=facet] summary"], "details[open] .values"),
        ("/work", &["[data-test=order] a", "[data-test^=move-]"], "form.inset, article h1"),
        ("/watch/G1-DRV-GBX-VIB", &["[data-test^=find-high]"], "[data-test=curve]"),
        ("/alarms", &["[data-test=alarm-now] td:last-child .act:last-child"], "[name=shelf-reason]"),
        ("/alarms", &["[data-test=alarm-now] td:last-child .act"], "[data-test=undo]"),
        ("/setup/outside", &["[aria-label=Tags] h2 .act"], "form[aria-label=Tag]"),
        ("/setup/assets/MOT-1", &["[data-test=move-asset]"], "form.inset [name=move-at]"),
    ] {
        page.go(path).await?;
        for press in presses {
            page.press(press).await?;
        }
        page.find(there).await?;
        for (rule, elements) in barriers(page, Barriers::All).await? {
            found.extend(elements.into_iter().map(|element| format!("{path} with {there} open, {rule}: {element}")));
        }
    }
    Ok(found)
}

/// What keeps somebody from using a screen at a desk, in the light or in the dark.
async fn at_a_desk(server: &Server) -> Result<Vec<String>> {
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(server).await?;
    let mut found = Vec::new();
    let screens = screens(server).await?;
    // In the dark the same stands there in other colours.
    for (scheme, among) in [("light", Barriers::All), ("dark", Barriers::Colours)] {
        page.go("/").await?;
        page.script(&format!("localStorage.setItem('vueuse-color-scheme', '{scheme}')")).await?;
        for (path, there) in &screens {
            page.go(path).await?;
            page.find(there).await?;
            for (rule, elements) in barriers(&page, among).await? {
                found.extend(elements.into_iter().map(|element| format!("{path} ({scheme}) {rule}: {element}")));
            }
        }
    }
    found.extend(with_something_open(&page).await?);
    let work = server.get("/start").await?["lesson"]["work_order"].as_i64().unwrap_or_default();
    page.go(&format!("/work/{work}")).await?;
    page.see("article", "Bearing set").await?;
    assert_eq!(page.sheets().await?, 1, "the dearest repair with all its entries");
    Ok(found)
}

/// Both at once, so that the demo is made once.
#[tokio::test]
async fn no_screen_has_a_serious_barrier_and_each_has_room_in_light_or_dark_and_work_fits_one_sheet() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::small_demo(folder.path())?;
    let (at_a_desk, in_small_windows) = tokio::join!(at_a_desk(&server), in_small_windows(&server));
    let found = [at_a_desk?, in_small_windows?].concat();
    assert!(found.is_empty(), "{} found:\n{}", found.len(), found.join("\n"));
    Ok(())
}

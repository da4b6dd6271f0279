//! What is shown at any length, in any light, on paper, and to whoever presses keys.

use super::{ESCAPE, OPENING, plant, two_alarms};
use anyhow::{Context, Result, ensure};
use serde_json::json;
use tally_e2e::{Browser, Server};

/// One stop for Tab; arrows lead into branches, along them and out again.
#[tokio::test]
async fn the_tree_is_walked_by_arrows() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    for (code, name, parent) in [
        ("SITE", "Site", None),
        ("U1", "Unit one", Some("SITE")),
        ("U2", "Unit two", Some("SITE")),
        ("S1", "System one", Some("U1")),
    ] {
        server.post("/assets", json!({"code": code, "name": name, "level": "unit", "parent": parent})).await?;
    }
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/codes?scope=SITE").await?;
    page.see("aside[aria-label='Asset tree']", "System one").await?;
    let stops = page.script("return document.querySelectorAll('[role=tree] [tabindex=\"0\"]').length").await?;
    ensure!(stops == 1, "{stops}");
    page.script("document.querySelector('[role=tree] [tabindex=\"0\"]').focus()").await?;
    let at = async || page.script("return document.activeElement.innerText").await;
    let (left, up, right, down) = ("\u{e012}", "\u{e013}", "\u{e014}", "\u{e015}");
    for (key, expected) in [
        (right, "Unit one"),
        (right, "System one"),
        (down, "Unit two"),
        (up, "System one"),
        (left, "Unit one"),
        (left, "Unit one"),
        (down, "Unit two"),
        (up, "Unit one"),
        (right, "Unit one"),
        (left, "Unit one"),
        (left, "Site"),
    ] {
        page.press_key(key).await?;
        ensure!(at().await? == expected, "after {key:?}: {} and not {expected}", at().await?);
    }
    page.press_key("\u{e007}").await?;
    page.see_address("scope=SITE").await?;
    page.press_key(right).await?;
    page.press_key(right).await?;
    page.see("aside[aria-label='Asset tree']", "System one").await?;
    // What happens is asked for once, however much of the tree stands open.
    page.script("performance.clearResourceTimings()").await?;
    let work = json!({"title": "Look", "kind": "inspection", "asset": "S1", "risk_rank": 3});
    server.post("/work-orders", work).await?;
    page.see_count("[role=tree] [title='1 open work orders']", 3).await?;
    let asked =
        "return performance.getEntriesByType('resource').filter((one) => one.name.includes('/v1/assets?')).length";
    let asked = page.script(asked).await?;
    ensure!(asked == 1, "{asked} questions");
    Ok(())
}

/// What does not come says so where it is missed, and comes when it is asked for again.
#[tokio::test]
async fn a_trend_its_lanes_and_the_jump_box_say_what_they_miss() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    two_alarms(&server).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/codes").await?;
    page.cut_off(&["/readings?", "/lanes?", "/search?"]).await?;
    page.go("/watch/V1").await?;
    page.see_count("main [data-test=try-again]", 2).await?;
    page.fill("[role=combobox]", "gear").await?;
    page.find("#jump-hits [role=alert] [data-test=try-again]").await?;
    page.cut_off(&[]).await?;
    page.script("document.querySelector('#jump-hits [data-test=try-again]').dispatchEvent(new MouseEvent('mousedown', {bubbles: true}))")
        .await?;
    page.see("#jump-hits", "Gearbox one").await?;
    page.press_key(ESCAPE).await?;
    for left in [1, 0] {
        page.press("main [data-test=try-again]").await?;
        page.see_count("main [data-test=try-again]", left).await?;
    }
    page.find("[data-test=line-high-alert]").await?;
    Ok(())
}

/// The finder without a mouse: arrows lead along its curve, each setpoint is said, and Enter takes it.
#[tokio::test]
async fn a_setpoint_is_found_by_keys() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    two_alarms(&server).await?;
    let readings: Vec<_> = (0..48)
        .map(|hour| {
            json!({"meter": "V1", "at": format!("2026-02-{:02}T{:02}:00:00Z", 1 + hour / 24, hour % 24),
            "value": f64::from(hour % 8)})
        })
        .collect();
    server.post("/readings", json!(readings)).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/watch/V1?period=2026-02").await?;
    page.press("[data-test=find-high-alert]").await?;
    page.find("[data-test=curve]").await?;
    page.script("document.querySelector('[data-test=curve]').focus()").await?;
    let (home, right, enter) = ("\u{e011}", "\u{e014}", "\u{e007}");
    for key in [home, right, right] {
        page.press_key(key).await?;
    }
    let said = page.see("[data-test=looked]", "mm/s: ").await?;
    let attribute = "return document.querySelector('[data-test=curve]').getAttribute('aria-valuetext')";
    ensure!(page.script(attribute).await? == said.trim(), "{said}");
    let setpoint = said.split(" mm/s").next().context("a setpoint")?.to_owned();
    page.press_key(enter).await?;
    let field = "return document.querySelector('[data-test=rung-high-alert] [name=setpoint]').value";
    ensure!(page.script(field).await? == setpoint, "{setpoint}");
    Ok(())
}

/// On paper all is dark on white, whatever the theme; and a chart takes on the ink of a theme that is switched to.
#[tokio::test]
async fn paper_is_white_and_a_chart_follows_the_theme() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    two_alarms(&server).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/watch/V1").await?;
    page.find("[data-test=line-high-alert]").await?;
    // Pixels of the chart in the ink that the page has now.
    let inked = "const canvas = document.querySelector('main canvas');
        const ink = getComputedStyle(document.documentElement).getPropertyValue('--ink').trim().slice(1);
        const wanted = (ink.length === 3 ? [...ink].map((one) => one + one) : ink.match(/../g)).map((part) => parseInt(part, 16));
        const { data } = canvas.getContext('2d').getImageData(0, 0, canvas.width, canvas.height);
        let count = 0;
        for (let at = 0; at < data.length; at += 4)
            if (data[at + 3] > 200 && wanted.every((part, place) => Math.abs(data[at + place] - part) < 12)) count += 1;
        return count";
    let drawn = async || Ok::<_, anyhow::Error>(page.script(inked).await?.as_i64().unwrap_or(-1));
    ensure!(drawn().await? > 100, "the axis is drawn in the page's ink");
    page.press("[aria-label=Dark]").await?;
    tokio::time::sleep(std::time::Duration::from_millis(300)).await;
    ensure!(drawn().await? > 100, "the chart kept the ink of the other theme");
    page.go("/work").await?;
    page.find("[data-test=order]").await?;
    page.as_printed(true).await?;
    let shown = page
        .script(
            "const order = document.querySelector('[data-test=order]');
            const ink = getComputedStyle(order.querySelector('a') ?? order).color.match(/\\d+/g).slice(0, 3).map(Number);
            const paper = getComputedStyle(document.body).backgroundColor;
            return [order.getBoundingClientRect().height, Math.max(...ink), paper]",
        )
        .await?;
    ensure!(shown[0].as_f64().unwrap_or(0.0) > 10.0, "the list prints blank: {shown}");
    ensure!(shown[1].as_f64().unwrap_or(255.0) < 130.0, "the list prints pale: {shown}");
    ensure!(["rgb(255, 255, 255)", "rgba(0, 0, 0, 0)"].contains(&shown[2].as_str().unwrap_or("")), "{shown}");
    Ok(())
}

/// What opens beside what one was doing takes the focus, and gives it back.
#[tokio::test]
async fn the_focus_follows_what_opens_and_comes_back() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    two_alarms(&server).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    let at = async |expected: &str| -> Result<()> {
        let at = page
            .script("const one = document.activeElement; return one.name || one.ariaLabel || one.innerText")
            .await?;
        ensure!(at == expected, "the focus is at {at} and not at {expected}");
        Ok(())
    };
    page.go("/alarms").await?;
    page.find("[data-test=alarm-now]").await?;
    page.script("[...document.querySelectorAll('[data-test=alarm-now] .act')].find((one) => one.innerText === 'Shelve').focus()")
        .await?;
    page.press_key("\u{e007}").await?;
    page.find("[name=shelf-reason]").await?;
    at("shelf-reason").await?;
    page.press_key(ESCAPE).await?;
    page.see_count("[name=shelf-reason]", 0).await?;
    at("Shelve").await?;
    page.go("/tally").await?;
    page.find("[data-test=figure-failures]").await?;
    page.script("document.querySelector('[data-test=figure-failures]').focus()").await?;
    page.press_key("\u{e007}").await?;
    page.find("[data-test=why-figure]").await?;
    at("Why").await?;
    page.press_key(ESCAPE).await?;
    page.see_count("[data-test=why-figure]", 0).await?;
    at("0").await?;
    Ok(())
}

/// However long the tree is, it scrolls in itself, and only what is seen is drawn; what it marks for who hears the page lies
/// within it too.
#[tokio::test]
async fn a_long_tree_does_not_stretch_the_page() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    for n in 0..400 {
        let asset = json!({"code": format!("A{n:03}"), "name": format!("Asset {n}"), "level": "part"});
        server.post("/assets", asset).await?;
    }
    two_alarms(&server).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/codes?scope=A399").await?;
    page.see("aside[aria-label='Asset tree']", "Asset 0").await?;
    let drawn = page.all("[role=treeitem]").await?.len();
    ensure!((20..120).contains(&drawn), "{drawn} of 400 are drawn");
    page.script("document.querySelector('[role=tree] .name').focus()").await?;
    page.press_key("\u{e010}").await?;
    tokio::time::sleep(std::time::Duration::from_millis(200)).await;
    let last = page.script("return document.activeElement.innerText").await?;
    page.press_key("\u{e011}").await?;
    tokio::time::sleep(std::time::Duration::from_millis(200)).await;
    let first = page.script("return document.activeElement.innerText").await?;
    ensure!((&first, &last) == (&json!("Asset 0"), &json!("Gearbox one")), "{first} {last}");
    let beyond = page.script("return document.documentElement.scrollHeight - innerHeight").await?;
    ensure!(beyond == 0, "the page is {beyond} pixels longer than the window");
    Ok(())
}

/// Of a long list only what is seen is drawn, wherever one scrolls or steps to; as cards on a phone, and whole on paper.
#[tokio::test]
async fn a_long_list_draws_what_is_seen() -> Result<()> {
    const PUMPS: usize = 450;
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    for n in 0..PUMPS {
        let pump = json!({"code": format!("P{n:04}"), "name": format!("Pump {n}"), "level": "part"});
        server.post("/assets", pump).await?;
    }
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/setup/assets?text=Pump").await?;
    page.see("[data-test=master-total]", "450 assets").await?;
    let rows = "return document.querySelectorAll('[data-test=master-row]').length";
    for _ in 0..PUMPS / 50 {
        if page.all("main section > p > button.act").await?.is_empty() {
            break;
        }
        page.script("document.querySelector('main section > p > button.act').click()").await?;
        tokio::time::sleep(std::time::Duration::from_millis(300)).await;
    }
    ensure!(page.all("main section > p > button.act").await?.is_empty(), "all of it was asked for");
    let drawn = page.script(rows).await?.as_u64().unwrap_or(0);
    ensure!((15..90).contains(&drawn), "{drawn} rows are drawn of {PUMPS}");
    page.script("document.getElementById('screen').scrollTop = 1e6").await?;
    page.see("[data-test=master-row]:has([aria-label='Select P0449'])", "Pump 449").await?;
    let seen = "const last = document.querySelector('[aria-label=\"Select P0449\"]').getBoundingClientRect();
        return last.top > 0 && last.bottom < innerHeight";
    ensure!(page.script(seen).await? == true, "the last row is at the end of what scrolls");
    ensure!(page.script("return document.querySelector('table').ariaRowCount").await? == "451");
    // Rows that are not drawn yet are stepped to all the same.
    page.script("document.getElementById('screen').scrollTop = 0").await?;
    page.see("[data-test=master-row]", "Pump 0").await?;
    page.script("document.querySelector('[data-row]').focus()").await?;
    for _ in 0..60 {
        page.press_key("j").await?;
    }
    let at = page.script("return document.activeElement.textContent.trim()").await?;
    ensure!(at == "P0060", "{at}");
    page.as_printed(true).await?;
    tokio::time::sleep(std::time::Duration::from_millis(300)).await;
    ensure!(page.script(rows).await? == PUMPS, "all of it is on paper");
    page.as_printed(false).await?;
    browser.resize(390, 844).await?;
    let card = "const row = document.querySelector('[data-test=master-row]');
        const [code, name] = [...row.querySelectorAll('td:not(.pick)')].map((cell) => cell.getBoundingClientRect());
        return [getComputedStyle(row).display, name.top >= code.bottom - 1,
            document.getElementById('screen').scrollWidth <= document.getElementById('screen').clientWidth]";
    tokio::time::sleep(std::time::Duration::from_millis(300)).await;
    let card = page.script(card).await?;
    ensure!(card == json!(["flex", true, true]), "{card}");
    Ok(())
}

/// Work is taken along on paper: what the list's filters say, without what stands around a screen.
#[tokio::test]
async fn work_is_taken_along_on_paper() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    plant(&server).await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/work?text=oil").await?;
    page.see("[data-test=totals]", "1 open work order").await?;
    page.press("[data-test=on-paper]").await?;
    page.see("[data-test=sheet-total]", "1 open work order").await?;
    page.see("[data-test=sheet-row]", "Look at the oil").await?;
    page.see_count("header, aside", 0).await?;
    page.as_printed(true).await?;
    let buttons = "return [...document.querySelectorAll('button')].filter((one) => one.offsetHeight > 0).length";
    ensure!(page.script(buttons).await? == 0, "nothing to press is on paper");
    page.as_printed(false).await?;
    page.press("[data-test=sheet-row] a").await?;
    page.see("article h1", "Look at the oil").await?;
    page.see_address("text=oil").await
}

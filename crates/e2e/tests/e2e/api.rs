//! The real binary from outside: many senders at once, an empty folder, a kept demo, and what it refuses to start with.

use anyhow::{Result, ensure};
use serde_json::{Value, json};
use std::process::Command;
use tally_e2e::{Server, binary};

const CLOCK: &str = "2026-06-01T00:00:00Z";

fn at(minute: i64) -> String {
    let start: jiff::Timestamp = "2026-05-01T00:00:00Z".parse().unwrap_or_default();
    (start + jiff::SignedDuration::from_mins(minute)).to_string()
}

async fn plant(server: &Server) -> Result<()> {
    server.post("/assets", json!({"code": "A", "name": "A", "level": "unit"})).await?;
    for meter in 0..3 {
        server
            .post("/meters", json!({"code": format!("M{meter}"), "asset": "A", "kind": "measurement", "unit": "bar"}))
            .await?;
        let ladder = json!({"reason": "r", "rungs": [{"side": "high", "severity": "alert", "setpoint": 90.0, "deadband": 10.0,
            "response": {"kind": "raise", "title": "Look"}}]});
        server.put(&format!("/meters/M{meter}/ladder"), ladder).await?;
    }
    Ok(())
}

/// Six senders send overlapping stretches of the same readings while another asks for figures. Each reading is kept once,
/// whoever sent it, and every answer adds up.
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn many_senders_at_once_keep_each_reading_once() -> Result<()> {
    const SENDERS: i64 = 6;
    const BATCHES: i64 = 12;
    const LENGTH: i64 = 40;
    let folder = tempfile::tempdir()?;
    let server = std::sync::Arc::new(Server::serve(folder.path(), CLOCK)?);
    plant(&server).await?;
    let mut senders = Vec::new();
    for sender in 0..SENDERS {
        let server = server.clone();
        senders.push(tokio::spawn(async move {
            let (mut accepted, mut duplicates) = (0, 0);
            for batch in 0..BATCHES {
                // Half of each batch overlaps the one before it and those of the other senders.
                let first = batch * LENGTH / 2 + sender;
                let rows: Vec<Value> = (first..first + LENGTH)
                    .flat_map(|minute| (0..3).map(move |meter| json!({"meter": format!("M{meter}"), "at": at(minute), "value": (minute * 13 % 100) as f64})))
                    .collect();
                let receipt = server.post("/readings", json!(rows)).await?;
                ensure!(receipt["refused"] == json!([]), "{receipt}");
                accepted += receipt["accepted"].as_i64().unwrap_or(0);
                duplicates += receipt["duplicates"].as_i64().unwrap_or(0);
            }
            Ok((accepted, duplicates))
        }));
    }
    let asking = {
        let server = server.clone();
        tokio::spawn(async move {
            for _ in 0..30 {
                let tally = server.get("/tally?scope=A&period=year_to_date&why=true&indicators=open_work").await?;
                let figure = tally["rows"][0]["figures"]["open_work"]["value"].as_f64().unwrap_or(-1.0);
                ensure!(tally["why"][0]["parts"][0]["total"].as_f64() == Some(figure), "{tally}");
            }
            Ok(())
        })
    };
    let (mut accepted, mut duplicates) = (0, 0);
    for sender in senders {
        let (more, twice) = sender.await??;
        accepted += more;
        duplicates += twice;
    }
    asking.await??;
    let minutes = (BATCHES - 1) * LENGTH / 2 + (SENDERS - 1) + LENGTH;
    ensure!(accepted == minutes * 3, "{accepted} kept of {} different ones", minutes * 3);
    ensure!(accepted + duplicates == SENDERS * BATCHES * LENGTH * 3);
    for meter in 0..3 {
        let detail = server.get(&format!("/meters/M{meter}")).await?;
        ensure!(detail["readings"] == minutes);
    }
    let work = server.get("/work-orders?state=open").await?;
    ensure!(work["totals"]["count"] == 3, "one for each meter, joined by all later alarms: {}", work["totals"]);
    Ok(())
}

#[tokio::test]
async fn an_empty_folder_starts_usable() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(&folder.path().join("new"), CLOCK)?;
    ensure!(server.get("/people").await?["acting"] == "admin");
    for empty in ["/assets", "/codebooks", "/families", "/tags"] {
        ensure!(server.get(empty).await? == json!([]), "{empty}");
    }
    ensure!(server.get("/tally").await?["rows"] == json!([]));
    ensure!(server.get("/meters").await?["total"] == 0);
    ensure!(server.get("/alarms").await?["counts"]["standing"] == 0);
    Ok(())
}

#[tokio::test]
async fn a_kept_demo_goes_on_after_what_was_done_in_it() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let raised = {
        let server = Server::demo(folder.path(), false)?;
        let work = json!({"title": "Mine", "kind": "inspection", "asset": "G1", "risk_rank": 3});
        server.post("/work-orders", work).await?["number"].clone()
    };
    let again = Server::demo(folder.path(), false)?;
    let order = again.get(&format!("/work-orders/{raised}")).await?;
    ensure!(order["title"] == "Mine");
    let (raised_at, now) = (order["raised_at"].to_string(), again.get("/clock").await?["now"].to_string());
    ensure!(raised_at < now, "the clock went back: {raised_at} {now}");
    let (status, problem) = again.send("PUT", "/clock", Some(json!({"now": CLOCK}))).await?;
    ensure!(status == 409, "a running clock is not set: {problem}");
    Ok(())
}

#[test]
fn a_folder_that_cannot_be_is_refused_in_words() -> Result<()> {
    let file = tempfile::NamedTempFile::new()?;
    let output = Command::new(binary(false)).args(["serve", "--port", "0", "--data"]).arg(file.path()).output()?;
    let told = String::from_utf8_lossy(&output.stderr).into_owned();
    ensure!(!output.status.success() && told.contains("opening"), "{told}");
    Ok(())
}

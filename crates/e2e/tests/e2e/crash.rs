//! The server is killed (SIGKILL) while readings come in. Whatever it had answered as accepted must be there afterwards,
//! with its alarms and work, whole and not twice.
//!
//! `FAIR_TALLY_CRASH_ROUNDS` sets how often; `cargo xtask crash` asks for more than the suite.

use anyhow::{Context, Result, ensure};
use serde_json::{Value, json};
use std::{
    collections::{BTreeMap, BTreeSet},
    ops::RangeInclusive,
    path::Path,
    sync::{
        Arc,
        atomic::{AtomicU32, Ordering},
    },
    time::Duration,
};
use tally_e2e::Server;

const ROUNDS: u32 = 50;
const CLOCK: &str = "2026-06-01T00:00:00Z";
/// When the limits are set: before all readings, whose alarms then begin with them.
const SET: &str = "2025-12-31T00:00:00Z";
const METERS: usize = 4;
const DAY_MINUTES: i64 = 1_440;

fn rounds() -> u32 {
    std::env::var("FAIR_TALLY_CRASH_ROUNDS").ok().and_then(|n| n.parse().ok()).unwrap_or(ROUNDS)
}

fn at(minute: i64) -> String {
    let start: jiff::Timestamp = "2026-01-01T00:00:00Z".parse().unwrap_or_default();
    (start + jiff::SignedDuration::from_mins(minute)).to_string()
}

/// Values that enter and leave the limit of 10 every few readings.
fn value(meter: usize, minute: i64) -> f64 {
    ((minute * 7 + meter as i64 * 3) % 16) as f64
}

async fn plant(server: &Server) -> Result<()> {
    for meter in 0..METERS {
        server
            .post("/assets", json!({"code": format!("A{meter}"), "name": format!("A{meter}"), "level": "equipment"}))
            .await?;
        server.post("/meters", json!({"code": format!("M{meter}"), "asset": format!("A{meter}"), "kind": "measurement", "unit": "bar"})).await?;
        let ladder = json!({"reason": "test", "rungs": [{"side": "high", "severity": "alert", "setpoint": 10.0,
            "deadband": 2.0, "response": {"kind": "raise", "title": "Look"}}]});
        server.put(&format!("/meters/M{meter}/ladder"), ladder).await?;
    }
    Ok(())
}

fn batch(first_minute: i64, length: i64) -> Value {
    let rows: Vec<Value> = (first_minute..first_minute + length)
        .flat_map(|minute| {
            (0..METERS).map(
                move |meter| json!({"meter": format!("M{meter}"), "at": at(minute), "value": value(meter, minute)}),
            )
        })
        .collect();
    json!(rows)
}

/// The alarms that the limit of 10 with its deadband of 2 makes of the values up to a minute: entered and left.
fn expected_alarms(meter: usize, minutes: i64) -> Vec<(String, Option<String>)> {
    let mut alarms: Vec<(String, Option<String>)> = Vec::new();
    let mut entered = false;
    for minute in 0..minutes {
        let value = value(meter, minute);
        if !entered && value >= 10.0 {
            entered = true;
            alarms.push((at(minute), None));
        } else if entered && value < 8.0 {
            entered = false;
            if let Some(last) = alarms.last_mut() {
                last.1 = Some(at(minute));
            }
        }
    }
    alarms
}

/// Alarms of a meter that were entered from a day on, as the server answers them, day by day: it tells no more than some at once.
async fn alarms(
    server: &Server,
    meter: usize,
    days: RangeInclusive<i64>,
) -> Result<BTreeSet<(String, Option<String>)>> {
    let mut found = BTreeSet::new();
    let first = at(days.start() * DAY_MINUTES);
    for day in days {
        let (from, to) = (at(day * DAY_MINUTES), at((day + 1) * DAY_MINUTES));
        let alarms = server.get(&format!("/meters/M{meter}/alarms?from={from}&to={to}")).await?;
        for alarm in alarms.as_array().context("a list of alarms")? {
            let text = |key: &str| alarm[key].as_str().map(String::from);
            let entered_at = text("entered_at").unwrap_or_default();
            if entered_at >= first {
                found.insert((entered_at, text("left_at")));
            }
        }
    }
    Ok(found)
}

/// Readings, alarms and work of each meter, as the server answers them.
async fn check(server: &Server, accepted: i64, sent: i64) -> Result<i64> {
    check_from(server, 0, accepted, sent).await
}

/// The same; alarms only of the day before a minute and later: those before were looked at before.
async fn check_from(server: &Server, minute: i64, accepted: i64, sent: i64) -> Result<i64> {
    let first_day = (minute / DAY_MINUTES - 1).max(0);
    let mut kept_minutes = None;
    for meter in 0..METERS {
        let detail = server.get(&format!("/meters/M{meter}")).await?;
        let readings = detail["readings"].as_i64().unwrap_or(-1);
        ensure!((accepted..=sent).contains(&readings), "M{meter}: {readings} kept, {accepted} answered, {sent} sent");
        ensure!(
            *kept_minutes.get_or_insert(readings) == readings,
            "a batch is there for one meter and not for another"
        );
        let found = alarms(server, meter, first_day..=readings / DAY_MINUTES).await?;
        let first = at(first_day * DAY_MINUTES);
        let wanted = expected_alarms(meter, readings).into_iter().filter(|(entered_at, _)| *entered_at >= first);
        let wanted: BTreeSet<_> = wanted.collect();
        let differs = found.symmetric_difference(&wanted).next();
        ensure!(
            differs.is_none(),
            "M{meter}: {} alarms of {readings} readings, not {}, as {differs:?}",
            found.len(),
            wanted.len()
        );
    }
    let minutes = kept_minutes.unwrap_or(0);
    let work = server.get("/work-orders?limit=500").await?;
    let mut by_asset: BTreeMap<String, usize> = BTreeMap::new();
    for order in work["work_orders"].as_array().into_iter().flatten() {
        *by_asset.entry(order["asset"]["code"].as_str().unwrap_or_default().into()).or_default() += 1;
    }
    for meter in 0..METERS {
        // The work is never done, so every later alarm joins the first one's.
        let wanted = usize::from(!expected_alarms(meter, minutes).is_empty());
        let there = by_asset.get(&format!("A{meter}")).copied().unwrap_or(0);
        ensure!(there == wanted, "A{meter}: {there} work orders, not {wanted}");
    }
    Ok(minutes)
}

#[tokio::test]
async fn what_was_answered_survives_a_kill_whole_and_not_twice() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let mut rng = fastrand::Rng::with_seed(7);
    let mut minutes = 0i64;
    {
        let server = Server::serve(folder.path(), SET)?;
        plant(&server).await?;
    }
    let (mut killed_midway, mut rounds_answered) = (0, 0);
    for round in 0..rounds() {
        let server = Server::serve(folder.path(), CLOCK)?;
        let pid = server.pid();
        // After so many answers, and so far into the next one.
        let (heard, goal) = (Arc::new(AtomicU32::default()), rng.u32(0..4));
        let (hears, wait) = (heard.clone(), Duration::from_micros(rng.u64(0..25_000)));
        let killer = tokio::task::spawn_blocking(move || {
            while hears.load(Ordering::Relaxed) < goal {
                std::thread::sleep(Duration::from_micros(200));
            }
            std::thread::sleep(wait);
            // A process that ended by itself is found out by what it kept.
            std::process::Command::new("kill").args(["-9", &pid.to_string()]).status().ok();
        });
        let (mut answered, mut sent) = (minutes, minutes);
        for _ in 0..40 {
            let length = rng.i64(1..12);
            sent += length;
            match server.send("POST", "/readings?strict=true", Some(batch(sent - length, length))).await {
                Ok((200, _)) => {
                    answered = sent;
                    heard.fetch_add(1, Ordering::Relaxed);
                }
                Ok((status, body)) => anyhow::bail!("round {round}: {status} {body}"),
                Err(_killed) => {
                    killed_midway += 1;
                    break;
                }
            }
        }
        killer.await?;
        server.kill()?;
        let again = Server::serve(folder.path(), CLOCK)?;
        minutes = check_from(&again, minutes, answered, sent).await?;
        rounds_answered += u32::from(answered > 0 && goal > 0);
    }
    let again = Server::serve(folder.path(), CLOCK)?;
    check(&again, minutes, minutes).await?;
    ensure!(
        rounds_answered * 2 > rounds(),
        "only in {rounds_answered} rounds something was answered: the test shows too little"
    );
    ensure!(
        killed_midway * 2 > rounds(),
        "only {killed_midway} kills met a request under way: the test shows too little"
    );
    Ok(())
}

/// Backups made by the command while readings come in, and the server killed after each: what comes back is sound, and a moment
/// that was. All that was answered before it was begun is in it, nothing that was sent after it was there, and what is in it is
/// whole.
#[tokio::test]
async fn a_backup_made_amid_writes_is_a_moment_that_was() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let data = folder.path().join("data");
    let mut minutes = 0i64;
    {
        let server = Server::serve(&data, SET)?;
        plant(&server).await?;
    }
    let run = |arguments: Vec<String>| -> Result<String> {
        let output = std::process::Command::new(tally_e2e::binary(false)).args(&arguments).output()?;
        let told = String::from_utf8_lossy(&[output.stdout, output.stderr].concat()).into_owned();
        ensure!(output.status.success(), "{arguments:?}: {told}");
        Ok(told)
    };
    let text = |path: &std::path::Path| path.display().to_string();
    for round in 0..3 {
        let server = Server::serve(&data, CLOCK)?;
        let (file, restored) =
            (folder.path().join(format!("{round}.zip")), folder.path().join(format!("back-{round}")));
        let before = minutes;
        let making = {
            let (file, data) = (text(&file), text(&data));
            tokio::task::spawn_blocking(move || {
                std::process::Command::new(tally_e2e::binary(false)).args(["backup", &file, "--data", &data]).output()
            })
        };
        let mut sent = minutes;
        while !making.is_finished() {
            sent += 3;
            server.post("/readings?strict=true", batch(sent - 3, 3)).await?;
        }
        let made = making.await??;
        ensure!(made.status.success(), "{}", String::from_utf8_lossy(&made.stderr));
        let then = sent;
        for _ in 0..5 {
            sent += 3;
            server.post("/readings?strict=true", batch(sent - 3, 3)).await?;
        }
        ensure!(then > before, "nothing was written meanwhile");
        minutes = sent;
        check(&server, sent, sent).await?;
        server.kill()?;
        run(vec!["restore".into(), text(&file), "--data".into(), text(&restored)])?;
        let checked = run(vec!["check".into(), "--data".into(), text(&restored)])?;
        ensure!(checked.lines().count() == 7, "{checked}");
        let again = Server::serve(&restored, CLOCK)?;
        check(&again, before, then).await?;
    }
    Ok(())
}

/// What was acknowledged in a round, of each kind.
#[derive(Debug, Default)]
struct Acknowledged {
    sessions: Vec<String>,
    /// Numbers of orders by their titles, with the state that they were moved to.
    orders: BTreeMap<String, (i64, &'static str)>,
    /// Codes of assets that came in files.
    assets: Vec<String>,
    keys: Vec<String>,
}

/// Signs in, makes a key, raises work and moves it, and takes a file in, until the server is gone.
async fn busy(server: &Server, round: u32, heard: &AtomicU32) -> Acknowledged {
    let mut done = Acknowledged::default();
    for n in 0.. {
        let name = format!("{round}-{n}");
        let work = json!({"title": name, "kind": "inspection", "asset": "A0", "risk_rank": 3});
        let Ok(raised) = server.post("/work-orders", work).await else { break };
        let number = raised["number"].as_i64().unwrap_or(-1);
        done.orders.insert(name.clone(), (number, "raised"));
        heard.fetch_add(1, Ordering::Relaxed);
        let Ok(_) = server.post(&format!("/work-orders/{number}/state"), json!({"to": "ready"})).await else { break };
        done.orders.insert(name.clone(), (number, "ready"));
        let Ok(session) = server.sign_in_first().await else { break };
        done.sessions.push(session);
        heard.fetch_add(1, Ordering::Relaxed);
        let file = format!("code,name,level\nF{name},From a file,part\n");
        let Ok(()) = server.import("assets", file).await else { break };
        done.assets.push(format!("F{name}"));
        heard.fetch_add(1, Ordering::Relaxed);
        let Ok(key) = server.key(&format!("k{name}"), "gateway").await else { break };
        done.keys.push(key);
        heard.fetch_add(1, Ordering::Relaxed);
    }
    done
}

/// Readings of a meter that are more than what stays unsealed and a block.
const TO_SEAL: i64 = 4_700;

/// Minutes up to which readings are sent to be sealed: later ones would lie ahead.
const SEALED_UNTIL: i64 = 150_000;

/// Blocks of sealed readings that there are.
fn blocks(data: &Path) -> Result<i64> {
    let database = rusqlite::Connection::open(data.join("fair-tally.db"))?;
    Ok(database.query_row("SELECT count(*) FROM reading_blocks", [], |row| row.get(0))?)
}

/// Sign-ins, keys, work and its moves, files, readings and their sealing at one time, the server killed amid them: what was
/// acknowledged is there, once, and in the end the data are sound.
#[tokio::test(flavor = "multi_thread")]
async fn whatever_was_acknowledged_survives_a_kill_once() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let mut rng = fastrand::Rng::with_seed(8);
    let mut minutes = 0i64;
    {
        let server = Server::serve(folder.path(), SET)?;
        plant(&server).await?;
    }
    let (mut acknowledged, mut sealed) = (0, 0);
    for round in 0..rounds() / 4 {
        let server = Arc::new(Server::serve(folder.path(), CLOCK)?);
        server.cookie().await?;
        let seals = round % 3 == 0 && minutes < SEALED_UNTIL;
        if seals {
            server.post("/readings?strict=true", batch(minutes, TO_SEAL)).await?;
            minutes += TO_SEAL;
        }
        let (heard, goal, pid) = (Arc::new(AtomicU32::default()), rng.u32(1..12), server.pid());
        // What can be sealed is within a second.
        let longest = if seals { 1_200_000 } else { 40_000 };
        let (hears, wait) = (heard.clone(), Duration::from_micros(rng.u64(0..longest)));
        let killer = tokio::task::spawn_blocking(move || {
            while hears.load(Ordering::Relaxed) < goal {
                std::thread::sleep(Duration::from_micros(200));
            }
            std::thread::sleep(wait);
            std::process::Command::new("kill").args(["-9", &pid.to_string()]).status().ok();
        });
        let sending = server.clone();
        let readings = tokio::spawn(async move {
            let (mut answered, mut sent) = (minutes, minutes);
            while let Ok((200, _)) = {
                sent += 3;
                sending.send("POST", "/readings?strict=true", Some(batch(sent - 3, 3))).await
            } {
                answered = sent;
            }
            (answered, sent)
        });
        let done = busy(&server, round, &heard).await;
        let (answered, sent) = readings.await?;
        killer.await?;
        drop(server);
        let again = Server::serve(folder.path(), CLOCK)?;
        let mut kept = None;
        for meter in 0..METERS {
            let readings = again.get(&format!("/meters/M{meter}")).await?["readings"].as_i64().unwrap_or(-1);
            ensure!((answered..=sent).contains(&readings), "M{meter}: {readings} of {answered} to {sent}");
            ensure!(*kept.get_or_insert(readings) == readings, "a batch is there in part");
        }
        minutes = kept.unwrap_or(0);
        for (title, (number, state)) in &done.orders {
            let order = again.get(&format!("/work-orders/{number}")).await?;
            ensure!(order["title"] == **title, "{number}: {order}");
            // A move that was sent and never answered may have been done.
            let moved = order["state"] == "ready";
            ensure!(moved || (*state == "raised" && order["state"] == "raised"), "{title}: {}", order["state"]);
            let found = again.get(&format!("/work-orders?text={title}&limit=10")).await?["totals"]["count"].clone();
            ensure!(found == 1, "{title} is there {found} times");
        }
        for session in &done.sessions {
            ensure!(again.is_signed_in(session).await?, "a session that was acknowledged is gone");
        }
        for code in &done.assets {
            again.get(&format!("/assets/{code}")).await?;
        }
        let keys = again.get("/keys").await?.as_array().map_or(0, Vec::len);
        ensure!(keys >= done.keys.len(), "{keys} keys, {} acknowledged", done.keys.len());
        acknowledged += done.orders.len() + done.sessions.len() + done.assets.len() + done.keys.len();
        sealed = blocks(folder.path())?;
        again.kill()?;
    }
    ensure!(sealed > 0, "nothing was sealed meanwhile");
    let rounds = usize::try_from(rounds() / 4)?;
    ensure!(acknowledged > rounds * 2, "only {acknowledged} were acknowledged: the test shows too little");
    let output =
        std::process::Command::new(tally_e2e::binary(false)).args(["check", "--data"]).arg(folder.path()).output()?;
    ensure!(output.status.success(), "{}", String::from_utf8_lossy(&output.stdout));
    Ok(())
}

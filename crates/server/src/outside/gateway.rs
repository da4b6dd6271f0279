//! The gateway stand-in: plays readings into the public API at a chosen speed. A batch that was not answered is sent again
//! as it was, so that nothing is lost, and the server counts what it has already as duplicates.

use anyhow::{Context, Result, bail};
use reqwest::StatusCode;
use serde::Deserialize;
use serde_json::Value;
use std::{path::Path, time::Duration};
use tally_core::{
    ground::time::{Instant, SECOND},
    outside::files::Table,
};
use tally_demo::gateway::{Fault, Sample, Sending, plan, synthetic};

/// How long to wait before the next attempt: twice as long each time.
const FIRST_WAIT: Duration = Duration::from_millis(500);
const LONGEST_WAIT: Duration = Duration::from_secs(30);

/// How a gateway plays.
#[derive(Debug)]
pub struct Gateway {
    /// Such as `http://127.0.0.1:8420`.
    pub url: String,
    /// The key it sends with.
    pub key: String,
    /// Seconds of readings that pass in a second; 0 sends without waiting. Above 1 they overtake the clock: for files of the past.
    pub speed: f64,
    /// Seconds of readings sent together.
    pub every_s: u32,
    pub faults: Vec<Fault>,
}

/// What the server made of it all.
#[derive(Debug, Default, Clone, PartialEq, Eq)]
pub struct Played {
    pub sent: usize,
    pub accepted: usize,
    pub duplicates: usize,
    pub late: usize,
    pub quarantined: usize,
    pub refused: usize,
    pub work_orders: Vec<i64>,
    /// Attempts that were not answered.
    pub retries: usize,
}

#[derive(Deserialize)]
struct Answer {
    accepted: usize,
    duplicates: usize,
    late: usize,
    quarantined: usize,
    refused: Vec<Refused>,
    work_orders: Vec<i64>,
}

#[derive(Deserialize)]
struct Refused {
    index: usize,
    reason: String,
}

/// Readings of a CSV file with the columns meter (or tag), at and value.
pub fn from_file(path: &Path) -> Result<Vec<Sample>> {
    let bytes = std::fs::read(path).with_context(|| format!("reading {}", path.display()))?;
    let table = Table::open(&bytes)?;
    let place = |name: &str| {
        let found = table.columns.iter().position(|column| column == name);
        found.with_context(|| format!("{} has no column {name:?}", path.display()))
    };
    let (meter, at, value) = (place("meter")?, place("at")?, place("value")?);
    let mut samples = Vec::new();
    for (line, cells) in table.lines() {
        let cells = cells.map_err(|reason| anyhow::anyhow!("line {line}: {reason}"))?.cells;
        let at = Instant::parse(&cells[at]).with_context(|| format!("line {line}"))?;
        samples.push(Sample { meter: cells[meter].clone(), at, value: cells[value].clone() });
    }
    samples.sort_by_key(|sample| sample.at);
    Ok(samples)
}

/// Moves readings so that the first is read at `to`.
pub fn shifted(mut samples: Vec<Sample>, to: Instant) -> Vec<Sample> {
    if let Some(first) = samples.first().map(|sample| sample.at) {
        let by = to.since(first);
        samples.iter_mut().for_each(|sample| sample.at = sample.at.plus(by));
    }
    samples
}

/// Readings in the making: `count` of each meter around its last value, one every `every_s` seconds from now on.
pub async fn made_up(gateway: &Gateway, meters: &[String], count: usize, every_s: u32) -> Result<Vec<Sample>> {
    #[derive(Deserialize)]
    struct Meter {
        last: Option<Last>,
    }
    #[derive(Deserialize)]
    struct Last {
        value: f64,
    }
    let client = reqwest::Client::new();
    let now = server_now(gateway).await?;
    let mut samples = Vec::new();
    for (seed, code) in (1..).zip(meters) {
        let asked = client.get(format!("{}/api/v1/meters/{code}", gateway.url)).bearer_auth(&gateway.key);
        let answer = asked.send().await?;
        let level = match answer.status() {
            // A gateway sends and sees nothing: it makes them up around one.
            StatusCode::FORBIDDEN => 1.0,
            status if status.is_success() => answer.json::<Meter>().await?.last.map_or(1.0, |last| last.value),
            status => bail!("the server tells nothing of the meter {code:?}: {status}"),
        };
        samples.extend(synthetic(code, now, count, i64::from(every_s) * SECOND, level, seed));
    }
    samples.sort_by_key(|sample| sample.at);
    Ok(samples)
}

/// What the server takes for now: the demo has a day of its own.
pub async fn server_now(gateway: &Gateway) -> Result<Instant> {
    #[derive(Deserialize)]
    struct Clock {
        now: Instant,
    }
    let asked = reqwest::Client::new().get(format!("{}/api/v1/clock", gateway.url)).bearer_auth(&gateway.key);
    let answer = asked.send().await?.error_for_status().context("asking what time it is there")?;
    Ok(answer.json::<Clock>().await?.now)
}

/// Plays readings, telling `told` what became of each sending.
pub async fn play(gateway: &Gateway, samples: Vec<Sample>, mut told: impl FnMut(&str)) -> Result<Played> {
    let client = reqwest::Client::builder().timeout(Duration::from_secs(30)).build()?;
    let sendings = plan(samples, i64::from(gateway.every_s.max(1)) * SECOND, &gateway.faults);
    let mut played = Played::default();
    let (start, began) = (sendings.first().map(|first| first.at), std::time::Instant::now());
    for sending in sendings {
        if let (Some(start), true) = (start, gateway.speed > 0.0) {
            let due = Duration::from_secs_f64(sending.at.since(start).max(0) as f64 / 1_000.0 / gateway.speed);
            tokio::time::sleep(due.saturating_sub(began.elapsed())).await;
        }
        let answer = send(gateway, &client, &sending, &mut played, &mut told).await?;
        let refused: Vec<String> =
            answer.refused.iter().map(|one| format!("{}: {}", sending.samples[one.index].meter, one.reason)).collect();
        played.sent += sending.samples.len();
        played.accepted += answer.accepted;
        played.duplicates += answer.duplicates;
        played.late += answer.late;
        played.quarantined += answer.quarantined;
        played.refused += answer.refused.len();
        let work: Vec<String> = answer.work_orders.iter().map(ToString::to_string).collect();
        let mut line = format!(
            "{} {} sent, {} accepted, {} duplicates, {} late, {} kept apart",
            sending.at,
            sending.samples.len(),
            answer.accepted,
            answer.duplicates,
            answer.late,
            answer.quarantined
        );
        if !refused.is_empty() {
            line.push_str(&format!(", refused: {}", refused.join("; ")));
        }
        if !work.is_empty() {
            line.push_str(&format!(", work {}", work.join(", ")));
        }
        told(&line);
        played.work_orders.extend(answer.work_orders);
    }
    Ok(played)
}

/// Sends until it is answered. What the server refuses as a whole is an error: sending it again would not help.
async fn send(
    gateway: &Gateway,
    client: &reqwest::Client,
    sending: &Sending,
    played: &mut Played,
    told: &mut impl FnMut(&str),
) -> Result<Answer> {
    let rows: Vec<Value> = sending
        .samples
        .iter()
        .map(|sample| {
            let value = sample.value.parse::<f64>();
            let value = value.map_or_else(|_name| Value::from(sample.value.clone()), Value::from);
            serde_json::json!({ "meter": sample.meter, "at": sample.at, "value": value })
        })
        .collect();
    let mut wait = FIRST_WAIT;
    loop {
        let request = client.post(format!("{}/api/v1/readings?source=gateway", gateway.url));
        let request = request.bearer_auth(&gateway.key);
        let failed = match request.json(&rows).send().await {
            Ok(answer) if answer.status().is_success() => match answer.json().await {
                Ok(answer) => return Ok(answer),
                Err(error) => error.to_string(),
            },
            Ok(answer) if answer.status().is_server_error() => format!("answered {}", answer.status()),
            Ok(answer) => bail!("the server refuses the batch: {}", answer.text().await.unwrap_or_default()),
            Err(error) => error.to_string(),
        };
        played.retries += 1;
        told(&format!("not answered ({failed}); the same again in {:.1} s", wait.as_secs_f64()));
        tokio::time::sleep(wait).await;
        wait = (wait * 2).min(LONGEST_WAIT);
    }
}

//! What the API makes of readings as they come is what a replay of them says.

use crate::caller::Caller;
use proptest::prelude::*;
use serde_json::{Value, json};
use tally_core::{
    ground::time::{DAY, Instant, SECOND},
    watch::{
        limits::{
            Ladder,
            replay::{Assumptions, Completed, Completion, History, replay},
            warnings::Past,
        },
        meters::Meter,
        readings::{Columns, Reading},
    },
};

/// Seconds between readings: a batch of eight ends less than the five minutes ahead that are taken.
const EVERY: i64 = 20;

fn ladder(interval_s: u32, delay_s: u32) -> Value {
    let rung = |side: &str, severity: &str, setpoint: f64| {
        json!({"side": side, "severity": severity, "setpoint": setpoint, "deadband": 2.0, "on_delay_seconds": delay_s,
            "response": {"kind": "raise"}})
    };
    json!({"reason": "to be compared", "raise_interval_seconds": interval_s, "rungs": [
        rung("high", "alert", 20.0), rung("high", "danger", 30.0), rung("low", "alert", 5.0)]})
}

/// A server whose work is finished by hand between batches.
struct Live {
    caller: Caller,
    /// When the first, second, … work of the ladder was done.
    done: Vec<Instant>,
}

impl Live {
    async fn ok(&self, method: &str, path: &str, body: Option<Value>) -> Value {
        let answer = self.caller.call(method, path, None, body).await;
        assert!(answer.status < 300, "{method} {path}: {}", answer.body);
        answer.body
    }

    async fn clock(&self, now: Instant) {
        self.ok("PUT", "/clock", Some(json!({ "now": now }))).await;
    }

    /// Finishes the oldest work of the ladder that is open, if any. The plant begins with one order of a person's.
    async fn finish_one(&mut self, now: Instant) {
        let number = 1_002 + self.done.len();
        let found = self.caller.call("GET", &format!("/work-orders/{number}"), None, None).await;
        if found.status != 200 {
            return;
        }
        for state in ["ready", "under_way", "done"] {
            self.ok("POST", &format!("/work-orders/{number}/state"), Some(json!({ "to": state }))).await;
        }
        self.done.push(now);
    }
}

/// Rung, entered, left; and how often work was raised, joined, and held back.
type Told = (Vec<(usize, Instant, Option<Instant>)>, [usize; 3]);

async fn live(all: &[Reading], cuts: Vec<(usize, bool)>, ladder: &Value, begins: Instant) -> (Told, Vec<Instant>) {
    let mut live = Live { caller: Caller::new().await, done: Vec::new() };
    live.clock(begins).await;
    live.ok("PUT", "/meters/BAR/ladder", Some(ladder.clone())).await;
    let (mut rest, mut cuts) = (all, cuts.into_iter());
    while let [first, ..] = rest {
        let (size, finish) = cuts.next().unwrap_or((1, false));
        let (batch, after) = rest.split_at(size.min(rest.len()));
        let last = batch[batch.len() - 1].at;
        live.clock(first.at.plus(-1)).await;
        let rows: Vec<Value> = batch.iter().map(|r| json!({"meter": "BAR", "at": r.at, "value": r.value})).collect();
        assert_eq!(live.ok("POST", "/readings", Some(json!(rows))).await["accepted"], batch.len());
        if finish {
            live.clock(last.plus(5 * SECOND)).await;
            live.finish_one(last.plus(5 * SECOND)).await;
        }
        rest = after;
    }
    live.clock(all[all.len() - 1].at.plus(10 * SECOND - 1)).await;
    let path = format!("/meters/BAR/alarms?from={begins}&to={}", begins.plus(DAY));
    let rows = live.ok("GET", &path, None).await;
    let rungs = ladder["rungs"].as_array().unwrap();
    let (mut alarms, mut counts) = (Vec::new(), [0; 3]);
    for row in rows.as_array().unwrap() {
        let same = |rung: &Value| rung["side"] == row["side"] && rung["severity"] == row["severity"];
        let at = |key: &str| row[key].as_str().map(|at| Instant::parse(at).unwrap());
        alarms.push((rungs.iter().position(same).unwrap(), at("entered_at").unwrap(), at("left_at")));
        // Every answer counts, those before the newest too.
        let earlier = row["earlier"].as_array().into_iter().flatten().map(|answer| &answer["response"]);
        for response in earlier.chain([&row["response"]]) {
            match response.as_str().unwrap() {
                "raised" => counts[0] += 1,
                "joined" | "escalated" => counts[1] += 1,
                "held" => counts[2] += 1,
                _ => {}
            }
        }
    }
    alarms.sort();
    ((alarms, counts), live.done)
}

fn replayed(all: &[Reading], done: Vec<Instant>, ladder: &Value) -> Told {
    let ladder: Ladder = serde_json::from_value(ladder.clone()).unwrap();
    let (readings, past): (Columns, _) = (all.iter().copied().collect(), Past::default());
    let until = all[all.len() - 1].at.plus(10 * SECOND);
    let meter = Meter::measurement("bar");
    let history = History::of(&meter, &readings, until, &past);
    // Work that nobody finished is never done.
    let completions = done.into_iter().map(|at| Completion { at, how: Completed::Done(None) }).collect();
    let assumptions = Assumptions { work_lasts_ms: 100_000 * DAY, completions, ..Assumptions::default() };
    let played = replay(&ladder, &history, &assumptions);
    let mut alarms: Vec<_> = played.alarms.iter().map(|alarm| (alarm.rung, alarm.entered_at, alarm.left_at)).collect();
    alarms.sort();
    (alarms, [played.work.len(), played.joined, played.held])
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]

    #[test]
    fn readings_posted_in_any_batches_do_what_their_replay_does(
        values in prop::collection::vec(0..40u8, 1..40),
        cuts in prop::collection::vec((1..9usize, prop::bool::weighted(0.4)), 40),
        interval in 0..6u32,
        delay in 0..4u32,
    ) {
        let begins = Instant::parse("2026-03-02T08:00:00Z").unwrap();
        let ladder = ladder(interval * 50, delay * 15);
        let all: Vec<Reading> = (1..)
            .zip(&values)
            .map(|(n, &value)| Reading { at: begins.plus(n * EVERY * SECOND), value: f64::from(value) })
            .collect();
        let runtime = tokio::runtime::Builder::new_current_thread().enable_all().build().unwrap();
        let (told, done) = runtime.block_on(live(&all, cuts, &ladder, begins));
        prop_assert_eq!(told, replayed(&all, done, &ladder));
    }
}

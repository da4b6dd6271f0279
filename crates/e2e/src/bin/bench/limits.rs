//! The replay loop and the finder, beside summing the same values in order.

use crate::measure::{ROUNDS, median};
use serde_json::json;
use std::{hint::black_box, time::Instant as Stopwatch};
use tally_core::{
    ground::time::Instant,
    watch::{
        limits::{
            Ladder,
            finder::{Setting, find, grid},
            replay::{Assumptions, History, replay},
            warnings::Past,
        },
        meters::Meter,
        readings::{Columns, Reading},
    },
};

/// Five years of a reading a minute.
const READINGS: usize = 2_600_000;
const MINUTE: i64 = 60_000;

/// Three rungs a side with delays; the normal zone is 30 to 70.
fn ladder(delay_s: u32) -> Ladder {
    let rung = |side: &str, severity: &str, setpoint: f64| {
        json!({"side": side, "severity": severity, "setpoint": setpoint, "deadband": 2.0, "on_delay_seconds": delay_s,
            "off_delay_seconds": delay_s, "response": {"kind": "raise"}})
    };
    let rungs = json!([
        rung("high", "alert", 70.0),
        rung("high", "serious", 80.0),
        rung("high", "danger", 90.0),
        rung("low", "alert", 30.0),
        rung("low", "serious", 20.0),
        rung("low", "danger", 10.0),
    ]);
    serde_json::from_value(json!({"raise_interval_seconds": 7 * 86_400, "rungs": rungs}))
        .unwrap_or_else(|e| unreachable!("{e}"))
}

/// In its normal zone but for a hundredth of the time, in stretches of a few hours.
pub fn calm(readings: usize) -> Columns {
    let mut rng = fastrand::Rng::with_seed(7);
    (0..readings)
        .map(|n| {
            let beyond = n % 20_000 < 200;
            let value = if beyond { 75.0 + 10.0 * rng.f64() } else { 40.0 + 20.0 * rng.f64() };
            Reading { at: Instant::from_ms(n as i64 * MINUTE), value }
        })
        .collect()
}

/// Anywhere from `low` to `high` at each reading.
fn restless(readings: usize, low: f64, high: f64) -> Columns {
    let mut rng = fastrand::Rng::with_seed(8);
    let value = |rng: &mut fastrand::Rng| low + (high - low) * rng.f64();
    (0..readings).map(|n| Reading { at: Instant::from_ms(n as i64 * MINUTE), value: value(&mut rng) }).collect()
}

fn seconds<T>(work: impl Fn() -> T) -> f64 {
    let start = Stopwatch::now();
    black_box(work());
    start.elapsed().as_secs_f64()
}

/// The median over rounds of how often the bound fits into the work, in turn.
fn ratio<T>(work: impl Fn() -> T, bound: impl Fn() -> f64) -> (f64, f64) {
    let (mut ratios, mut works) = (Vec::new(), Vec::new());
    for round in 0..=ROUNDS {
        let bound = seconds(&bound);
        let took = seconds(&work);
        if round > 0 {
            ratios.push(took / bound);
            works.push(took);
        }
    }
    (median(&mut ratios), median(&mut works))
}

pub fn bench() {
    let (meter, past, assumptions) = (Meter::measurement("mm/s"), Past::default(), Assumptions::default());
    println!(
        "replay of {READINGS} readings, six rungs with delays of 5 minutes, beside summing the same values in order:"
    );
    let all = [
        ("calm", calm(READINGS), 2.0),
        ("chattering", restless(READINGS, 60.0, 80.0), 15.0),
        ("all over", restless(READINGS, 0.0, 100.0), 15.0),
    ];
    for (name, columns, wanted) in all {
        let until = Instant::from_ms(READINGS as i64 * MINUTE);
        let history = History::of(&meter, &columns, until, &past);
        let sum = || columns.values().iter().fold(0.0, |sum, value| sum + value);
        let ladder_5 = ladder(300);
        let (times, took) = ratio(|| replay(&ladder_5, &history, &assumptions), sum);
        println!("  {name:10} {times:5.2} times ({:.1} ms); wanted at most {wanted:.0}", took * 1e3);
        let tried: Vec<Setting> =
            grid(columns.values(), 50).into_iter().map(|setpoint| Setting { setpoint, deadband: None }).collect();
        for (delay, most) in [(0, 1.5), (300, 4.0)] {
            let ladder = ladder(delay);
            let (_, took) = ratio(|| find(&ladder, 0, &tried, &history, &assumptions), sum);
            let each = took * 1e9 / (READINGS * tried.len()) as f64;
            println!(
                "  {name:10} finder of 50 settings, delay {delay:3} s: {each:.2} ns a setting and reading ({:.0} ms); \
                 wanted at most {most}",
                took * 1e3
            );
        }
    }
}

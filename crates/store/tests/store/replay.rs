//! A replay says what the live path does: the same machine, the same decisions.

use crate::common::{Plant, at, day, reading};
use proptest::prelude::*;
use serde_json::json;
use tally_core::{
    ids::WorkOrderId,
    limits::{
        Ladder,
        replay::{Assumptions, History, Past, Replay, SpellVerdict, replay},
    },
    meters::Meter,
    readings::{Columns, Reading},
    time::{DAY, HOUR, Instant, Span},
};
use tally_store::{
    StoreError, alarms,
    alarms::ResponseGiven,
    replay::{Asked, Asking, FinderAsked, finder, of_meter},
    work,
};

fn ladder(raise_interval_days: u32, delay_hours: u32) -> serde_json::Value {
    let rung = |side: &str, severity: &str, setpoint: f64| {
        json!({"side": side, "severity": severity, "setpoint": setpoint, "deadband": 2.0,
            "on_delay_seconds": delay_hours * 3_600, "response": {"kind": "raise"}})
    };
    json!({"raise_interval_seconds": raise_interval_days * 86_400, "rungs": [
        rung("high", "alert", 20.0), rung("high", "danger", 30.0), rung("low", "alert", 5.0),
        {"side": "low", "severity": "serious", "setpoint": 1.0, "deadband": 1.0, "response": {"kind": "record"}}]})
}

/// The alarms of a replay as the live list has them: rung, entered, left; and what responded.
fn told(replay: &Replay) -> Vec<(usize, Instant, Option<Instant>)> {
    let mut alarms: Vec<_> = replay.alarms.iter().map(|alarm| (alarm.rung, alarm.entered_at, alarm.left_at)).collect();
    alarms.sort();
    alarms
}

/// A meter whose work is finished by hand at any moment, beside a replay that is told when.
struct Beside {
    plant: Plant,
    /// When the first, second, … work was done.
    done: Vec<Instant>,
}

impl Beside {
    /// Finishes the oldest work that is open, as of now.
    fn finish_one(&mut self, now: Instant) {
        let number = WorkOrderId(1_001 + i64::try_from(self.done.len()).unwrap());
        let open = self.plant.store.read(|conn| work::standing(conn, number)).is_ok();
        if open {
            self.plant.do_work(number, now);
            self.done.push(now);
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn live_and_replay_give_the_same_alarms_and_the_same_work(
        values in prop::collection::vec(0..40u8, 1..60),
        cuts in prop::collection::vec((1..9usize, prop::bool::weighted(0.4)), 60),
        interval in 0..6u32,
        delay in 0..4u32,
    ) {
        let mut beside = Beside { plant: Plant::new(), done: Vec::new() };
        beside.plant.set_limits("M-BAR", ladder(interval, delay), day(1)).unwrap();
        let readings: Columns = (1..)
            .zip(&values)
            .map(|(n, &value)| Reading { at: day(1).plus(n * 7 * HOUR), value: f64::from(value) })
            .collect();
        // In order, in batches of any size, with work finished between some of them.
        let all: Vec<Reading> = readings.iter().collect();
        let (mut rest, mut cuts) = (all.as_slice(), cuts.into_iter());
        while !rest.is_empty() {
            let (size, finish) = cuts.next().unwrap_or((1, false));
            let (batch, after) = rest.split_at(size.min(rest.len()));
            let rows: Vec<_> = batch.iter().map(|one| reading("M-BAR", one.at, one.value)).collect();
            let last = batch[batch.len() - 1].at;
            beside.plant.ingest(&rows, last);
            if finish {
                beside.finish_one(last.plus(HOUR));
            }
            // The clock's job comes by after every other batch; it must not matter when.
            if size % 2 == 0 {
                beside.plant.write(last.plus(2 * HOUR), alarms::answer_due).unwrap();
            }
            rest = after;
        }
        let until = all[all.len() - 1].at.plus(3 * HOUR);
        beside.plant.write(until.plus(-1), alarms::answer_due).unwrap();
        let parsed: Ladder = serde_json::from_value(ladder(interval, delay)).unwrap();
        let (meter, past) = (Meter::measurement("bar"), Past::default());
        let history = History { meter: &meter, readings: &readings, part: 0..readings.len(), until, past: &past };
        // Work that nobody finished is never done.
        let assumptions = Assumptions {
            work_lasts_ms: 100_000 * DAY,
            completions: beside.done.clone(),
            ..Assumptions::default()
        };
        let played = replay(&parsed, &history, &assumptions);
        let live = beside.plant.store.read(|conn| alarms::of_meter(conn, "M-BAR", Span::ALWAYS, 1_000)).unwrap();
        let rung = |alarm: &alarms::AlarmRow| {
            parsed.rungs.iter().position(|rung| Some(rung.side) == alarm.side && rung.severity == alarm.severity).unwrap()
        };
        let mut alarms: Vec<_> = live.iter().map(|alarm| (rung(alarm), alarm.entered_at, alarm.left_at)).collect();
        alarms.sort();
        prop_assert_eq!(told(&played), alarms);
        // Every answer counts, those before the newest too.
        let given = |wanted: &[ResponseGiven]| {
            live.iter()
                .flat_map(|alarm| alarm.earlier.iter().map(|one| one.response).chain([alarm.response]))
                .filter(|response| wanted.contains(response))
                .count()
        };
        prop_assert_eq!(played.work.len(), given(&[ResponseGiven::Raised]), "raised");
        prop_assert_eq!(played.joined, given(&[ResponseGiven::Joined, ResponseGiven::Escalated]), "joined");
        prop_assert_eq!(played.held, given(&[ResponseGiven::Held]), "held");
    }
}

/// Pressure rises from 10 to 26 in eight days, the machine fails on the ninth, and is mended.
fn with_a_failure(plant: &Plant, effect: &str) {
    let values: Vec<f64> = (0..9).map(|n| 10.0 + 2.0 * f64::from(n)).collect();
    let rows: Vec<_> = (0..).zip(values).map(|(n, value)| reading("M-BAR", day(2).plus(n * DAY), value)).collect();
    plant.ingest(&rows, day(11));
    let number = plant
        .write(day(11), |act| {
            let new = json!({"title": "Burst", "kind": "corrective_immediate", "asset": "EQ", "risk_rank": 1});
            tally_store::work::raise(act, &serde_json::from_value(new).unwrap())
        })
        .unwrap();
    plant
        .write(day(11), |act| {
            let report =
                json!({"asset": "EQ", "problem": "NOISE", "failed_at": "2026-01-11T00:00:00Z", "effect": effect});
            tally_store::failures::put(act, number, &serde_json::from_value(report).unwrap())
        })
        .unwrap();
}

/// Asks about the past on the first of March.
fn asking<T>(plant: &Plant, ask: impl FnOnce(&Asking) -> Result<T, StoreError>) -> Result<T, StoreError> {
    plant.store.tally(|conn, snapshot| {
        let histories = plant.store.histories();
        ask(&Asking { conn, tree: &snapshot.tree, histories, now: at("2026-03-01T00:00:00Z") })
    })
}

fn play(
    plant: &Plant,
    ladder: serde_json::Value,
    asked: &Asked,
) -> Result<tally_store::replay::ReplayView, StoreError> {
    let span = Span::new(day(1), at("2026-03-01T00:00:00Z")).unwrap();
    let ladder: Ladder = serde_json::from_value(ladder).unwrap();
    asking(plant, |asking| of_meter(asking, "M-BAR", span, Some(ladder), asked, None))
}

/// The alert at 20 is entered on day 7 (10, 12, … 20), at noon; the failure comes on day 11 at midnight: 3.5 days.
#[test]
fn a_failure_below_the_meters_asset_is_caught_with_its_warning() {
    let plant = Plant::new();
    with_a_failure(&plant, "critical");
    let view = play(&plant, ladder(7, 0), &Asked::default()).unwrap();
    assert_eq!((view.caught, view.missed, view.nuisance), (1, 0, 0), "{:?}", view.spells);
    assert_eq!(view.failures[0].judged.warning_ms, Some(7 * DAY / 2));
    assert_eq!((view.failures[0].title.as_str(), view.failures[0].problem.as_deref()), ("Burst", Some("NOISE")));
    assert_eq!(view.entered, [1, 0, 0, 0]);
    assert_eq!((view.usual_work.from, view.usual_work.of), (0, "assumed"));
    assert!(view.spells.iter().all(|spell| spell.verdict != SpellVerdict::Nuisance));
    // At danger or above nothing warned; the horizon may be too short as well.
    let danger = Asked { least: Some(tally_core::severity::Severity::Danger), ..Asked::default() };
    assert_eq!(play(&plant, ladder(7, 0), &danger).unwrap().missed, 1);
    // Problems that the meter can't see are no failures of its.
    let other = Asked { problems: Some(vec!["LEAK".into()]), ..Asked::default() };
    let blind = play(&plant, ladder(7, 0), &other).unwrap();
    assert_eq!((blind.caught, blind.missed), (0, 0));
    // They are offered all the same, with their counts.
    let offered: Vec<_> = blind.problems.iter().map(|problem| (problem.code.as_str(), problem.failures)).collect();
    assert_eq!(offered, [("NOISE", 1)]);
}

/// 900 readings an hour apart, every other one above the alert: 450 entries, each left an hour later.
#[test]
fn many_alarms_are_drawn_as_few_and_counted_as_many() {
    let plant = Plant::new();
    let value = |n: i64| if n % 2 == 0 { 25.0 } else { 10.0 };
    let rows: Vec<_> = (0..900).map(|n| reading("M-BAR", day(1).plus(n * HOUR), value(n))).collect();
    plant.ingest(&rows, at("2026-02-20T00:00:00Z"));
    let span = Span::new(day(1), at("2026-03-01T00:00:00Z")).unwrap();
    let played = |drawn: Option<Span>| {
        let ladder: Ladder = serde_json::from_value(ladder(7, 0)).unwrap();
        asking(&plant, |asking| of_meter(asking, "M-BAR", span, Some(ladder), &Asked::default(), drawn)).unwrap()
    };
    // A 300th of 59 days is 4.7 hours, and an hour lies between one alarm and the next.
    let whole = played(None);
    assert_eq!(whole.entered, [450, 0, 0, 0]);
    assert_eq!(whole.alarms.iter().map(|one| (one.rung, one.alarms)).collect::<Vec<_>>(), [(0, 450)]);
    // Ten days of it are few enough to be listed one by one.
    let part = played(Span::new(day(11), day(21)).ok());
    assert_eq!((part.alarms.len(), part.entered[0]), (120, 450));
    assert!(part.alarms.iter().all(|one| one.alarms == 1));
}

#[test]
fn an_incipient_failure_is_none_to_warn_of() {
    let plant = Plant::new();
    with_a_failure(&plant, "incipient");
    let view = play(&plant, ladder(7, 0), &Asked::default()).unwrap();
    assert_eq!((view.caught, view.missed), (0, 0));
}

#[test]
fn a_ladder_that_cannot_be_is_refused_by_field_and_nothing_is_written() {
    let plant = Plant::new();
    with_a_failure(&plant, "critical");
    let mut wrong = ladder(7, 0);
    wrong["rungs"][1]["setpoint"] = json!(10.0);
    let error = play(&plant, wrong, &Asked::default()).unwrap_err();
    assert!(error.to_string().starts_with("ladder.rungs[1].setpoint: danger high at 10 must lie above"), "{error}");
    play(&plant, ladder(7, 0), &Asked::default()).unwrap();
    let (alarms, versions): (i64, i64) = plant
        .store
        .read(|conn| {
            let count = |table: &str| conn.query_row(&format!("SELECT count(*) FROM {table}"), [], |row| row.get(0));
            Ok::<_, StoreError>((count("alarms")?, count("ladder_versions")?))
        })
        .unwrap();
    assert_eq!((alarms, versions), (0, 0));
}

/// Readings from 10 to 26: the grid of three setpoints is 14, 18, 22; entered on days 4, 6 and 8 at noon.
#[test]
fn the_finder_sweeps_the_range_that_was_read() {
    let plant = Plant::new();
    with_a_failure(&plant, "critical");
    let span = Span::new(day(1), at("2026-03-01T00:00:00Z")).unwrap();
    let ladder: Ladder = serde_json::from_value(ladder(7, 0)).unwrap();
    let find = |rung| {
        asking(&plant, |asking| {
            let which = FinderAsked { rung, steps: Some(3), deadbands: vec![] };
            finder(asking, "M-BAR", span, Some(ladder.clone()), &which, &Asked::default())
        })
    };
    let found = find(0).unwrap();
    assert!(
        found.assumptions.iter().any(|given| given.starts_with("Work is taken to last 14 days")),
        "it says what it takes as given"
    );
    let points: Vec<_> =
        found.points.iter().map(|p| (p.setpoint, p.caught, p.median_warning_ms.unwrap() / HOUR)).collect();
    assert_eq!(points, [(14.0, 1, 156), (18.0, 1, 108), (22.0, 1, 60)]);
    let none = find(9).unwrap_err();
    assert_eq!(none.to_string(), "rung: the ladder has no such rung with a setpoint");
}

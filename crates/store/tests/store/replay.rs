//! A replay says what the live path does: the same machine, the same decisions.

use crate::beside::{Beside, clean_deeds, deeds, given_values, ladder, suspended, told};
use crate::common::{Plant, at, day, reading};
use proptest::prelude::*;
use serde_json::json;
use tally_core::watch::alarms::ResponseGiven;
use tally_core::{
    ground::{
        ids::WorkOrderId,
        time::{DAY, HOUR, Instant, Span},
    },
    watch::{
        limits::{
            Ladder, RungSide,
            replay::{Assumptions, History, replay},
            warnings::{Past, WarningVerdict},
        },
        meters::Meter,
        readings::{Columns, Reading},
    },
};
use tally_store::{
    StoreError, View,
    watch::{
        alarms, readings,
        readings::NewExchange,
        replay::{FinderAsked, JudgedBy, finder, of_meter},
    },
};

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    /// With work finished, dropped and judged, shelves, spells out of use and a ladder that is suspended now and then.
    #[test]
    fn live_and_replay_give_the_same_alarms_and_the_same_work(
        values in given_values(),
        batches in prop::collection::vec((1..9usize, clean_deeds()), 60),
        (interval, delay, suspends) in (0..6u32, 0..4u32, any::<bool>()),
    ) {
        let mut beside = Beside::new(suspended(ladder(interval, delay), suspends));
        let until = beside.play(&values, batches);
        let played = beside.replayed(until);
        let live = beside.alarms();
        let mut alarms: Vec<_> = live.iter().map(|alarm| (beside.rung(alarm), alarm.entered_at, alarm.left_at)).collect();
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
        // Every order keeps what raised it.
        for number in 1_001..=1_000 + i64::try_from(played.work.len()).unwrap() {
            let order = beside.plant.order(WorkOrderId(number), until);
            let why = order.why.unwrap();
            let raised = |occurrence: &alarms::AlarmRow| occurrence.work_orders.contains(&WorkOrderId(number));
            prop_assert!(!why.occurrences.is_empty() && why.occurrences.iter().all(raised), "{number}");
            prop_assert_eq!(why.ladder_version, 1);
        }
    }

    /// With readings voided and late, of the meter and of the one that suspends it, and new versions: what stands is what
    /// stands in a replay of the readings as they are now, and no alarm ends before it began.
    #[test]
    fn what_stands_is_what_a_replay_finds_standing(
        values in given_values(),
        batches in prop::collection::vec((1..9usize, deeds()), 60),
        (interval, delay, suspends) in (0..6u32, 0..4u32, any::<bool>()),
    ) {
        let mut beside = Beside::new(suspended(ladder(interval, delay), suspends));
        let until = beside.play(&values, batches);
        let played = beside.replayed(until);
        let standing = played.alarms.iter().filter(|alarm| alarm.left_at.is_none()).map(|alarm| alarm.rung);
        let mut standing: Vec<usize> = standing.collect();
        standing.sort_unstable();
        let live = beside.alarms();
        let stands = live.iter().filter(|alarm| alarm.left_at.is_none()).map(|alarm| beside.rung(alarm));
        let mut stands: Vec<usize> = stands.collect();
        stands.sort_unstable();
        prop_assert_eq!(standing, stands);
        for alarm in live {
            prop_assert!(alarm.left_at.is_none_or(|left| left >= alarm.entered_at), "{:?}", alarm);
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// The oracle is a meter that never had its device changed: rates and changes of the one whose devices are exchanged are
    /// those of the plain sum of its steps. Where an exchange is noted only when the next readings are in, what stands is.
    #[test]
    fn a_rate_and_a_change_do_not_see_that_a_device_was_exchanged(
        steps in prop::collection::vec((0..7u8, prop::option::weighted(0.2, (0..200u8, 0..4usize))), 2..40),
        (slow, far) in (1..6u8, 5..80u8),
        late_ones in any::<bool>(),
    ) {
        let given = json!({"rungs": [
            {"side": "low", "on": "rate", "severity": "alert", "setpoint": f64::from(slow) / 7.0,
                "response": {"kind": "record"}},
            {"side": "high", "on": "change", "severity": "danger", "setpoint": f64::from(far), "baseline": 100.0,
                "response": {"kind": "record"}}]});
        let plant = Plant::new();
        plant.set_limits("M-H", given.clone(), day(1)).unwrap();
        let (mut sum, mut shown) = (100.0, 100.0);
        let mut through = Columns::default();
        let mut late: Vec<(usize, NewExchange)> = Vec::new();
        let note = |new: &NewExchange, now| plant.write(now, |tx| readings::exchange(tx, "M-H", new)).unwrap();
        for (n, &(step, exchanged)) in (1..).zip(&steps) {
            let at = day(1).plus(n * 7 * HOUR);
            let end = shown + f64::from(step);
            shown = end;
            if let Some((start, wait)) = exchanged {
                // An hour before the reading; all that ran since the last one ran on the old device. A new one that nobody
                // has told of is believed as long as it shows a little more.
                let is_late = late_ones && wait > 0;
                shown = if is_late { end + f64::from(start % (8 - step)) } else { f64::from(start) };
                let new = NewExchange { at: at.plus(-HOUR), final_value: end, start_value: shown };
                if is_late { late.push((n as usize + wait, new)) } else { note(&new, at.plus(-1)) }
            }
            sum += f64::from(step);
            let receipt = plant.ingest(&[reading("M-H", at, shown)], at);
            prop_assert_eq!(receipt.accepted, 1, "{:?}", receipt);
            for (_, new) in late.extract_if(.., |one| one.0 <= n as usize) {
                note(&new, at.plus(1));
            }
            through = through.iter().chain([Reading { at, value: sum }]).collect();
        }
        let until = day(1).plus((steps.len() as i64 + 1) * 7 * HOUR);
        late.iter().for_each(|(_, new)| note(new, until.plus(-1)));
        let (meter, past) = (Meter::measurement("h"), Past::default());
        let ladder: Ladder = serde_json::from_value(given).unwrap();
        let wanted = replay(&ladder, &History::of(&meter, &through, until, &past), &Assumptions::default());
        let live = plant.store.read(Instant::LATEST, |view| alarms::of_meter(view, "M-H", Span::ALWAYS, 1_000)).unwrap();
        let rung = |alarm: &alarms::AlarmRow| usize::from(alarm.side == Some(RungSide::High));
        let mut live: Vec<_> = live.iter().map(|alarm| (rung(alarm), alarm.entered_at, alarm.left_at)).collect();
        live.sort();
        let mut wanted = told(&wanted);
        if late_ones {
            let stands = |alarms: &mut Vec<(usize, Instant, Option<Instant>)>| {
                alarms.retain(|one| one.2.is_none());
                alarms.iter_mut().for_each(|one| one.1 = Instant::EARLIEST);
            };
            stands(&mut live);
            stands(&mut wanted);
        }
        prop_assert_eq!(live, wanted);
    }
}

/// Pressure rises from 10 to 26 in eight days, the machine fails on the ninth, and is mended.
fn with_a_failure(plant: &Plant, effect: &str) {
    let values: Vec<f64> = (0..9).map(|n| 10.0 + 2.0 * f64::from(n)).collect();
    let rows: Vec<_> = (0..).zip(values).map(|(n, value)| reading("M-BAR", day(2).plus(n * DAY), value)).collect();
    plant.ingest(&rows, day(11));
    let number = plant
        .write(day(11), |tx| {
            let new = json!({"title": "Burst", "kind": "corrective_immediate", "asset": "EQ", "risk_rank": 1});
            tally_store::work::raise(tx, &serde_json::from_value(new).unwrap())
        })
        .unwrap();
    plant
        .write(day(11), |tx| {
            let report =
                json!({"asset": "EQ", "problem": "NOISE", "failed_at": "2026-01-11T00:00:00Z", "effect": effect});
            tally_store::codes::failures::put(tx, number, &serde_json::from_value(report).unwrap())
        })
        .unwrap();
}

/// Asks about the past on the first of March.
fn asking<T>(plant: &Plant, ask: impl FnOnce(&View) -> Result<T, StoreError>) -> Result<T, StoreError> {
    plant.store.read(at("2026-03-01T00:00:00Z"), ask)
}

fn play(
    plant: &Plant,
    ladder: serde_json::Value,
    asked: &JudgedBy,
) -> Result<tally_store::watch::replay::ReplayView, StoreError> {
    let span = Span::new(day(1), at("2026-03-01T00:00:00Z")).unwrap();
    let ladder: Ladder = serde_json::from_value(ladder).unwrap();
    asking(plant, |asking| of_meter(asking, "M-BAR", span, Some(ladder), asked, None))
}

/// The alert at 20 is entered on day 7 (10, 12, … 20), at noon; the failure comes on day 11 at midnight: 3.5 days.
#[test]
fn a_failure_below_the_meters_asset_is_caught_with_its_warning() {
    let plant = Plant::new();
    with_a_failure(&plant, "critical");
    let view = play(&plant, ladder(7, 0), &JudgedBy::default()).unwrap();
    assert_eq!((view.caught, view.missed, view.nuisance), (1, 0, 0), "{:?}", view.warnings);
    assert_eq!(view.failures[0].judged.warning_ms, Some(7 * DAY / 2));
    assert_eq!((view.failures[0].title.as_str(), view.failures[0].problem.as_deref()), ("Burst", Some("NOISE")));
    assert_eq!(view.entered, [1, 0, 0, 0]);
    assert_eq!((view.usual_work.from, view.usual_work.of), (0, "assumed"));
    assert!(view.warnings.iter().all(|warning| warning.verdict != WarningVerdict::Nuisance));
    // At danger or above nothing warned; the horizon may be too short as well.
    let danger = JudgedBy { least: Some(tally_core::ground::severity::Severity::Danger), ..JudgedBy::default() };
    assert_eq!(play(&plant, ladder(7, 0), &danger).unwrap().missed, 1);
    // Problems that the meter can't see are no failures of its.
    let other = JudgedBy { problems: Some(vec!["LEAK".into()]), ..JudgedBy::default() };
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
        asking(&plant, |asking| of_meter(asking, "M-BAR", span, Some(ladder), &JudgedBy::default(), drawn)).unwrap()
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
    let view = play(&plant, ladder(7, 0), &JudgedBy::default()).unwrap();
    assert_eq!((view.caught, view.missed), (0, 0));
}

#[test]
fn a_ladder_that_cannot_be_is_refused_by_field_and_nothing_is_written() {
    let plant = Plant::new();
    with_a_failure(&plant, "critical");
    let mut wrong = ladder(7, 0);
    wrong["rungs"][1]["setpoint"] = json!(10.0);
    let error = play(&plant, wrong, &JudgedBy::default()).unwrap_err();
    assert!(error.to_string().starts_with("ladder.rungs[1].setpoint: danger high at 10 must lie above"), "{error}");
    play(&plant, ladder(7, 0), &JudgedBy::default()).unwrap();
    let database = plant.database();
    let count = |table: &str| -> i64 {
        database.query_row(&format!("SELECT count(*) FROM {table}"), [], |row| row.get(0)).unwrap()
    };
    assert_eq!((count("alarms"), count("ladder_versions")), (0, 0));
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
            let which = FinderAsked { rung, steps: Some(3), compare_deadbands: false };
            finder(asking, "M-BAR", span, Some(ladder.clone()), &which, &JudgedBy::default())
        })
    };
    let found = find(0).unwrap();
    assert!(
        found.assumptions.iter().any(|given| given.starts_with("Work is taken to last 14 days")),
        "it says what it takes as given"
    );
    let points: Vec<_> = found
        .points
        .iter()
        .map(|p| p.point)
        .map(|p| (p.setpoint, p.caught, p.median_warning_ms.unwrap() / HOUR))
        .collect();
    assert_eq!(points, [(14.0, 1, 156), (18.0, 1, 108), (22.0, 1, 60)]);
    let none = find(9).unwrap_err();
    assert_eq!(none.to_string(), "rung: the ladder has no such rung with a setpoint");
}

//! The demo's plant and its stories, with figures worked out by hand from the plan of its history.

#![allow(clippy::unwrap_used, reason = "a test that fails by an unwrap says where")]

use std::sync::OnceLock;
use tally_core::{
    ground::{
        severity::Severity,
        time::{Instant, Span},
    },
    plant::assets::Basis,
    tally::{
        Question, figures,
        indicators::{Figure, Indicator},
    },
    work::WorkState,
};
use tally_demo::{
    TODAY, ensure, opening,
    plan::{self, Size, before},
};
use tally_store::{
    Result, Store, StoreError, View,
    access::people,
    codes::codebooks,
    plant::assets,
    watch::{alarms, families, meters, replay},
    work,
};

type Made = OnceLock<(tempfile::TempDir, Store)>;

fn make(size: Size) -> (tempfile::TempDir, Store) {
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(folder.path(), opening(TODAY)).unwrap();
    ensure(&store, TODAY, size, |_| ()).unwrap();
    (folder, store)
}

/// The whole plant, made once for all tests of this file.
fn demo() -> &'static Store {
    static DEMO: Made = OnceLock::new();
    &DEMO.get_or_init(|| make(Size::Full)).1
}

/// The gondola alone.
fn small() -> &'static Store {
    static DEMO: Made = OnceLock::new();
    &DEMO.get_or_init(|| make(Size::Small)).1
}

fn at(text: &str) -> Instant {
    Instant::parse(text).unwrap()
}

fn figure(code: &str, indicator: Indicator, from: &str, to: &str) -> Figure {
    figure_as(Basis::AsWas, code, indicator, from, to)
}

fn figure_as(basis: Basis, code: &str, indicator: Indicator, from: &str, to: &str) -> Figure {
    demo()
        .read(Instant::LATEST, |view| {
            let snapshot = view.facts()?;
            let id = assets::require(view, code)?;
            let period = Span::new(at(from), at(to)).unwrap();
            let q = Question { period, now: opening(TODAY), basis };
            Ok::<_, StoreError>(figures(snapshot, &[id], &[indicator], q)[0][0])
        })
        .unwrap()
}

/// The plan: the bearing seizes on 27 January 2026 at 10:40 local time (UTC+1) for 31 h, to 17:40 the day after. The lift
/// runs from 08:00 to 17:00: 6 h 20 of the first day and 9 h of the second are required time.
#[test]
fn the_bearing_puts_the_whole_lift_down_for_its_required_hours() {
    for code in ["G1-DRV-GBX-HSB", "G1-DRV-GBX", "G1-DRV", "G1"] {
        let down = figure(code, Indicator::UnplannedDowntime, "2026-01-26T23:00:00Z", "2026-01-28T23:00:00Z");
        assert!((down.value.unwrap() - (6.0 + 1.0 / 3.0 + 9.0)).abs() < 1e-9, "{code}: {down:?}");
    }
    let site = figure("OMB", Indicator::UnplannedDowntime, "2026-01-26T23:00:00Z", "2026-01-28T23:00:00Z");
    assert_eq!(site.value, Some(0.0), "one lift down is not the site down");
}

/// The plan: 46 h shared by three mechanics in quarter hours (15.25 h each) at 48.00, 52.00 and 46.00, a bearing set of
/// 3,180.00 and a crane of 1,940.00.
#[test]
fn the_bearings_cost_is_what_was_planned() {
    let labour = 15.25 * (48.0 + 52.0 + 46.0);
    let cost = figure("G1-DRV-GBX-HSB", Indicator::CostTotal, "2026-01-26T23:00:00Z", "2026-01-28T23:00:00Z");
    assert_eq!(cost.value, Some((labour + 3_180.0 + 1_940.0) * 100.0));
    assert_eq!(cost.provisional, Some(0), "its work was closed");
    let restore = figure("G1-DRV-GBX-HSB", Indicator::Mttr, "2026-01-26T23:00:00Z", "2026-01-28T23:00:00Z");
    assert_eq!(restore.value, Some(31.0), "waiting included and not cut to the calendar");
}

#[test]
fn nothing_warned_of_the_bearing_because_its_acceleration_has_no_limit() {
    demo()
        .read(opening(TODAY), |view| {
            let meter = meters::detail(view, "G1-DRV-GBX-ACC")?;
            assert!(!meter.row.has_ladder);
            assert!(alarms::of_meter(view, "G1-DRV-GBX-ACC", Span::ALWAYS, 10)?.is_empty());
            // The plan: from 1.1 g growing by the same share each day to 13 g; 4 g would have been passed 57 days before.
            let span = Span::new(at("2025-11-30T00:00:00Z"), at("2025-12-03T00:00:00Z")).unwrap();
            let mut values = Vec::new();
            tally_store::watch::readings::raw(view, "G1-DRV-GBX-ACC", span, |_, value, _| values.push(value))?;
            assert!(values.iter().all(|value| (3.4..5.0).contains(value)), "{values:?}");
            Ok::<_, StoreError>(())
        })
        .unwrap();
}

/// The plan: from 1.1 g on, the bearing's acceleration grows by the same share each day to 13 g on the day it fails, 120 days
/// later. It passes 6 g after 120 × ln(6 / 1.1) / ln(13 / 1.1) = 82.4 days, 37.6 before the failure; the readings scatter by
/// at most 12 % around it, which is ln(1.12) / (ln(13 / 1.1) / 120) = 5.5 days.
#[test]
fn a_limit_of_six_g_would_have_caught_the_bearing_more_than_five_weeks_before() {
    let ladder: tally_core::watch::limits::Ladder = serde_json::from_value(serde_json::json!({
        "raise_interval_seconds": 14 * 86_400,
        "rungs": [{"side": "high", "severity": "alert", "setpoint": 6.0, "deadband": 1.0, "response": {"kind": "raise"}}],
    }))
    .unwrap();
    let span = Span::new(at("2025-02-16T00:00:00Z"), opening(TODAY)).unwrap();
    let asked = replay::JudgedBy { horizon_days: Some(60), ..replay::JudgedBy::default() };
    let (played, within_30_days, found) = demo()
        .read(opening(TODAY), |view| {
            let (meter, given) = ("G1-DRV-GBX-ACC", Some(ladder.clone()));
            let which = replay::FinderAsked { rung: 0, steps: Some(50), compare_deadbands: false };
            let found = replay::finder(view, meter, span, given.clone(), &which, &asked)?;
            let within = replay::of_meter(view, meter, span, given.clone(), &replay::JudgedBy::default(), None)?;
            Ok::<_, StoreError>((replay::of_meter(view, meter, span, given, &asked, None)?, within, found))
        })
        .unwrap();
    assert_eq!(
        (played.caught, played.missed, played.nuisance, played.work.len()),
        // Nobody acts on imagined work: it is done after 14 days, and the rung, still entered, raises again with the
        // interval of 14 days: on days 0, 14 and 28 of some 41.
        (1, 0, 0, 3),
        "{:?}",
        played.failures
    );
    // Who looks no further than 30 days ahead has one such stretch without a failure before the one with it.
    let within = (within_30_days.caught, within_30_days.missed, within_30_days.nuisance, within_30_days.warnings.len());
    assert_eq!(within, (1, 0, 1, 2), "the failure ends a warning: {:?}", within_30_days.warnings);
    let days = played.median_warning_ms.unwrap() as f64 / 86_400_000.0;
    assert!((37.0..44.0).contains(&days), "{days} days before");
    let points: Vec<_> = found.points.iter().map(|tried| tried.point).collect();
    // No setpoint of the finder misses it; the lower ones warn in time and earlier, and some make no nuisance at all. Only
    // the highest warn within the last day.
    assert!(points.iter().all(|point| point.missed == 0), "{:?}", points);
    assert!(points.iter().filter(|point| point.setpoint < 10.0).all(|point| point.caught == 1), "{:?}", points);
    let clean = points.iter().filter(|point| point.nuisance == 0 && point.setpoint < 6.0);
    assert!(clean.filter_map(|point| point.median_warning_ms).any(|ms| ms > 38 * 86_400_000), "{:?}", points);
}

#[test]
fn the_pressure_stands_below_its_limit_with_work_under_planning() {
    demo()
        .read(Instant::LATEST, |view| {
            let standing = alarms::standing(view, None, 100)?;
            let pressure = standing.iter().find(|alarm| alarm.meter == "G1-TEN-PRS").unwrap();
            assert_eq!((pressure.severity, pressure.side.map_or("", |side| side.word())), (Severity::Alert, "low"));
            let number = pressure.work_order.unwrap();
            assert_eq!(work::standing(view, number)?.state, WorkState::Planning);
            Ok::<_, StoreError>(())
        })
        .unwrap();
}

/// The plan: pump A stands from 09:00 to 15:00 and pump B from 12:10 to 13:40 on a day of the winter season.
#[test]
fn one_pump_of_two_is_enough() {
    let day = before(TODAY, plan::BOTH_PUMPS_DOWN);
    assert_eq!(day.to_string(), "2025-12-08");
    let down = |code| figure(code, Indicator::UnplannedDowntime, "2025-12-07T23:00:00Z", "2025-12-08T23:00:00Z").value;
    assert_eq!(down("G1-TEN-PA"), Some(6.0));
    assert_eq!(down("G1-TEN-PB"), Some(1.5));
    for above in ["G1-TEN", "G1"] {
        assert_eq!(down(above), Some(1.5), "{above} is down only while both pumps are");
    }
}

/// The plan: on 14 days of the stormy winter every lift stood from 09:00 to 15:00, and on no other of its days.
#[test]
fn the_stormy_winter_is_external_downtime_of_every_lift() {
    for lift in ["G1", "C2", "T3", "F4"] {
        let down = figure(lift, Indicator::ExternalDowntime, "2023-11-30T23:00:00Z", "2024-03-31T22:00:00Z");
        assert_eq!(down.value, Some(14.0 * 6.0), "{lift}");
    }
}

/// The plan: MOT-1 cost 24 h at 51.00 and 4,120.00 while it drove the gondola, 14 h and 632.00 after it went to the
/// chairlift; MOT-2 6 h and 885.00 on the chairlift, 10 h and 99.00 on the gondola.
#[test]
fn a_motors_cost_goes_with_it_and_its_place_keeps_its_own() {
    let whole = ("2021-02-16T00:00:00Z", "2026-02-16T00:00:00Z");
    let cost = |basis, code| figure_as(basis, code, Indicator::CostTotal, whole.0, whole.1).value.unwrap() / 100.0;
    let (one_before, one_after) = (24.0 * 51.0 + 4_120.0, 14.0 * 51.0 + 632.0);
    let (two_before, two_after) = (6.0 * 51.0 + 885.0, 10.0 * 51.0 + 99.0);
    assert_eq!(cost(Basis::AsWas, "MOT-1"), one_before + one_after);
    assert_eq!(cost(Basis::AsWas, "MOT-2"), two_before + two_after);
    // As it is, the chairlift takes over what MOT-1 cost on the gondola, and gives up what MOT-2 cost there.
    let moved = cost(Basis::AsIs, "C2") - cost(Basis::AsWas, "C2");
    assert!((moved - (one_before - two_before)).abs() < 0.005, "{moved}");
    let moved = cost(Basis::AsIs, "G1") - cost(Basis::AsWas, "G1");
    assert!((moved - (two_before - one_before)).abs() < 0.005, "{moved}");
    assert_eq!(cost(Basis::AsIs, "OMB"), cost(Basis::AsWas, "OMB"), "nothing leaves the site");
}

/// The plan: six critical failures of 1.5 h in the first weeks of the summer season after the batch was fitted. Each is
/// mended by 17:40, 20 minutes before the lift closes, so all of it is required time.
#[test]
fn the_bad_batch_of_liners_fails_early() {
    let season = ("2025-06-14T22:00:00Z", "2025-08-14T22:00:00Z");
    let (mut failures, mut hours) = (0.0, 0.0);
    for tower in plan::LINERS_ON {
        let code = format!("G1-LIN-T{tower:02}");
        failures += figure(&code, Indicator::Failures, season.0, season.1).value.unwrap();
        hours += figure(&code, Indicator::UnplannedDowntime, season.0, season.1).value.unwrap();
    }
    assert_eq!((failures, hours), (6.0, 9.0));
}

/// The plan: liners of the bad batch wear 8 times 0.017 mm a running day, on the mean, from the first days of the season on;
/// others half to one and a half times 0.017. A rate of 0.05 mm a day lies between: 0.0021 mm an hour, taken over two days
/// at least. New liners are measured every third day, so that each warns before it tears, if only by days.
#[test]
fn the_early_failures_of_liners_are_caught_by_their_rate_without_nuisance() {
    let ladder: tally_core::watch::limits::Ladder = serde_json::from_value(serde_json::json!({
        "rungs": [{"side": "high", "severity": "alert", "on": "rate", "over_seconds": 2 * 86_400, "setpoint": 0.0021,
            "response": {"kind": "raise"}}],
    }))
    .unwrap();
    let span = Span::new(at("2025-02-16T00:00:00Z"), opening(TODAY)).unwrap();
    let played = demo()
        .read(opening(TODAY), |view| {
            // A season: the batch was fitted 61 days before the first tore.
            let asked = replay::JudgedBy { horizon_days: Some(60), ..replay::JudgedBy::default() };
            families::replay_of(view, "sheaves", "Liner wear", span, Some(ladder), &asked)
        })
        .unwrap();
    assert_eq!((played.sums.caught, played.sums.missed, played.sums.nuisance), (6, 0, 0), "{:?}", {
        let told = played.meters.iter().filter(|one| one.sums.alarms > 0 || one.sums.missed > 0);
        told.collect::<Vec<_>>()
    });
    // The first tears 61 days after it was fitted, seven days into the season.
    let first = played.meters.iter().find(|one| one.meter == "G1-LIN-T03-UP-LIN").unwrap();
    let days = first.median_warning_ms.unwrap() as f64 / 86_400_000.0;
    assert!((0.5..7.0).contains(&days), "{days} days");
}

/// The plan: while the valve is readjusted its failure comes back after 34, 39, 32 and 31 days; replaced, it lasts.
#[test]
fn readjusting_the_valve_does_not_last_and_replacing_it_does() {
    let days: Vec<i32> = plan::VALVE_READJUSTED.into_iter().chain([plan::VALVE_REPLACED]).collect();
    assert_eq!(days.windows(2).map(|two| two[0] - two[1]).collect::<Vec<_>>(), [34, 39, 32, 31]);
    let failed = |from, to| figure("T3-TEN-VLV", Indicator::Failures, from, to).value;
    assert_eq!(failed("2024-09-13T22:00:00Z", "2025-01-28T23:00:00Z"), Some(5.0));
    assert_eq!(failed("2025-01-28T23:00:00Z", "2026-02-16T00:00:00Z"), Some(0.0));
}

/// The plan: the sensor chatters for 26 days; its raise interval is 14 days.
#[test]
fn a_chattering_sensor_raises_little_work_and_nothing_is_found() {
    demo()
        .read(Instant::LATEST, |view| {
            let from = at(&format!("{}T00:00:00Z", before(TODAY, *plan::SENSOR_CHATTERS.end())));
            let to = at(&format!("{}T00:00:00Z", before(TODAY, *plan::SENSOR_CHATTERS.start() - 1)));
            let alarms = alarms::of_meter(view, "C2-RET-BWH-VIB", Span::new(from, to).unwrap(), 1_000)?;
            let mut orders: Vec<_> = alarms.iter().filter_map(|alarm| alarm.work_order).collect();
            orders.sort_unstable();
            orders.dedup();
            assert!(alarms.len() > 10 && (1..=2).contains(&orders.len()), "{} {orders:?}", alarms.len());
            Ok::<_, StoreError>(())
        })
        .unwrap();
}

#[test]
fn the_whole_plant_is_as_large_as_it_is_said_to_be() {
    demo()
        .read(opening(TODAY), |view| {
            let nodes = assets::nodes(view, None, 9, &[])?;
            assert!((850..950).contains(&nodes.len()), "{} assets", nodes.len());
            let page = work::Page { limit: 1, ..work::Page::default() };
            let all = work::list(view, &work::Filter::default(), &page)?;
            assert!((8_500..10_500).contains(&all.totals.count), "{:?}", all.totals);
            assert!(all.totals.over_limit > 5, "{:?}", all.totals);
            let crews = people::crews(view)?;
            let people = people::list(view)?;
            assert_eq!((crews.len(), people.iter().filter(|p| p.crew.is_some()).count()), (5, 26));
            let coded: std::collections::HashSet<_> =
                codebooks::list(view)?.into_iter().filter_map(|book| book.class).collect();
            assert!(coded.len() >= 12, "{coded:?}");
            Ok::<_, StoreError>(())
        })
        .unwrap();
    let database = rusqlite::Connection::open(demo().path()).unwrap();
    let readings: i64 = database.query_row("SELECT count(*) FROM readings", [], |row| row.get(0)).unwrap();
    assert!((900_000..1_200_000).contains(&readings), "{readings} readings");
}

#[test]
fn the_plant_has_what_a_lift_has() {
    small()
        .read(opening(TODAY), |view| {
            let nodes = assets::nodes(view, Some("G1"), 9, &[])?;
            // The lift, what stands in its stations, a motor with two bearings, towers with two assemblies, cabins with
            // grip and door.
            assert_eq!(nodes.len(), 1 + 47 + 3 + 18 * 3 + 72 * 3);
            assert_eq!(codebooks::list(view)?.len(), 15);
            // 6 counters, 13 measurements, 2 bearing temperatures, 2 grades, a liner a side, a grip a cabin.
            assert_eq!(meters::list(view, None, None, Span::ALWAYS, None, 500)?.total, 6 + 13 + 2 + 2 + 36 + 72);
            let page = work::Page { limit: 1, ..work::Page::default() };
            let all = work::list(view, &work::Filter::default(), &page)?;
            assert!(all.totals.count > 250, "{:?}", all.totals);
            assert!(all.facets.state.iter().any(|f| f.value == "waiting" && f.count >= 3), "{:?}", all.facets.state);
            Ok::<_, StoreError>(())
        })
        .unwrap();
}

#[test]
fn the_same_day_gives_the_same_plant() {
    let (_folder, again) = make(Size::Small);
    let content = |store: &Store| -> Vec<i64> {
        let counts = |view: &View| -> Result<Vec<i64>> {
            let page = work::Page { limit: 1, ..work::Page::default() };
            let totals = work::list(view, &work::Filter::default(), &page)?.totals;
            let readings = meters::list(view, None, None, Span::ALWAYS, None, 500)?;
            let last: f64 = readings.meters.iter().filter_map(|m| m.last).map(|l| l.value).sum();
            Ok(vec![totals.count, totals.cost, (totals.spent_hours * 100.0) as i64, (last * 1000.0) as i64])
        };
        store.read(opening(TODAY), counts).unwrap()
    };
    assert_eq!(content(small()), content(&again));
    ensure(&again, TODAY, Size::Small, |_| panic!("a folder that holds the plant is left as it is")).unwrap();
}

//! Master data: assets and their places, calendars, meters, people, settings, and finding them again.

use crate::common::{Plant, add_asset, add_meter, at, day, person, reading, year};
use rstest::rstest;
use serde_json::{Value, json};
use tally_core::{
    access::roles::Role,
    ground::{
        ids::AssetId,
        severity::Severity,
        time::{Instant, Span},
    },
    plant::{
        assets::{Basis, ParentEffect},
        downtime::{DowntimeKind, NewDowntime},
        settings::Settings,
    },
    tally::{Question, figures, indicators::Indicator},
};
use tally_store::{
    StoreError,
    access::people,
    lists::search,
    plant::{assets, calendars, downtime, settings},
    watch::{alarms, meters, readings},
};

#[rstest]
#[case::no_name(json!({"code": "X", "name": " ", "level": "part"}), "name: an asset needs a name")]
#[case::a_blank_in_the_code(json!({"code": "a b", "name": "n", "level": "part"}),
    "code: \"a b\" is no code: use 1 to 64 letters, digits, '-', '_' or '.', starting with a letter or digit")]
#[case::an_unknown_parent(json!({"code": "X", "name": "n", "level": "part", "parent": "NO"}), "parent: there is no asset \"NO\"")]
#[case::an_unknown_class(json!({"code": "X", "name": "n", "level": "part", "class": "NO"}), "class: there is no equipment class \"NO\"")]
#[case::an_unknown_crew(json!({"code": "X", "name": "n", "level": "part", "crew": "NO"}), "crew: there is no crew \"NO\"")]
#[case::retired_before_it_began(json!({"code": "X", "name": "n", "level": "part",
    "commissioned_at": "2026-02-01T00:00:00Z", "retired_at": "2026-01-01T00:00:00Z"}), "retired_at: must lie after commissioned_at")]
#[case::a_taken_code(json!({"code": "EQ", "name": "n", "level": "part"}), "there is an asset EQ already")]
fn an_asset_that_makes_no_sense_is_refused(#[case] asset: Value, #[case] message: &str) {
    let plant = Plant::new();
    let error = plant.write(day(2), |tx| add_asset(tx, asset)).unwrap_err();
    assert_eq!(error.to_string(), message);
}

#[rstest]
#[case::a_grade_without_names(json!({"code": "X", "asset": "EQ", "kind": "grade"}), "grades: a grade needs at least two named values")]
#[case::a_grade_named_twice(json!({"code": "X", "asset": "EQ", "kind": "grade", "grades": ["a", "a"]}), "grades: the grade \"a\" stands twice in the list")]
#[case::a_range_upside_down(json!({"code": "X", "asset": "EQ", "kind": "measurement", "unit": "bar", "plausible_low": 5.0, "plausible_high": 1.0}),
    "plausible_high: the plausible range must run from lower to higher")]
#[case::a_rate_of_nothing(json!({"code": "X", "asset": "EQ", "kind": "counter", "unit": "1", "greatest_rate": 0.0}),
    "greatest_rate: greatest_rate must be a number greater than 0")]
#[case::running_hours_in_bar(json!({"code": "X", "asset": "EQ", "kind": "measurement", "unit": "bar", "running_hours": true}),
    "running_hours: only a counter of hours (h) can be operating time")]
#[case::a_second_counter_of_running_hours(json!({"code": "X", "asset": "EQ", "kind": "counter", "unit": "h", "running_hours": true}),
    "running_hours: the asset has a running-hours counter already")]
#[case::no_unit(json!({"code": "X", "asset": "EQ", "kind": "measurement", "unit": " "}), "unit: give a UCUM code, such as mm/s, Cel or 1")]
fn a_meter_that_makes_no_sense_is_refused(#[case] meter: Value, #[case] message: &str) {
    let plant = Plant::new();
    let error = plant.write(day(2), |tx| add_meter(tx, meter)).unwrap_err();
    assert_eq!(error.to_string(), message);
}

#[test]
fn a_tree_is_answered_level_by_level_with_what_stands_below() {
    let plant = Plant::new();
    let danger =
        json!({"rungs": [{"side": "high", "severity": "danger", "setpoint": 4.0, "response": {"kind": "raise"}}]});
    plant.set_limits("M-ACC", danger, day(1)).unwrap();
    plant.send("M-ACC", &[5.0], day(2));
    let open = |scope: Option<&str>, depth, open: &[&str]| -> Vec<String> {
        let nodes = plant.store.read(day(3), |view| assets::nodes(view, scope, depth, open)).unwrap();
        nodes.into_iter().map(|node| node.code).collect()
    };
    let codes = |scope, depth| open(scope, depth, &[]);
    assert_eq!(codes(None, 0), ["SITE"]);
    assert_eq!(codes(Some("SYS"), 1), ["SYS", "EQ"]);
    assert_eq!(codes(None, 9).len(), 7);
    // What stands open further down comes with it, where all above it is open too.
    assert_eq!(open(None, 0, &["SITE", "UNIT", "GONE"]), ["SITE", "UNIT", "SYS"]);
    assert_eq!(open(None, 1, &["SYS"]), ["SITE", "UNIT"], "not reached");
    let site = plant.store.read(day(3), |view| assets::nodes(view, None, 0, &[])).unwrap().remove(0);
    assert_eq!((site.worst_severity, site.open_work, site.has_children), (Some(Severity::Danger), 1, true));
    let part = plant.store.read(day(3), |view| assets::detail(view, "PART")).unwrap();
    let above: Vec<_> = part.above.iter().map(|asset| asset.code.as_str()).collect();
    assert_eq!(above, ["SITE", "UNIT", "SYS", "EQ", "SUB", "ASM"]);
    assert_eq!(part.placements.len(), 1);
}

fn hours(plant: &Plant, code: &str, indicator: Indicator, now: Instant) -> Option<f64> {
    plant
        .store
        .read(Instant::LATEST, |view| {
            let snapshot = view.facts()?;
            let id = assets::require(view, code)?;
            let q = Question { period: year(), now, basis: Basis::AsWas };
            Ok::<_, StoreError>(figures(snapshot, &[id], &[indicator], q)[0][0].value)
        })
        .unwrap()
}

#[test]
fn a_calendar_is_inherited_and_cuts_downtime_to_required_time() {
    let plant = Plant::new();
    // 1 January 2026 is a Thursday. Weekdays 08:00 to 16:00.
    let weekdays: Vec<_> = (0..5).map(|day| json!({"weekday": day, "from_minute": 480, "to_minute": 960})).collect();
    let new = json!({"code": "day", "name": "Day shift", "time_zone": "UTC", "hours": weekdays});
    plant
        .write(day(1), |tx| {
            calendars::add(tx, &serde_json::from_value(new).unwrap())?;
            calendars::assign(tx, "UNIT", "day", Instant::EARLIEST)
        })
        .unwrap();
    let down = json!({"kind": "unplanned", "start": "2026-01-02T14:00:00Z", "end": "2026-01-05T10:00:00Z"});
    plant.write(day(6), |tx| downtime::add_to_asset(tx, "PART", &serde_json::from_value(down).unwrap())).unwrap();
    // Friday 14:00 to 16:00 and Monday 08:00 to 10:00.
    assert_eq!(hours(&plant, "PART", Indicator::UnplannedDowntime, day(6)), Some(4.0));
    // Thursday, Friday, Monday whole, Tuesday up to noon: 28 h required.
    assert_eq!(hours(&plant, "EQ", Indicator::Availability, day(6)), Some(24.0 / 28.0));
    // The site above the calendar is required around the clock.
    assert_eq!(hours(&plant, "SITE", Indicator::UnplannedDowntime, day(6)), Some(68.0));
    let wrong = json!({"code": "x", "name": "x", "time_zone": "UTC", "hours": [{"weekday": 9, "from_minute": 0, "to_minute": 1}]});
    let error = plant.write(day(6), |tx| calendars::add(tx, &serde_json::from_value(wrong).unwrap())).unwrap_err();
    assert_eq!(error.to_string(), "hours: weekday 9 is not 0 (Monday) to 6");
}

#[test]
fn what_being_down_does_to_the_parent_changes_from_an_instant_on() {
    let plant = Plant::new();
    for (from, to) in
        [("2026-01-02T00:00:00Z", "2026-01-02T10:00:00Z"), ("2026-01-04T00:00:00Z", "2026-01-04T10:00:00Z")]
    {
        let down = json!({"kind": "unplanned", "start": from, "end": to});
        plant.write(day(6), |tx| downtime::add_to_asset(tx, "PART", &serde_json::from_value(down).unwrap())).unwrap();
    }
    assert_eq!(hours(&plant, "SITE", Indicator::UnplannedDowntime, day(6)), Some(20.0));
    let from = at("2026-01-03T00:00:00Z");
    plant.write(day(6), |tx| assets::set_parent_effect(tx, "PART", &ParentEffect::No, from)).unwrap();
    assert_eq!(
        hours(&plant, "SITE", Indicator::UnplannedDowntime, day(6)),
        Some(10.0),
        "the second day stays with the part"
    );
    assert_eq!(hours(&plant, "PART", Indicator::UnplannedDowntime, day(6)), Some(20.0));
}

#[test]
fn an_asset_moves_once_it_has_happened_and_later_moves_come_first() {
    let plant = Plant::new();
    let to =
        |parent: &str, when: Instant| assets::Move { parent: Some(parent.into()), at: when, reason: "rebuilt".into() };
    let ahead = plant.write(day(3), |tx| assets::relocate(tx, "PART", &to("EQ", day(4)))).unwrap_err();
    assert_eq!(ahead.to_string(), "at: a move can be entered once it has happened");
    plant.write(day(5), |tx| assets::relocate(tx, "PART", &to("EQ", day(4)))).unwrap();
    let earlier = plant.write(day(5), |tx| assets::relocate(tx, "PART", &to("SYS", day(2)))).unwrap_err();
    assert_eq!(earlier.to_string(), "at: the asset was moved again after that; its later moves come first");
    plant.write(day(5), |tx| assets::relocate(tx, "PART", &to("SUB", day(4)))).unwrap();
    let places = plant.store.read(day(5), |view| assets::detail(view, "PART")).unwrap().placements;
    let parents: Vec<_> = places.iter().map(|p| (p.parent.as_ref().map(|a| a.code.as_str()), p.to)).collect();
    assert_eq!(
        parents,
        [(Some("ASM"), Some(day(4))), (Some("SUB"), None)],
        "a move at the same instant takes its place"
    );
}

#[test]
fn the_worst_meter_comes_first_then_the_nearest_and_those_without_limits_last() {
    let plant = Plant::new();
    plant
        .write(day(1), |tx| {
            for code in ["M-FAR", "M-NEAR", "M-BARE"] {
                add_meter(tx, json!({"code": code, "asset": "EQ", "kind": "measurement", "unit": "Cel"}))?;
            }
            Ok(())
        })
        .unwrap();
    let limit =
        json!({"rungs": [{"side": "high", "severity": "alert", "setpoint": 10.0, "response": {"kind": "record"}}]});
    for meter in ["M-FAR", "M-NEAR", "M-ACC"] {
        plant.set_limits(meter, limit.clone(), day(1)).unwrap();
    }
    for (meter, value) in [("M-FAR", 1.0), ("M-NEAR", 9.0), ("M-ACC", 11.0), ("M-BARE", 3.0)] {
        plant.send(meter, &[value], day(2));
    }
    let span = Span::new(day(1), day(3)).unwrap();
    let page = |cursor: Option<&str>, limit| {
        plant.store.read(Instant::LATEST, |view| meters::list(view, None, None, span, cursor, limit)).unwrap()
    };
    let first = page(None, 3);
    let codes: Vec<_> = first.meters.iter().map(|m| m.code.as_str()).collect();
    assert_eq!(codes, ["M-ACC", "M-NEAR", "M-FAR"]);
    assert_eq!((first.total, first.by_severity), (6, [0, 1, 0, 0]));
    assert_eq!(first.meters[1].distance, Some(1.0));
    assert_eq!(first.meters[1].nearest_rung.as_deref(), Some("alert high"));
    assert_eq!(first.meters[1].spark.iter().flatten().count(), 1, "one part of the period was read");
    let rest = page(first.next_cursor.as_deref(), 3);
    assert_eq!(rest.meters.len(), 3);
    assert!(rest.next_cursor.is_none());
    let found =
        plant.store.read(Instant::LATEST, |view| meters::list(view, None, Some("near"), span, None, 9)).unwrap();
    assert_eq!(found.total, 1);
}

#[test]
fn a_series_is_thinned_and_quarantined_readings_are_apart() {
    let plant = Plant::new();
    let mut rows: Vec<_> =
        (0..1_000).map(|i| reading("M-ACC", day(2).plus(i * 60_000), 1.0 + (i % 7) as f64)).collect();
    rows.push(reading("M-ACC", day(3), 150.0));
    plant.ingest(&rows, day(4));
    let span = Span::new(day(2), day(4)).unwrap();
    let series = plant.store.read(Instant::LATEST, |view| readings::series(view, "M-ACC", span, 40)).unwrap();
    assert_eq!((series.of, series.quarantined.len()), (1_000, 1));
    assert!(series.points.len() <= 42 && series.points.len() > 10, "{}", series.points.len());
    let (low, high) = (
        series.points.iter().map(|p| p.1).fold(f64::MAX, f64::min),
        series.points.iter().map(|p| p.1).fold(0.0, f64::max),
    );
    assert_eq!((low, high), (1.0, 7.0), "the extremes are kept, the implausible value is not among them");
    let mut raw = 0;
    plant.store.read(Instant::LATEST, |view| readings::raw(view, "M-ACC", span, |_, _, _| raw += 1)).unwrap();
    assert_eq!(raw, 1_001);
}

#[test]
fn an_alarm_is_seen_once() {
    let plant = Plant::new();
    let limit =
        json!({"rungs": [{"side": "high", "severity": "alert", "setpoint": 4.0, "response": {"kind": "record"}}]});
    plant.set_limits("M-ACC", limit, day(1)).unwrap();
    let alarm = plant.send("M-ACC", &[5.0], day(2)).alarms[0];
    plant.write(day(3), |tx| alarms::acknowledge(tx, &[alarm])).unwrap();
    plant.write(day(4), |tx| alarms::acknowledge(tx, &[alarm])).unwrap();
    let standing = plant.store.read(Instant::LATEST, |view| alarms::standing(view, None, 10)).unwrap();
    assert_eq!(standing[0].acknowledged_at, Some(day(3)), "the first one counts");
    let elsewhere = plant.store.read(Instant::LATEST, |view| alarms::standing(view, Some(&[AssetId(99)]), 10)).unwrap();
    assert!(elsewhere.is_empty());
    let unknown = plant.write(day(4), |tx| alarms::acknowledge(tx, &[tally_core::ground::ids::AlarmId(77)]));
    assert_eq!(unknown.unwrap_err().to_string(), "there is no alarm \"77\"");
}

#[test]
fn people_crews_and_settings_are_checked() {
    let plant = Plant::new();
    let taken = plant.write(day(2), |tx| people::add(tx, &person("tess", "viewer", None))).unwrap_err();
    assert_eq!(taken.to_string(), "the code tess is taken already");
    let listed = plant.store.read(Instant::LATEST, |view| people::list(view)).unwrap();
    assert_eq!(listed.iter().filter(|one| one.role == Role::Technician).count(), 1);
    let mut changed = plant.store.read(Instant::LATEST, |view| settings::get(view)).unwrap();
    for (change, message) in [
        (Settings { currency: "euro".into(), ..changed.clone() }, "currency: use an ISO 4217 code of three capitals"),
        (
            Settings { time_zone: "Nowhere".into(), ..changed.clone() },
            "time_zone: \"Nowhere\" is no time zone of the IANA list",
        ),
        (Settings { fiscal_month: 13, ..changed.clone() }, "fiscal_month: must be 1 to 12"),
        (
            Settings { rank_windows: [7, 2, 28, 90, 180], ..changed.clone() },
            "rank_windows: a milder rank can't have a shorter window",
        ),
    ] {
        let refused = plant.write(day(2), |tx| settings::set(tx, &change)).unwrap_err();
        assert_eq!(refused.to_string(), message);
    }
    changed.rank_windows = [1, 2, 3, 4, 5];
    plant.write(day(2), |tx| settings::set(tx, &changed)).unwrap();
    assert_eq!(plant.store.read(Instant::LATEST, |view| settings::get(view)).unwrap(), changed);
}

#[test]
fn the_fiscal_year_of_the_settings_cuts_the_year_to_date() {
    let plant = Plant::new();
    let number = plant
        .write(day(2), |tx| {
            let new = json!({"title": "t", "kind": "inspection", "asset": "EQ", "risk_rank": 3});
            tally_store::work::raise(tx, &serde_json::from_value(new).unwrap())
        })
        .unwrap();
    for (when, price) in [("2026-01-20T00:00:00Z", "100"), ("2026-02-20T00:00:00Z", "70")] {
        let entry = json!({"kind": "tool", "quantity": "1", "unit_price": price, "description": "d", "at": when});
        plant
            .write(at("2026-03-01T00:00:00Z"), |tx| {
                tally_store::work::entries::add(tx, number, &serde_json::from_value(entry).unwrap())
            })
            .unwrap();
    }
    let now = at("2026-03-01T00:00:00Z");
    assert_eq!(hours(&plant, "SITE", Indicator::CostYtd, now), Some(170.0));
    let february =
        Settings { fiscal_month: 2, ..plant.store.read(Instant::LATEST, |view| settings::get(view)).unwrap() };
    plant.write(now, |tx| settings::set(tx, &february)).unwrap();
    // The asked period, the calendar year 2026, ends in the fiscal year that starts in February 2026.
    assert_eq!(hours(&plant, "SITE", Indicator::CostYtd, now), Some(70.0));
}

#[test]
fn a_few_letters_find_assets_meters_work_and_codebooks() {
    let plant = Plant::new();
    let find = |text: &str| -> Vec<String> {
        let hits = plant.store.read(Instant::LATEST, |view| search::find(view, text, 5)).unwrap();
        hits.into_iter().map(|hit| format!("{} {}", hit.kind, hit.code)).collect()
    };
    assert_eq!(find("peak"), ["meter M-ACC"]);
    assert_eq!(find("gear"), ["codebook gearbox"]);
    assert_eq!(find("part")[0], "asset PART");
    // A code leads to its codebook.
    assert_eq!(find("noise"), ["code gearbox"]);
    assert!(find("  ").is_empty() && find("zzz").is_empty());
}

#[test]
fn downtime_is_entered_once_it_has_begun_and_ended_once() {
    let plant = Plant::new();
    let add = |kind: DowntimeKind, start: Instant, end: Option<Instant>| {
        let new = NewDowntime { kind, asset: None, start, end, slowed: None, note: String::new() };
        plant.write(day(5), |tx| downtime::add_to_asset(tx, "EQ", &new))
    };
    assert_eq!(add(DowntimeKind::Planned, day(6), None).unwrap_err().to_string(), "start: lies in the future");
    assert_eq!(
        add(DowntimeKind::Planned, day(4), Some(day(3))).unwrap_err().to_string(),
        "end: must lie after the start"
    );
    let ahead = add(DowntimeKind::Planned, day(4), Some(day(9))).unwrap_err();
    assert_eq!(ahead.to_string(), "end: lies in the future; leave it open until it is over");
    let open = add(DowntimeKind::External, day(4), None).unwrap();
    assert_eq!(hours(&plant, "EQ", Indicator::ExternalDowntime, day(5)), Some(24.0), "open downtime runs up to now");
    plant.write(day(6), |tx| downtime::end(tx, open, day(4).plus(3_600_000))).unwrap();
    assert_eq!(hours(&plant, "EQ", Indicator::ExternalDowntime, day(6)), Some(1.0));
    let again = plant.write(day(6), |tx| downtime::end(tx, open, day(5))).unwrap_err();
    assert_eq!(again.to_string(), "this downtime ended at 2026-01-04T13:00:00Z");
}

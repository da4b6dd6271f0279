//! The demo's plant and its stories, with figures worked out by hand from the plan of its history.

#![allow(clippy::unwrap_used, reason = "a test that fails by an unwrap says where")]

use std::sync::OnceLock;
use tally_core::{
    assets::Basis,
    indicators::{Figure, Indicator},
    severity::Severity,
    tally::{Question, figures},
    time::{Instant, Span},
    work::WorkState,
};
use tally_demo::{TODAY, ensure, opening};
use tally_store::{Result, Store, StoreError, alarms, assets, codebooks, meters, work};

/// Made once for all tests of this file.
fn demo() -> &'static Store {
    static DEMO: OnceLock<(tempfile::TempDir, Store)> = OnceLock::new();
    let (_, store) = DEMO.get_or_init(|| {
        let folder = tempfile::tempdir().unwrap();
        let store = Store::open(folder.path(), opening(TODAY)).unwrap();
        ensure(&store, TODAY, |_| ()).unwrap();
        (folder, store)
    });
    store
}

fn at(text: &str) -> Instant {
    Instant::parse(text).unwrap()
}

fn figure(code: &str, indicator: Indicator, from: &str, to: &str) -> Figure {
    demo()
        .tally(|conn, snapshot| {
            let id = assets::require(conn, code)?;
            let period = Span::new(at(from), at(to)).unwrap();
            let q = Question { period, now: opening(TODAY), basis: Basis::AsWas };
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
        .read(|conn| {
            let meter = meters::detail(conn, "G1-DRV-GBX-ACC")?;
            assert!(!meter.row.has_ladder);
            assert!(alarms::of_meter(conn, "G1-DRV-GBX-ACC", Span::ALWAYS, 10)?.is_empty());
            // The plan: from 1.1 g growing by the same share each day to 13 g; 4 g would have been passed 57 days before.
            let span = Span::new(at("2025-11-30T00:00:00Z"), at("2025-12-03T00:00:00Z")).unwrap();
            let mut values = Vec::new();
            tally_store::readings::raw(conn, "G1-DRV-GBX-ACC", span, |_, value| values.push(value))?;
            assert!(values.iter().all(|value| (3.4..5.0).contains(value)), "{values:?}");
            Ok::<_, StoreError>(())
        })
        .unwrap();
}

#[test]
fn the_pressure_stands_below_its_limit_with_work_under_planning() {
    demo()
        .read(|conn| {
            let standing = alarms::standing(conn, None, 100)?;
            let pressure = standing.iter().find(|alarm| alarm.meter == "G1-TEN-PRS").unwrap();
            assert_eq!((pressure.severity, pressure.side.word()), (Severity::Alert, "low"));
            let number = pressure.work_order.unwrap();
            assert_eq!(work::standing(conn, number)?.state, WorkState::Planning);
            Ok::<_, StoreError>(())
        })
        .unwrap();
}

#[test]
fn the_plant_has_what_a_lift_has() {
    demo()
        .tally(|conn, snapshot| {
            let nodes = assets::nodes(conn, snapshot, Some("G1"), 9, opening(TODAY))?;
            assert_eq!(nodes.len(), 21 + 14 + 2 * 24);
            assert_eq!(codebooks::list(conn)?.len(), 3);
            assert_eq!(meters::list(conn, None, None, Span::ALWAYS, None, 500)?.total, 58);
            let all = work::list(
                conn,
                &work::Filter::default(),
                &work::Page { limit: 1, ..work::Page::default() },
                opening(TODAY),
            )?;
            assert!(all.totals.count > 250, "{:?}", all.totals);
            assert!(all.facets.state.iter().any(|f| f.value == "waiting" && f.count >= 3), "{:?}", all.facets.state);
            Ok::<_, StoreError>(())
        })
        .unwrap();
}

#[test]
fn the_same_day_gives_the_same_plant() {
    let folder = tempfile::tempdir().unwrap();
    let again = Store::open(folder.path(), opening(TODAY)).unwrap();
    ensure(&again, TODAY, |_| ()).unwrap();
    let content = |store: &Store| -> Vec<i64> {
        let counts = |conn: &tally_store::Connection| -> Result<Vec<i64>> {
            let page = work::Page { limit: 1, ..work::Page::default() };
            let totals = work::list(conn, &work::Filter::default(), &page, opening(TODAY))?.totals;
            let readings = meters::list(conn, None, None, Span::ALWAYS, None, 500)?;
            let last: f64 = readings.meters.iter().filter_map(|m| m.last).map(|l| l.value).sum();
            Ok(vec![totals.count, totals.cost, (totals.spent_hours * 100.0) as i64, (last * 1000.0) as i64])
        };
        store.read(counts).unwrap()
    };
    assert_eq!(content(demo()), content(&again));
    ensure(&again, TODAY, |_| panic!("a folder that holds the plant is left as it is")).unwrap();
}

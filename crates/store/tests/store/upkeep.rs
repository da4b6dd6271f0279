//! Upkeep plans on a real database: what the clock raises and misses, counters, limits that bring them forward.

use crate::common::{Plant, at, day, reading};
use rstest::rstest;
use serde_json::json;
use std::collections::BTreeMap;
use tally_core::{
    ground::{
        ids::{AssetId, PlanId, WorkOrderId},
        time::{Instant, Span},
    },
    watch::alarms::ResponseGiven,
    work::{SourceWord, WorkState},
};
use tally_store::{
    View,
    plant::master::{Kind, MasterReceipt},
    watch::{readings, readings::NewExchange},
    work,
    work::upkeep,
};

/// Sets up a plan, or changes it: fields with their texts.
pub fn set_up(plant: &Plant, now: Instant, fields: &[(&str, &str)]) -> MasterReceipt {
    plant.take(Kind::UpkeepPlans, now, fields)
}

pub fn plan(plant: &Plant, fields: &[(&str, &str)]) {
    let given = [&[("code", "P"), ("name", "Grease it"), ("asset", "EQ"), ("status", "active")], fields].concat();
    // What is given last holds.
    let fields: BTreeMap<&str, &str> = given.into_iter().collect();
    let fields: Vec<(&str, &str)> = fields.into_iter().collect();
    let receipt = set_up(plant, day(1), &fields);
    assert_eq!((receipt.added, receipt.refused), (1, 0), "{receipt:?}");
}

/// What the clock does.
pub fn tick(plant: &Plant, now: Instant) -> Vec<WorkOrderId> {
    let counters = plant.store.read(now, |view: &View| upkeep::stale_counters(view, now)).unwrap();
    let looks = plant.store.read(now, |view: &View| upkeep::look_at_counters(view, &counters, now)).unwrap();
    plant.write(now, |tx| upkeep::keep_counters(tx, &looks)).unwrap();
    let due: Vec<(PlanId, AssetId)> = plant.store.read(now, |view: &View| upkeep::due(view, now)).unwrap();
    plant.write(now, |tx| upkeep::settle(tx, &due)).unwrap()
}

pub fn detail(plant: &Plant, now: Instant) -> upkeep::PlanDetail {
    plant.store.read(now, |view: &View| upkeep::detail(view, "P")).unwrap()
}

/// Number, due, whether it was missed, and whether in time, the oldest first.
pub fn cycles(plant: &Plant, now: Instant) -> Vec<(i64, String, bool, Option<bool>)> {
    let mut rows: Vec<_> = detail(plant, now)
        .cycles
        .into_iter()
        .map(|cycle| (cycle.number, cycle.due, cycle.work_order.is_none(), cycle.in_time))
        .collect();
    rows.reverse();
    rows
}

#[test]
fn the_clock_raises_a_cycle_once_and_misses_what_comes_while_it_is_open() {
    let plant = Plant::new();
    plan(&plant, &[("every_days", "7"), ("first_due", "2026-01-05"), ("lead_days", "2"), ("estimated_hours", "1.5")]);
    assert_eq!(tick(&plant, day(2)), []);
    let raised = tick(&plant, day(3));
    assert_eq!(raised.len(), 1);
    assert_eq!(tick(&plant, day(3)), []);
    let order = plant.order(raised[0], day(3));
    assert_eq!(
        (order.row.title.as_str(), order.row.source, order.row.state),
        ("Grease it", SourceWord::Plan, WorkState::Ready)
    );
    assert_eq!(
        (order.row.target_start, order.target_finish),
        (Some(at("2026-01-05T00:00:00Z")), Some(at("2026-01-06T00:00:00Z")))
    );
    let of = order.cycle.unwrap();
    assert_eq!((of.plan.as_str(), of.number, of.due.as_str(), of.brought_forward), ("P", 1, "2026-01-05", false));
    assert_eq!(order.row.estimated_hours, Some(1.5));
    // The next one's day comes while that is open.
    assert_eq!(tick(&plant, day(11)), []);
    assert_eq!(tick(&plant, day(12)), []);
    plant.state(raised[0], WorkState::UnderWay, day(13)).unwrap();
    plant.state(raised[0], WorkState::Done, day(13)).unwrap();
    assert_eq!(tick(&plant, day(16)), []);
    let third = tick(&plant, day(17));
    assert_eq!(third.len(), 1);
    let due = |n| format!("2026-01-{n:02}");
    assert_eq!(
        cycles(&plant, day(18)),
        [(1, due(5), false, Some(false)), (2, due(12), true, Some(false)), (3, due(19), false, None)]
    );
    plant.state(third[0], WorkState::UnderWay, day(19)).unwrap();
    plant.state(third[0], WorkState::Done, day(19)).unwrap();
    let told = detail(&plant, day(20));
    assert_eq!((told.judged, told.in_time), (3, 1));
}

#[test]
fn after_a_standstill_one_is_raised_and_a_clock_that_goes_back_raises_nothing() {
    let plant = Plant::new();
    plan(&plant, &[("every_days", "5"), ("first_due", "2026-01-03")]);
    // Nobody looked until the 22nd: the 3rd, 8th, 13th, 18th have come.
    let raised = tick(&plant, day(22));
    assert_eq!(raised.len(), 1);
    let missed = |now| cycles(&plant, now).iter().filter(|(_, _, missed, _)| *missed).count();
    assert_eq!((missed(day(22)), cycles(&plant, day(22)).len()), (3, 4));
    plant.state(raised[0], WorkState::Dropped, day(22)).unwrap_err();
    let drop = serde_json::from_value(json!({"to": "dropped", "note": "not needed"})).unwrap();
    plant.write(day(22), |tx| work::set_state(tx, raised[0], &drop)).unwrap();
    assert_eq!(tick(&plant, day(4)), []);
    assert_eq!(tick(&plant, day(22)), []);
    assert_eq!(tick(&plant, day(23)).len(), 1);
    assert_eq!((missed(day(23)), cycles(&plant, day(23)).len()), (3, 5));
    // Dropped work was not done.
    assert_eq!(cycles(&plant, day(23))[3].3, Some(false));
}

#[test]
fn what_is_switched_off_makes_no_work_and_says_afterwards_what_was_missed() {
    let plant = Plant::new();
    plan(&plant, &[("every_days", "5"), ("first_due", "2026-01-03"), ("status", "draft")]);
    assert_eq!(tick(&plant, day(9)), []);
    // What was due before it was switched on for the first time is none of its cycles.
    assert_eq!(set_up(&plant, day(9), &[("code", "P"), ("status", "active")]).changed, 1);
    let first = tick(&plant, day(13));
    assert_eq!(first.len(), 1);
    assert_eq!(cycles(&plant, day(13)), [(1, "2026-01-13".into(), false, None)]);
    plant.state(first[0], WorkState::UnderWay, day(13)).unwrap();
    plant.state(first[0], WorkState::Done, day(13)).unwrap();
    set_up(&plant, day(14), &[("code", "P"), ("status", "draft")]);
    assert_eq!(tick(&plant, day(25)), []);
    set_up(&plant, day(25), &[("code", "P"), ("status", "active")]);
    assert_eq!(tick(&plant, day(25)).len(), 1);
    let said: Vec<bool> = cycles(&plant, day(25)).iter().map(|cycle| cycle.2).collect();
    assert_eq!(said, [false, true, false], "18 January was missed, 23 January is raised");
}

/// Ten hours a day from the first on, read at noon.
pub fn run(plant: &Plant, from: u32, to: u32, start: f64) {
    let rows: Vec<_> = (from..=to).map(|n| reading("M-H", day(n), start + 10.0 * f64::from(n - from))).collect();
    let receipt = plant.ingest(&rows, day(to));
    assert!(receipt.refused.is_empty(), "{receipt:?}");
}

#[test]
fn a_counter_makes_work_when_it_gets_there_also_across_an_exchange() {
    let plant = Plant::new();
    plan(&plant, &[("every_units", "100"), ("first_count", "150"), ("counts_from", "planned")]);
    run(&plant, 1, 15, 0.0);
    assert_eq!(tick(&plant, day(15)), []);
    let told = detail(&plant, day(15)).next.remove(0);
    // It reads 140, and is used 10 hours a day.
    assert_eq!((told.count, told.mark, told.due.as_str()), (Some(140.0), Some(150.0), "2026-01-16"));
    run(&plant, 16, 16, 150.0);
    let first = tick(&plant, day(16));
    assert_eq!(first.len(), 1);
    let of = plant.order(first[0], day(16)).cycle.unwrap();
    assert_eq!((of.mark, of.unit.as_deref(), of.every_units), (Some(150.0), Some("h"), Some(100.0)));
    plant.state(first[0], WorkState::UnderWay, day(16)).unwrap();
    plant.state(first[0], WorkState::Done, day(16)).unwrap();
    // A new counter that begins at 0: a hundred hours from 150 on go on through it.
    let exchange = NewExchange { at: day(17), final_value: 160.0, start_value: 0.0 };
    plant.write(day(17), |tx| readings::exchange(tx, "M-H", &exchange)).unwrap();
    run(&plant, 18, 25, 10.0);
    assert_eq!(tick(&plant, day(25)), [], "{:?}", detail(&plant, day(25)).next);
    run(&plant, 26, 26, 90.0);
    assert_eq!(tick(&plant, day(26)).len(), 1);
    assert_eq!(cycles(&plant, day(26)).last().unwrap().0, 2);
}

#[test]
fn a_counters_use_ends_with_a_reading_that_was_taken_just_then() {
    let plant = Plant::new();
    run(&plant, 1, 8, 0.0);
    let week = Span::new(day(1), day(8)).unwrap();
    let used = plant.store.read(day(8), |view: &View| readings::usage(view, "M-H", week)).unwrap();
    assert_eq!(used, 70.0);
}

/// 400 typed as 4000 and voided: what it made due is taken back, and the job at 1000 comes.
#[test]
fn a_voided_reading_counts_in_no_plan() {
    for voided_first in [false, true] {
        let plant = Plant::new();
        plan(&plant, &[("every_units", "1000"), ("first_count", "1000"), ("counts_from", "planned")]);
        // The plan looks at the counter for the first time before the wrong reading, or at that very one.
        if !voided_first {
            plant.send("M-H", &[300.0], day(2));
            tick(&plant, day(2));
        }
        let wrong = if voided_first { day(1) } else { day(200) };
        plant.send("M-H", &[4000.0], wrong);
        let raised = tick(&plant, wrong);
        assert_eq!(raised.len(), 1);
        assert_eq!(cycles(&plant, wrong).len(), 4, "1000 to 3000 are missed, 4000 is raised");
        let voiding = readings::Voiding { at: wrong, reason: "a nought too many".into() };
        plant.write(day(201), |tx| readings::void(tx, "M-H", &voiding)).unwrap();
        // Its use is known from two weeks.
        if voided_first {
            plant.send("M-H", &[300.0], day(188));
        }
        plant.send("M-H", &[400.0], day(202));
        assert_eq!(tick(&plant, day(202)), []);
        let next = detail(&plant, day(202)).next.remove(0);
        assert_eq!((next.count, next.mark), (Some(400.0), Some(1000.0)), "the first at {wrong:?}");
        assert_eq!(cycles(&plant, day(202)).len(), 1, "nothing was missed");
        let drop = serde_json::from_value(json!({"to": "dropped", "note": "the reading was wrong"})).unwrap();
        plant.write(day(203), |tx| work::set_state(tx, raised[0], &drop)).unwrap();
        plant.send("M-H", &[990.0], day(240));
        assert_eq!(tick(&plant, day(240)), []);
        plant.send("M-H", &[1005.0], day(241));
        assert_eq!(tick(&plant, day(241)).len(), 1);
    }
}

/// rules.md §4: a dropped cycle is a missed one, and the next is due one interval after its due date.
#[test]
fn dropped_work_of_a_plan_counted_from_last_done_is_not_raised_again_at_once() {
    let plant = Plant::new();
    plan(&plant, &[("every_days", "7"), ("first_due", "2026-01-05"), ("counts_from", "last_done")]);
    let first = tick(&plant, day(5));
    plant.state(first[0], WorkState::UnderWay, day(5)).unwrap();
    plant.state(first[0], WorkState::Done, day(5)).unwrap();
    let second = tick(&plant, day(12));
    assert_eq!(second.len(), 1);
    let drop = serde_json::from_value(json!({"to": "dropped", "note": "it stands still"})).unwrap();
    plant.write(day(13), |tx| work::set_state(tx, second[0], &drop)).unwrap();
    for quiet in 13..19 {
        assert_eq!(tick(&plant, day(quiet)), [], "day {quiet}");
    }
    let third = tick(&plant, day(19));
    assert_eq!(third.len(), 1);
    plant.write(day(19), |tx| work::set_state(tx, third[0], &drop)).unwrap();
    // Nobody looks until the 10th of February: 26 January and 2 February are missed, the 9th as well.
    assert_eq!(tick(&plant, day(41)), []);
    assert_eq!(tick(&plant, day(47)).len(), 1);
    let due: Vec<(i64, bool)> =
        cycles(&plant, day(47)).iter().map(|(number, _, missed, _)| (*number, *missed)).collect();
    assert_eq!(due, [(1, false), (2, false), (3, false), (4, true), (5, true), (6, true), (7, false)]);
}

#[test]
fn hours_count_from_what_the_counter_read_when_the_work_was_done() {
    let plant = Plant::new();
    let both = [("every_days", "60"), ("first_due", "2026-03-01"), ("every_units", "100"), ("first_count", "100")];
    plan(&plant, &[&both[..], &[("counts_from", "last_done")]].concat());
    run(&plant, 1, 12, 0.0);
    let first = tick(&plant, day(12));
    assert_eq!(first.len(), 1, "110 hours are past 100");
    // Done at noon of the 15th, at 140 hours, and looked at three days later.
    run(&plant, 13, 18, 120.0);
    plant.state(first[0], WorkState::UnderWay, day(15)).unwrap();
    plant.state(first[0], WorkState::Done, day(15)).unwrap();
    tick(&plant, day(18));
    let next = detail(&plant, day(18)).next.remove(0);
    assert_eq!((next.number, next.mark, next.due.as_str()), (2, Some(240.0), "2026-01-25"));
}

pub fn with_limit(plant: &Plant) {
    let forward = json!({"kind": "bring_forward", "plan": "P", "text": "{meter} reads {reading}"});
    let ladder = json!({"raise_interval_seconds": 0,
        "rungs": [{"side": "high", "severity": "serious", "setpoint": 4.0, "response": forward}]});
    plant.set_limits("M-ACC", ladder, day(2)).unwrap();
}

#[test]
fn a_limit_brings_the_next_cycle_forward_and_joins_it_afterwards() {
    let plant = Plant::new();
    plan(&plant, &[("every_days", "90"), ("first_due", "2026-03-01"), ("text", "By the book.")]);
    with_limit(&plant);
    let receipt = plant.send("M-ACC", &[5.0], day(5));
    let [number] = receipt.work_orders[..] else { panic!("{receipt:?}") };
    let order = plant.order(number, day(5));
    assert_eq!((order.row.title.as_str(), order.row.source), ("Grease it", SourceWord::Plan));
    assert!(order.text.starts_with("By the book.\nPeak acceleration reads"), "{}", order.text);
    let of = order.cycle.unwrap();
    assert_eq!((of.number, of.due.as_str(), of.brought_forward, of.occurrences.len()), (1, "2026-03-01", true, 1));
    assert_eq!(of.occurrences[0].response, ResponseGiven::Raised);
    // Left and entered again: the same work.
    plant.send("M-ACC", &[1.0], day(6));
    assert_eq!(plant.send("M-ACC", &[6.0], day(7)).work_orders, [number]);
    let of = plant.order(number, day(7)).cycle.unwrap();
    assert_eq!(
        of.occurrences.iter().map(|one| one.response).collect::<Vec<_>>(),
        [ResponseGiven::Raised, ResponseGiven::Joined]
    );
    // The cycle is done with: judged by the date before it was moved, and the next one counts from there.
    plant.state(number, WorkState::UnderWay, day(8)).unwrap();
    plant.state(number, WorkState::Done, day(8)).unwrap();
    assert_eq!(cycles(&plant, day(9)), [(1, "2026-03-01".into(), false, Some(true))]);
    assert_eq!(detail(&plant, day(9)).next[0].due, "2026-05-30");
}

#[test]
fn a_limit_whose_plan_is_retired_raises_work_of_its_own() {
    let plant = Plant::new();
    plan(&plant, &[("every_days", "90"), ("first_due", "2026-03-01")]);
    with_limit(&plant);
    set_up(&plant, day(3), &[("code", "P"), ("status", "retired")]);
    let receipt = plant.send("M-ACC", &[5.0], day(5));
    let order = plant.order(receipt.work_orders[0], day(5));
    assert_eq!((order.row.source, order.cycle.is_none()), (SourceWord::Ladder, true));
    // And no new limits go by it.
    let forward = json!({"kind": "bring_forward", "plan": "P"});
    let ladder = json!({"rungs": [{"side": "high", "severity": "alert", "setpoint": 3.0, "response": forward}]});
    let refused = plant.set_limits("M-ACC", ladder, day(6)).unwrap_err().to_string();
    assert_eq!(refused, "rungs[0].response.plan: upkeep plan \"P\" is retired");
}

#[test]
fn by_hand_it_is_raised_now_and_not_twice() {
    let plant = Plant::new();
    plan(&plant, &[("every_days", "90"), ("first_due", "2026-03-01")]);
    let number = plant.write(day(4), |tx| upkeep::raise_now(tx, "P", None)).unwrap();
    assert_eq!(plant.order(number, day(4)).row.target_start, Some(at("2026-01-04T00:00:00Z")));
    let again = plant.write(day(4), |tx| upkeep::raise_now(tx, "P", Some("EQ"))).unwrap_err();
    assert_eq!(again.to_string(), format!("its work is open already: order {number}"));
    let elsewhere = plant.write(day(4), |tx| upkeep::raise_now(tx, "P", Some("SYS"))).unwrap_err();
    assert_eq!(elsewhere.to_string(), "asset: the plan is not for it");
    let none = plant.write(day(4), |tx| upkeep::raise_now(tx, "Q", None)).unwrap_err();
    assert_eq!(none.to_string(), "code: there is no upkeep plan \"Q\"");
}

#[test]
fn a_plan_of_a_class_is_for_each_asset_of_it() {
    let plant = Plant::new();
    plan(&plant, &[("asset", ""), ("class", "gearbox"), ("every_days", "30"), ("first_due", "2026-01-10")]);
    assert_eq!(tick(&plant, day(10)).len(), 7, "all seven levels are of that class");
    assert_eq!(detail(&plant, day(10)).assets, 7);
    let which = plant.write(day(11), |tx| upkeep::raise_now(tx, "P", None)).unwrap_err();
    assert_eq!(which.to_string(), "asset: say for which, the plan is for several");
}

#[rstest]
#[case::nothing(&[("first_due", "2026-01-10")], "every_days")]
#[case::half_a_day(&[("every_days", "1.5"), ("first_due", "2026-01-10")], "every_days")]
#[case::no_day(&[("every_days", "7"), ("first_due", "the tenth")], "first_due")]
#[case::no_season(&[("every_days", "7"), ("first_due", "2026-01-10"), ("season", "winter")], "season")]
#[case::two_places(&[("every_days", "7"), ("first_due", "2026-01-10"), ("class", "gearbox")], "class")]
#[case::nowhere(&[("every_days", "7"), ("first_due", "2026-01-10"), ("asset", "")], "asset")]
#[case::rank(&[("every_days", "7"), ("first_due", "2026-01-10"), ("risk_rank", "6")], "risk_rank")]
#[case::hours(&[("every_days", "7"), ("first_due", "2026-01-10"), ("estimated_hours", "-1")], "estimated_hours")]
#[case::no_counter(&[("every_units", "100"), ("asset", "SYS")], "meter")]
#[case::no_counter_at_all(&[("every_units", "100"), ("meter", "M-BAR")], "meter")]
#[case::a_counter_for_days(&[("every_days", "7"), ("first_due", "2026-01-10"), ("meter", "M-H")], "every_units")]
fn a_plan_that_makes_no_sense_is_refused_by_field(#[case] fields: &[(&str, &str)], #[case] at_fault: &str) {
    let plant = Plant::new();
    let given = [&[("code", "P"), ("name", "Grease it"), ("asset", "EQ")], fields].concat();
    let fields: BTreeMap<&str, &str> = given.into_iter().collect();
    let receipt = set_up(&plant, day(1), &fields.into_iter().collect::<Vec<_>>());
    assert_eq!((receipt.refused, receipt.lines[0].reasons[0].field.as_str()), (1, at_fault), "{receipt:?}");
}

#[test]
fn what_a_plan_is_for_stays_once_it_was_done() {
    let plant = Plant::new();
    plan(&plant, &[("every_days", "7"), ("first_due", "2026-01-05")]);
    assert_eq!(set_up(&plant, day(2), &[("code", "P"), ("asset", "SYS")]).changed, 1);
    assert_eq!(tick(&plant, day(5)).len(), 1);
    let receipt = set_up(&plant, day(6), &[("code", "P"), ("asset", "EQ")]);
    assert_eq!(receipt.lines[0].reasons[0].field, "asset");
}

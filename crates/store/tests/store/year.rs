//! The year ahead of upkeep: levelled, moved, and as far as each sees it.

use crate::common::{Plant, add_asset, add_meter, day, move_to, person, reading};
use crate::upkeep::{plan, set_up, tick};
use rstest::rstest;
use serde_json::json;
use tally_core::{ground::time::DAY, lists::SubjectId, work::WorkState};
use tally_store::{
    Looker, Result, StoreError, View, Viewer,
    access::people,
    lists::answer,
    work,
    work::{
        upkeep,
        upkeep::{CycleMove, CyclesMoved, MoveRow, YearAhead, YearAsked},
    },
};

/// Three plans of a crew of forty hours, two of them in one week.
fn crowded() -> Plant {
    let plant = Plant::new();
    let crew = json!({"code": "red", "name": "Red", "department": "Lifts", "weekly_hours": 40.0});
    plant.write(day(1), |tx| people::add_crew(tx, &serde_json::from_value(crew).unwrap())).unwrap();
    for (code, first, hours) in [("A", "2026-06-10", "30"), ("B", "2026-06-11", "30"), ("C", "2026-06-17", "20")] {
        let fields = [
            ("code", code),
            ("name", code),
            ("asset", "EQ"),
            ("status", "active"),
            ("crew", "red"),
            ("every_days", "365"),
            ("first_due", first),
            ("estimated_hours", hours),
            ("tolerance_days", "10"),
        ];
        assert_eq!(set_up(&plant, day(1), &fields).added, 1);
    }
    plant
}

fn year(plant: &Plant) -> YearAhead {
    plant.store.read(day(1), |view: &View| upkeep::year(view, None, &YearAsked::default())).unwrap()
}

fn moved(plant: &Plant, moves: Vec<MoveRow>) -> Result<CyclesMoved> {
    plant.write(day(1), |tx| upkeep::move_cycles(tx, &CycleMove { moves }))
}

fn row(plan: &str, number: i64, to: Option<&str>) -> MoveRow {
    MoveRow { plan: plan.into(), asset: "EQ".into(), number, to: to.map(Into::into) }
}

#[test]
fn a_year_is_levelled_within_tolerances_and_put_back() {
    let plant = crowded();
    let before = year(&plant);
    let red = &before.crews[0];
    // The first week begins on Monday 29 December; 10 June lies in the 24th, with 60 hours of 40.
    assert_eq!(before.weeks[0], "2025-12-29");
    assert_eq!((red.weeks_over, red.peak_hours, red.peak_week, red.cycles), (1, 60.0, 23, 3));
    assert_eq!(before.plans[0].cycles[0].places.keys().copied().collect::<Vec<_>>(), [22, 23, 24]);
    let proposed = plant.store.read(day(1), |view: &View| upkeep::level(view, None)).unwrap();
    assert_eq!((proposed.peak_before_hours, proposed.peak_after_hours), (60.0, 30.0));
    assert_eq!((proposed.over_before_hours, proposed.over_after_hours, proposed.crews[0].is_proven), (20.0, 0.0, true));
    let [one] = &proposed.moves[..] else { panic!("{:?}", proposed.moves) };
    assert_eq!((one.from_week, one.to_week, one.from_load_hours, one.to_load_hours), (23, 22, 60.0, 0.0));
    let taken = moved(&plant, vec![row(&one.plan, one.number, Some(&one.to))]).unwrap();
    let after = year(&plant);
    assert_eq!((after.crews[0].weeks_over, after.crews[0].peak_hours), (0, 30.0));
    let again = plant.store.read(day(1), |view: &View| upkeep::level(view, None)).unwrap();
    assert!(again.moves.is_empty(), "{:?}", again.moves);
    moved(&plant, taken.back).unwrap();
    assert_eq!(year(&plant).crews[0].load_hours, before.crews[0].load_hours);
}

#[rstest]
#[case::no_plan(row("X", 1, Some("2026-06-12")), "moves[0].plan: there is no upkeep plan \"X\"")]
#[case::no_cycle(row("A", 9, Some("2026-06-12")), "moves[0].number: is no cycle ahead that can be moved")]
#[case::over(row("A", 1, Some("2025-12-31")), "moves[0].to: is over")]
#[case::beyond(row("A", 1, Some("2027-06-10")), "moves[0].to: lies beyond the cycle before or after")]
#[case::no_date(row("A", 1, Some("June")), "moves[0].to: is no date")]
fn a_move_that_can_not_be_is_refused(#[case] asked: MoveRow, #[case] reason: &str) {
    let plant = crowded();
    let said = moved(&plant, vec![asked]).unwrap_err().to_string();
    assert!(said.starts_with(reason), "{said}");
}

#[test]
fn moves_are_made_all_or_none_and_a_moved_cycle_is_raised_on_its_new_day() {
    let plant = crowded();
    moved(&plant, vec![row("A", 1, Some("2026-01-03")), row("B", 9, None)]).unwrap_err();
    assert_eq!(tick(&plant, day(3)), []);
    moved(&plant, vec![row("A", 1, Some("2026-01-03"))]).unwrap();
    let raised = tick(&plant, day(3));
    assert_eq!(raised.len(), 1);
    let of = plant.order(raised[0], day(3)).cycle.unwrap();
    assert_eq!((of.due.as_str(), of.moved_to.as_deref()), ("2026-06-10", Some("2026-01-03")));
    // Once it is raised it moves no more.
    let late = plant.write(day(4), |tx| upkeep::move_cycles(tx, &CycleMove { moves: vec![row("A", 1, None)] }));
    assert!(matches!(late, Err(StoreError::Invalid { .. })), "{late:?}");
}

#[test]
fn a_technician_sees_their_crews_year_and_a_bounded_planner_their_part() {
    let plant = crowded();
    let other = json!({"code": "blue", "name": "Blue", "department": "Lifts", "weekly_hours": 20.0});
    plant
        .write(day(1), |tx| {
            people::add_crew(tx, &serde_json::from_value(other).unwrap())?;
            let tom = json!({"code": "tom", "name": "Tom", "role": "technician", "crew": "blue", "rate": null});
            people::add(tx, &serde_json::from_value(tom).unwrap()).map(|_| ())?;
            add_asset(tx, json!({"code": "OTHER", "name": "Other", "level": "unit", "parent": "SITE"}))
        })
        .unwrap();
    let mine = [
        ("code", "D"),
        ("name", "D"),
        ("asset", "OTHER"),
        ("status", "active"),
        ("crew", "blue"),
        ("every_days", "100"),
        ("first_due", "2026-02-01"),
        ("estimated_hours", "3"),
    ];
    assert_eq!(set_up(&plant, day(1), &mine).added, 1);
    let looker = Looker { viewer: Viewer::from(&plant.person("tom")), ..Looker::all(day(1)) };
    let his = plant.store.look(looker, |view| upkeep::year(view, None, &YearAsked::default())).unwrap();
    assert_eq!(his.plans.iter().map(|plan| plan.code.as_str()).collect::<Vec<_>>(), ["D"]);
    assert!(!his.may_plan);
    let below =
        plant.store.read(day(1), |view: &View| upkeep::year(view, Some("OTHER"), &YearAsked::default())).unwrap();
    assert_eq!((below.crews.len(), below.plans_in_all), (1, 1));
}

#[test]
fn a_counter_without_readings_or_use_has_no_day() {
    let plant = Plant::new();
    plant
        .write(day(1), |tx| add_meter(tx, json!({"code": "M-N", "asset": "SYS", "kind": "counter", "unit": "1"})))
        .unwrap();
    plan(&plant, &[("every_units", "100"), ("meter", "M-N")]);
    assert_eq!(tick(&plant, day(2)), []);
    let ahead = year(&plant);
    assert_eq!((ahead.crews.len(), ahead.plans[0].cycles.len()), (1, 0));
    plant.ingest(&[reading("M-N", day(3), 40.0), reading("M-N", day(3).plus(DAY), 40.0)], day(4));
    assert_eq!(tick(&plant, day(4)), []);
    let number = plant.write(day(4), |tx| upkeep::raise_now(tx, "P", None)).unwrap();
    plant.write(day(5), |tx| work::set_state(tx, number, &move_to(WorkState::UnderWay))).unwrap();
}

/// A cycle is seen as its order is: a requester sees none of other people's, whatever is listed.
#[test]
fn cycles_are_seen_as_their_orders_are() {
    let plant = Plant::new();
    plan(&plant, &[("every_days", "30"), ("first_due", "2026-01-05")]);
    plant.write(day(1), |tx| people::add(tx, &person("rita", "requester", None))).unwrap();
    assert_eq!(tick(&plant, day(5)).len(), 1);
    let counted = |viewer: Viewer| {
        let asked = serde_json::from_value(json!({"columns": ["plan", "order_title"]})).unwrap();
        let looker = Looker { viewer, ..Looker::all(day(6)) };
        let told = plant.store.look(looker, |view| answer::answer(view, SubjectId::Cycles, &asked, None)).unwrap();
        (told.count, told.rows.len())
    };
    assert_eq!(counted(Viewer::all()), (1, 1));
    assert_eq!(counted(Viewer::from(&plant.person("rita"))), (0, 0));
}

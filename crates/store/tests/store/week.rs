//! The week by crew and day, counted by hand.

use crate::common::{Plant, add_asset, day, move_to, person};
use jiff::civil::date;
use serde_json::json;
use tally_core::{
    ground::{ids::WorkOrderId, time::Instant},
    work::{
        WorkState,
        week::{Conflict, Placing},
    },
};
use tally_store::{
    Looker, Result, StoreError, Viewer,
    access::people,
    work,
    work::{
        SeveralDone, entries,
        week::{WeekBoard, WeekCrew},
    },
};

const MONDAY: &str = "2026-02-16T08:00:00Z";

fn monday() -> Instant {
    Instant::parse(MONDAY).unwrap()
}

/// A crew of forty hours a week; orders with estimates, ready unless another state is named.
fn plant() -> Plant {
    let plant = Plant::new();
    plant
        .write(day(1), |tx| {
            let crew = json!({"code": "red", "name": "Red", "department": "Lifts", "weekly_hours": 40.0});
            people::add_crew(tx, &serde_json::from_value(crew).unwrap())?;
            add_asset(tx, json!({"code": "OTHER", "name": "Other", "level": "unit", "parent": "SITE"}))
        })
        .unwrap();
    plant
}

fn order(plant: &Plant, asset: &str, hours: Option<f64>, state: WorkState) -> WorkOrderId {
    let new = json!({"title": format!("Work on {asset}"), "kind": "inspection", "asset": asset, "risk_rank": 3,
        "crew": "red", "estimated_hours": hours});
    let raised = monday().plus(-86_400_000);
    let number = plant.write(raised, |tx| work::raise(tx, &serde_json::from_value(new).unwrap())).unwrap();
    if state != WorkState::Raised {
        plant.write(raised, |tx| work::set_state(tx, number, &move_to(state))).unwrap();
    }
    number
}

fn place(plant: &Plant, number: WorkOrderId, date: Option<&str>) -> Result<SeveralDone> {
    let to = Placing { crew: None, date: date.map(Into::into) };
    plant.write(monday(), |tx| work::week::place(tx, number, &to))
}

fn board(plant: &Plant, scope: Option<&str>) -> WeekBoard {
    plant.store.look(Looker::all(monday()), |view| work::week::week(view, scope, date(2026, 2, 16))).unwrap()
}

fn red(board: &WeekBoard) -> &WeekCrew {
    board.crews.iter().find(|crew| crew.code.as_deref() == Some("red")).unwrap()
}

#[test]
fn what_is_scheduled_lies_on_its_days_beside_what_the_crew_can_do() {
    let plant = plant();
    let short = order(&plant, "EQ", Some(6.0), WorkState::Ready);
    let long = order(&plant, "PART", Some(9.0), WorkState::Ready);
    let unknown = order(&plant, "EQ", None, WorkState::Planning);
    let free = order(&plant, "OTHER", Some(4.0), WorkState::Ready);
    place(&plant, short, Some("2026-02-17")).unwrap();
    place(&plant, unknown, Some("2026-02-17")).unwrap();
    // From Friday to the Tuesday after: three working days, of which this week has one.
    let over = json!({"scheduled_start": "2026-02-20T07:00:00Z", "scheduled_end": "2026-02-24T15:00:00Z"});
    plant.write(monday(), |tx| work::change(tx, long, &serde_json::from_value(over).unwrap())).unwrap();
    // Two hours of the six are done.
    let spent = json!({"kind": "labour", "person": "tess", "quantity": "2"});
    plant.write(monday(), |tx| entries::add(tx, short, &serde_json::from_value(spent).unwrap())).unwrap();

    let week = board(&plant, None);
    assert_eq!((week.monday.as_str(), week.number, week.today.as_deref()), ("2026-02-16", 8, Some("2026-02-16")));
    let red = red(&week);
    let loads: Vec<f64> = red.days.iter().map(|day| day.load_hours).collect();
    assert_eq!(loads, [0.0, 4.0, 0.0, 0.0, 3.0, 0.0, 0.0]);
    let capacity: Vec<f64> = red.days.iter().map(|day| day.capacity_hours).collect();
    assert_eq!(capacity, [8.0, 8.0, 8.0, 8.0, 8.0, 0.0, 0.0]);
    assert_eq!((red.load_hours, red.capacity_hours, red.is_over), (7.0, 40.0, false));
    assert_eq!((week.load_hours, week.days_over), (7.0, 0));
    // 4 + 9 + 4 hours are open, all of them ready or scheduled; what nobody estimated has none.
    assert_eq!((red.backlog_weeks, red.ready_weeks), (Some(17.0 / 40.0), Some(17.0 / 40.0)));
    let tuesday: Vec<(WorkOrderId, Option<f64>, &[Conflict])> =
        red.days[1].orders.iter().map(|one| (one.number, one.hours, one.conflicts.as_slice())).collect();
    assert_eq!(tuesday, [(short, Some(4.0), &[][..]), (unknown, None, &[Conflict::NotReady][..])]);
    assert_eq!((week.undated, week.queue[0].number), (1, free));
    // The second week has the rest of what goes on.
    let next = plant.store.look(Looker::all(monday()), |view| work::week::week(view, None, date(2026, 2, 23))).unwrap();
    let goes_on: Vec<(f64, bool)> = next
        .crews
        .iter()
        .flat_map(|crew| &crew.days)
        .flat_map(|day| day.orders.iter().map(|one| (day.load_hours, one.goes_on)))
        .collect();
    assert_eq!(goes_on, [(3.0, true), (3.0, true)]);
    // Nine hours on a day of eight are too many, and eight are not.
    for (hours, over) in [(8.0, 0), (9.0, 1)] {
        let estimate = json!({"estimated_hours": hours, "scheduled_start": "2026-02-19T07:00:00Z"});
        plant.write(monday(), |tx| work::change(tx, free, &serde_json::from_value(estimate).unwrap())).unwrap();
        let week = board(&plant, None);
        assert_eq!((week.days_over, week.crews.iter().filter(|crew| crew.is_over).count()), (over, 0), "{hours}");
    }
    let back = json!({"estimated_hours": 4.0, "clear": ["schedule"]});
    plant.write(monday(), |tx| work::change(tx, free, &serde_json::from_value(back).unwrap())).unwrap();
    // A part of the plant has its own.
    let part = board(&plant, Some("OTHER"));
    assert_eq!((part.undated, part.crews.iter().map(|crew| crew.load_hours).sum::<f64>()), (1, 0.0));
    // All hours of the week a second way: in SQL, of what begins in it and ends in it.
    let whole: f64 = plant.database().query_row(
        "SELECT sum(estimated_hours - spent_ms / 3600000.0) FROM work_orders WHERE scheduled_start BETWEEN ?1 AND ?2 AND scheduled_end IS NULL",
        [monday().plus(-86_400_000).ms(), monday().plus(6 * 86_400_000).ms()], |row| row.get(0)).unwrap();
    assert_eq!(whole + 3.0, red.load_hours);
}

/// Who sees their own crew's work is told of no other crew's week, and of nobody's backlog.
#[test]
fn a_technician_sees_the_own_crews_week() {
    let plant = plant();
    plant
        .write(day(1), |tx| {
            let crew = json!({"code": "blue", "name": "Blue", "department": "Lifts", "weekly_hours": 80.0});
            people::add_crew(tx, &serde_json::from_value(crew).unwrap())?;
            let of_blue = people::Person { crew: Some("blue".into()), ..person("bo", "technician", None) };
            people::add(tx, &of_blue)
        })
        .unwrap();
    let number = order(&plant, "EQ", Some(6.0), WorkState::Ready);
    place(&plant, number, Some("2026-02-18")).unwrap();
    let bo = Looker { viewer: Viewer::from(&plant.person("bo")), ..Looker::all(monday()) };
    let week = plant.store.look(bo, |view| work::week::week(view, None, date(2026, 2, 16))).unwrap();
    let told: Vec<(Option<&str>, f64, Option<f64>)> =
        week.crews.iter().map(|crew| (crew.code.as_deref(), crew.load_hours, crew.backlog_weeks)).collect();
    assert_eq!((told, week.may_plan), (vec![(Some("blue"), 0.0, None)], false));
}

#[test]
fn an_order_is_put_on_a_day_moved_taken_off_and_put_back() {
    let plant = plant();
    let number = order(&plant, "EQ", Some(6.0), WorkState::Ready);
    let stands = |plant: &Plant| {
        let detail = plant.store.look(Looker::all(monday()), |view| work::detail(view, number)).unwrap();
        (detail.row.state, detail.scheduled_start.map(|at| at.to_string()))
    };
    place(&plant, number, Some("2026-02-18")).unwrap();
    assert_eq!(stands(&plant), (WorkState::Scheduled, Some("2026-02-18T07:00:00Z".into())));
    let moved = place(&plant, number, Some("2026-02-20")).unwrap();
    assert_eq!(stands(&plant), (WorkState::Scheduled, Some("2026-02-20T07:00:00Z".into())));
    plant.write(monday(), |tx| work::put_back(tx, moved.batch.unwrap())).unwrap();
    assert_eq!(stands(&plant), (WorkState::Scheduled, Some("2026-02-18T07:00:00Z".into())));
    let off = place(&plant, number, None).unwrap();
    assert_eq!(stands(&plant), (WorkState::Ready, None));
    plant.write(monday(), |tx| work::put_back(tx, off.batch.unwrap())).unwrap();
    assert_eq!(stands(&plant), (WorkState::Scheduled, Some("2026-02-18T07:00:00Z".into())));
    let soon = place(&plant, number, Some("soon")).unwrap_err();
    assert!(matches!(&soon, StoreError::Invalid { field, .. } if field == "date"), "{soon:?}");
}

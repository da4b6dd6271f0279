//! The same fault once: what was raised already, reports joined to it, links, and what waits past its date.

use crate::common::{Plant, add_asset, day, move_to};
use serde_json::json;
use tally_core::{
    ground::{
        ids::WorkOrderId,
        time::{DAY, Instant},
    },
    work::{Kin, SourceWord, StateMove, WorkState},
};
use tally_store::{
    Looker, Result, StoreError, work,
    work::{AlreadyRaised, Filter, Page, WorkDetail, links, occurrences},
};

fn raise(plant: &Plant, asset: &str, title: &str, now: Instant) -> WorkOrderId {
    let new = json!({"title": title, "kind": "corrective_deferred", "asset": asset, "risk_rank": 3});
    plant.write(now, |tx| work::raise(tx, &serde_json::from_value(new).unwrap())).unwrap()
}

fn already(plant: &Plant, asset: &str, words: &str, now: Instant) -> AlreadyRaised {
    plant.store.look(Looker::all(now), |view| work::already_raised(view, asset, words)).unwrap()
}

fn detail(plant: &Plant, number: WorkOrderId, now: Instant) -> WorkDetail {
    plant.store.look(Looker::all(now), |view| work::detail(view, number)).unwrap()
}

fn join(plant: &Plant, number: WorkOrderId, words: &str, now: Instant) -> Result<i64> {
    let new = json!({ "words": words });
    plant.write(now, |tx| occurrences::join(tx, number, &serde_json::from_value(new).unwrap()))
}

#[test]
fn open_work_on_an_asset_its_parents_and_parts_is_found_and_no_other() {
    let plant = Plant::new();
    let other = json!({"code": "OTHER", "name": "Other", "level": "unit", "parent": "SITE"});
    plant.write(day(1), |tx| add_asset(tx, other)).unwrap();
    let now = day(100);
    let old = raise(&plant, "EQ", "Coupling is loose", day(9));
    let done = raise(&plant, "EQ", "Coupling is loose", day(50));
    for state in [WorkState::Ready, WorkState::UnderWay, WorkState::Done] {
        plant.write(day(51), |tx| work::set_state(tx, done, &move_to(state))).unwrap();
    }
    let elsewhere = raise(&plant, "OTHER", "Coupling is loose", day(60));
    let on_part = raise(&plant, "PART", "Oil drips", day(61));
    let above = raise(&plant, "SITE", "Paint the coupling guards", day(62));
    let here = raise(&plant, "EQ", "Loosened couplings", day(63));
    let at_once = raise(&plant, "EQ", "See to the oil", now);
    let found = already(&plant, "EQ", "coupling loose", now);
    let told: Vec<(WorkOrderId, Kin, bool)> =
        found.work_orders.iter().map(|row| (row.number, row.kin, row.is_alike)).collect();
    let expected =
        [(here, Kin::Same, true), (above, Kin::Parent, true), (at_once, Kin::Same, false), (on_part, Kin::Part, false)];
    assert_eq!((told.as_slice(), found.count), (expected.as_slice(), 4));
    // Counted in SQL: open, of the last 90 days, on a line upwards or downwards.
    let count: u64 = plant
        .database()
        .query_row(
            "WITH RECURSIVE up (id) AS (SELECT id FROM assets WHERE code = 'EQ' UNION
                 SELECT p.parent_id FROM placements p JOIN up ON p.asset_id = up.id WHERE p.to_at IS NULL AND p.parent_id NOT NULL),
             down (id) AS (SELECT id FROM assets WHERE code = 'EQ' UNION
                 SELECT p.asset_id FROM placements p JOIN down ON p.parent_id = down.id WHERE p.to_at IS NULL)
             SELECT count(*) FROM work_orders WHERE raised_at >= ?1 AND state NOT IN ('done', 'returned', 'closed', 'dropped')
                 AND asset_id IN (SELECT id FROM up UNION SELECT id FROM down)",
            [now.ms() - 90 * DAY],
            |row| row.get(0),
        )
        .unwrap();
    assert_eq!(count, found.count);
    assert!([old, done, elsewhere].iter().all(|number| told.iter().all(|(one, ..)| one != number)));
    let nothing = plant.store.look(Looker::all(now), |view| work::already_raised(view, "NONE", "x")).unwrap_err();
    assert!(matches!(nothing, StoreError::NotFound { .. }), "{nothing:?}");
}

#[test]
fn joined_twice_it_is_one_order_with_two_occurrences() {
    let plant = Plant::new();
    let number = raise(&plant, "EQ", "Coupling is loose", day(1));
    let first = join(&plant, number, " rattles ", day(2)).unwrap();
    join(&plant, number, "rattles more", day(3)).unwrap();
    let told = detail(&plant, number, day(4)).reported_again;
    let words: Vec<(&str, Instant)> = told.iter().map(|one| (one.words.as_str(), one.at)).collect();
    assert_eq!(words, [("rattles", day(2)), ("rattles more", day(3))]);
    let orders: i64 = plant.database().query_row("SELECT count(*) FROM work_orders", [], |row| row.get(0)).unwrap();
    assert_eq!(orders, 1);
    assert_eq!(already(&plant, "EQ", "", day(4)).work_orders[0].reports, 2);
    plant.write(day(4), |tx| occurrences::take_back(tx, number, first)).unwrap();
    assert_eq!(detail(&plant, number, day(4)).reported_again.len(), 1);
    let gone = plant.write(day(4), |tx| occurrences::take_back(tx, number, first)).unwrap_err();
    assert!(matches!(gone, StoreError::NotFound { .. }), "{gone:?}");
    for state in [WorkState::Ready, WorkState::UnderWay, WorkState::Done] {
        plant.write(day(5), |tx| work::set_state(tx, number, &move_to(state))).unwrap();
    }
    let late = join(&plant, number, "again", day(6)).unwrap_err();
    assert!(matches!(late, StoreError::Conflict(_)) && late.to_string().contains("done"), "{late}");
}

#[test]
fn orders_are_linked_both_ways_once_and_work_is_raised_with_its_links_or_not_at_all() {
    let plant = Plant::new();
    let one = raise(&plant, "EQ", "Coupling is loose", day(1));
    let new = |linked: &[i64]| json!({"title": "Replace it", "kind": "corrective_deferred", "asset": "PART", "risk_rank": 3, "linked": linked});
    let raise = |linked: &[i64]| {
        let new = new(linked);
        plant.write(day(2), |tx| work::raise(tx, &serde_json::from_value(new).unwrap()))
    };
    let two = raise(&[one.0]).unwrap();
    let linked = |number| detail(&plant, number, day(3)).linked.iter().map(|one| one.number).collect::<Vec<_>>();
    assert_eq!((linked(one), linked(two)), (vec![two], vec![one]));
    let refused = raise(&[one.0, 77]).unwrap_err().to_string();
    assert!(refused.contains("linked[1]"), "{refused}");
    assert_eq!(already(&plant, "EQ", "", day(3)).count, 2, "nothing is left of it");
    let again = plant.write(day(3), |tx| links::link(tx, two, one)).unwrap_err();
    assert!(matches!(again, StoreError::Conflict(_)), "{again:?}");
    let itself = plant.write(day(3), |tx| links::link(tx, two, two)).unwrap_err();
    assert!(matches!(&itself, StoreError::Invalid { field, .. } if field == "to"), "{itself:?}");
    for (work, other) in [(WorkOrderId(77), one), (one, WorkOrderId(77))] {
        let missing = plant.write(day(3), |tx| links::link(tx, work, other)).unwrap_err();
        assert!(missing.to_string().contains("there is no work order \"77\""), "{missing}");
    }
    plant.write(day(3), |tx| links::unlink(tx, one, two)).unwrap();
    assert_eq!((linked(one), linked(two)), (vec![], vec![]));
}

#[test]
fn what_waits_past_its_date_is_listed_and_time_in_states_is_the_age() {
    let plant = Plant::new();
    let wait = |number, until: Option<Instant>| {
        let to = StateMove {
            waiting_for: Some(tally_core::work::WaitingFor::Parts),
            expected_until: until,
            ..move_to(WorkState::Waiting)
        };
        plant.write(day(2), |tx| work::set_state(tx, number, &move_to(WorkState::Planning))).unwrap();
        plant.write(day(4), |tx| work::set_state(tx, number, &to)).unwrap();
    };
    let numbers = [(); 4].map(|()| raise(&plant, "EQ", "Fit a seal", day(1)));
    for (number, until) in numbers.into_iter().zip([None, Some(day(6)), Some(day(20)), Some(day(7))]) {
        wait(number, until);
    }
    plant.write(day(9), |tx| work::set_state(tx, numbers[3], &move_to(WorkState::Planning))).unwrap();
    let list = |late_waiting| {
        let filter = Filter { late_waiting, ..Filter::default() };
        let page = Page { limit: 9, ..Page::default() };
        plant.store.look(Looker::all(day(10)), |view| work::list(view, &filter, &page)).unwrap()
    };
    let late = list(true);
    let told: Vec<WorkOrderId> = late.work_orders.iter().map(|row| row.number).collect();
    // By hand: of four one waits without a date, one until later, and one waits no more.
    assert_eq!((told, late.totals.late_waiting, list(false).totals.late_waiting), (vec![numbers[1]], 1, 1));
    let times = detail(&plant, numbers[3], day(12)).time_in_states;
    let days: Vec<(WorkState, i64, bool)> = times.iter().map(|one| (one.state, one.ms / DAY, one.is_now)).collect();
    let expected = [(WorkState::Raised, 1, false), (WorkState::Planning, 2 + 3, true), (WorkState::Waiting, 5, false)];
    assert_eq!(days, expected);
}

/// The same is raised on several assets or on none; what follows on is told on both sides.
#[test]
fn work_follows_on_and_is_raised_on_several_assets_at_once() {
    let plant = Plant::new();
    let first = raise(&plant, "EQ", "Coupling is loose", day(1));
    let new = |also: &[&str], follows: Option<WorkOrderId>| {
        json!({"title": "Replace the coupling", "kind": "improvement", "asset": "EQ", "risk_rank": 2, "also_on": also,
            "follows": follows, "linked": []})
    };
    let on = |new: serde_json::Value| {
        plant.write(day(2), |tx| work::raise_on_each(tx, &serde_json::from_value(new).unwrap()))
    };
    let (number, also) = on(new(&["PART", "SUB"], Some(first))).unwrap();
    let assets: Vec<String> =
        [number].iter().chain(&also).map(|one| detail(&plant, *one, day(3)).row.asset.code).collect();
    assert_eq!(assets, ["EQ", "PART", "SUB"]);
    let second = detail(&plant, number, day(3));
    assert_eq!((second.row.source, second.follows.unwrap().number), (SourceWord::Work, first));
    let before = detail(&plant, first, day(3));
    let after: Vec<WorkOrderId> = before.followed_by.iter().map(|one| one.number).collect();
    assert_eq!((after, before.follows.is_none()), (vec![also[1], also[0], number], true));

    let count =
        || -> i64 { plant.database().query_row("SELECT count(*) FROM work_orders", [], |row| row.get(0)).unwrap() };
    assert_eq!(count(), 4);
    for (wrong, field) in [
        (new(&["PART", "NONE"], None), "also_on[1]"),
        (new(&["EQ"], None), "also_on[0]"),
        (new(&["PART", "PART"], None), "also_on[1]"),
        (new(&[], Some(WorkOrderId(77_777))), "follows"),
    ] {
        let refused = on(wrong).unwrap_err();
        assert!(matches!(&refused, StoreError::Invalid { field: named, .. } if named == field), "{refused:?}");
    }
    assert_eq!(count(), 4, "nothing is half raised");
}

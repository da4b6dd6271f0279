//! What the storeroom keeps, and what orders know of it; permits that assets ask for; what speaks against a day for want of them.

use crate::common::{Plant, day};
use jiff::civil::date;
use serde_json::json;
use tally_core::{
    ground::{ids::WorkOrderId, time::Instant},
    work::week::Conflict,
};
use tally_store::{
    Looker, StoreError,
    plant::{calendars, master::Kind},
    work,
    work::{job_sheets, job_sheets::TickChange},
};

fn part(plant: &Plant, fields: &[(&str, &str)]) -> Vec<(String, String)> {
    let receipt = plant.take(Kind::Storeroom, day(1), fields);
    let reasons = receipt.lines.into_iter().flat_map(|line| line.reasons);
    reasons.map(|one| (one.field, one.reason)).collect()
}

fn sheet(plant: &Plant, code: &str, parts: serde_json::Value, needs_outage: bool) {
    let sheet = json!({"title": "Renew it", "status": "active", "parts": parts, "needs_outage": needs_outage});
    plant.write(day(1), |tx| job_sheets::put(tx, code, &serde_json::from_value(sheet).unwrap())).unwrap();
}

fn order(plant: &Plant, job: Option<&str>, now: Instant) -> WorkOrderId {
    let new = json!({"title": "Renew it", "kind": "predetermined", "asset": "EQ", "risk_rank": 3, "job_sheet": job,
        "state": "ready"});
    plant.write(now, |tx| work::raise(tx, &serde_json::from_value(new).unwrap())).unwrap()
}

#[test]
fn an_order_knows_what_is_in_stock_and_when_the_rest_is_there() {
    let plant = Plant::new();
    let enough = [("code", "K-1"), ("name", "Gear oil"), ("place", "C 03"), ("stock", "200"), ("lead_days", "9")];
    assert_eq!(part(&plant, &enough), []);
    let short = [("code", "K-2"), ("name", "Seal kit"), ("stock", "1"), ("lead_days", "21"), ("fits", "EQ | PART")];
    assert_eq!(part(&plant, &short), []);
    // Called as somebody writes it.
    sheet(
        &plant,
        "RENEW",
        json!([{"item": "gear OIL", "quantity": 180.0}, {"item": "Seal kit", "quantity": 2.0},
            {"item": "Rags", "quantity": 1.0}]),
        false,
    );
    let number = order(&plant, Some("RENEW"), day(2));
    let detail = plant.order(number, day(3));
    let told: Vec<_> = detail
        .parts
        .iter()
        .map(|one| (one.code.as_deref(), one.on_hand, one.is_missing, one.expected_on.as_deref()))
        .collect();
    // Twenty-one days after the day it is looked at, 3 January.
    assert_eq!(
        told,
        [
            (Some("K-1"), Some(200.0), false, None),
            (Some("K-2"), Some(1.0), true, Some("2026-01-24")),
            (None, None, false, None)
        ]
    );
    assert_eq!(detail.parts_expected_on.as_deref(), Some("2026-01-24"));
    let spare: Vec<_> =
        detail.spare_parts.iter().map(|one| (one.code.as_str(), one.item.as_str(), one.on_hand)).collect();
    assert_eq!(spare, [("K-2", "Seal kit", 1.0)]);
    // Nobody knows how long it takes: no date is made up.
    assert_eq!(part(&plant, &[("code", "K-2"), ("lead_days", "")]), []);
    let detail = plant.order(number, day(3));
    assert_eq!((detail.parts[1].is_missing, detail.parts_expected_on), (true, None));
}

#[test]
fn what_makes_no_sense_of_a_part_is_named() {
    let plant = Plant::new();
    assert_eq!(part(&plant, &[("code", "K-1"), ("name", "Gear oil")]), []);
    let refused = |fields: &[(&str, &str)], field: &str, reason: &str| {
        let told = part(&plant, fields);
        assert!(told.iter().any(|(of, why)| of == field && why.contains(reason)), "{told:?}");
    };
    refused(&[("code", "K-2"), ("name", "GEAR OIL")], "name", "is part K-1");
    refused(&[("code", "K-2"), ("name", "Seal"), ("stock", "-1")], "stock", "0 or more");
    refused(&[("code", "K-2"), ("name", "Seal"), ("lead_days", "1.5")], "lead_days", "whole number");
    refused(&[("code", "K-2"), ("name", "Seal"), ("fits", "NOWHERE")], "fits", "NOWHERE");
    let count: i64 = plant.database().query_row("SELECT count(*) FROM storeroom", [], |row| row.get(0)).unwrap();
    assert_eq!(count, 1, "nothing is half written");
}

#[test]
fn permits_are_those_of_the_nearest_asset_that_says_some_when_it_was_raised() {
    let plant = Plant::new();
    let set = |asset: &str, permits: &str| {
        let receipt = plant.take(Kind::Assets, day(1), &[("code", asset), ("permits", permits)]);
        assert_eq!(receipt.changed, 1, "{receipt:?}");
    };
    let before = order(&plant, None, day(1));
    set("SITE", "Gate closed");
    set("SYS", "Drive locked out | Line without pressure");
    sheet(&plant, "RENEW", json!([]), false);
    let number = order(&plant, Some("RENEW"), day(2));
    let texts = |number| plant.order(number, day(3)).permits.into_iter().map(|one| one.text).collect::<Vec<_>>();
    assert_eq!(texts(number), ["Drive locked out", "Line without pressure"]);
    assert_eq!(texts(before), Vec::<String>::new());
    let tick = |place, done| {
        let change = TickChange { step: None, permit: None, asset_permit: Some(place), done, skip: None, at: None };
        plant.write(day(3), |tx| job_sheets::tick(tx, number, &change))
    };
    tick(1, true).unwrap();
    assert!(matches!(tick(2, true), Err(StoreError::Invalid { field, .. }) if field == "asset_permit"));
    // What was ticked off of them stands, whatever the job sheet, and whatever the asset asks for later.
    set("SYS", "Something else");
    let clear = serde_json::from_value(json!({"clear": ["job_sheet"]})).unwrap();
    plant.write(day(4), |tx| work::change(tx, number, &clear)).unwrap();
    let lines = plant.order(number, day(5)).permits;
    assert_eq!(lines.iter().map(|line| line.ticked_by.is_some()).collect::<Vec<_>>(), [false, true]);
    tick(1, false).unwrap();
    assert!(plant.order(number, day(5)).permits.iter().all(|line| line.ticked_at.is_none()));
}

/// Monday 5 January 2026; counted by hand.
#[test]
fn what_is_missing_speaks_against_a_day() {
    let plant = Plant::new();
    let monday = Instant::parse("2026-01-05T08:00:00Z").unwrap();
    assert_eq!(part(&plant, &[("code", "K-2"), ("name", "Seal kit"), ("stock", "0"), ("lead_days", "2")]), []);
    sheet(&plant, "SEALS", json!([{"item": "Seal kit", "quantity": 1.0}]), false);
    sheet(&plant, "STANDING", json!([]), true);
    // It runs on Tuesdays and Wednesdays.
    // Weekdays are counted from Monday, 0.
    let hours = [1, 2].map(|weekday| json!({"weekday": weekday, "from_minute": 480, "to_minute": 1020}));
    let runs = json!({"code": "runs", "name": "Runs", "time_zone": "UTC", "hours": hours, "seasons": [], "closed": []});
    plant
        .write(day(1), |tx| {
            calendars::add(tx, &serde_json::from_value(runs).unwrap())?;
            calendars::assign(tx, "EQ", "runs", Instant::EARLIEST)
        })
        .unwrap();
    let receipt = plant.take(Kind::People, day(1), &[("code", "tess"), ("away", "2026-01-07..2026-01-08")]);
    assert_eq!(receipt.changed, 1, "{receipt:?}");
    let wrong = plant.take(Kind::People, day(1), &[("code", "tess"), ("away", "next week")]);
    assert_eq!(wrong.lines[0].reasons[0].field, "away");

    let parts = order(&plant, Some("SEALS"), day(2));
    let standing = order(&plant, Some("STANDING"), day(2));
    let person = order(&plant, None, day(2));
    let long = |number, more: serde_json::Value| {
        let mut change = json!({"scheduled_start": "2026-01-05T09:00:00Z", "scheduled_end": "2026-01-09T15:00:00Z",
            "estimated_hours": 10.0});
        change.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
        plant.write(monday, |tx| work::change(tx, number, &serde_json::from_value(change).unwrap())).unwrap();
    };
    long(parts, json!({}));
    long(standing, json!({}));
    long(person, json!({"assignee": "tess"}));
    let board = plant.store.look(Looker::all(monday), |view| work::week::week(view, None, date(2026, 1, 5))).unwrap();
    let on = |number: WorkOrderId| -> Vec<Vec<Conflict>> {
        let of_day = |day: usize| {
            let orders = board.crews.iter().flat_map(|crew| &crew.days[day].orders);
            orders.filter(|one| one.number == number).flat_map(|one| one.conflicts.clone()).collect()
        };
        (0..5).map(of_day).collect()
    };
    let none = Vec::new;
    let missing = || vec![Conflict::PartsMissing];
    assert_eq!(on(parts), [missing(), missing(), none(), none(), none()], "ordered on Monday, there on Wednesday");
    let runs = || vec![Conflict::AssetRuns];
    assert_eq!(on(standing), [none(), runs(), runs(), none(), none()]);
    let away = || vec![Conflict::PersonAway];
    assert_eq!(on(person), [none(), none(), away(), away(), none()]);
}

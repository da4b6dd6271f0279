//! Job sheets: versions, what takes them, and what of them is ticked off.

use crate::common::{Plant, day};
use rstest::rstest;
use serde_json::{Value, json};
use tally_core::{
    ground::{ids::WorkOrderId, time::Instant},
    work::WorkState,
};
use tally_store::{
    Result, StoreError, View,
    plant::master::Kind,
    work,
    work::{job_sheets, job_sheets::TickChange, upkeep},
};

fn put(plant: &Plant, code: &str, sheet: Value, now: Instant) -> Result<()> {
    let sheet = serde_json::from_value(sheet).unwrap();
    plant.write(now, |tx| job_sheets::put(tx, code, &sheet))
}

fn oil(version: &str) -> Value {
    json!({"title": format!("Change the oil {version}"), "status": "active", "crew": null,
        "permits": ["Lock the drive"], "parts": [{"item": "Gear oil", "quantity": 180.0}],
        "steps": [{"text": "Drain", "hours": 1.5}, {"text": "Fill", "asset": "PART", "meters": ["M-ACC"], "hours": 2.0}]})
}

fn raise(plant: &Plant, now: Instant, more: Value) -> Result<WorkOrderId> {
    let mut new = json!({"title": "Oil", "kind": "predetermined", "asset": "EQ", "risk_rank": 3});
    new.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
    plant.write(now, |tx| work::raise(tx, &serde_json::from_value(new).unwrap()))
}

#[test]
fn an_order_keeps_the_version_that_it_took() {
    let plant = Plant::new();
    put(&plant, "OIL", oil("once"), day(1)).unwrap();
    put(&plant, "OIL", oil("once"), day(2)).unwrap();
    let view = |now| plant.store.read(now, |view: &View| job_sheets::view(view, "OIL")).unwrap();
    assert_eq!(view(day(2)).version, 1, "nothing differs");
    let number = raise(&plant, day(3), json!({"job_sheet": "OIL"})).unwrap();
    put(&plant, "OIL", oil("again"), day(4)).unwrap();
    assert_eq!((view(day(4)).version, view(day(4)).used), (2, 1));
    let order = plant.order(number, day(5));
    let job = order.job.unwrap();
    assert_eq!((job.version, job.is_newer, job.title.as_str()), (1, true, "Change the oil once"));
    assert_eq!(order.row.estimated_hours, Some(3.5), "the hours of its steps");
    assert_eq!(
        (job.steps[1].asset_name.as_deref(), &job.steps[1].meters[..]),
        (Some("PART"), &["M-ACC".to_owned()][..])
    );
    // It takes another version only when told to.
    let change = serde_json::from_value(json!({"job_sheet": "OIL"})).unwrap();
    plant.write(day(6), |tx| work::change(tx, number, &change)).unwrap();
    assert_eq!(plant.order(number, day(6)).job.unwrap().version, 2);
    let clear = serde_json::from_value(json!({"clear": ["job_sheet"]})).unwrap();
    plant.write(day(7), |tx| work::change(tx, number, &clear)).unwrap();
    assert!(plant.order(number, day(7)).job.is_none());
}

#[test]
fn lines_are_ticked_off_and_back_until_the_order_is_over() {
    let plant = Plant::new();
    put(&plant, "OIL", oil(""), day(1)).unwrap();
    let number = raise(&plant, day(2), json!({"job_sheet": "OIL"})).unwrap();
    let tick = |step, permit, done| {
        let change = TickChange { step, permit, asset_permit: None, done, skip: None, at: None };
        plant.write(day(3), |tx| job_sheets::tick(tx, number, &change))
    };
    tick(Some(1), None, true).unwrap();
    tick(None, Some(0), true).unwrap();
    tick(None, Some(0), true).unwrap();
    let ticked = || {
        let job = plant.order(number, day(3)).job.unwrap();
        let lines = job.steps.iter().chain(&job.permits);
        lines.map(|line| line.ticked_by.is_some()).collect::<Vec<_>>()
    };
    assert_eq!(ticked(), [false, true, true]);
    tick(Some(1), None, false).unwrap();
    assert_eq!(ticked(), [false, false, true]);
    assert_eq!(tick(Some(2), None, true).unwrap_err().to_string(), "step: the order has none at that place");
    assert_eq!(tick(Some(0), Some(0), true).unwrap_err().to_string(), "step: say which step, or which permit");
    let drop = serde_json::from_value(json!({"to": "dropped", "note": "not needed"})).unwrap();
    plant.write(day(4), |tx| work::set_state(tx, number, &drop)).unwrap();
    assert!(matches!(tick(Some(0), None, true), Err(StoreError::Conflict(_))));
}

#[rstest]
#[case(json!({"title": "x", "crew": "nobody"}), "crew: there is no crew \"nobody\"")]
#[case(json!({"title": "x", "steps": [{"text": "y", "asset": "NO"}]}), "steps[0].asset: there is no asset \"NO\"")]
#[case(json!({"title": "x", "steps": [{"text": "y", "meters": ["M-ACC", "NO"]}]}), "steps[0].meters[1]: there is no meter \"NO\"")]
fn what_a_sheet_names_must_be_there(#[case] sheet: Value, #[case] reason: &str) {
    assert_eq!(put(&Plant::new(), "X", sheet, day(1)).unwrap_err().to_string(), reason);
}

#[test]
fn only_what_is_active_is_taken() {
    let plant = Plant::new();
    put(&plant, "OIL", json!({"title": "Oil", "status": "draft"}), day(1)).unwrap();
    let said = |code: &str| raise(&plant, day(2), json!({"job_sheet": code})).unwrap_err().to_string();
    assert_eq!(said("OIL"), "job_sheet: job sheet \"OIL\" is draft");
    assert_eq!(said("NO"), "job_sheet: there is no job sheet \"NO\"");
}

#[test]
fn a_limit_and_a_plan_take_a_sheet() {
    let plant = Plant::new();
    put(&plant, "OIL", oil(""), day(1)).unwrap();
    let ladder = |sheet: &str| {
        json!({"rungs": [{"side": "high", "severity": "serious", "setpoint": 4.0,
            "response": {"kind": "raise", "job_sheet": sheet}}]})
    };
    let refused = plant.set_limits("M-ACC", ladder("NO"), day(1)).unwrap_err().to_string();
    assert_eq!(refused, "rungs[0].response.job_sheet: there is no job sheet \"NO\"");
    plant.set_limits("M-ACC", ladder("OIL"), day(1)).unwrap();
    let number = plant.send("M-ACC", &[5.0], day(2)).work_orders[0];
    let order = plant.order(number, day(2));
    assert_eq!((order.job.unwrap().code.as_str(), order.row.estimated_hours), ("OIL", Some(3.5)));

    let plan = [
        ("code", "P"),
        ("name", "Oil"),
        ("asset", "EQ"),
        ("status", "active"),
        ("every_days", "30"),
        ("first_due", "2026-01-05"),
        ("job_sheet", "OIL"),
    ];
    let receipt = plant.take(Kind::UpkeepPlans, day(3), &plan);
    assert_eq!(receipt.added, 1, "{receipt:?}");
    let due = plant.store.read(day(5), |view: &View| upkeep::due(view, day(5))).unwrap();
    let number = plant.write(day(5), |tx| upkeep::settle(tx, &due)).unwrap()[0];
    let order = plant.order(number, day(5));
    assert_eq!((order.job.unwrap().steps.len(), order.row.estimated_hours), (2, Some(3.5)));
    assert_eq!(order.row.state, WorkState::Ready);
}

//! Rounds on a real database: one order, one step a visit, each with its sheet; walked in order, skipped with a reason.

use crate::common::{Plant, add_asset, day};
use serde_json::{Value, json};
use tally_core::{
    ground::ids::{CheckId, WorkOrderId},
    work::{
        WorkState,
        rounds::{MapLine, Walk},
    },
};
use tally_store::{
    Result, StoreError, Tx,
    work::{
        self,
        checks::{self, Answering},
        job_sheets::{self, TickChange, WorkJob},
    },
};

fn check_sheet(tx: &mut Tx, code: &str, more: &Value) -> Result<()> {
    let mut sheet = json!({"title": format!("Sheet {code}"), "status": "active",
        "questions": [{"key": "fine", "text": "Is it as it should be?", "asks": {"kind": "pass_fail"}, "compulsory": true}]});
    sheet.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
    checks::put(tx, code, &serde_json::from_value(sheet).unwrap())
}

fn job_sheet(tx: &mut Tx, code: &str, sheet: Value) -> Result<()> {
    job_sheets::put(tx, code, &serde_json::from_value(sheet).unwrap())
}

/// A gearbox with two parts. The class has a check sheet, one of the parts another by its name.
fn plant() -> Plant {
    let plant = Plant::new();
    plant
        .write(day(1), |tx| {
            for (code, class) in [("CYL", Some("gearbox")), ("OIL", None)] {
                let part = json!({"code": code, "name": format!("The {code}"), "level": "part", "parent": "EQ", "class": class});
                add_asset(tx, part)?;
            }
            check_sheet(tx, "A-CLASS", &json!({"class": "gearbox"}))?;
            check_sheet(tx, "OF-CYL", &json!({"assets": ["CYL"]}))?;
            check_sheet(tx, "LEVEL", &json!({}))?;
            job_sheet(tx, "TOP-UP", json!({"title": "Top the oil up", "status": "active", "check_sheets": ["LEVEL"],
                "steps": [{"text": "Wipe the cap"}, {"text": "Fill to the mark"}]}))?;
            job_sheet(tx, "ROUND", round("in_order"))
        })
        .unwrap();
    plant
}

fn round(walk: &str) -> Value {
    json!({"title": "Round of the drive", "status": "active", "round": walk, "steps": [
        {"asset": "EQ"}, {"asset": "CYL", "hours": 0.5}, {"asset": "OIL", "job_sheet": "TOP-UP"},
        {"asset": "OIL", "text": "Look at the sump"}]})
}

fn walk(plant: &Plant) -> WorkOrderId {
    let new = json!({"title": "Round", "kind": "inspection", "asset": "EQ", "risk_rank": 3, "state": "ready",
        "job_sheet": "ROUND"});
    plant.write(day(2), |tx| work::raise(tx, &serde_json::from_value(new).unwrap())).unwrap()
}

fn job(plant: &Plant, order: WorkOrderId) -> WorkJob {
    plant.order(order, day(9)).job.unwrap()
}

fn check_at(plant: &Plant, order: WorkOrderId, place: usize) -> CheckId {
    let checks = plant.order(order, day(9)).checks;
    checks.iter().find(|check| check.step == Some(place)).unwrap().id
}

fn finish(plant: &Plant, order: WorkOrderId, place: usize) -> Result<()> {
    let check = check_at(plant, order, place);
    let fine: Answering = serde_json::from_value(
        json!({"answers": [{"question": "fine", "value": {"kind": "choices", "values": ["pass"]}}]}),
    )
    .unwrap();
    plant.write(day(3), |tx| checks::finish(tx, order, check, &fine)).map(drop)
}

fn settle(plant: &Plant, order: WorkOrderId, place: usize, done: bool, skip: Option<&str>) -> Result<()> {
    let change: TickChange = serde_json::from_value(json!({"step": place, "done": done, "skip": skip})).unwrap();
    plant.write(day(3), |tx| job_sheets::tick(tx, order, &change))
}

fn at_fault<T: std::fmt::Debug>(refused: Result<T>) -> String {
    match refused {
        Err(StoreError::Invalid { field, .. }) => field,
        other => panic!("{other:?}"),
    }
}

#[test]
fn a_round_is_one_order_with_a_step_a_visit_each_with_its_sheet() {
    let plant = plant();
    let order = walk(&plant);
    let detail = plant.order(order, day(2));
    let sheets: Vec<(Option<usize>, &str, &str)> =
        detail.checks.iter().map(|check| (check.step, check.sheet.as_str(), check.asset.code.as_str())).collect();
    // Its own: that of the class, the one that names it, what the job sheet asks for, and none.
    assert_eq!(sheets, [(Some(0), "A-CLASS", "EQ"), (Some(1), "OF-CYL", "CYL"), (Some(2), "LEVEL", "OIL")]);
    let job = detail.job.unwrap();
    assert_eq!((job.round, job.steps.len(), job.open_steps), (Some(Walk::InOrder), 4, 4));
    let turns: Vec<bool> = job.steps.iter().map(|step| step.is_turn).collect();
    assert_eq!(turns, [true, false, false, false]);
    let followed = job.steps[2].job.as_ref().unwrap();
    assert_eq!((followed.title.as_str(), followed.version, followed.steps.len()), ("Top the oil up", 1, 2));
    let line = |code: &str, depth, visits: &[usize]| (code.to_owned(), depth, visits.to_vec());
    let drawn = |MapLine { code, depth, visits, .. }| (code, depth, visits);
    let map: Vec<_> = job.map.into_iter().map(drawn).collect();
    assert_eq!(map, [line("EQ", 0, &[0]), line("CYL", 1, &[1]), line("OIL", 1, &[2, 3])]);
    // What is followed at a visit stays as it was taken.
    plant
        .write(day(2), |tx| job_sheet(tx, "TOP-UP", json!({"title": "Top it up", "status": "active", "steps": []})))
        .unwrap();
    assert_eq!(self::job(&plant, order).steps[2].job.as_ref().unwrap().title, "Top the oil up");
}

#[test]
fn visits_are_walked_in_order_and_closing_waits_for_all_of_them() {
    let plant = plant();
    let order = walk(&plant);
    let early = finish(&plant, order, 1);
    assert!(
        matches!(&early, Err(StoreError::Conflict(reason)) if reason.contains("visit 1 (EQ) comes first")),
        "{early:?}"
    );
    assert!(matches!(settle(&plant, order, 3, true, None), Err(StoreError::Conflict(_))));
    finish(&plant, order, 0).unwrap();
    assert_eq!(at_fault(settle(&plant, order, 1, false, Some(" "))), "skip");
    assert_eq!(at_fault(settle(&plant, order, 1, true, Some("locked"))), "skip");
    settle(&plant, order, 1, false, Some("gate locked")).unwrap();
    let stand = job(&plant, order);
    assert_eq!(stand.open_steps, 2);
    assert!(stand.steps[0].ticked_at.is_some() && stand.steps[0].skipped.is_none(), "finishing its sheet is the visit");
    assert_eq!((stand.steps[1].skipped.as_deref(), stand.steps[2].is_turn), (Some("gate locked"), true));
    finish(&plant, order, 2).unwrap();
    for state in [WorkState::UnderWay, WorkState::Done] {
        plant.state(order, state, day(4)).unwrap();
    }
    // The sheet of what was skipped holds nothing up; the visit that is left does.
    assert_eq!(at_fault(plant.state(order, WorkState::Closed, day(5))), "visits");
    settle(&plant, order, 3, true, None).unwrap();
    settle(&plant, order, 1, false, None).unwrap();
    assert_eq!(at_fault(plant.state(order, WorkState::Closed, day(5))), "checks", "it is to be visited again");
    finish(&plant, order, 1).unwrap();
    assert_eq!(job(&plant, order).open_steps, 0);
    plant.state(order, WorkState::Closed, day(6)).unwrap();
}

#[test]
fn a_round_may_be_walked_as_it_suits_and_what_is_begun_is_not_skipped() {
    let plant = plant();
    plant.write(day(1), |tx| job_sheet(tx, "ROUND", round("any_order"))).unwrap();
    let order = walk(&plant);
    finish(&plant, order, 2).unwrap();
    let check = check_at(&plant, order, 1);
    let begun: Answering = serde_json::from_value(
        json!({"answers": [{"question": "fine", "value": {"kind": "choices", "values": ["fail"]}}]}),
    )
    .unwrap();
    plant.write(day(3), |tx| checks::answer(tx, order, check, &begun)).unwrap();
    assert!(matches!(settle(&plant, order, 1, false, Some("locked")), Err(StoreError::Conflict(_))));
    // Another sheet takes its visits along; what was begun stays with the order.
    let other = serde_json::from_value(json!({"job_sheet": "TOP-UP"})).unwrap();
    plant.write(day(3), |tx| work::change(tx, order, &other)).unwrap();
    let left: Vec<(String, Option<usize>)> =
        plant.order(order, day(4)).checks.into_iter().map(|check| (check.sheet, check.step)).collect();
    assert_eq!(left, [("OF-CYL".into(), None), ("LEVEL".into(), None), ("LEVEL".into(), None)]);
}

#[test]
fn a_round_names_what_there_is() {
    let plant = plant();
    let put = |steps: Value| {
        let sheet = json!({"title": "Round", "round": "any_order", "steps": steps});
        at_fault(plant.write(day(2), |tx| job_sheet(tx, "OTHER", sheet)))
    };
    assert_eq!(put(json!([{"asset": "NONE"}])), "steps[0].asset");
    assert_eq!(put(json!([{"asset": "EQ"}, {"asset": "EQ", "job_sheet": "ROUND"}])), "steps[1].job_sheet");
    assert_eq!(put(json!([{"asset": "EQ", "check_sheet": "NONE"}])), "steps[0].check_sheet");
    // An asset there is not leaves a gap, the others stand.
    let map = plant.store.read(day(2), |view| job_sheets::round_map(view, &["NONE", "CYL"])).unwrap();
    assert_eq!(
        map.iter().map(|line| (line.code.as_str(), line.visits.clone())).collect::<Vec<_>>(),
        [("CYL", vec![1])]
    );
}

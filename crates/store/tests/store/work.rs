//! Work orders, what is reported on them, and what the tally makes of it.

use crate::common::{Plant, add_asset, day, move_to, year};
use serde_json::{Value, json};
use tally_core::{
    ground::{ids::WorkOrderId, time::Instant},
    plant::assets::Basis,
    tally::{
        Question, figures,
        indicators::{Figure, Indicator},
        why,
    },
    work::{StateMove, WorkState},
};
use tally_store::{
    Result, StoreError,
    codes::failures,
    facts,
    plant::{assets, downtime},
    tally, work,
    work::entries,
};

pub fn raise(plant: &Plant, asset: &str, kind: &str, now: Instant) -> WorkOrderId {
    let new = json!({"title": format!("Work on {asset}"), "kind": kind, "asset": asset, "risk_rank": 3});
    plant.write(now, |tx| work::raise(tx, &serde_json::from_value(new).unwrap())).unwrap()
}

pub fn enter(
    plant: &Plant,
    number: WorkOrderId,
    entry: Value,
    now: Instant,
) -> Result<tally_core::ground::ids::EntryId> {
    plant.write(now, |tx| entries::add(tx, number, &serde_json::from_value(entry).unwrap()))
}

pub fn costs(plant: &Plant, codes: &[&str], indicator: Indicator, now: Instant) -> Vec<Figure> {
    plant
        .store
        .read(Instant::LATEST, |view| {
            let snapshot = view.facts()?;
            let ids = codes.iter().map(|code| assets::require(view, code)).collect::<Result<Vec<_>>>()?;
            let q = Question { period: year(), now, basis: Basis::AsWas };
            Ok::<_, StoreError>(figures(snapshot, &ids, &[indicator], q).into_iter().map(|row| row[0]).collect())
        })
        .unwrap()
}

// Common practice, no published source: the two orders of the cost roll-up check.
#[test]
fn cost_rolls_up_provisional_before_closing_and_settled_after() {
    let plant = Plant::new();
    let part = raise(&plant, "PART", "inspection", day(2));
    let system = raise(&plant, "SUB", "inspection", day(2));
    enter(&plant, part, json!({"kind": "labour", "person": "tess", "quantity": "7.5"}), day(3)).unwrap();
    enter(
        &plant,
        part,
        json!({"kind": "tool", "quantity": "1", "unit_price": "2250", "description": "Puller"}),
        day(3),
    )
    .unwrap();
    enter(
        &plant,
        part,
        json!({"kind": "material", "quantity": "3", "unit_price": "4395", "description": "Seals"}),
        day(3),
    )
    .unwrap();
    enter(&plant, system, json!({"kind": "labour", "person": "tess", "quantity": "3", "unit_price": "5200"}), day(3))
        .unwrap();
    enter(
        &plant,
        system,
        json!({"kind": "service", "quantity": "1", "unit_price": "64000", "description": "Crane"}),
        day(3),
    )
    .unwrap();
    let codes = ["PART", "ASM", "SUB", "EQ", "SYS", "UNIT", "SITE"];
    let expected = [51_435, 51_435, 131_035, 131_035, 131_035, 131_035, 131_035];
    let split = |now| -> Vec<(Option<i64>, Option<i64>)> {
        costs(&plant, &codes, Indicator::CostTotal, now).iter().map(|f| (f.settled, f.provisional)).collect()
    };
    assert_eq!(split(day(4)), expected.map(|cents| (Some(0), Some(cents))));
    for number in [part, system] {
        plant.do_work(number, day(5));
        plant.state(number, WorkState::Closed, day(5)).unwrap();
    }
    assert_eq!(split(day(6)), expected.map(|cents| (Some(cents), Some(0))));
    for indicator in [Indicator::CostYtd, Indicator::CostLife] {
        let values: Vec<_> = costs(&plant, &codes, indicator, day(6)).iter().map(|f| f.value).collect();
        assert_eq!(values, expected.map(|cents| Some(cents as f64)), "{indicator:?}");
    }
}

#[test]
fn after_closing_only_a_planner_adjusts_and_it_settles_at_once() {
    let plant = Plant::new();
    let number = raise(&plant, "PART", "inspection", day(2));
    plant.do_work(number, day(3));
    plant.state(number, WorkState::Closed, day(3)).unwrap();
    let late = json!({"kind": "material", "quantity": "1", "unit_price": "100", "description": "Late bill"});
    let tess = plant.person("tess");
    let refused =
        plant.store.write(tess, day(4), |tx| entries::add(tx, number, &serde_json::from_value(late.clone()).unwrap()));
    assert_eq!(refused.unwrap_err().to_string(), "a technician may not enter cost on closed work");
    enter(&plant, number, late, day(4)).unwrap();
    let entry = &plant.order(number, day(4)).entries[0];
    assert!(entry.adjustment);
    assert_eq!(entry.settled_at, Some(day(4)));
}

#[test]
fn a_correction_is_an_entry_of_the_opposite_sign() {
    let plant = Plant::new();
    let number = raise(&plant, "PART", "inspection", day(2));
    let id = enter(&plant, number, json!({"kind": "labour", "person": "tess", "quantity": "2"}), day(3)).unwrap();
    plant.write(day(4), |tx| entries::reverse(tx, number, id, "wrong order")).unwrap();
    let order = plant.order(number, day(4));
    assert_eq!((order.row.cost, order.row.spent_hours, order.entries.len()), (0, 0.0, 2));
    let again = plant.write(day(4), |tx| entries::reverse(tx, number, id, "twice"));
    assert!(matches!(again, Err(StoreError::Conflict(_))));
    assert_eq!(costs(&plant, &["SITE"], Indicator::CostTotal, day(5))[0].value, Some(0.0));
}

#[test]
fn what_is_wrong_with_an_entry_is_said_by_field() {
    let plant = Plant::new();
    let number = raise(&plant, "PART", "inspection", day(2));
    for (entry, message) in [
        (json!({"kind": "labour", "person": "tess", "quantity": "0"}), "quantity: must be greater than 0"),
        (json!({"kind": "labour", "person": "nobody", "quantity": "1"}), "person: there is no person \"nobody\""),
        (json!({"kind": "labour", "person": "gate", "quantity": "1"}), "unit_price: this person has no rate; give one"),
        (json!({"kind": "tool", "quantity": "1", "description": "x"}), "unit_price: give a price"),
        (
            json!({"kind": "tool", "quantity": "1", "unit_price": "-1", "description": "x"}),
            "unit_price: must not be negative",
        ),
        (json!({"kind": "tool", "quantity": "1", "unit_price": "1"}), "description: say what it was"),
        (
            json!({"kind": "tool", "quantity": "1", "unit_price": "1", "description": "x", "asset": "NO"}),
            "asset: there is no asset \"NO\"",
        ),
        (
            json!({"kind": "tool", "quantity": "1", "unit_price": "1", "description": "x", "at": "2027-01-01T00:00:00Z"}),
            "at: lies in the future",
        ),
    ] {
        assert_eq!(enter(&plant, number, entry, day(3)).unwrap_err().to_string(), message);
    }
    assert!(plant.order(number, day(3)).entries.is_empty());
}

#[test]
fn corrective_work_closes_with_its_problem_and_its_downtime_ended() {
    let plant = Plant::new();
    let number = raise(&plant, "PART", "corrective_deferred", day(2));
    let open = json!({"kind": "unplanned", "start": day(2)});
    let id =
        plant.write(day(3), |tx| downtime::add_to_work(tx, number, &serde_json::from_value(open).unwrap())).unwrap();
    plant.do_work(number, day(4));
    let refused = plant.state(number, WorkState::Closed, day(5)).unwrap_err();
    assert_eq!(
        refused.to_string(),
        "failure.problem: corrective work needs a failure report with at least the problem"
    );
    let report = |codes: Value| {
        let mut report = json!({"failed_at": day(2), "effect": "critical"});
        report.as_object_mut().unwrap().extend(codes.as_object().unwrap().clone());
        plant.write(day(5), |tx| failures::put(tx, number, &serde_json::from_value(report).unwrap()))
    };
    let crossed = report(json!({"problem": "NOISE", "cause": "SEAL"})).unwrap_err();
    assert_eq!(crossed.to_string(), "cause: this cause does not belong to the problem");
    report(json!({"problem": "NOISE", "cause": "BEAR", "remedy": "RBEAR"})).unwrap();
    let refused = plant.state(number, WorkState::Closed, day(5)).unwrap_err();
    assert_eq!(refused.to_string(), format!("downtime: downtime {id} has no end yet"));
    plant.write(day(5), |tx| downtime::end(tx, id, day(4))).unwrap();
    plant.state(number, WorkState::Closed, day(5)).unwrap();
    // Two days down, around the clock, for every ancestor.
    for figure in costs(&plant, &["PART", "EQ", "SITE"], Indicator::UnplannedDowntime, day(6)) {
        assert_eq!(figure.value, Some(48.0));
    }
    assert_eq!(costs(&plant, &["SITE"], Indicator::Mttr, day(6))[0].value, Some(48.0));
}

#[test]
fn a_change_of_state_is_dated_and_never_before_the_last_one() {
    let plant = Plant::new();
    let number = raise(&plant, "PART", "inspection", day(2));
    let dated = |to, when| {
        let mut to = move_to(to);
        to.at = Some(when);
        plant.write(day(9), |tx| work::set_state(tx, number, &to))
    };
    dated(WorkState::Ready, day(4)).unwrap();
    let early = dated(WorkState::UnderWay, day(3)).unwrap_err();
    assert_eq!(early.to_string(), "at: lies before the last change, at 2026-01-04T12:00:00Z");
    let no_such = dated(WorkState::Closed, day(5)).unwrap_err();
    assert!(matches!(&no_such, StoreError::Conflict(text) if text == "work that is ready cannot become closed"));
    let dropped = dated(WorkState::Dropped, day(5)).unwrap_err();
    assert_eq!(dropped.to_string(), "note: say why the work is dropped");
    assert_eq!(plant.order(number, day(9)).row.state, WorkState::Ready);
}

#[test]
fn a_moved_asset_leaves_its_past_with_the_old_parent() {
    let plant = Plant::new();
    plant
        .write(day(1), |tx| add_asset(tx, json!({"code": "SYS2", "name": "SYS2", "level": "system", "parent": "UNIT"})))
        .unwrap();
    let before = raise(&plant, "EQ", "inspection", day(2));
    enter(&plant, before, json!({"kind": "tool", "quantity": "1", "unit_price": "100", "description": "x"}), day(3))
        .unwrap();
    let was = costs(&plant, &["SYS"], Indicator::CostTotal, day(4))[0].value;
    let there = json!({"parent": "SYS2", "at": day(5), "reason": "rebuilt"});
    plant.write(day(6), |tx| assets::relocate(tx, "EQ", &serde_json::from_value(there).unwrap())).unwrap();
    enter(&plant, before, json!({"kind": "tool", "quantity": "1", "unit_price": "700", "description": "y"}), day(7))
        .unwrap();
    let values: Vec<_> =
        costs(&plant, &["SYS", "SYS2", "UNIT"], Indicator::CostTotal, day(8)).iter().map(|f| f.value).collect();
    assert_eq!(values, [was, Some(700.0), Some(800.0)]);
    let ring = json!({"parent": "PART", "at": day(7), "reason": "ring"});
    let refused = plant.write(day(8), |tx| assets::relocate(tx, "UNIT", &serde_json::from_value(ring).unwrap()));
    assert!(
        refused.unwrap_err().to_string().starts_with("parent: at 2026-01-07T12:00:00Z the new parent would sit below")
    );
}

#[test]
fn the_snapshot_kept_current_is_the_snapshot_read_anew() {
    let plant = Plant::new();
    let now = day(20);
    plant
        .write(day(1), |tx| {
            let other = json!({"code": "M-H2", "asset": "SUB", "kind": "counter", "unit": "h", "resolution": 0.1, "running_hours": true});
            crate::common::add_meter(tx, other)
        })
        .unwrap();
    plant.send("M-H2", &[5.0, 5.5], day(2));
    // Read once, so that everything below comes as changes; the other counter does not change.
    costs(&plant, &["SITE"], Indicator::CostTotal, now);
    let number = raise(&plant, "PART", "corrective_deferred", day(2));
    let id = enter(&plant, number, json!({"kind": "labour", "person": "tess", "quantity": "2"}), day(3)).unwrap();
    plant.write(day(4), |tx| entries::reverse(tx, number, id, "oops")).unwrap();
    enter(&plant, number, json!({"kind": "labour", "person": "tess", "quantity": "4"}), day(4)).unwrap();
    let down = json!({"kind": "unplanned", "start": day(3), "end": day(4)});
    plant.write(day(5), |tx| downtime::add_to_work(tx, number, &serde_json::from_value(down).unwrap())).unwrap();
    let report = json!({"problem": "NOISE", "failed_at": day(3), "effect": "critical"});
    plant.write(day(5), |tx| failures::put(tx, number, &serde_json::from_value(report).unwrap())).unwrap();
    plant.do_work(number, day(6));
    plant.send("M-H", &[100.0, 100.5, 101.0], day(7));
    plant.send("M-H", &[120.0], day(9));
    let other = raise(&plant, "EQ", "inspection", day(8));
    plant
        .write(day(9), |tx| work::change(tx, other, &serde_json::from_value(json!({"estimated_hours": 6.0})).unwrap()))
        .unwrap();
    let indicators: Vec<Indicator> = tally_core::tally::indicators::CATALOGUE.iter().map(|d| d.id).collect();
    plant
        .store
        .read(Instant::LATEST, |view| {
            let kept = view.facts()?;
            let fresh = facts::load(view)?;
            assert_eq!(kept.change, fresh.change);
            let ids: Vec<_> = (0..fresh.tree.len()).map(|i| fresh.tree.node(i).id).collect();
            let q = Question { period: year(), now, basis: Basis::AsWas };
            assert_eq!(figures(kept, &ids, &indicators, q), figures(&fresh, &ids, &indicators, q));
            let eq = assets::require(view, "EQ")?;
            let mtbf = why(kept, eq, Indicator::Mtbf, q).unwrap();
            // 20 h by the counter, from ten on the seventh to noon of the ninth; before it 154 h of which 24 were down, after it 264 h.
            assert_eq!(
                (mtbf.inputs[0].name.as_str(), mtbf.inputs[1].name.as_str()),
                ("Operating time", "By the counter")
            );
            assert!((mtbf.inputs[1].value - 20.0).abs() < 1e-9);
            assert!((mtbf.figure.value.unwrap() - (20.0 + 154.0 - 24.0 + 264.0)).abs() < 1e-9, "{mtbf:?}");
            Ok::<_, StoreError>(())
        })
        .unwrap();
}

#[test]
fn a_why_has_words_and_adds_up_when_it_is_cut_short() {
    let plant = Plant::new();
    let number = raise(&plant, "PART", "inspection", day(2));
    for n in 1..=5 {
        let entry =
            json!({"kind": "tool", "quantity": n.to_string(), "unit_price": "100", "description": format!("tool {n}")});
        enter(&plant, number, entry, day(3)).unwrap();
    }
    plant
        .store
        .read(Instant::LATEST, |view| {
            let snapshot = view.facts()?;
            let unit = assets::require(view, "UNIT")?;
            let q = Question { period: year(), now: day(4), basis: Basis::AsWas };
            let found = why(snapshot, unit, Indicator::CostTotal, q).unwrap();
            let view = tally::describe(view, found, unit, year(), snapshot.change, 2)?;
            let part = &view.parts[0];
            assert_eq!((part.total, part.rows.len(), part.more_rows), (1_500, 2, 3));
            assert_eq!(part.rows.iter().map(|r| r.amount).sum::<i64>() + part.more_amount, part.total);
            assert_eq!((part.rows[0].text.as_str(), part.rows[0].asset.code.as_str()), ("tool 5", "PART"));
            Ok::<_, StoreError>(())
        })
        .unwrap();
}

#[test]
fn what_is_waited_for_changes_without_going_back_first() {
    let plant = Plant::new();
    let number = raise(&plant, "EQ", "inspection", day(2));
    plant.state(number, WorkState::Planning, day(2)).unwrap();
    let wait = |reason: &str, now| {
        let to = json!({"to": "waiting", "waiting_for": reason});
        plant.write(now, |tx| work::set_state(tx, number, &serde_json::from_value(to).unwrap()))
    };
    wait("parts", day(3)).unwrap();
    assert!(wait("parts", day(4)).is_err(), "nothing would change");
    wait("outage", day(5)).unwrap();
    let order = plant.order(number, day(6));
    assert_eq!(serde_json::to_value(order.row.waiting_for).unwrap(), json!("outage"));
    // And the work goes on from where it first waited.
    plant.state(number, WorkState::Planning, day(7)).unwrap();
}

#[test]
fn the_cost_of_dropped_work_is_settled_and_can_be_taken_back() {
    let plant = Plant::new();
    let number = raise(&plant, "EQ", "inspection", day(2));
    let cost = json!({"kind": "material", "quantity": "1", "unit_price": "900", "description": "Seal"});
    let id = enter(&plant, number, cost.clone(), day(3)).unwrap();
    let drop = StateMove { note: Some("not needed".into()), ..move_to(WorkState::Dropped) };
    plant.write(day(4), |tx| work::set_state(tx, number, &drop)).unwrap();
    let split = |now| {
        let figure = costs(&plant, &["SITE"], Indicator::CostTotal, now)[0];
        (figure.settled, figure.provisional)
    };
    assert_eq!(split(day(5)), (Some(900), Some(0)), "provisional is what may still change");
    let tess = plant.person("tess");
    let refused = plant.store.write(tess, day(5), |tx| entries::reverse(tx, number, id, "went back to the store"));
    assert_eq!(refused.unwrap_err().to_string(), "a technician may not enter cost on closed work");
    plant.write(day(5), |tx| entries::reverse(tx, number, id, "went back to the store")).unwrap();
    assert_eq!(split(day(6)), (Some(0), Some(0)));
    assert!(enter(&plant, number, cost, day(6)).is_err(), "nothing more is spent on it");
}

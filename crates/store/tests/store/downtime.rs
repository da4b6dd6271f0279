//! Downtime that is corrected, deleted and put back; what becomes of that of dropped work; codes of closed work.

use crate::common::{Plant, day};
use serde_json::json;
use tally_core::{
    ground::{
        ids::{DowntimeId, WorkOrderId},
        time::{Instant, Span},
    },
    plant::{assets::Basis, downtime::OddDowntime},
    tally::{Question, figures, indicators::Indicator},
    work::WorkState,
};
use tally_store::{
    StoreError, View,
    codes::failures,
    plant::downtime::{self, TypedDowntime},
    work,
};

fn raised(plant: &Plant, now: Instant) -> WorkOrderId {
    let new = json!({"title": "Look", "kind": "corrective_deferred", "asset": "UNIT", "risk_rank": 2});
    plant.write(now, |tx| work::raise(tx, &serde_json::from_value(new).unwrap())).unwrap()
}

fn stood(plant: &Plant, work: WorkOrderId, start: Instant, end: Option<Instant>, now: Instant) -> DowntimeId {
    let new = json!({"kind": "unplanned", "start": start, "end": end});
    plant.write(now, |tx| downtime::add_to_work(tx, work, &serde_json::from_value(new).unwrap())).unwrap()
}

/// Hours of unplanned downtime of the unit in its first thirty days, by now or by what was known then.
fn hours(plant: &Plant, now: Instant, known: Option<Instant>) -> Option<f64> {
    let read = |view: &View| {
        let view = view.then(known.map(|_| now), known)?;
        let unit = tally_store::plant::assets::require_reached(&view, "UNIT")?;
        let q = Question { period: Span::new(day(1), day(31)).unwrap(), now: view.now, basis: Basis::AsWas };
        Ok::<_, StoreError>(figures(view.facts()?, &[unit], &[Indicator::UnplannedDowntime], q)[0][0].value)
    };
    plant.store.read(now, read).unwrap()
}

/// A start typed three weeks too early: the figures follow the correction, and what was known then stays.
#[test]
fn a_start_that_was_typed_wrong_is_corrected_and_known_then_keeps_it() {
    let plant = Plant::new();
    let work = raised(&plant, day(22));
    let id = stood(&plant, work, day(2), Some(day(23)), day(23));
    assert_eq!(hours(&plant, day(24), None), Some(21.0 * 24.0));
    let to = json!({"kind": "unplanned", "start": day(22), "end": day(23), "note": "typed 2 for 22"});
    let correct = |mut to: serde_json::Value, reason: &str| {
        to["reason"] = json!(reason);
        plant.write(day(25), |tx| downtime::correct(tx, id, &serde_json::from_value(to).unwrap()))
    };
    assert_eq!(correct(to.clone(), "").unwrap_err().to_string(), "reason: say why it is corrected");
    correct(to, "the day was wrong").unwrap();
    assert_eq!(hours(&plant, day(26), None), Some(24.0));
    assert_eq!(hours(&plant, day(26), Some(day(24))), Some(21.0 * 24.0));
}

#[test]
fn deleted_downtime_is_put_back_and_its_id_is_given_to_no_other() {
    let plant = Plant::new();
    let work = raised(&plant, day(2));
    let id = stood(&plant, work, day(2), Some(day(3)), day(4));
    let removal = |reason: &str| serde_json::from_value(json!({ "reason": reason })).unwrap();
    plant.write(day(5), |tx| downtime::remove(tx, id, &removal(" "))).unwrap_err();
    plant.write(day(5), |tx| downtime::remove(tx, id, &removal("it ran"))).unwrap();
    assert_eq!((hours(&plant, day(6), None), hours(&plant, day(6), Some(day(4)))), (Some(0.0), Some(24.0)));
    let other = stood(&plant, work, day(6), Some(day(7)), day(8));
    assert_ne!(other, id);
    plant.write(day(9), |tx| downtime::put_back(tx, id)).unwrap();
    assert_eq!((hours(&plant, day(9), None), hours(&plant, day(9), Some(day(8)))), (Some(48.0), Some(24.0)));
    let twice = plant.write(day(9), |tx| downtime::put_back(tx, id)).unwrap_err();
    assert!(matches!(twice, StoreError::Conflict(_)), "{twice}");
}

/// rules.md §6: dropping asks what becomes of its downtime.
#[test]
fn dropping_says_what_becomes_of_open_downtime() {
    for (becomes, expected, on_the_order) in [("delete", 0.0, 0), ("end", 24.0, 1), ("keep", 9.0 * 24.0, 0)] {
        let plant = Plant::new();
        let work = raised(&plant, day(2));
        stood(&plant, work, day(2), None, day(2));
        let drop = |to: serde_json::Value| {
            plant.write(day(3), |tx| work::set_state(tx, work, &serde_json::from_value(to).unwrap()))
        };
        let said = drop(json!({"to": "dropped", "note": "reported twice"})).unwrap_err().to_string();
        assert_eq!(said, "downtime: say what becomes of its downtime: delete, keep (without the order) or end");
        drop(json!({"to": "dropped", "note": "reported twice", "downtime": becomes})).unwrap();
        assert_eq!(hours(&plant, day(11), None), Some(expected), "{becomes}");
        assert_eq!(plant.order(work, day(11)).downtime.len(), on_the_order, "{becomes}");
    }
}

#[test]
fn codes_of_closed_work_are_corrected_with_a_reason() {
    let plant = Plant::new();
    let work = raised(&plant, day(2));
    let report = |effect: &str, reason: &str, now: Instant| {
        let new = json!({"failed_at": day(2), "effect": effect, "asset": "PART", "problem": "NOISE", "reason": reason});
        plant.write(now, |tx| failures::put(tx, work, &serde_json::from_value(new).unwrap()))
    };
    let id = report("critical", "", day(2)).unwrap();
    plant.do_work(work, day(3));
    plant.state(work, WorkState::Closed, day(4)).unwrap();
    let said = report("degraded", "", day(5)).unwrap_err().to_string();
    assert_eq!(said, "reason: this work is closed: say why its codes are corrected");
    assert_eq!(report("degraded", "it went on running", day(5)).unwrap(), id);
    assert_eq!(plant.order(work, day(6)).failures[0].effect, tally_core::codes::failures::Effect::Degraded);
}

#[test]
fn what_is_typed_is_held_to_the_order_and_to_what_was_before() {
    let plant = Plant::new();
    let work = raised(&plant, day(20));
    let first = stood(&plant, work, day(20), Some(day(21)), day(21));
    let odd = |start, end, corrected| {
        let typed = TypedDowntime { asset: "UNIT".into(), work: Some(work), start, end, corrected };
        plant.store.read(day(22), |view: &View| downtime::odd(view, &typed)).unwrap()
    };
    assert_eq!(odd(day(20), Some(day(21)), None), []);
    let all = [OddDowntime::Long, OddDowntime::BeforeTheOrder, OddDowntime::Longest];
    assert_eq!(odd(day(1), None, None), all);
    assert_eq!(odd(day(20), None, None), [OddDowntime::Longest]);
    assert_eq!(odd(day(20), None, Some(first)), [], "it is not compared with itself");
}

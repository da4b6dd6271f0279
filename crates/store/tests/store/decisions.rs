//! Decisions on risk: handed up by a rung, answered by whom it is asked of, and quiet while it runs on.

use crate::common::{Plant, at, day, person};
use serde_json::json;
use tally_core::{
    ground::{ids::WorkOrderId, severity::Severity, time::Instant},
    work::{NewRiskAnswer, RiskAnswer, WorkState},
};
use tally_store::{
    Result, StoreError, View,
    access::people,
    work,
    work::decisions::{self, OpenDecisions, RiskDecision},
};

/// Serious from 4, dangerous from 8; the manager decides on both.
fn plant() -> Plant {
    let plant = Plant::new();
    plant
        .write(day(1), |tx| {
            people::add(tx, &person("mara", "manager", None))?;
            people::add(tx, &person("petra", "planner", None)).map(drop)
        })
        .unwrap();
    let rung = |severity: &str, setpoint: f64| {
        json!({"side": "high", "severity": severity, "setpoint": setpoint, "deadband": 0.5,
            "response": {"kind": "raise", "decides": "mara"}})
    };
    let ladder = json!({"raise_interval_seconds": 0, "rungs": [rung("serious", 4.0), rung("danger", 8.0)]});
    plant.set_limits("M-ACC", ladder, day(1)).unwrap();
    plant
}

fn of(plant: &Plant, number: WorkOrderId, now: Instant) -> Vec<RiskDecision> {
    plant.order(number, now).decisions
}

fn open(plant: &Plant, now: Instant) -> OpenDecisions {
    plant.store.read(now, |view: &View| decisions::open(view)).unwrap()
}

fn answer(plant: &Plant, who: &str, number: WorkOrderId, given: NewRiskAnswer, now: Instant) -> Result<()> {
    let id = of(plant, number, now).last().unwrap().id;
    plant.store.write(plant.person(who), now, |tx| decisions::answer(tx, number, id, &given))
}

fn given(answer: RiskAnswer, until: Option<Instant>) -> NewRiskAnswer {
    NewRiskAnswer { answer, until, reason: "the spare is on its way".into() }
}

#[test]
fn it_is_asked_once_with_the_work_and_grows_with_what_is_worse() {
    let plant = plant();
    let number = plant.send("M-ACC", &[5.0], day(2)).work_orders[0];
    let asked = of(&plant, number, day(2)).remove(0);
    assert_eq!((asked.asked.as_str(), asked.severity, asked.meter.as_str()), ("mara", Severity::Serious, "M-ACC"));
    plant.send("M-ACC", &[9.0], day(3));
    let all = of(&plant, number, day(3));
    assert_eq!((all.len(), all[0].severity), (1, Severity::Danger));
    // Two days are let pass.
    assert_eq!((open(&plant, day(4)).open, open(&plant, day(4)).late), (1, 0));
    assert_eq!(open(&plant, day(5)).late, 1);
    let said = answer(&plant, "petra", number, given(RiskAnswer::Stop, None), day(5)).unwrap_err();
    assert_eq!(said.to_string(), "this is for mara to decide");
}

#[test]
fn what_runs_on_is_quiet_until_its_date_unless_it_gets_worse() {
    let plant = plant();
    let number = plant.send("M-ACC", &[5.0], day(2)).work_orders[0];
    answer(&plant, "mara", number, given(RiskAnswer::RunOn, Some(day(12))), day(3)).unwrap();
    assert_eq!(plant.order(number, day(3)).row.target_start, Some(day(12)));
    let twice = answer(&plant, "mara", number, given(RiskAnswer::DoNow, None), day(3));
    assert!(matches!(twice, Err(StoreError::Conflict(_))), "{twice:?}");
    // The work is dropped: left and entered again it raises nothing, and says what keeps it.
    let drop = serde_json::from_value(json!({"to": "dropped", "note": "planned anew"})).unwrap();
    plant.write(day(4), |tx| work::set_state(tx, number, &drop)).unwrap();
    plant.send("M-ACC", &[1.0], day(5));
    assert_eq!(plant.send("M-ACC", &[5.0], day(6)).work_orders, []);
    // What is worse is not quiet; nor is the same after the date.
    assert_eq!(plant.send("M-ACC", &[9.0], day(7)).work_orders.len(), 1);
    let plant = self::plant();
    let number = plant.send("M-ACC", &[5.0], day(2)).work_orders[0];
    answer(&plant, "mara", number, given(RiskAnswer::RunOn, Some(day(12))), day(3)).unwrap();
    plant.write(day(4), |tx| work::set_state(tx, number, &drop)).unwrap();
    plant.send("M-ACC", &[1.0, 5.0], day(6));
    plant.send("M-ACC", &[1.0], day(13));
    assert_eq!(plant.send("M-ACC", &[5.0], day(14)).work_orders.len(), 1);
}

#[test]
fn done_now_is_of_the_first_rank_and_a_stop_begins_downtime() {
    let plant = plant();
    let number = plant.send("M-ACC", &[5.0], day(2)).work_orders[0];
    assert_eq!(plant.order(number, day(2)).row.risk_rank, 2);
    answer(&plant, "mara", number, given(RiskAnswer::DoNow, None), day(3)).unwrap();
    let order = plant.order(number, day(3));
    // Two days from the answer on.
    assert_eq!((order.row.risk_rank, order.row.target_start, order.row.window_end), (1, Some(day(3)), day(5)));
    assert!(order.downtime.is_empty());

    let plant = self::plant();
    let number = plant.send("M-ACC", &[5.0], day(2)).work_orders[0];
    answer(&plant, "mara", number, given(RiskAnswer::Stop, None), day(3)).unwrap();
    let order = plant.order(number, day(3));
    assert_eq!((order.downtime.len(), order.downtime[0].start, order.downtime[0].end), (1, day(3), None));
    assert_eq!(order.decisions[0].answered_by.as_deref(), Some("mara"));
    assert_eq!(open(&plant, day(3)).open, 0);
    assert_eq!(order.row.state, WorkState::Raised);
}

#[test]
fn what_is_known_stands_beside_it() {
    let plant = plant();
    plant.database().execute("UPDATE assets SET downtime_cost = 420000 WHERE code = 'UNIT'", []).unwrap();
    let other = json!({"title": "Paint it", "kind": "improvement", "asset": "PART", "risk_rank": 5});
    plant.write(day(1), |tx| work::raise(tx, &serde_json::from_value(other).unwrap())).unwrap();
    // Half a unit a day: from 5 on the seventh to 8 six days later.
    for n in 2..=7 {
        plant.send("M-ACC", &[2.0 + 0.5 * f64::from(n - 1)], day(n));
    }
    let list = plant.store.read(day(7), |view: &View| decisions::open(view)).unwrap();
    let order = plant.order(list.decisions[0].work_order, day(7));
    let known = order.known.unwrap();
    assert_eq!(
        (known.next_severity, known.next_setpoint, known.next_at),
        (Some(Severity::Danger), Some(8.0), Some(day(13)))
    );
    assert_eq!((known.open_work, known.waiting_work), (1, 0));
    assert_eq!((known.cost_per_hour, known.cost_of.as_deref()), (Some(420_000), Some("UNIT")));
    assert_eq!(at("2026-01-13T12:00:00Z"), day(13));
}

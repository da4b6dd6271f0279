//! Decisions on risk: handed up by a rung, answered by whom it is asked of, and quiet while it runs on.

use crate::common::{Plant, at, day, person};
use serde_json::json;
use tally_core::{
    ground::{ids::WorkOrderId, severity::Severity, time::Instant},
    work::{NewRiskAnswer, NewWithdrawal, RiskAnswer, RunOnEnd, WorkState},
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

/// What became of the decision of an order: whether it runs on by it, and what ended it.
fn ended(plant: &Plant, number: WorkOrderId, now: Instant) -> (bool, Option<RunOnEnd>) {
    let decisions = of(plant, number, now);
    let decided = decisions.iter().find(|one| one.answer == Some(RiskAnswer::RunOn)).unwrap();
    (decided.runs_on, decided.ended)
}

/// Codes of the meters that run on by decision.
fn running(plant: &Plant, now: Instant) -> Vec<String> {
    let running = plant.store.read(now, |view: &View| decisions::running(view, None)).unwrap();
    running.into_iter().map(|one| one.meter).collect()
}

fn moved(plant: &Plant, number: WorkOrderId, to: serde_json::Value, now: Instant) {
    plant.write(now, |tx| work::set_state(tx, number, &serde_json::from_value(to).unwrap())).unwrap();
}

/// Serious for 20 days ahead by decision, on the third day.
fn decided() -> (Plant, WorkOrderId) {
    let plant = plant();
    let number = plant.send("M-ACC", &[5.0], day(2)).work_orders[0];
    answer(&plant, "mara", number, given(RiskAnswer::RunOn, Some(day(23))), day(3)).unwrap();
    assert_eq!((ended(&plant, number, day(4)), running(&plant, day(4))), ((true, None), vec!["M-ACC".to_owned()]));
    (plant, number)
}

/// rules.md §3: repaired, closed and left, what comes back three weeks later is answered as anything else.
#[test]
fn a_decision_to_run_on_ends_when_its_rung_is_left() {
    let (plant, number) = decided();
    plant.send("M-ACC", &[1.0], day(5));
    assert_eq!((ended(&plant, number, day(6)), running(&plant, day(6))), ((false, Some(RunOnEnd::Left)), vec![]));
    moved(&plant, number, json!({"to": "dropped", "note": "repaired on the way"}), day(6));
    assert_eq!(plant.send("M-ACC", &[5.0], day(20)).work_orders.len(), 1, "before the date that was decided");
}

#[test]
fn it_ends_with_its_work_and_what_stands_waits_for_a_reading_as_after_any_repair() {
    let (plant, number) = decided();
    moved(&plant, number, json!({"to": "ready"}), day(4));
    moved(&plant, number, json!({"to": "under_way"}), day(5));
    moved(&plant, number, json!({"to": "done", "verdict": "found_it"}), day(6));
    assert_eq!((ended(&plant, number, day(7)), running(&plant, day(7))), ((false, Some(RunOnEnd::WorkOver)), vec![]));
    // Still beyond after the repair: it did not hold, and raises again.
    assert_eq!(plant.send("M-ACC", &[5.0], day(8)).work_orders.len(), 1);
    // What was decided is not taken up again with the work.
    moved(&plant, number, json!({"to": "under_way"}), day(9));
    assert_eq!(ended(&plant, number, day(10)), (false, Some(RunOnEnd::WorkOver)));
}

#[test]
fn it_ends_with_a_worse_rung_and_with_a_new_version_of_the_limits() {
    let (plant, number) = decided();
    plant.send("M-ACC", &[9.0], day(5));
    assert_eq!(ended(&plant, number, day(5)), (false, Some(RunOnEnd::Worse)));
    // The worse one is a question of its own.
    assert_eq!(open(&plant, day(5)).open, 1);

    let (plant, number) = decided();
    let rung = json!({"side": "high", "severity": "serious", "setpoint": 4.5, "deadband": 0.5,
        "response": {"kind": "raise", "decides": "mara"}});
    plant.set_limits("M-ACC", json!({"raise_interval_seconds": 0, "rungs": [rung]}), day(5)).unwrap();
    assert_eq!(
        (ended(&plant, number, day(6)), running(&plant, day(6))),
        ((false, Some(RunOnEnd::LimitsChanged)), vec![])
    );
}

#[test]
fn a_date_typed_a_year_off_is_corrected_and_the_decision_withdrawn_by_whoever_may_decide() {
    let (plant, number) = decided();
    let mut other = given(RiskAnswer::RunOn, Some(day(10)));
    other.reason = String::new();
    let said = answer(&plant, "mara", number, other.clone(), day(4)).unwrap_err();
    assert_eq!(said.to_string(), "reason: say why");
    other.reason = "the month was wrong".into();
    assert!(matches!(answer(&plant, "petra", number, other.clone(), day(4)), Err(StoreError::NotTheirs(_))));
    answer(&plant, "mara", number, other, day(4)).unwrap();
    let decisions = of(&plant, number, day(5));
    let told: Vec<_> = decisions.iter().map(|one| (one.until, one.ended, one.withdrawn_reason.as_deref())).collect();
    let expected =
        [(Some(day(23)), Some(RunOnEnd::Withdrawn), Some("the month was wrong")), (Some(day(10)), None, None)];
    assert_eq!(told, expected);
    assert_eq!(plant.order(number, day(5)).row.target_start, Some(day(10)));
    let id = decisions[1].id;
    let withdraw = |reason: &str, now| {
        let given = NewWithdrawal { reason: reason.into() };
        plant.store.write(plant.person("mara"), now, |tx| decisions::withdraw(tx, number, id, &given))
    };
    assert_eq!(withdraw(" ", day(6)).unwrap_err().to_string(), "reason: say why");
    withdraw("it got louder", day(6)).unwrap();
    assert_eq!((open(&plant, day(6)).open, running(&plant, day(6))), (1, vec![]));
    assert!(matches!(withdraw("again", day(7)), Err(StoreError::Conflict(_))));
}

/// Where the limits raise separate work, a milder rung is held by the decision; it answers as soon as that ends.
#[test]
fn what_a_decision_held_back_answers_when_it_is_withdrawn() {
    let plant = plant();
    let rung = |severity: &str, setpoint: f64, kind: &str| {
        json!({"side": "high", "severity": severity, "setpoint": setpoint, "deadband": 0.5,
            "response": {"kind": kind, "decides": if kind == "raise" { json!("mara") } else { json!(null) }}})
    };
    // The milder one has a delay: it is entered after the worse.
    let mut milder = rung("alert", 4.0, "raise");
    milder["on_delay_seconds"] = json!(3 * 86_400);
    let ladder =
        json!({"raise_interval_seconds": 0, "separate_work": true, "rungs": [milder, rung("serious", 5.0, "raise")]});
    plant.set_limits("M-ACC", ladder, day(1)).unwrap();
    let number = plant.send("M-ACC", &[6.0], day(2)).work_orders[0];
    answer(&plant, "mara", number, given(RiskAnswer::RunOn, Some(day(23))), day(3)).unwrap();
    assert_eq!(plant.send("M-ACC", &[6.0], day(5)).work_orders, [], "the milder rung is held by the decision");
    let id = of(&plant, number, day(6))[0].id;
    let given = NewWithdrawal { reason: "it got louder".into() };
    plant.store.write(plant.person("mara"), day(6), |tx| decisions::withdraw(tx, number, id, &given)).unwrap();
    let due = plant.write(day(7), tally_store::watch::alarms::answer_due).unwrap();
    assert_eq!(due.work_orders.len(), 1);
}

#[test]
fn what_runs_on_is_quiet_until_its_date_unless_it_gets_worse() {
    let plant = plant();
    let number = plant.send("M-ACC", &[5.0], day(2)).work_orders[0];
    answer(&plant, "mara", number, given(RiskAnswer::RunOn, Some(day(12))), day(3)).unwrap();
    assert_eq!(plant.order(number, day(3)).row.target_start, Some(day(12)));
    assert_eq!(plant.send("M-ACC", &[5.5, 6.0], day(5)).work_orders, []);
    assert_eq!(ended(&plant, number, day(11)), (true, None));
    assert_eq!(ended(&plant, number, day(12)), (false, Some(RunOnEnd::Date)));
    let late = answer(&plant, "mara", number, given(RiskAnswer::DoNow, None), day(13));
    assert!(matches!(late, Err(StoreError::Conflict(_))), "{late:?}");
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

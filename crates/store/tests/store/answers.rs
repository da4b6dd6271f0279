//! What alarms answer with over time: on a shelf and off it, after a repair, by a jump, while something is out of use; whom they tell.

use crate::common::{Plant, at, day, reading};
use serde_json::{Value, json};
use tally_core::watch::alarms::{LeftBy, ResponseGiven};
use tally_core::{
    ground::{
        ids::WorkOrderId,
        severity::Severity,
        time::{HOUR, Instant, Span},
    },
    watch::{
        holds::{NewOutOfUse, NewShelf},
        limits::HeldBy,
    },
    work::{StateMove, Verdict, WorkState},
};
use tally_store::{
    outside::outbox,
    watch::{
        alarms,
        alarms::{AlarmRow, Show},
    },
    work,
};

/// Alert at 20 bar, left below 18, raising work; a raise interval of so many days.
pub fn alert(interval_days: u32) -> Value {
    json!({"raise_interval_seconds": interval_days * 86_400, "rungs": [
        {"side": "high", "severity": "alert", "setpoint": 20.0, "deadband": 2.0, "response": {"kind": "raise"}}]})
}

pub fn of_meter(plant: &Plant, meter: &str) -> Vec<AlarmRow> {
    plant.store.read(Instant::LATEST, |view| alarms::of_meter(view, meter, Span::ALWAYS, 100)).unwrap()
}

pub fn answer_due(plant: &Plant, now: Instant) -> Vec<WorkOrderId> {
    plant.write(now, alarms::answer_due).unwrap().work_orders
}

pub fn now_of(plant: &Plant, show: Show, now: Instant) -> alarms::AlarmsNow {
    plant.store.read(now, |view| alarms::now(view, None, show, 100)).unwrap()
}

fn shelf(until: Instant) -> NewShelf {
    NewShelf { until, reason: "cabling is being replaced".into() }
}

#[test]
fn what_a_shelf_holds_back_answers_when_it_ends() {
    let plant = Plant::new();
    plant.set_limits("M-BAR", alert(7), day(1)).unwrap();
    plant.write(day(2), |tx| alarms::shelve(tx, "M-BAR", &shelf(day(5)))).unwrap();
    plant.send("M-BAR", &[25.0], day(3));
    let held = &of_meter(&plant, "M-BAR")[0];
    assert_eq!((held.response, held.due_at), (ResponseGiven::Held, Some(day(5))));
    assert!(matches!(&held.held_by, Some(HeldBy::Shelf { reason, .. }) if reason == "cabling is being replaced"));
    let shelved = now_of(&plant, Show::Held, day(4));
    assert_eq!((shelved.counts.held, shelved.counts.shelved, shelved.shelves[0].holds), (1, 1, 1));
    assert_eq!(answer_due(&plant, day(4)), [], "the shelf still holds");
    assert_eq!(answer_due(&plant, day(6)).len(), 1);
    let raised = &of_meter(&plant, "M-BAR")[0];
    assert_eq!((raised.response, raised.answered_at, raised.due_at), (ResponseGiven::Raised, day(5), None));
    assert_eq!(raised.earlier.iter().map(|one| one.response).collect::<Vec<_>>(), [ResponseGiven::Held]);
    assert_eq!(answer_due(&plant, day(7)), [], "once and only once");
    // The same comes of it when a reading passes the end before the clock's job does.
    let other = Plant::new();
    other.set_limits("M-BAR", alert(7), day(1)).unwrap();
    other.write(day(2), |tx| alarms::shelve(tx, "M-BAR", &shelf(day(5)))).unwrap();
    other.send("M-BAR", &[25.0], day(3));
    other.send("M-BAR", &[10.0], day(6));
    let left = &of_meter(&other, "M-BAR")[0];
    assert_eq!((left.response, left.answered_at, left.left_at), (ResponseGiven::Raised, day(5), Some(day(6))));
}

#[test]
fn a_shelf_is_taken_off_moved_and_refused_without_reason_or_end() {
    let plant = Plant::new();
    plant.set_limits("M-BAR", alert(7), day(1)).unwrap();
    let refused = |new: NewShelf| plant.write(day(2), |tx| alarms::shelve(tx, "M-BAR", &new)).unwrap_err().to_string();
    assert_eq!(refused(NewShelf { reason: " ".into(), ..shelf(day(5)) }), "reason: say why its alarms are held back");
    assert_eq!(refused(shelf(day(2))), "until: must lie in the future");
    assert!(refused(shelf(at("2028-01-01T00:00:00Z"))).starts_with("until: must lie within a year"));
    assert!(plant.write(day(2), |tx| alarms::unshelve(tx, "M-BAR")).is_err(), "it is not shelved");
    plant.write(day(2), |tx| alarms::shelve(tx, "M-BAR", &shelf(day(5)))).unwrap();
    plant.send("M-BAR", &[25.0], day(3));
    // A longer shelf takes the place of the first, and moves when its alarms are due.
    plant.write(day(4), |tx| alarms::shelve(tx, "M-BAR", &shelf(day(20)))).unwrap();
    assert_eq!(answer_due(&plant, day(6)), []);
    assert_eq!(of_meter(&plant, "M-BAR")[0].due_at, Some(day(20)));
    plant.write(day(7), |tx| alarms::unshelve(tx, "M-BAR")).unwrap();
    assert_eq!(of_meter(&plant, "M-BAR")[0].response, ResponseGiven::Raised);
}

/// What is listed as a repair that nobody has confirmed yet.
fn unconfirmed(plant: &Plant, now: Instant) -> Vec<(String, WorkOrderId, Instant)> {
    let repairs = now_of(plant, Show::Standing, now).unconfirmed;
    repairs.into_iter().map(|one| (one.meter, one.work_order, one.finished_at)).collect()
}

#[test]
fn the_first_reading_after_a_finished_repair_decides_whether_it_held() {
    let plant = Plant::new();
    plant.set_limits("M-BAR", alert(7), day(1)).unwrap();
    let first = plant.send("M-BAR", &[25.0], day(2)).work_orders[0];
    assert_eq!(answer_due(&plant, day(20)), [], "it waits for its work");
    let waiting = plant.order(first, day(2)).waiting_meters;
    assert_eq!(waiting.iter().map(|one| one.meter.as_str()).collect::<Vec<_>>(), ["M-BAR"], "finishing asks for it");
    plant.do_work(first, day(5));
    assert_eq!(answer_due(&plant, day(30)), [], "nothing is raised from a reading before the repair");
    assert_eq!(unconfirmed(&plant, day(6)), [("M-BAR".to_owned(), first, day(5))]);
    // Still beyond: it raises again, though the interval of seven days is not over.
    let second = plant.send("M-BAR", &[24.0], day(6)).work_orders[0];
    assert!(second > first);
    assert_eq!(unconfirmed(&plant, day(6)), []);
    let not_held = now_of(&plant, Show::NotHeld, day(6));
    assert_eq!((not_held.counts.not_held, not_held.alarms[0].after_work), (1, Some(first)));
    assert_eq!(not_held.alarms[0].work_orders, [first, second], "an alarm may have several orders");
    assert_eq!(of_meter(&plant, "M-BAR").len(), 1, "one alarm all the time");
    // Each order keeps what raised it, and its own verdict.
    let why = plant.order(first, day(6)).why.unwrap();
    let alarm = &why.occurrences[0];
    assert_eq!(why.ladder_version, 1);
    assert_eq!([alarm.earlier[0].response, alarm.response], [ResponseGiven::Raised; 2]);
    // Rework: it waits for the work again, and for a reading after the second finish.
    plant.do_work(second, day(8));
    plant.state(second, WorkState::UnderWay, day(9)).unwrap();
    assert_eq!(unconfirmed(&plant, day(9)), []);
    assert_eq!(plant.send("M-BAR", &[23.0], day(10)).work_orders, [], "its work is open");
    plant.state(second, WorkState::Done, day(11)).unwrap();
    assert_eq!(plant.send("M-BAR", &[10.0], day(12)).work_orders, [], "it holds");
    assert_eq!(of_meter(&plant, "M-BAR")[0].left_at, Some(day(12)));
}

#[test]
fn where_nothing_was_wrong_the_interval_holds_and_dropped_work_is_a_decision() {
    let plant = Plant::new();
    plant.set_limits("M-BAR", alert(7), day(1)).unwrap();
    let first = plant.send("M-BAR", &[25.0], day(2)).work_orders[0];
    plant.state(first, WorkState::Ready, day(3)).unwrap();
    plant.state(first, WorkState::UnderWay, day(3)).unwrap();
    let nothing = StateMove { verdict: Some(Verdict::NothingWrong), ..StateMove::to(WorkState::Done) };
    plant.write(day(3), |tx| work::set_state(tx, first, &nothing)).unwrap();
    assert_eq!(plant.send("M-BAR", &[25.0], day(4)).work_orders, []);
    let held = &of_meter(&plant, "M-BAR")[0];
    assert_eq!(held.held_by, Some(HeldBy::RaiseInterval { work_order: first, until: day(9) }));
    assert_eq!((held.due_at, held.after_work), (Some(day(9)), Some(first)), "on the list of repairs that did not hold");
    let second = answer_due(&plant, day(9))[0];
    let dropped = StateMove { note: Some("a new sensor comes".into()), ..StateMove::to(WorkState::Dropped) };
    plant.write(day(10), |tx| work::set_state(tx, second, &dropped)).unwrap();
    assert_eq!(plant.send("M-BAR", &[26.0], day(20)).work_orders, []);
    assert_eq!(answer_due(&plant, day(40)), [], "it stays quiet until it is left");
    let left_and_entered = plant.send("M-BAR", &[10.0, 25.0], day(41)).work_orders;
    assert_eq!(left_and_entered.len(), 1);
}

/// A finish that is reported late finds a reading that was sent already.
#[test]
fn a_finish_reported_late_looks_at_what_was_read_since() {
    let plant = Plant::new();
    plant.set_limits("M-BAR", alert(7), day(1)).unwrap();
    let first = plant.send("M-BAR", &[25.0], day(2)).work_orders[0];
    plant.state(first, WorkState::Ready, day(3)).unwrap();
    plant.state(first, WorkState::UnderWay, day(3)).unwrap();
    plant.send("M-BAR", &[26.0], day(5));
    let done = StateMove { at: Some(day(4)), ..StateMove::to(WorkState::Done) };
    plant.write(day(6), |tx| work::set_state(tx, first, &done)).unwrap();
    let alarm = &of_meter(&plant, "M-BAR")[0];
    assert_eq!((alarm.response, alarm.answered_at, alarm.after_work), (ResponseGiven::Raised, day(5), Some(first)));
}

#[test]
fn a_finish_takes_the_reading_it_asks_for_and_is_not_half_done_without_it() {
    let plant = Plant::new();
    plant.set_limits("M-BAR", alert(7), day(1)).unwrap();
    let first = plant.send("M-BAR", &[25.0], day(2)).work_orders[0];
    plant.state(first, WorkState::Ready, day(3)).unwrap();
    plant.state(first, WorkState::UnderWay, day(3)).unwrap();
    let done = |value: serde_json::Value, at: Option<Instant>| {
        let to = json!({"to": "done", "readings": [{"meter": "M-BAR", "value": value, "at": at}]});
        plant.write(day(5), |tx| work::set_state(tx, first, &serde_json::from_value(to).unwrap()))
    };
    let refused = done(json!("low"), None).unwrap_err().to_string();
    assert_eq!(refused, "readings[0].value: \"low\" is not a number");
    let early = done(json!(12.0), Some(day(4))).unwrap_err().to_string();
    assert!(early.starts_with("readings[0].at: must lie after the finish"), "{early}");
    assert_eq!(plant.order(first, day(5)).row.state, WorkState::UnderWay, "nothing of it was kept");
    done(json!(12.0), None).unwrap();
    assert_eq!(of_meter(&plant, "M-BAR")[0].left_by, Some(LeftBy::Readings));
    assert!(unconfirmed(&plant, day(5)).is_empty(), "confirmed at once");
}

#[test]
fn a_jump_raises_from_the_worst_rung_that_makes_work_and_the_milder_wait_with_it() {
    let plant = Plant::new();
    let ladder = json!({"raise_interval_seconds": 7 * 86_400, "rungs": [
        {"side": "high", "severity": "alert", "setpoint": 20.0, "deadband": 2.0, "response": {"kind": "record"}},
        {"side": "high", "severity": "serious", "setpoint": 30.0, "deadband": 2.0, "response": {"kind": "raise"}},
        {"side": "high", "severity": "danger", "setpoint": 40.0, "deadband": 2.0, "response": {"kind": "notify",
            "tell": ["tess"]}}]});
    plant.set_limits("M-BAR", ladder, day(1)).unwrap();
    let order = plant.send("M-BAR", &[50.0], day(2)).work_orders[0];
    let by_severity = |severity| of_meter(&plant, "M-BAR").into_iter().find(|one| one.severity == severity).unwrap();
    assert_eq!(by_severity(Severity::Danger).response, ResponseGiven::Notify);
    assert_eq!(by_severity(Severity::Serious).response, ResponseGiven::Raised);
    let alert = by_severity(Severity::Alert);
    assert_eq!((alert.response, alert.work_order), (ResponseGiven::Recorded, Some(order)));
    assert_eq!(plant.store.read(Instant::LATEST, |view| outbox::list(view, None, None, 9)).unwrap().messages.len(), 1);
    // Half a repair: the serious rung is left, the alert stands and answers for itself.
    plant.do_work(order, day(3));
    plant.send("M-BAR", &[25.0], day(4));
    let alert = by_severity(Severity::Alert);
    assert_eq!((alert.response, alert.answered_at, alert.after_work), (ResponseGiven::Record, day(4), Some(order)));
}

#[test]
fn the_raise_interval_looks_at_the_rung_that_raised_not_at_what_escalated_it() {
    let plant = Plant::new();
    let rung = |severity: &str, setpoint: f64| json!({"side": "high", "severity": severity, "setpoint": setpoint, "deadband": 2.0, "response": {"kind": "raise"}});
    let ladder = json!({"raise_interval_seconds": 30 * 86_400, "rungs": [rung("alert", 20.0), rung("serious", 30.0)]});
    plant.set_limits("M-BAR", ladder, day(1)).unwrap();
    let first = plant.send("M-BAR", &[25.0, 35.0], day(2)).work_orders[0];
    plant.send("M-BAR", &[10.0], day(3));
    plant.do_work(first, day(4));
    // Raised by the alert, escalated by the serious rung: that one is worse than what raised it.
    let second = plant.send("M-BAR", &[35.0], day(5)).work_orders;
    assert_eq!(second.len(), 1);
    assert!(second[0] > first);
}

#[test]
fn an_asset_out_of_use_holds_what_is_below_it_until_it_is_back() {
    let plant = Plant::new();
    plant.set_limits("M-BAR", alert(7), day(1)).unwrap();
    let out = |until: Option<Instant>, reason: &str| {
        let spell = NewOutOfUse { from: None, until, reason: reason.into() };
        plant.write(day(2), |tx| alarms::put_out_of_use(tx, "UNIT", &spell))
    };
    assert_eq!(out(None, " ").unwrap_err().to_string(), "reason: say why it is out of use");
    assert!(out(Some(day(2)), "x").unwrap_err().to_string().starts_with("until: must lie in the future"));
    out(None, "mothballed for the summer").unwrap();
    assert_eq!(plant.send("M-BAR", &[25.0], day(3)).work_orders, []);
    let held = &of_meter(&plant, "M-BAR")[0];
    let reason = "mothballed for the summer".to_owned();
    assert_eq!(held.held_by, Some(HeldBy::OutOfUse { until: None, reason }));
    assert_eq!(answer_due(&plant, day(9)), [], "without an end it lasts");
    let listed = now_of(&plant, Show::Standing, day(9)).out_of_use;
    assert_eq!(listed.iter().map(|one| one.asset.code.as_str()).collect::<Vec<_>>(), ["UNIT"]);
    plant.write(day(10), |tx| alarms::back_in_use(tx, "UNIT")).unwrap();
    assert_eq!(of_meter(&plant, "M-BAR")[0].response, ResponseGiven::Raised);
    assert!(plant.write(day(11), |tx| alarms::back_in_use(tx, "UNIT")).is_err(), "it is in use");
}

#[test]
fn a_suspended_ladder_answers_nothing_by_the_clock_until_it_runs_again() {
    let plant = Plant::new();
    let mut ladder = alert(7);
    ladder["suspended_while"] = json!({"meter": "M-ACC", "below": 0.5});
    plant.set_limits("M-BAR", ladder, day(1)).unwrap();
    plant.send("M-ACC", &[2.0], day(2));
    plant.write(day(2), |tx| alarms::shelve(tx, "M-BAR", &shelf(day(5)))).unwrap();
    plant.send("M-BAR", &[25.0], day(3));
    plant.send("M-ACC", &[0.1], day(4));
    assert_eq!(answer_due(&plant, day(8)), [], "the shelf is over, but nothing runs");
    plant.send("M-ACC", &[3.0], day(9));
    let raised = answer_due(&plant, day(10));
    assert_eq!((raised.len(), of_meter(&plant, "M-BAR")[0].answered_at), (1, day(9)));
}

#[test]
fn a_new_version_never_ends_an_alarm_before_it_began() {
    let plant = Plant::new();
    plant.send("M-BAR", &[25.0], day(2));
    // Set at noon of day 5; a reading from the morning comes in afterwards and leaves the rung.
    plant.set_limits("M-BAR", alert(7), day(5)).unwrap();
    plant.ingest(&[reading("M-BAR", day(5).plus(-HOUR), 10.0)], day(5).plus(HOUR));
    let alarm = &of_meter(&plant, "M-BAR")[0];
    assert_eq!((alarm.entered_at, alarm.left_at), (day(5), Some(day(5))));
}

#[test]
fn a_retired_meters_alarm_ends_as_retired() {
    let plant = Plant::new();
    plant.set_limits("M-BAR", alert(7), day(1)).unwrap();
    plant.send("M-BAR", &[25.0], day(2));
    let retire = |at: Instant, now| {
        let columns = ["code".to_owned(), "retired_at".to_owned()];
        let cells = Ok(vec!["M-BAR".to_owned(), at.to_string()]);
        let rows = [tally_store::plant::master::GivenRow { line: 1, cells, was: vec![] }];
        let given = tally_store::plant::master::Given {
            columns: &columns,
            rows: rows.into_iter(),
            decimal: tally_core::outside::files::Decimal::Point,
            zone: None,
            source: "a test",
        };
        plant.write(now, |tx| {
            tally_store::plant::master::take(tx, tally_store::plant::master::Kind::Meters, given, &mut |_, _| true)
        })
    };
    // Ahead: it ends when the day comes, by the clock.
    assert_eq!(retire(day(5), day(3)).unwrap().changed, 1);
    assert_eq!(of_meter(&plant, "M-BAR")[0].left_at, None);
    assert!(plant.store.read(day(6), alarms::retired_stand).unwrap());
    assert_eq!(plant.write(day(6), alarms::end_retired).unwrap(), 1);
    let ended = &of_meter(&plant, "M-BAR")[0];
    assert_eq!((ended.left_at, ended.left_by), (Some(day(5)), Some(LeftBy::Retired)));
}

#[test]
fn a_ladder_looks_away_while_another_meter_says_that_nothing_runs() {
    let plant = Plant::new();
    let mut suspended = alert(7);
    suspended["suspended_while"] = json!({"meter": "M-ACC", "below": 0.5});
    plant.set_limits("M-BAR", suspended.clone(), day(1)).unwrap();
    // In one batch: the other meter is taken first, wherever its rows stand.
    let rows = [
        reading("M-BAR", day(2), 30.0),
        reading("M-BAR", day(3), 30.0),
        reading("M-ACC", day(2).plus(-HOUR), 0.1),
        reading("M-ACC", day(3).plus(-HOUR), 2.0),
    ];
    plant.ingest(&rows, day(3));
    assert_eq!(of_meter(&plant, "M-BAR").iter().map(|alarm| alarm.entered_at).collect::<Vec<_>>(), [day(3)]);
    let refused = |meter: &str| {
        let mut ladder = suspended.clone();
        ladder["suspended_while"]["meter"] = json!(meter);
        plant.set_limits("M-BAR", ladder, day(4)).unwrap_err().to_string()
    };
    assert_eq!(refused("M-BAR"), "suspended_while.meter: a meter can't suspend its own limits");
    assert_eq!(refused("M-NO"), "suspended_while.meter: there is no meter \"M-NO\"");
}

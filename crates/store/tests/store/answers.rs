//! Alarms over time: held and answering again, silent meters, late readings, corrections, exchanges, families.

use crate::common::{Plant, add_asset, add_meter, at, day, person, reading, year};
use serde_json::{Value, json};
use tally_core::watch::alarms::{AlarmKind, LeftBy, ResponseGiven};
use tally_core::{
    ground::{
        ids::WorkOrderId,
        severity::Severity,
        time::{HOUR, Instant, Span},
    },
    outside::files::CsvOut,
    plant::settings::Settings,
    watch::{
        holds::{NewOutOfUse, NewShelf},
        limits::{
            HeldBy,
            family::{FamilyFate, FamilyLadder},
        },
    },
    work::{StateMove, Verdict, WorkState},
};
use tally_store::{
    StoreError,
    outside::{outbox, tags, webhooks},
    plant::{
        master::{InPieces, whole},
        settings,
    },
    watch::{
        alarms,
        alarms::{AlarmRow, Judgement, LateKind, Show, performance},
        families, limits,
        limits::NewLadder,
        readings,
        readings::{NewExchange, Release, Voiding},
        replay,
    },
    work,
};

/// Alert at 20 bar, left below 18, raising work; a raise interval of so many days.
fn alert(interval_days: u32) -> Value {
    json!({"raise_interval_seconds": interval_days * 86_400, "rungs": [
        {"side": "high", "severity": "alert", "setpoint": 20.0, "deadband": 2.0, "response": {"kind": "raise"}}]})
}

fn of_meter(plant: &Plant, meter: &str) -> Vec<AlarmRow> {
    plant.store.read(Instant::LATEST, |view| alarms::of_meter(view, meter, Span::ALWAYS, 100)).unwrap()
}

fn answer_due(plant: &Plant, now: Instant) -> Vec<WorkOrderId> {
    plant.write(now, alarms::answer_due).unwrap().work_orders
}

fn now_of(plant: &Plant, show: Show, now: Instant) -> alarms::AlarmsNow {
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
fn a_voided_reading_takes_its_alarm_with_it_and_does_not_come_back() {
    let plant = Plant::new();
    plant.set_limits("M-BAR", alert(7), day(1)).unwrap();
    plant.send("M-BAR", &[10.0], day(2));
    let order = plant.send("M-BAR", &[25.0], day(3)).work_orders[0];
    let void = |at| {
        let voiding = Voiding { at, reason: "the hose was off".into() };
        plant.write(day(4), |tx| readings::void(tx, "M-BAR", &voiding)).unwrap();
    };
    void(day(3));
    let ended = &of_meter(&plant, "M-BAR")[0];
    assert_eq!((ended.left_at, ended.left_by), (Some(day(4)), Some(LeftBy::Voided)));
    let why = plant.order(order, day(4)).why.unwrap();
    assert_eq!(why.occurrences[0].left_by, Some(LeftBy::Voided), "its work stays, and says so");
    plant.do_work(order, day(5));
    assert_eq!(answer_due(&plant, day(60)), [], "the clock raises nothing");
    // Sent again it stays voided; another value at that instant is another reading.
    let again = plant.ingest(&[reading("M-BAR", day(3), 25.0)], day(6));
    assert_eq!((again.accepted, again.duplicates), (0, 1));
    let raw = || {
        plant
            .store
            .read(Instant::LATEST, |view| readings::newest(view, "M-BAR", Instant::LATEST, false, 9))
            .unwrap()
            .len()
    };
    assert_eq!(raw(), 1);
    assert_eq!(plant.ingest(&[reading("M-BAR", day(3), 12.0)], day(6)).accepted, 1);
    // A reading that hid a rung is voided: what stands now gets its alarm, dated by the act, and answers once.
    plant.ingest(&[reading("M-BAR", day(7), 30.0)], day(7));
    plant.ingest(&[reading("M-BAR", day(8), 5.0), reading("M-BAR", day(9), 19.0)], day(9));
    let count = of_meter(&plant, "M-BAR").len();
    let voiding = Voiding { at: day(8), reason: "wrong meter".into() };
    plant.write(day(10), |tx| readings::void(tx, "M-BAR", &voiding)).unwrap();
    let stands = &of_meter(&plant, "M-BAR")[0];
    assert_eq!((stands.entered_at, stands.left_at, of_meter(&plant, "M-BAR").len()), (day(10), None, count + 1));
    // A voided reading of an alarm that is long over goes to the list, for a person.
    void(day(7));
    let late = now_of(&plant, Show::Standing, day(11)).late;
    assert_eq!(late.iter().map(|one| one.what).collect::<Vec<_>>(), [LateKind::Voided]);
}

#[test]
fn a_late_reading_under_a_running_timer_makes_the_machine_anew() {
    let plant = Plant::new();
    let ladder = json!({"rungs": [{"side": "high", "severity": "alert", "setpoint": 20.0, "deadband": 2.0,
        "on_delay_seconds": 2 * 86_400, "response": {"kind": "raise"}}]});
    plant.set_limits("M-BAR", ladder, day(1)).unwrap();
    // Beyond since day 5, for a day; the late one says: since day 3.
    plant.send("M-BAR", &[25.0], day(5));
    plant.send("M-BAR", &[26.0], day(6));
    assert!(of_meter(&plant, "M-BAR").is_empty());
    let receipt = plant.ingest(&[reading("M-BAR", day(3), 24.0)], day(7));
    assert_eq!((receipt.late, receipt.alarms.len(), receipt.work_orders.len()), (1, 1, 1));
    assert_eq!(of_meter(&plant, "M-BAR")[0].entered_at, day(7), "dated by the act");
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
fn a_silence_is_one_however_old_what_comes_in_is_and_is_looked_at_again() {
    let plant = Plant::new();
    plant
        .write(day(1), |tx| {
            add_meter(
                tx,
                json!({"code": "M-Q", "asset": "SYS", "kind": "measurement", "unit": "bar",
                "longest_silence_seconds": 2 * 86_400}),
            )
        })
        .unwrap();
    plant.send("M-Q", &[5.0], day(2));
    let look = |now| plant.store.read(now, alarms::fell_silent).unwrap();
    let note = |silent: &[_], now| plant.write(now, |tx| alarms::note_silence(tx, silent)).unwrap();
    let silent = look(day(10));
    // It was read between the look and the write: there is no silence.
    plant.ingest(&[reading("M-Q", day(10), 5.0)], day(10));
    assert_eq!(note(&silent, day(10)), 0);
    assert_eq!(note(&look(day(20)), day(20)), 1);
    // What was held back until now is itself long ago: it stays silent, and stays one silence.
    plant.ingest(&[reading("M-Q", day(14), 5.0)], day(20));
    assert_eq!(of_meter(&plant, "M-Q").iter().filter(|one| one.left_at.is_none()).count(), 1);
    assert!(look(day(21)).is_empty());
    plant.ingest(&[reading("M-Q", day(21), 5.0)], day(21));
    assert_eq!(of_meter(&plant, "M-Q").len(), 1, "one silence");
    assert_eq!(of_meter(&plant, "M-Q")[0].left_at, Some(day(21)));
}

#[test]
fn a_released_reading_sent_again_is_a_duplicate() {
    let plant = Plant::new();
    plant.send("M-ACC", &[1.0], day(2));
    plant.send("M-ACC", &[150.0], day(3));
    plant.write(day(4), |tx| readings::release(tx, "M-ACC", &Release { at: day(3) })).unwrap();
    let again = plant.ingest(&[reading("M-ACC", day(3), 150.0)], day(4));
    assert_eq!((again.duplicates, again.accepted), (1, 0));
}

/// 5 mm/h² of a counter across an exchange: 100 to 110 in ten hours, the device changed for one at 3, on to 13 in ten more.
/// A rate of 1 an hour stays one; a plain difference would be (13 − 110) / 10.
#[test]
fn a_rate_and_a_change_go_on_across_an_exchange() {
    let plant = Plant::new();
    let rung = |on: &str, side: &str, severity: &str, setpoint: f64, baseline: Option<f64>| {
        json!({"side": side, "on": on, "severity": severity, "setpoint": setpoint, "baseline": baseline,
            "response": {"kind": "record"}})
    };
    plant.send("M-H", &[100.0], day(2));
    let ladder =
        json!({"rungs": [rung("rate", "low", "alert", 0.5, None), rung("change", "high", "alert", 15.0, Some(100.0))]});
    plant.set_limits("M-H", ladder, day(2)).unwrap();
    plant.send("M-H", &[110.0], day(2).plus(10 * HOUR));
    let exchange = NewExchange { at: day(2).plus(10 * HOUR + 1), final_value: 110.0, start_value: 3.0 };
    plant.write(day(3), |tx| readings::exchange(tx, "M-H", &exchange)).unwrap();
    plant.send("M-H", &[13.0], day(2).plus(20 * HOUR));
    let told: Vec<_> = of_meter(&plant, "M-H").into_iter().map(|one| (one.rung.unwrap(), one.entered_at)).collect();
    assert_eq!(
        told,
        [("alert high (change)".to_owned(), day(2).plus(20 * HOUR))],
        "20 more than the baseline, at 1 an hour"
    );
    // A forecast goes on as well: 24 a day, whatever the device reads.
    let foretold =
        plant.store.read(day(3), |view| replay::forecast(view, "M-H", Span::new(day(1), day(4)).unwrap(), None));
    let foretold = foretold.unwrap();
    assert!((foretold.use_per_day.unwrap() - 24.0).abs() < 1e-9, "{foretold:?}");
    assert!((foretold.line.unwrap().slope - 24.0).abs() < 1e-6, "{foretold:?}");
}

/// 4,700 readings of a meter are kept apart, and 4,700 others count: only those are sealed, and the meter is not as if it had
/// never been read.
#[test]
fn readings_kept_apart_stop_no_sealing_and_hide_no_reading() {
    let plant = Plant::new();
    let minute = |n: i64| day(1).plus(n * 60_000);
    let apart: Vec<_> = (10_000..14_700).map(|n| reading("M-ACC", minute(n), 900.0)).collect();
    let good: Vec<_> = (0..4_700).map(|n| reading("M-ACC", minute(n), 1.0)).collect();
    plant.ingest(&good, day(20));
    plant.ingest(&apart, day(20));
    let others: Vec<_> = (0..5_000).map(|n| reading("M-BAR", minute(n), 1.0)).collect();
    plant.ingest(&others, day(20));
    let mut sealed = Vec::new();
    while let Some(meter) = plant.store.read(Instant::LATEST, |view| readings::to_seal(view, 1)).unwrap().pop() {
        assert!(plant.write(day(20), |tx| readings::seal(tx, meter)).unwrap() > 0, "{meter} has something to seal");
        sealed.push(meter);
        assert!(sealed.len() < 9, "it comes to an end");
    }
    assert_eq!(sealed.len(), 2);
    let detail = plant.store.read(day(20), |view| tally_store::watch::meters::detail(view, "M-ACC")).unwrap();
    assert_eq!(detail.row.last.map(|last| last.at), Some(minute(4_699)));
    // Sealed readings are listed like any others.
    let listed =
        plant.store.read(Instant::LATEST, |view| readings::newest(view, "M-BAR", minute(1_000), false, 3)).unwrap();
    let told: Vec<_> = listed.iter().map(|one| (one.at, one.source.is_some())).collect();
    assert_eq!(told, [(minute(999), true), (minute(998), true), (minute(997), true)]);
}

#[test]
fn a_meter_that_is_not_read_for_too_long_is_silent_until_it_is_read() {
    let plant = Plant::new();
    plant
        .write(day(1), |tx| {
            add_meter(
                tx,
                json!({"code": "M-Q", "asset": "SYS", "kind": "measurement", "unit": "bar",
                "longest_silence_seconds": 2 * 86_400}),
            )
        })
        .unwrap();
    plant.send("M-Q", &[5.0], day(2));
    let look = |now| plant.store.read(now, alarms::fell_silent).unwrap();
    assert!(look(day(4).plus(-1)).is_empty());
    let silent = look(day(5));
    assert_eq!(silent.len(), 1);
    plant.write(day(5), |tx| alarms::note_silence(tx, &silent)).unwrap();
    plant.write(day(5), |tx| alarms::note_silence(tx, &silent)).unwrap();
    let alarm = &of_meter(&plant, "M-Q")[0];
    assert_eq!((alarm.kind, alarm.severity, alarm.entered_at), (AlarmKind::Silent, Severity::Notice, day(4)));
    assert_eq!((alarm.side, alarm.ladder_version, alarm.shown.as_str()), (None, None, "5 bar"));
    assert!(look(day(6)).is_empty(), "it has its alarm");
    assert_eq!(now_of(&plant, Show::Silent, day(6)).counts.silent, 1);
    plant.send("M-Q", &[6.0], day(7));
    assert_eq!(of_meter(&plant, "M-Q")[0].left_at, Some(day(7)));
}

#[test]
fn a_late_reading_beyond_a_rung_is_listed_for_a_person() {
    let plant = Plant::new();
    plant.set_limits("M-BAR", alert(7), day(1)).unwrap();
    plant.send("M-BAR", &[10.0], day(5));
    let receipt = plant.ingest(&[reading("M-BAR", day(3), 30.0), reading("M-BAR", day(4), 11.0)], day(5));
    assert_eq!((receipt.accepted, receipt.late, receipt.alarms.len()), (2, 2, 0), "past alarms stay as they were");
    let late = now_of(&plant, Show::Standing, day(5)).late;
    assert_eq!(late.iter().map(|one| (one.value, one.rung.as_str())).collect::<Vec<_>>(), [(30.0, "alert high")]);
    let judge = |words: &str| {
        let judgement = Judgement { judgement: words.into() };
        plant.write(day(6), |tx| alarms::judge_late(tx, late[0].id, &judgement))
    };
    assert_eq!(judge(" ").unwrap_err().to_string(), "judgement: say what you make of it");
    judge("a test of the sensor").unwrap();
    assert!(judge("again").is_err(), "it is off the list");
    assert_eq!(now_of(&plant, Show::Standing, day(6)).counts.late, 0);
}

#[test]
fn a_reading_is_voided_with_a_reason_and_one_kept_apart_released() {
    let plant = Plant::new();
    plant
        .set_limits(
            "M-ACC",
            json!({"rungs": [{"side": "high", "severity": "alert", "setpoint": 4.0,
        "deadband": 1.0, "response": {"kind": "raise"}}]}),
            day(1),
        )
        .unwrap();
    plant.send("M-ACC", &[1.0, 2.0], day(2));
    let receipt = plant.send("M-ACC", &[150.0], day(3));
    assert_eq!((receipt.quarantined, receipt.alarms.len()), (1, 0));
    let list = |apart| {
        plant.store.read(Instant::LATEST, |view| readings::newest(view, "M-ACC", Instant::LATEST, apart, 10)).unwrap()
    };
    assert_eq!(list(true).len(), 1);
    let void = |at, reason: &str| {
        let voiding = Voiding { at, reason: reason.into() };
        plant.write(day(4), |tx| readings::void(tx, "M-ACC", &voiding))
    };
    assert_eq!(void(day(2), "").unwrap_err().to_string(), "reason: say why the reading does not hold");
    assert!(void(day(9), "x").unwrap_err().to_string().starts_with("at: M-ACC has no reading at"));
    void(day(2), "sensor knocked").unwrap();
    let voided = plant.store.read(Instant::LATEST, |view| readings::voided(view, "M-ACC", 10)).unwrap();
    assert_eq!(
        voided.iter().map(|one| (one.value, one.reason.as_str())).collect::<Vec<_>>(),
        [(2.0, "sensor knocked")]
    );
    // It may be entered anew; and what lies outside the range counts once a person says so.
    plant.ingest(&[reading("M-ACC", day(2), 2.5)], day(4));
    assert!(plant.write(day(4), |tx| readings::release(tx, "M-ACC", &Release { at: day(2) })).is_err());
    let released = plant.write(day(4), |tx| readings::release(tx, "M-ACC", &Release { at: day(3) })).unwrap();
    assert_eq!((released.alarms.len(), released.work_orders.len()), (1, 1), "it goes through the ladder");
    assert!(list(true).is_empty());
    assert_eq!(list(false).iter().map(|one| one.value).collect::<Vec<_>>(), [150.0, 2.5, 1.0]);
}

#[test]
fn a_counter_counts_on_across_an_exchange_of_its_device() {
    let plant = Plant::new();
    plant.send("M-H", &[1_000.0], day(2));
    plant.send("M-H", &[1_010.0], day(3));
    let exchange = |at, last: f64, first: f64| {
        let new = NewExchange { at, final_value: last, start_value: first };
        plant.write(day(5), |tx| readings::exchange(tx, "M-H", &new))
    };
    let refused = exchange(day(4), 900.0, 0.0).unwrap_err().to_string();
    assert!(refused.starts_with("final_value: 900 h is lower than 1010 h"), "{refused}");
    exchange(day(4), 1_020.0, 5.0).unwrap();
    assert!(exchange(day(4), 1_020.0, 5.0).is_err(), "twice at one instant");
    let receipt = plant.send("M-H", &[12.0], day(5));
    assert_eq!((receipt.accepted, receipt.refused.len()), (1, 0), "{receipt:?}");
    let too_fast = plant.send("M-H", &[80.0], day(6));
    assert_eq!(
        too_fast.refused[0].reason,
        "a rise of 68 h in 24 h is more than 24.1 h at 1 per hour, the greatest believed"
    );
    // 1000 → 1010 → 1020, exchanged for 5 → 12: 27 hours, and half of the first day's.
    let used = |from, to| {
        plant.store.read(Instant::LATEST, |view| readings::usage(view, "M-H", Span::new(from, to).unwrap())).unwrap()
    };
    assert_eq!(used(day(2), day(6)), 27.0);
    assert_eq!(used(day(2).plus(12 * HOUR), day(3)), 5.0);
    // The tally counts the same hours.
    let hours = plant.store.read(Instant::LATEST, |view| {
        let snapshot = view.facts()?;
        // The only running counter is that of EQ.
        let counters = snapshot.running.values().flatten();
        Ok::<_, StoreError>(counters.last().and_then(|counter| counter.readings.last()).map(|last| last.1))
    });
    assert_eq!(hours.unwrap(), Some(27.0));
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

#[test]
fn a_changed_danger_rung_waits_for_a_second_engineer() {
    let plant = Plant::new();
    plant
        .write(day(1), |tx| {
            tally_store::access::people::add(tx, &person("ena", "engineer", None))?;
            tally_store::access::people::add(tx, &person("edo", "engineer", None))?;
            let now = settings::get(tx)?;
            settings::set(tx, &Settings { second_approval: true, ..now })
        })
        .unwrap();
    let as_person =
        |code: &str, now, work: &dyn Fn(&mut tally_store::Tx) -> tally_store::Result<limits::LadderReceipt>| {
            plant.store.write(plant.person(code), now, |tx| work(tx))
        };
    let danger = || NewLadder {
        reason: "after the seizure".into(),
        ladder: serde_json::from_value(json!({"rungs": [{"side": "high", "severity": "danger", "setpoint": 30.0,
            "response": {"kind": "raise"}}]}))
        .unwrap(),
    };
    let receipt = as_person("ena", day(2), &|tx| limits::set(tx, "M-BAR", &danger())).unwrap();
    assert_eq!((receipt.pending, receipt.number), (true, 0));
    plant.send("M-BAR", &[50.0], day(3));
    assert!(of_meter(&plant, "M-BAR").is_empty(), "it is not live");
    let view = plant.store.read(Instant::LATEST, |view| limits::view(view, "M-BAR")).unwrap();
    assert_eq!(view.proposed.as_ref().map(|one| (one.by.as_str(), one.changes.len())), Some(("ena", 1)));
    let own = as_person("ena", day(4), &|tx| limits::approve(tx, "M-BAR")).unwrap_err();
    assert_eq!(own.to_string(), "a second engineer approves what you proposed");
    let live = as_person("edo", day(4), &|tx| limits::approve(tx, "M-BAR")).unwrap();
    assert_eq!((live.pending, live.number, live.work_orders.len()), (false, 1, 1), "the last reading is evaluated");
    let view = plant.store.read(Instant::LATEST, |view| limits::view(view, "M-BAR")).unwrap();
    assert_eq!((view.versions[0].author.as_str(), view.versions[0].approved_by.as_deref()), ("ena", Some("edo")));
    assert!(view.proposed.is_none());
    // A milder rung needs nobody else; and what is proposed can be turned down.
    let mut with_alert = danger();
    with_alert.ladder.rungs.push(serde_json::from_value(alert(0)["rungs"][0].clone()).unwrap());
    assert!(!as_person("ena", day(5), &|tx| limits::set(tx, "M-BAR", &with_alert)).unwrap().pending);
    let gone = NewLadder { reason: "no".into(), ladder: serde_json::from_value(alert(0)).unwrap() };
    assert!(as_person("ena", day(6), &|tx| limits::set(tx, "M-BAR", &gone)).unwrap().pending);
    plant.store.write(plant.person("edo"), day(6), |tx| limits::turn_down(tx, "M-BAR")).unwrap();
    let told = plant.store.read(Instant::LATEST, |view| limits::changes_between(view, "M-BAR", 1, 2)).unwrap();
    assert_eq!(told.changes.iter().map(|one| one.subject.as_str()).collect::<Vec<_>>(), ["alert high"]);
}

#[test]
fn people_are_told_with_the_same_words_as_the_work_and_whose_decision_it_is() {
    let plant = Plant::new();
    plant.write(day(1), |tx| tally_store::access::people::add(tx, &person("mara", "manager", None))).unwrap();
    let rung = |severity: &str, setpoint: f64, response: Value| {
        json!({"side": "high", "severity": severity, "setpoint": setpoint, "deadband": 1.0,
            "what_to_do": "Stop the pump.", "response": response})
    };
    let ladder = json!({"rungs": [
        rung("notice", 10.0, json!({"kind": "notify", "tell": ["tess"]})),
        rung("alert", 20.0, json!({"kind": "raise", "tell": ["tess"]})),
        rung("danger", 30.0, json!({"kind": "raise", "tell": ["tess"], "decides": "mara"})),
    ]});
    plant.set_limits("M-BAR", ladder, day(1)).unwrap();
    plant.send("M-BAR", &[12.0], day(2));
    let raised = plant.send("M-BAR", &[22.0], day(3)).work_orders[0];
    plant.send("M-BAR", &[35.0], day(4));
    let messages = plant.store.read(Instant::LATEST, |view| outbox::list(view, None, None, 10)).unwrap().messages;
    let told: Vec<_> =
        messages.iter().rev().map(|one| (one.person.as_str(), one.work_order, one.subject.as_str())).collect();
    assert_eq!(
        told,
        [
            ("tess", None, "SYS: Pressure at notice"),
            ("tess", Some(raised), "SYS: Pressure at alert"),
            ("tess", Some(raised), "SYS: Pressure at danger"),
            ("mara", Some(raised), "Yours to decide: SYS: Pressure at danger"),
        ]
    );
    let order = plant.order(raised, day(4));
    assert_eq!(messages[2].body, "Stop the pump.\nPressure: 22 bar, above 20 bar.");
    assert_eq!(order.text, format!("{}\n{}", messages[2].body, messages[0].body), "escalated with the danger's words");
    assert_eq!(order.row.title, messages[2].subject);
    let unsent = plant.store.read(Instant::LATEST, |view| outbox::unsent(view, 10)).unwrap();
    assert_eq!(unsent.len(), 4);
    plant.write(day(4), |tx| outbox::sent(tx, unsent[0].id, "outbox/1.eml")).unwrap();
    assert_eq!(plant.store.read(Instant::LATEST, |view| outbox::unsent(view, 10)).unwrap().len(), 3);
}

#[test]
fn a_tag_brings_its_readings_to_the_meter_in_the_meters_unit() {
    let plant = Plant::new();
    let tag = |tag: &str, meter: &str, unit: &str| {
        let new = serde_json::from_value(json!({"tag": tag, "meter": meter, "unit": unit})).unwrap();
        plant.write(day(1), |tx| tags::set(tx, &new))
    };
    tag("PLC1.P07", "M-BAR", "kPa").unwrap();
    assert_eq!(tag("M-ACC", "M-BAR", "bar").unwrap_err().to_string(), "tag: M-ACC is the code of a meter");
    assert_eq!(tag("X", "M-BAR", "Cel").unwrap_err().to_string(), "unit: Cel can't be turned into bar");
    let rows = [reading("PLC1.P07", day(2), 250.0), reading("M-BAR", day(3), 3.0), reading("PLC9", day(2), 1.0)];
    let receipt = plant.ingest(&rows, day(3));
    assert_eq!((receipt.accepted, receipt.refused[0].reason.as_str()), (2, "there is no meter \"PLC9\""));
    let values =
        plant.store.read(Instant::LATEST, |view| readings::newest(view, "M-BAR", Instant::LATEST, false, 9)).unwrap();
    assert_eq!(values.iter().map(|one| one.value).collect::<Vec<_>>(), [3.0, 2.5]);
    plant.write(day(4), |tx| tags::remove(tx, "PLC1.P07")).unwrap();
    assert!(plant.store.read(Instant::LATEST, |view| tags::list(view)).unwrap().is_empty());
}

#[test]
fn events_wait_for_their_address_with_longer_and_longer_pauses() {
    let plant = Plant::new();
    plant.set_limits("M-BAR", alert(7), day(1)).unwrap();
    plant.send("M-BAR", &[25.0], day(2));
    let due = |now| plant.store.read(now, |view| webhooks::due(view, 10)).unwrap();
    assert!(due(day(9)).is_empty(), "without an address nothing is written");
    let new = |url: &str, secret: &str| {
        let new = serde_json::from_value(json!({"url": url, "secret": secret})).unwrap();
        plant.write(day(2), |tx| webhooks::add(tx, &new))
    };
    assert!(new("ftp://x", "0123456789abcdef").is_err());
    assert!(new("http://127.0.0.1:9/", "short").is_err());
    let address = new("http://127.0.0.1:9/", "0123456789abcdef").unwrap();
    plant.send("M-BAR", &[10.0], day(3));
    plant.send("M-BAR", &[25.0], day(4));
    let one = due(day(4)).remove(0);
    let event: Value = serde_json::from_str(&one.payload).unwrap();
    assert_eq!((event["kind"].as_str(), event["data"]["response"].as_str()), (Some("alarm"), Some("joined")));
    assert_eq!(event["data"]["text"], "Pressure: 25 bar, above 20 bar.");
    plant.write(day(4), |tx| webhooks::tried(tx, one.delivery, Some("refused"))).unwrap();
    assert!(due(day(4).plus(9_999)).is_empty());
    assert_eq!(due(day(4).plus(10_000)).len(), 1, "ten seconds later");
    for attempt in 0..7 {
        plant.write(day(5 + attempt), |tx| webhooks::tried(tx, one.delivery, Some("refused"))).unwrap();
    }
    assert!(due(day(30)).is_empty(), "given up after the eighth");
    plant.write(day(30), |tx| webhooks::resend(tx, one.delivery)).unwrap();
    plant.write(day(30), |tx| webhooks::tried(tx, one.delivery, None)).unwrap();
    let listed = plant.store.read(Instant::LATEST, |view| webhooks::list(view)).unwrap();
    assert_eq!((listed[0].delivered, listed[0].waiting, listed[0].failed), (1, 0, 0));
    plant.write(day(31), |tx| webhooks::stop(tx, address)).unwrap();
    assert!(!plant.store.read(Instant::LATEST, |view| webhooks::list(view)).unwrap()[0].active);
}

/// Three gearboxes with a meter of one name; the third has limits of its own.
fn family(plant: &Plant) {
    plant
        .write(day(1), |tx| {
            for n in 1..=3 {
                let asset = format!("GB{n}");
                add_asset(
                    tx,
                    json!({"code": asset, "name": asset, "level": "equipment", "parent": "SITE",
                    "class": "gearbox"}),
                )?;
                add_meter(
                    tx,
                    json!({"code": format!("V{n}"), "asset": asset, "name": "Vibration velocity",
                    "kind": "measurement", "unit": "mm/s"}),
                )?;
            }
            Ok(())
        })
        .unwrap();
    plant.set_limits("V3", alert(1), day(1)).unwrap();
    plant.send("V1", &[8.0], day(2));
}

#[test]
fn a_family_is_written_once_previewed_and_leaves_what_deviates() {
    let plant = Plant::new();
    family(&plant);
    let ladder = |setpoint: f64| FamilyLadder {
        reason: "by the standard".into(),
        ladder: serde_json::from_value(json!({"rungs": [{"side": "high", "severity": "alert", "setpoint": setpoint,
            "deadband": 0.5, "response": {"kind": "raise", "title": "Check {asset}"}}]}))
        .unwrap(),
        also: vec![],
    };
    let set = |tx: &mut tally_store::Tx, new: &FamilyLadder| families::set(tx, "gearbox", "Vibration velocity", new);
    let fates = |receipt: &families::FamilyReceipt| {
        receipt.rows.iter().map(|row| (row.meter.clone(), row.fate, row.work_orders.len())).collect::<Vec<_>>()
    };
    let expected = [
        ("V1".to_owned(), FamilyFate::Changed, 1),
        ("V2".to_owned(), FamilyFate::Changed, 0),
        ("V3".to_owned(), FamilyFate::KeepsItsOwn, 0),
    ];
    let trial = plant.store.trial(plant.admin.clone(), day(3), |tx| set(tx, &ladder(7.1))).unwrap();
    assert_eq!(fates(&trial), expected);
    let view =
        || plant.store.read(Instant::LATEST, |view| families::view(view, "gearbox", "Vibration velocity")).unwrap();
    assert_eq!(view().number, 0, "a trial run keeps nothing");
    let written = plant.write(day(3), |tx| set(tx, &ladder(7.1))).unwrap();
    assert_eq!(fates(&written), expected, "and says what comes to be");
    let order = plant.order(written.rows[0].work_orders[0], day(3));
    assert_eq!(order.row.title, "Check GB1", "each meter's own words");
    let deviating: Vec<_> = view().meters.iter().filter(|one| one.deviates).map(|one| one.meter.clone()).collect();
    assert_eq!(deviating, ["V3"]);
    let listed = plant.store.read(Instant::LATEST, |view| families::list(view, None)).unwrap();
    let row = listed.iter().find(|one| one.name == "Vibration velocity").unwrap();
    assert_eq!((row.meters, row.with_limits, row.deviating, row.has_ladder), (3, 3, 1, true));
    // Named, the deviating one gets it too.
    let all = FamilyLadder { also: vec!["V3".into()], ..ladder(6.0) };
    let receipt = plant.write(day(4), |tx| set(tx, &all)).unwrap();
    assert!(receipt.rows.iter().all(|row| row.fate == FamilyFate::Changed));
    assert!(view().meters.iter().all(|one| !one.deviates));
    let upside_down = FamilyLadder { reason: String::new(), ..ladder(6.0) };
    assert!(plant.write(day(5), |tx| set(tx, &upside_down)).is_err());
}

/// By hand: V1 rises by 0.1 mm/s a day from 4 on day 1 to 5.9 on day 20 and so reaches 7.1 on day 32; V2 stands at 3. Of
/// 40 readings the mean is (4.95 + 3) / 2.
#[test]
fn a_familys_baseline_proposes_and_its_meters_are_foretold() {
    let plant = Plant::new();
    family(&plant);
    let rows = |meter: &str, from: f64, by: f64| {
        (0..20).map(|n| reading(meter, day(1 + n).plus(-HOUR), from + by * f64::from(n))).collect::<Vec<_>>()
    };
    plant.ingest(&[rows("V1", 4.0, 0.1), rows("V2", 3.0, 0.0)].concat(), day(20));
    let span = Span::new(day(1).plus(-HOUR), day(21)).unwrap();
    let ladder: tally_core::watch::limits::Ladder = serde_json::from_value(json!({"rungs": [{"side": "high",
        "severity": "alert", "setpoint": 7.1, "response": {"kind": "raise"}}]}))
    .unwrap();
    let voiding = Voiding { at: day(2), reason: "the family's own".into() };
    plant.write(day(20), |tx| readings::void(tx, "V1", &voiding)).unwrap();
    let (proposed, foretold) = plant
        .store
        .read(day(20), |view| {
            let asked = replay::ProposalsAsked::default();
            Ok::<_, StoreError>((
                families::proposals_of(view, "gearbox", "Vibration velocity", span, &asked)?,
                families::forecast_of(view, "gearbox", "Vibration velocity", span, Some(ladder))?,
            ))
        })
        .unwrap();
    assert_eq!(proposed.n, 40);
    let mean = proposed.proposals[0].inputs[0].value;
    assert!((mean - 3.975).abs() < 1e-9, "{mean}");
    assert_eq!(foretold.len(), 1, "the other stands still");
    let at = foretold[0].reached[0].at;
    assert!((at.since(day(32).plus(-HOUR)) as f64).abs() < 60_000.0, "{at}");
}

/// By hand: five alarms in January. Two on M-BAR raised or joined work with a verdict of nothing wrong; three entries of
/// M-ACC within a minute, the third of which chatters; none stood for a day but the last of M-BAR. A rung that only records
/// asks for no response, and is left out.
#[test]
fn alarm_performance_adds_up() {
    let plant = Plant::new();
    plant.set_limits("M-BAR", alert(0), day(1)).unwrap();
    plant
        .set_limits(
            "M-ACC",
            json!({"rungs": [{"side": "high", "severity": "notice", "setpoint": 4.0, "response": {"kind": "notify"}},
            {"side": "low", "severity": "notice", "setpoint": 1.5, "response": {"kind": "record"}}]}),
            day(1),
        )
        .unwrap();
    let number = plant.send("M-BAR", &[25.0, 10.0, 25.0], day(2)).work_orders[0];
    let seconds = |n: i64| day(3).plus(n * 1_000);
    let restless = [5.0, 1.0, 5.0, 1.0, 5.0, 1.0];
    let rows: Vec<_> = (0..).zip(restless).map(|(n, value)| reading("M-ACC", seconds(n * 10), value)).collect();
    plant.ingest(&rows, day(4));
    for state in ["ready", "under_way"] {
        let to = serde_json::from_value(json!({ "to": state })).unwrap();
        plant.write(day(4), |tx| tally_store::work::set_state(tx, number, &to)).unwrap();
    }
    let done = serde_json::from_value(json!({"to": "done", "verdict": "nothing_wrong"})).unwrap();
    plant.write(day(4), |tx| tally_store::work::set_state(tx, number, &done)).unwrap();
    let january = Span::new(at("2026-01-01T00:00:00Z"), at("2026-02-01T00:00:00Z")).unwrap();
    let of = |chatter| {
        plant
            .store
            .read(at("2026-03-01T00:00:00Z"), |view| {
                performance::of(view, None, january, chatter, &jiff::tz::TimeZone::UTC)
            })
            .unwrap()
    };
    let all = of(performance::Chatter::default());
    assert_eq!((all.alarms, all.chattering, all.stale), (5, 1, 1));
    assert_eq!((all.led_to_work, all.nothing_wrong, all.judged), (2, 2, 2));
    assert_eq!(all.per_day, 5.0 / 31.0);
    assert_eq!(
        all.meters.iter().map(|one| (one.meter.as_str(), one.alarms)).collect::<Vec<_>>(),
        [("M-ACC", 3), ("M-BAR", 2)]
    );
    assert_eq!((all.by_day.len(), all.by_day.iter().map(|day| day.alarms).sum::<usize>()), (31, 5));
    assert_eq!((all.by_day[1].alarms, all.by_day[2].alarms), (2, 3));
    assert_eq!(all.by_day[1].date.to_string(), "2026-01-02");
    assert_eq!(of(performance::Chatter { entries: 3, seconds: 30 }).chattering, 0, "40 seconds from first to third");
}

#[test]
fn ladders_go_out_and_in_as_a_table() {
    let plant = Plant::new();
    plant.set_limits("M-BAR", alert(7), day(1)).unwrap();
    let mut csv = CsvOut::new(Vec::new());
    plant.store.read(Instant::LATEST, |view| limits::file::export(view, &mut csv)).unwrap();
    let text = String::from_utf8(csv.into_inner().unwrap()).unwrap();
    let mut lines = text.lines();
    let columns: Vec<String> = lines.next().unwrap().split(',').map(String::from).collect();
    let rung: Vec<String> = lines.next().unwrap().split(',').map(String::from).collect();
    let take = |rows: Vec<Vec<String>>| {
        let given = (2..).zip(rows).map(|(line, cells)| tally_store::plant::master::GivenRow {
            line,
            cells: Ok(cells),
            was: vec![],
        });
        let decimal = tally_core::outside::files::Decimal::Point;
        let mut taking = limits::file::Taking::of(&columns, given, decimal, "file l.csv").unwrap();
        plant.write(day(2), |tx| whole(tx, &mut taking, &mut |_, _| true)).unwrap();
        taking.receipt()
    };
    let with = |cells: &[(&str, &str)]| {
        let mut row = rung.clone();
        for (name, value) in cells {
            row[columns.iter().position(|column| column == name).unwrap()] = (*value).into();
        }
        row
    };
    assert_eq!(take(vec![rung.clone()]).unchanged, 1, "out and in is nothing");
    let receipt = take(vec![
        with(&[("setpoint", "22")]),
        with(&[("severity", "danger"), ("setpoint", "30")]),
        with(&[("meter", "M-ACC"), ("setpoint", "x")]),
        with(&[("meter", "M-NO")]),
    ]);
    assert_eq!((receipt.changed, receipt.refused), (2, 2), "{:?}", receipt.lines);
    let reasons: Vec<_> = receipt.lines.iter().flat_map(|line| &line.reasons).map(|one| one.field.as_str()).collect();
    assert_eq!(reasons, ["setpoint", "meter"]);
    let ladder = plant.store.read(Instant::LATEST, |view| limits::view(view, "M-BAR")).unwrap();
    assert_eq!(
        (ladder.number, ladder.ladder.rungs.len(), ladder.versions[0].reason.as_str()),
        (2, 2, "From file l.csv")
    );
    // Rungs that make no sense together leave the ladder as it is.
    let wrong = take(vec![with(&[("setpoint", "22")]), with(&[("severity", "danger"), ("setpoint", "21")])]);
    assert_eq!(wrong.refused, 2);
    assert_eq!(plant.store.read(Instant::LATEST, |view| limits::view(view, "M-BAR")).unwrap().number, 2);
}

/// Sealed or not, there is one history: what is asked of it is the same before and after.
#[test]
fn sealed_readings_are_read_voided_and_joined_by_late_ones_as_if_they_were_rows() {
    let plant = Plant::new();
    let count = 10_000;
    let value = |n: i64| f64::from(u32::try_from(n % 97).unwrap());
    let minute = |n: i64| day(1).plus(n * 60_000);
    // Every tenth comes late, after the rest was sealed.
    let rows: Vec<_> = (0..count).filter(|n| n % 10 != 5).map(|n| reading("M-BAR", minute(n), value(n))).collect();
    plant.ingest(&rows, day(9));
    let seal = || {
        let mut sealed = 0;
        while let Some(meter) = plant.store.read(Instant::LATEST, |view| readings::to_seal(view, 1)).unwrap().pop() {
            sealed += plant.write(day(9), |tx| readings::seal(tx, meter)).unwrap();
        }
        sealed
    };
    assert_eq!(seal(), 8_192, "two blocks; the newest stay rows");
    let late: Vec<_> = (0..count).filter(|n| n % 10 == 5).map(|n| reading("M-BAR", minute(n), value(n))).collect();
    let receipt = plant.ingest(&late, day(9));
    assert_eq!((receipt.accepted, receipt.late, receipt.refused.len()), (1_000, 1_000, 0));
    let again = plant.ingest(&rows[..50], day(9));
    assert_eq!((again.accepted, again.duplicates), (0, 50), "known in a block as in a row");
    let conflict = plant.ingest(&[reading("M-BAR", minute(0), 55.0)], day(9));
    assert!(conflict.refused[0].reason.starts_with("conflict: at"), "{conflict:?}");
    let read = || {
        let mut all = Vec::new();
        plant
            .store
            .read(Instant::LATEST, |view| readings::raw(view, "M-BAR", year(), |at, value, _| all.push((at, value))))
            .unwrap();
        all
    };
    let expected: Vec<_> = (0..count).map(|n| (minute(n), value(n))).collect();
    assert_eq!(read(), expected);
    // Late rows go into the blocks they fall into.
    while plant.write(day(9), |tx| readings::seal(tx, tally_core::ground::ids::MeterId(2))).unwrap() > 0 {}
    assert_eq!(read(), expected);
    let voiding = Voiding { at: minute(100), reason: "test".into() };
    plant.write(day(9), |tx| readings::void(tx, "M-BAR", &voiding)).unwrap();
    assert_eq!(read().len(), expected.len() - 1);
    assert!(plant.write(day(9), |tx| readings::void(tx, "M-BAR", &voiding)).is_err(), "it is gone");
    let held =
        plant.store.read(Instant::LATEST, |view| readings::whole(view, tally_core::ground::ids::MeterId(2))).unwrap();
    assert_eq!(held.len(), expected.len() - 1);
}

fn two_engineers(plant: &Plant) {
    plant
        .write(day(1), |tx| {
            tally_store::access::people::add(tx, &person("ena", "engineer", None))?;
            tally_store::access::people::add(tx, &person("edo", "engineer", None))?;
            let now = settings::get(tx)?;
            settings::set(tx, &Settings { second_approval: true, ..now })
        })
        .unwrap();
}

#[test]
fn a_familys_proposal_leaves_no_trace_until_a_second_engineer_approves() {
    let plant = Plant::new();
    family(&plant);
    two_engineers(&plant);
    let by = |code: &str, now, work: &dyn Fn(&mut tally_store::Tx) -> tally_store::Result<families::FamilyReceipt>| {
        plant.store.write(plant.person(code), now, |tx| work(tx))
    };
    const NAME: &str = "Vibration velocity";
    let ladder: FamilyLadder =
        serde_json::from_value(json!({"reason": "by the standard", "also": ["V3"], "ladder": {"rungs": [
        {"side": "high", "severity": "danger", "setpoint": 7.1, "response": {"kind": "raise"}}]}}))
        .unwrap();
    let proposed = by("ena", day(3), &|tx| families::set(tx, "gearbox", NAME, &ladder)).unwrap();
    assert!(proposed.pending && proposed.number == 0);
    assert!(
        proposed.rows.iter().all(|row| row.fate == FamilyFate::Proposed && row.work_orders.is_empty()),
        "{proposed:?}"
    );
    let state = || {
        plant
            .store
            .read(Instant::LATEST, |view| {
                let family = families::view(view, "gearbox", NAME)?;
                let versions = ["V1", "V2", "V3"].map(|meter| limits::view(view, meter).map(|one| one.versions.len()));
                let pending =
                    ["V1", "V2", "V3"].map(|meter| limits::view(view, meter).map(|one| one.proposed.is_some()));
                Ok::<_, StoreError>((
                    family.number,
                    family.proposed.map(|one| one.by),
                    versions.into_iter().collect::<tally_store::Result<Vec<_>>>()?,
                    pending.into_iter().collect::<tally_store::Result<Vec<_>>>()?,
                ))
            })
            .unwrap()
    };
    assert_eq!(state(), (0, Some("ena".to_owned()), vec![0, 0, 1], vec![false; 3]));
    let own = by("ena", day(4), &|tx| families::approve(tx, "gearbox", NAME)).unwrap_err();
    assert_eq!(own.to_string(), "a second engineer approves what you proposed");
    // Turned down, it is as if it had never been; proposed again, it is written for all at once.
    plant.store.write(plant.person("edo"), day(4), |tx| families::turn_down(tx, "gearbox", NAME)).unwrap();
    assert_eq!(state(), (0, None, vec![0, 0, 1], vec![false; 3]));
    by("ena", day(5), &|tx| families::set(tx, "gearbox", NAME, &ladder)).unwrap();
    let live = by("edo", day(6), &|tx| families::approve(tx, "gearbox", NAME)).unwrap();
    assert_eq!((live.pending, live.number), (false, 1));
    assert_eq!(live.rows.iter().map(|row| row.work_orders.len()).sum::<usize>(), 1, "V1 reads 8");
    assert_eq!(state(), (1, None, vec![1, 1, 2], vec![false; 3]));
}

#[test]
fn the_second_approval_is_not_gone_round() {
    let plant = Plant::new();
    two_engineers(&plant);
    let danger = json!({"side": "high", "severity": "danger", "setpoint": 30.0, "response": {"kind": "raise"}});
    let write = |who: &str, ladder: Value, now| {
        let new = NewLadder { reason: "r".into(), ladder: serde_json::from_value(ladder).unwrap() };
        plant.store.write(plant.person(who), now, |tx| limits::set(tx, "M-BAR", &new)).unwrap()
    };
    assert!(write("ena", json!({"rungs": [danger]}), day(2)).pending);
    plant.store.write(plant.person("edo"), day(2), |tx| limits::approve(tx, "M-BAR")).unwrap();
    // Suspended it would be as good as gone.
    let suspended = json!({"rungs": [danger], "suspended_while": {"meter": "M-H", "below": 1e9}});
    assert!(write("ena", suspended, day(3)).pending);
    plant.store.write(plant.person("edo"), day(3), |tx| limits::turn_down(tx, "M-BAR")).unwrap();
    // The switch itself is put off by two.
    let off = |tx: &mut tally_store::Tx| {
        let now = settings::get(tx)?;
        settings::set(tx, &Settings { second_approval: false, ..now })
    };
    plant.store.write(plant.person("ena"), day(4), off).unwrap();
    let view = || plant.store.read(Instant::LATEST, |view| settings::view(view)).unwrap();
    assert_eq!(
        (view().settings.second_approval, view().second_approval_off.map(|one| one.by)),
        (true, Some("ena".to_owned()))
    );
    assert!(write("ena", json!({"rungs": []}), day(4)).pending, "it holds until then");
    let own = plant.store.write(plant.person("ena"), day(5), settings::approve_off).unwrap_err();
    assert_eq!(own.to_string(), "a second engineer approves what you proposed");
    plant.store.write(plant.person("edo"), day(5), settings::turn_down_off).unwrap();
    assert_eq!((view().settings.second_approval, view().second_approval_off), (true, None));
    plant.store.write(plant.person("ena"), day(6), off).unwrap();
    plant.store.write(plant.person("edo"), day(6), settings::approve_off).unwrap();
    assert_eq!((view().settings.second_approval, view().second_approval_off), (false, None));
    assert!(!write("ena", json!({"rungs": []}), day(7)).pending);
}

/// A runs while B says so, B while C says so. Whatever the order of the rows, A's readings of an hour are looked at after
/// those of B and C of that hour.
#[test]
fn a_chain_of_suspensions_does_not_depend_on_the_order_of_rows() {
    let outcome = |turn: usize| {
        let plant = Plant::new();
        plant
            .write(day(1), |tx| {
                for code in ["A", "B", "C"] {
                    add_meter(tx, json!({"code": code, "asset": "EQ", "kind": "measurement", "unit": "bar"}))?;
                }
                Ok(())
            })
            .unwrap();
        for (meter, by) in [("A", Some("B")), ("B", Some("C")), ("C", None)] {
            let suspended_while = by.map(|meter| json!({"meter": meter, "below": 1.0}));
            let ladder = json!({"suspended_while": suspended_while, "rungs": [
                {"side": "high", "severity": "alert", "setpoint": 5.0, "response": {"kind": "record"}}]});
            plant.set_limits(meter, ladder, day(1)).unwrap();
        }
        let hour = |n: i64| day(2).plus(n * HOUR);
        let mut rows: Vec<(&str, i64, f64)> = vec![
            ("C", 0, 2.0),
            ("B", 0, 2.0),
            ("A", 0, 9.0),
            ("C", 1, 0.0),
            ("B", 1, 9.0),
            ("A", 1, 9.0),
            ("B", 2, 0.0),
            ("A", 2, 9.0),
            ("C", 3, 6.0),
            ("B", 3, 7.0),
            ("A", 3, 9.0),
        ];
        rows.rotate_left(turn);
        if turn % 2 == 1 {
            rows.reverse();
        }
        let rows: Vec<_> = rows.into_iter().map(|(meter, at, value)| reading(meter, hour(at), value)).collect();
        plant.ingest(&rows, day(3));
        ["A", "B", "C"].map(|meter| {
            of_meter(&plant, meter)
                .into_iter()
                .map(|one| (one.entered_at, one.left_at, one.left_by))
                .collect::<Vec<_>>()
        })
    };
    let first = outcome(0);
    // By hand: A stands from hour 0 on, B's 9 of hour 1 is not looked at while C reads 0, its 7 of hour 3 is.
    let hour = |n: i64| day(2).plus(n * HOUR);
    let entered = |of: usize| first[of].iter().map(|one| one.0).collect::<Vec<_>>();
    assert_eq!([entered(0), entered(1), entered(2)], [vec![hour(0)], vec![hour(3)], vec![hour(3)]]);
    for turn in 1..11 {
        assert_eq!(outcome(turn), first, "turned by {turn}");
    }
}

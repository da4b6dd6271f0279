//! Alarms over time: held and answering again, silent meters, late readings, corrections, exchanges, families.

use crate::common::{Plant, add_asset, add_meter, at, day, person, reading, year};
use serde_json::{Value, json};
use tally_core::{
    ids::WorkOrderId,
    limits::HeldBy,
    severity::Severity,
    time::{HOUR, Instant, Span},
};
use tally_store::{
    StoreError, alarms,
    alarms::{AlarmKind, AlarmRow, Judgement, NewShelf, ResponseGiven, Show, performance},
    families::{self, FamilyFate, FamilyLadder},
    limits::{self, NewLadder},
    outbox,
    readings::{self, NewExchange, Release, Voiding},
    replay, settings, tags, webhooks,
};

/// Alert at 20 bar, left below 18, raising work; a raise interval of so many days.
fn alert(interval_days: u32) -> Value {
    json!({"raise_interval_seconds": interval_days * 86_400, "rungs": [
        {"side": "high", "severity": "alert", "setpoint": 20.0, "deadband": 2.0, "response": {"kind": "raise"}}]})
}

fn of_meter(plant: &Plant, meter: &str) -> Vec<AlarmRow> {
    plant.store.read(|conn| alarms::of_meter(conn, meter, Span::ALWAYS, 100)).unwrap()
}

fn answer_due(plant: &Plant, now: Instant) -> Vec<WorkOrderId> {
    plant.write(now, alarms::answer_due).unwrap().work_orders
}

fn now_of(plant: &Plant, show: Show, now: Instant) -> alarms::AlarmsNow {
    plant.store.read(|conn| alarms::now(conn, None, show, now, 100)).unwrap()
}

fn shelf(until: Instant) -> NewShelf {
    NewShelf { until, reason: "cabling is being replaced".into() }
}

#[test]
fn what_a_shelf_holds_back_answers_when_it_ends() {
    let plant = Plant::new();
    plant.set_limits("M-BAR", alert(7), day(1)).unwrap();
    plant.write(day(2), |act| alarms::shelve(act, "M-BAR", &shelf(day(5)))).unwrap();
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
    other.write(day(2), |act| alarms::shelve(act, "M-BAR", &shelf(day(5)))).unwrap();
    other.send("M-BAR", &[25.0], day(3));
    other.send("M-BAR", &[10.0], day(6));
    let left = &of_meter(&other, "M-BAR")[0];
    assert_eq!((left.response, left.answered_at, left.left_at), (ResponseGiven::Raised, day(5), Some(day(6))));
}

#[test]
fn a_shelf_is_taken_off_moved_and_refused_without_reason_or_end() {
    let plant = Plant::new();
    plant.set_limits("M-BAR", alert(7), day(1)).unwrap();
    let refused =
        |new: NewShelf| plant.write(day(2), |act| alarms::shelve(act, "M-BAR", &new)).unwrap_err().to_string();
    assert_eq!(refused(NewShelf { reason: " ".into(), ..shelf(day(5)) }), "reason: say why its alarms are held back");
    assert_eq!(refused(shelf(day(2))), "until: must lie in the future");
    assert!(refused(shelf(at("2028-01-01T00:00:00Z"))).starts_with("until: must lie within a year"));
    assert!(plant.write(day(2), |act| alarms::unshelve(act, "M-BAR")).is_err(), "it is not shelved");
    plant.write(day(2), |act| alarms::shelve(act, "M-BAR", &shelf(day(5)))).unwrap();
    plant.send("M-BAR", &[25.0], day(3));
    // A longer shelf takes the place of the first, and moves when its alarms are due.
    plant.write(day(4), |act| alarms::shelve(act, "M-BAR", &shelf(day(20)))).unwrap();
    assert_eq!(answer_due(&plant, day(6)), []);
    assert_eq!(of_meter(&plant, "M-BAR")[0].due_at, Some(day(20)));
    plant.write(day(7), |act| alarms::unshelve(act, "M-BAR")).unwrap();
    assert_eq!(of_meter(&plant, "M-BAR")[0].response, ResponseGiven::Raised);
}

#[test]
fn a_rung_that_stands_raises_again_when_its_work_is_done_and_its_interval_over() {
    let plant = Plant::new();
    plant.set_limits("M-BAR", alert(7), day(1)).unwrap();
    let first = plant.send("M-BAR", &[25.0], day(2)).work_orders[0];
    assert_eq!(answer_due(&plant, day(20)), [], "it waits for its work");
    plant.do_work(first, day(5));
    answer_due(&plant, day(6));
    let held = &of_meter(&plant, "M-BAR")[0];
    let until = day(9);
    assert_eq!(held.held_by, Some(HeldBy::RaiseInterval { work_order: first, until }));
    let second = answer_due(&plant, day(9))[0];
    assert!(second > first);
    // Rework before the clock came by: it waits on.
    plant.do_work(second, day(12));
    plant.state(second, tally_core::work::WorkState::UnderWay, day(12)).unwrap();
    assert_eq!(answer_due(&plant, day(30)), []);
    assert_eq!(of_meter(&plant, "M-BAR").len(), 1, "one alarm all the time");
}

#[test]
fn a_meter_that_is_not_read_for_too_long_is_silent_until_it_is_read() {
    let plant = Plant::new();
    plant
        .write(day(1), |act| {
            add_meter(
                act,
                json!({"code": "M-Q", "asset": "SYS", "kind": "measurement", "unit": "bar",
                "longest_silence_seconds": 2 * 86_400}),
            )
        })
        .unwrap();
    plant.send("M-Q", &[5.0], day(2));
    let look = |now| plant.store.read(|conn| alarms::fell_silent(conn, now)).unwrap();
    assert!(look(day(4).plus(-1)).is_empty());
    let silent = look(day(5));
    assert_eq!(silent.len(), 1);
    plant.write(day(5), |act| alarms::note_silence(act, &silent)).unwrap();
    plant.write(day(5), |act| alarms::note_silence(act, &silent)).unwrap();
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
        plant.write(day(6), |act| alarms::judge_late(act, late[0].id, &judgement))
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
    let list = |apart| plant.store.read(|conn| readings::newest(conn, "M-ACC", Instant::LATEST, apart, 10)).unwrap();
    assert_eq!(list(true).len(), 1);
    let void = |at, reason: &str| {
        let voiding = Voiding { at, reason: reason.into() };
        plant.write(day(4), |act| readings::void(act, "M-ACC", &voiding))
    };
    assert_eq!(void(day(2), "").unwrap_err().to_string(), "reason: say why the reading does not hold");
    assert!(void(day(9), "x").unwrap_err().to_string().starts_with("at: M-ACC has no reading at"));
    void(day(2), "sensor knocked").unwrap();
    let voided = plant.store.read(|conn| readings::voided(conn, "M-ACC", 10)).unwrap();
    assert_eq!(
        voided.iter().map(|one| (one.value, one.reason.as_str())).collect::<Vec<_>>(),
        [(2.0, "sensor knocked")]
    );
    // It may be entered anew; and what lies outside the range counts once a person says so.
    plant.ingest(&[reading("M-ACC", day(2), 2.5)], day(4));
    assert!(plant.write(day(4), |act| readings::release(act, "M-ACC", &Release { at: day(2) })).is_err());
    let released = plant.write(day(4), |act| readings::release(act, "M-ACC", &Release { at: day(3) })).unwrap();
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
        plant.write(day(5), |act| readings::exchange(act, "M-H", &new))
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
    let used = |from, to| plant.store.read(|conn| readings::usage(conn, "M-H", Span::new(from, to).unwrap())).unwrap();
    assert_eq!(used(day(2), day(6)), 27.0);
    assert_eq!(used(day(2).plus(12 * HOUR), day(3)), 5.0);
    // The tally counts the same hours.
    let hours = plant.store.tally(|_, snapshot| {
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
        .write(day(1), |act| {
            tally_store::people::add(act, &person("ena", "engineer", None))?;
            tally_store::people::add(act, &person("edo", "engineer", None))?;
            let now = settings::get(act.conn())?;
            settings::set(act, &settings::Settings { second_approval: true, ..now })
        })
        .unwrap();
    let as_person =
        |code: &str, now, work: &dyn Fn(&mut tally_store::Act) -> tally_store::Result<limits::LadderReceipt>| {
            plant.store.write(plant.person(code), now, |act| work(act))
        };
    let danger = || NewLadder {
        reason: "after the seizure".into(),
        ladder: serde_json::from_value(json!({"rungs": [{"side": "high", "severity": "danger", "setpoint": 30.0,
            "response": {"kind": "raise"}}]}))
        .unwrap(),
    };
    let receipt = as_person("ena", day(2), &|act| limits::set(act, "M-BAR", &danger())).unwrap();
    assert_eq!((receipt.pending, receipt.number), (true, 0));
    plant.send("M-BAR", &[50.0], day(3));
    assert!(of_meter(&plant, "M-BAR").is_empty(), "it is not live");
    let view = plant.store.read(|conn| limits::view(conn, "M-BAR")).unwrap();
    assert_eq!(view.proposed.as_ref().map(|one| (one.by.as_str(), one.changes.len())), Some(("ena", 1)));
    let own = as_person("ena", day(4), &|act| limits::approve(act, "M-BAR")).unwrap_err();
    assert_eq!(own.to_string(), "a second engineer approves what you proposed");
    let live = as_person("edo", day(4), &|act| limits::approve(act, "M-BAR")).unwrap();
    assert_eq!((live.pending, live.number, live.work_orders.len()), (false, 1, 1), "the last reading is evaluated");
    let view = plant.store.read(|conn| limits::view(conn, "M-BAR")).unwrap();
    assert_eq!((view.versions[0].author.as_str(), view.versions[0].approved_by.as_deref()), ("ena", Some("edo")));
    assert!(view.proposed.is_none());
    // A milder rung needs nobody else; and what is proposed can be turned down.
    let mut with_alert = danger();
    with_alert.ladder.rungs.push(serde_json::from_value(alert(0)["rungs"][0].clone()).unwrap());
    assert!(!as_person("ena", day(5), &|act| limits::set(act, "M-BAR", &with_alert)).unwrap().pending);
    let gone = NewLadder { reason: "no".into(), ladder: serde_json::from_value(alert(0)).unwrap() };
    assert!(as_person("ena", day(6), &|act| limits::set(act, "M-BAR", &gone)).unwrap().pending);
    plant.store.write(plant.person("edo"), day(6), |act| limits::turn_down(act, "M-BAR")).unwrap();
    let told = plant.store.read(|conn| limits::changes_between(conn, "M-BAR", 1, 2)).unwrap();
    assert_eq!(told.changes.iter().map(|one| one.subject.as_str()).collect::<Vec<_>>(), ["alert high"]);
}

#[test]
fn people_are_told_with_the_same_words_as_the_work_and_whose_decision_it_is() {
    let plant = Plant::new();
    plant.write(day(1), |act| tally_store::people::add(act, &person("mara", "manager", None))).unwrap();
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
    let messages = plant.store.read(|conn| outbox::list(conn, None, None, 10)).unwrap().messages;
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
    let unsent = plant.store.read(|conn| outbox::unsent(conn, 10)).unwrap();
    assert_eq!(unsent.len(), 4);
    plant.write(day(4), |act| outbox::sent(act, unsent[0].id, "outbox/1.eml")).unwrap();
    assert_eq!(plant.store.read(|conn| outbox::unsent(conn, 10)).unwrap().len(), 3);
}

#[test]
fn a_tag_brings_its_readings_to_the_meter_in_the_meters_unit() {
    let plant = Plant::new();
    let tag = |tag: &str, meter: &str, unit: &str| {
        let new = serde_json::from_value(json!({"tag": tag, "meter": meter, "unit": unit})).unwrap();
        plant.write(day(1), |act| tags::set(act, &new))
    };
    tag("PLC1.P07", "M-BAR", "kPa").unwrap();
    assert_eq!(tag("M-ACC", "M-BAR", "bar").unwrap_err().to_string(), "tag: M-ACC is the code of a meter");
    assert_eq!(tag("X", "M-BAR", "Cel").unwrap_err().to_string(), "unit: Cel can't be turned into bar");
    let rows = [reading("PLC1.P07", day(2), 250.0), reading("M-BAR", day(3), 3.0), reading("PLC9", day(2), 1.0)];
    let receipt = plant.ingest(&rows, day(3));
    assert_eq!((receipt.accepted, receipt.refused[0].reason.as_str()), (2, "there is no meter \"PLC9\""));
    let values = plant.store.read(|conn| readings::newest(conn, "M-BAR", Instant::LATEST, false, 9)).unwrap();
    assert_eq!(values.iter().map(|one| one.value).collect::<Vec<_>>(), [3.0, 2.5]);
    plant.write(day(4), |act| tags::remove(act, "PLC1.P07")).unwrap();
    assert!(plant.store.read(tags::list).unwrap().is_empty());
}

#[test]
fn events_wait_for_their_address_with_longer_and_longer_pauses() {
    let plant = Plant::new();
    plant.set_limits("M-BAR", alert(7), day(1)).unwrap();
    plant.send("M-BAR", &[25.0], day(2));
    let due = |now| plant.store.read(|conn| webhooks::due(conn, now, 10)).unwrap();
    assert!(due(day(9)).is_empty(), "without an address nothing is written");
    let new = |url: &str, secret: &str| {
        let new = serde_json::from_value(json!({"url": url, "secret": secret})).unwrap();
        plant.write(day(2), |act| webhooks::add(act, &new))
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
    plant.write(day(4), |act| webhooks::tried(act, one.delivery, Some("refused"))).unwrap();
    assert!(due(day(4).plus(9_999)).is_empty());
    assert_eq!(due(day(4).plus(10_000)).len(), 1, "ten seconds later");
    for attempt in 0..7 {
        plant.write(day(5 + attempt), |act| webhooks::tried(act, one.delivery, Some("refused"))).unwrap();
    }
    assert!(due(day(30)).is_empty(), "given up after the eighth");
    plant.write(day(30), |act| webhooks::resend(act, one.delivery)).unwrap();
    plant.write(day(30), |act| webhooks::tried(act, one.delivery, None)).unwrap();
    let listed = plant.store.read(webhooks::list).unwrap();
    assert_eq!((listed[0].delivered, listed[0].waiting, listed[0].failed), (1, 0, 0));
    plant.write(day(31), |act| webhooks::stop(act, address)).unwrap();
    assert!(!plant.store.read(webhooks::list).unwrap()[0].active);
}

/// Three gearboxes with a meter of one name; the third has limits of its own.
fn family(plant: &Plant) {
    plant
        .write(day(1), |act| {
            for n in 1..=3 {
                let asset = format!("GB{n}");
                add_asset(
                    act,
                    json!({"code": asset, "name": asset, "level": "equipment", "parent": "SITE",
                    "class": "gearbox"}),
                )?;
                add_meter(
                    act,
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
    let set = |act: &mut tally_store::Act, new: &FamilyLadder| families::set(act, "gearbox", "Vibration velocity", new);
    let fates = |receipt: &families::FamilyReceipt| {
        receipt.rows.iter().map(|row| (row.meter.clone(), row.fate, row.work_orders.len())).collect::<Vec<_>>()
    };
    let expected = [
        ("V1".to_owned(), FamilyFate::Changed, 1),
        ("V2".to_owned(), FamilyFate::Changed, 0),
        ("V3".to_owned(), FamilyFate::KeepsItsOwn, 0),
    ];
    let trial = plant.store.trial(plant.admin.clone(), day(3), |act| set(act, &ladder(7.1))).unwrap();
    assert_eq!(fates(&trial), expected);
    let view = || plant.store.read(|conn| families::view(conn, "gearbox", "Vibration velocity")).unwrap();
    assert_eq!(view().number, 0, "a trial run keeps nothing");
    let written = plant.write(day(3), |act| set(act, &ladder(7.1))).unwrap();
    assert_eq!(fates(&written), expected, "and says what comes to be");
    let order = plant.order(written.rows[0].work_orders[0], day(3));
    assert_eq!(order.row.title, "Check GB1", "each meter's own words");
    let deviating: Vec<_> = view().meters.iter().filter(|one| one.deviates).map(|one| one.meter.clone()).collect();
    assert_eq!(deviating, ["V3"]);
    let listed = plant.store.read(|conn| families::list(conn, None)).unwrap();
    let row = listed.iter().find(|one| one.name == "Vibration velocity").unwrap();
    assert_eq!((row.meters, row.with_limits, row.deviating, row.has_ladder), (3, 3, 1, true));
    // Named, the deviating one gets it too.
    let all = FamilyLadder { also: vec!["V3".into()], ..ladder(6.0) };
    let receipt = plant.write(day(4), |act| set(act, &all)).unwrap();
    assert!(receipt.rows.iter().all(|row| row.fate == FamilyFate::Changed));
    assert!(view().meters.iter().all(|one| !one.deviates));
    let upside_down = FamilyLadder { reason: String::new(), ..ladder(6.0) };
    assert!(plant.write(day(5), |act| set(act, &upside_down)).is_err());
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
    let ladder: tally_core::limits::Ladder = serde_json::from_value(json!({"rungs": [{"side": "high",
        "severity": "alert", "setpoint": 7.1, "response": {"kind": "raise"}}]}))
    .unwrap();
    let voiding = Voiding { at: day(2), reason: "the family's own".into() };
    plant.write(day(20), |act| readings::void(act, "V1", &voiding)).unwrap();
    let (proposed, foretold) = plant
        .store
        .tally(|conn, snapshot| {
            let histories = plant.store.histories();
            let asking = replay::Asking { conn, tree: &snapshot.tree, histories, now: day(20) };
            let asked = replay::ProposalsAsked::default();
            Ok::<_, StoreError>((
                families::proposals_of(&asking, "gearbox", "Vibration velocity", span, &asked)?,
                families::forecast_of(&asking, "gearbox", "Vibration velocity", span, Some(ladder))?,
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
/// M-ACC within a minute, the third of which chatters; none stood for a day but the last of M-BAR.
#[test]
fn alarm_performance_adds_up() {
    let plant = Plant::new();
    plant.set_limits("M-BAR", alert(0), day(1)).unwrap();
    plant
        .set_limits(
            "M-ACC",
            json!({"rungs": [{"side": "high", "severity": "notice", "setpoint": 4.0,
            "response": {"kind": "record"}}]}),
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
        plant.write(day(4), |act| tally_store::work::set_state(act, number, &to)).unwrap();
    }
    let done = serde_json::from_value(json!({"to": "done", "verdict": "nothing_wrong"})).unwrap();
    plant.write(day(4), |act| tally_store::work::set_state(act, number, &done)).unwrap();
    let january = Span::new(at("2026-01-01T00:00:00Z"), at("2026-02-01T00:00:00Z")).unwrap();
    let of = |chatter| {
        plant.store.read(|conn| performance::of(conn, None, january, chatter, at("2026-03-01T00:00:00Z"))).unwrap()
    };
    let all = of(performance::Chatter::default());
    assert_eq!((all.alarms, all.chattering, all.stale), (5, 1, 1));
    assert_eq!((all.led_to_work, all.nothing_wrong, all.judged), (2, 2, 2));
    assert_eq!(all.per_day, 5.0 / 31.0);
    assert_eq!(
        all.meters.iter().map(|one| (one.meter.as_str(), one.alarms)).collect::<Vec<_>>(),
        [("M-ACC", 3), ("M-BAR", 2)]
    );
    assert_eq!(all.by_day.iter().sum::<usize>(), 5);
    assert_eq!((all.by_day[1], all.by_day[2]), (2, 3));
    assert_eq!(of(performance::Chatter { entries: 3, seconds: 30 }).chattering, 0, "40 seconds from first to third");
}

#[test]
fn ladders_go_out_and_in_as_a_table() {
    let plant = Plant::new();
    plant.set_limits("M-BAR", alert(7), day(1)).unwrap();
    let mut csv = Vec::new();
    plant.store.read(|conn| limits::file::export(conn, &mut csv)).unwrap();
    let text = String::from_utf8(csv).unwrap();
    let mut lines = text.lines();
    let columns: Vec<String> = lines.next().unwrap().split(',').map(String::from).collect();
    let rung: Vec<String> = lines.next().unwrap().split(',').map(String::from).collect();
    let take = |rows: Vec<Vec<String>>| {
        let given =
            (2..).zip(rows).map(|(line, cells)| tally_store::master::GivenRow { line, cells: Ok(cells), was: vec![] });
        let decimal = tally_core::files::Decimal::Point;
        plant
            .write(day(2), |act| limits::file::take(act, &columns, given, decimal, "file l.csv", &mut |_, _| true))
            .unwrap()
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
    let ladder = plant.store.read(|conn| limits::view(conn, "M-BAR")).unwrap();
    assert_eq!(
        (ladder.number, ladder.ladder.rungs.len(), ladder.versions[0].reason.as_str()),
        (2, 2, "From file l.csv")
    );
    // Rungs that make no sense together leave the ladder as it is.
    let wrong = take(vec![with(&[("setpoint", "22")]), with(&[("severity", "danger"), ("setpoint", "21")])]);
    assert_eq!(wrong.refused, 2);
    assert_eq!(plant.store.read(|conn| limits::view(conn, "M-BAR")).unwrap().number, 2);
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
        while let Some(meter) = plant.store.read(|conn| readings::to_seal(conn, 1)).unwrap().pop() {
            sealed += plant.write(day(9), |act| readings::seal(act, meter)).unwrap();
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
        plant.store.read(|conn| readings::raw(conn, "M-BAR", year(), |at, value| all.push((at, value)))).unwrap();
        all
    };
    let expected: Vec<_> = (0..count).map(|n| (minute(n), value(n))).collect();
    assert_eq!(read(), expected);
    // Late rows go into the blocks they fall into.
    while plant.write(day(9), |act| readings::seal(act, tally_core::ids::MeterId(2))).unwrap() > 0 {}
    assert_eq!(read(), expected);
    let voiding = Voiding { at: minute(100), reason: "test".into() };
    plant.write(day(9), |act| readings::void(act, "M-BAR", &voiding)).unwrap();
    assert_eq!(read().len(), expected.len() - 1);
    assert!(plant.write(day(9), |act| readings::void(act, "M-BAR", &voiding)).is_err(), "it is gone");
    let held = plant.store.read(|conn| plant.store.histories().of(conn, tally_core::ids::MeterId(2))).unwrap();
    assert_eq!(held.len(), expected.len() - 1);
}

//! Readings that come late, are voided or kept apart, and what becomes of the alarms that they made; devices that are exchanged, and meters that fall silent.

use crate::answers::{alert, answer_due, now_of, of_meter};
use crate::common::{Plant, add_meter, day, reading, year};
use serde_json::json;
use tally_core::ground::{
    severity::Severity,
    time::{HOUR, Instant, Span},
};
use tally_core::watch::alarms::{AlarmKind, LeftBy};
use tally_store::{
    StoreError,
    watch::{
        alarms,
        alarms::{Judgement, LateKind, Show},
        readings,
        readings::{NewExchange, Release, Voiding},
        replay,
    },
};

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

/// A meter that is silent after two days without a reading, and was read on day 2.
fn read_every_other_day() -> Plant {
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
    plant
}

#[test]
fn a_silence_is_one_however_old_what_comes_in_is_and_is_looked_at_again() {
    let plant = read_every_other_day();
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
    let plant = read_every_other_day();
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

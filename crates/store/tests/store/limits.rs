//! From readings to alarms and work, through the store's own path.

use crate::common::{GATEWAY, Plant, day, move_to, reading};
use serde_json::{Value, json};
use tally_core::watch::alarms::{LeftBy, ResponseGiven};
use tally_core::{
    ground::{
        severity::Severity,
        time::{Instant, Span},
    },
    watch::{batch::Batch, limits::HeldBy},
    work::WorkState,
};
use tally_store::{
    StoreError,
    watch::{alarms, readings},
    work,
};

/// 4 / 9 / 15 g, left below 1.5 g; start within 14 days at the first rung, 4 at the worst. Own numbers.
fn bearing(raise_interval_days: u32) -> Value {
    let rung = |severity, setpoint, days| {
        json!({"side": "high", "severity": severity, "setpoint": setpoint, "reset": 1.5,
            "response": {"kind": "raise", "title": "Look at the bearing", "start_within_days": days}})
    };
    json!({"raise_interval_seconds": raise_interval_days * 86_400,
        "rungs": [rung("alert", 4.0, 14), rung("serious", 9.0, 7), rung("danger", 15.0, 4)]})
}

fn all_alarms(plant: &Plant, meter: &str) -> Vec<alarms::AlarmRow> {
    plant.store.read(Instant::LATEST, |view| alarms::of_meter(view, meter, Span::ALWAYS, 100)).unwrap()
}

#[test]
fn a_wavering_series_makes_one_alarm_and_one_work_order() {
    let plant = Plant::new();
    plant.set_limits("M-ACC", bearing(0), day(1)).unwrap();
    let rising = plant.send("M-ACC", &[1.0, 2.0, 3.9, 4.2], day(2));
    assert_eq!((rising.alarms.len(), rising.work_orders.len()), (1, 1));
    for n in 3..8 {
        let wavering = plant.send("M-ACC", &[2.0, 5.0, 2.1, 4.9, 2.0], day(n));
        assert_eq!((wavering.accepted, wavering.alarms.len(), wavering.work_orders.len()), (5, 0, 0));
    }
    plant.send("M-ACC", &[1.4], day(8));
    let alarms = all_alarms(&plant, "M-ACC");
    assert_eq!(alarms.len(), 1);
    assert_eq!((alarms[0].entered_at, alarms[0].left_at), (day(2), Some(day(8))));
    let order = plant.order(rising.work_orders[0], day(8));
    assert_eq!(order.row.target_start, Some(day(16)), "within 14 days of the first rung");
    assert_eq!(order.why.unwrap().occurrences.len(), 1);
}

#[test]
fn a_jump_makes_one_response_the_serious_rungs() {
    let plant = Plant::new();
    plant.set_limits("M-ACC", bearing(0), day(1)).unwrap();
    let jump = plant.send("M-ACC", &[1.0, 10.0], day(2));
    assert_eq!((jump.alarms.len(), jump.work_orders.len()), (2, 1));
    let responses: Vec<_> = all_alarms(&plant, "M-ACC").into_iter().map(|a| (a.severity, a.response)).collect();
    assert_eq!(responses, [(Severity::Serious, ResponseGiven::Raised), (Severity::Alert, ResponseGiven::Recorded)]);
}

#[test]
fn a_worse_rung_escalates_the_open_work() {
    let plant = Plant::new();
    plant.set_limits("M-ACC", bearing(0), day(1)).unwrap();
    let number = plant.send("M-ACC", &[5.0], day(2)).work_orders[0];
    let before = plant.order(number, day(2)).row;
    assert_eq!((before.risk_rank, before.window_end), (3, day(30)), "alert on a critical asset");
    let worst = plant.send("M-ACC", &[16.0], day(3));
    assert_eq!(worst.work_orders, [number], "joined, not raised again");
    let after = plant.order(number, day(3));
    assert_eq!((after.row.risk_rank, after.row.window_end), (1, day(5)), "tightened from that instant");
    assert_eq!(after.row.target_start, Some(day(7)), "within 4 days at the worst");
    assert_eq!(after.row.source_severity, Some(Severity::Danger));
    assert!(after.text.ends_with("Peak acceleration: 16 g, above 15 g."), "{}", after.text);
    let last = all_alarms(&plant, "M-ACC").into_iter().find(|a| a.severity == Severity::Danger).unwrap();
    assert_eq!(last.response, ResponseGiven::Escalated);
}

#[test]
fn within_the_raise_interval_a_rung_is_held_unless_it_is_worse() {
    let plant = Plant::new();
    plant.set_limits("M-ACC", bearing(30), day(1)).unwrap();
    let number = plant.send("M-ACC", &[5.0], day(2)).work_orders[0];
    plant.do_work(number, day(3));
    let held = plant.send("M-ACC", &[1.0, 5.0], day(4));
    assert_eq!((held.alarms.len(), held.work_orders.len()), (1, 0));
    let alarm = &all_alarms(&plant, "M-ACC")[0];
    assert_eq!(alarm.held_by, Some(HeldBy::RaiseInterval { work_order: number, until: day(32) }));
    let worse = plant.send("M-ACC", &[9.5], day(5));
    assert_eq!(worse.work_orders.len(), 1, "the serious rung is worse than the one that raised it");
    assert_ne!(worse.work_orders[0], number);
}

#[test]
fn the_low_side_of_a_band_raises_its_own_work_in_its_own_words() {
    let plant = Plant::new();
    let rung = |side, setpoint, title| {
        json!({"side": side, "severity": "alert", "setpoint": setpoint, "deadband": 5.0,
            "response": {"kind": "raise", "title": title}})
    };
    let band = json!({"rungs": [rung("high", 185.0, "Vent"), rung("low", 110.0, "Top up")]});
    plant.set_limits("M-BAR", band, day(1)).unwrap();
    let high = plant.send("M-BAR", &[150.0, 190.0], day(2)).work_orders[0];
    let low = plant.send("M-BAR", &[96.0], day(3)).work_orders[0];
    assert_ne!(high, low, "open work of the other side is not joined");
    let order = plant.order(low, day(3));
    assert_eq!(order.row.title, "Top up");
    assert!(order.text.contains("96 bar, below 110 bar"), "{}", order.text);
}

#[test]
fn a_new_version_ends_standing_alarms_and_looks_at_the_last_reading_at_once() {
    let plant = Plant::new();
    plant.set_limits("M-ACC", bearing(0), day(1)).unwrap();
    plant.send("M-ACC", &[5.0], day(2));
    let lower =
        json!({"rungs": [{"side": "high", "severity": "danger", "setpoint": 4.5, "response": {"kind": "record"}}]});
    let receipt = plant.set_limits("M-ACC", lower, day(3)).unwrap();
    assert_eq!((receipt.number, receipt.ended_alarms, receipt.alarms), (2, 1, 1));
    let alarms = all_alarms(&plant, "M-ACC");
    assert_eq!(
        (alarms[0].severity, alarms[0].entered_at, alarms[0].ladder_version),
        (Severity::Danger, day(3), Some(2))
    );
    assert_eq!((alarms[1].left_at, alarms[1].left_by), (Some(day(3)), Some(LeftBy::LimitsChanged)));
    assert_eq!(alarms[1].ladder_version, Some(1), "past alarms keep the version that made them");
}

#[test]
fn delays_run_on_across_batches_and_restarts() {
    let plant = Plant::new();
    let slow = json!({"rungs": [{"side": "high", "severity": "alert", "setpoint": 4.0, "deadband": 1.0,
        "on_delay_seconds": 7200, "response": {"kind": "record"}}]});
    plant.set_limits("M-ACC", slow, day(1)).unwrap();
    plant.send("M-ACC", &[5.0], day(2));
    // A failed write makes the writer read everything anew, as a restart does.
    let failed = plant.write(day(2), |_| Err::<(), _>(StoreError::Conflict("x".into())));
    assert!(failed.is_err());
    assert_eq!(plant.send("M-ACC", &[5.0], day(2).plus(3_600_000)).alarms.len(), 0);
    assert_eq!(plant.send("M-ACC", &[5.0], day(2).plus(7_200_000)).alarms.len(), 1);
}

#[test]
fn one_batch_or_many_and_in_any_order_give_the_same_alarms_and_work() {
    let values: Vec<f64> = (0..120).map(|i| f64::from((i * 37) % 17)).collect();
    let at = |i: usize| day(2).plus(i as i64 * 3_600_000);
    let outcome = |plant: &Plant| -> Vec<_> {
        all_alarms(plant, "M-ACC").into_iter().map(|a| (a.entered_at, a.left_at, a.severity, a.response)).collect()
    };
    let whole = Plant::new();
    whole.set_limits("M-ACC", bearing(3), day(1)).unwrap();
    let mut rows: Vec<_> = values.iter().enumerate().map(|(i, v)| reading("M-ACC", at(i), *v)).collect();
    rows.reverse();
    whole.ingest(&rows, day(20));
    let parts = Plant::new();
    parts.set_limits("M-ACC", bearing(3), day(1)).unwrap();
    rows.reverse();
    for part in rows.chunks(7) {
        parts.ingest(part, day(20));
    }
    assert!(outcome(&whole).len() > 5, "the series sets something off");
    assert_eq!(outcome(&whole), outcome(&parts));
}

#[test]
fn a_batch_keeps_its_good_rows_and_says_what_is_wrong_with_the_others() {
    let plant = Plant::new();
    plant.send("M-ACC", &[1.0], day(3));
    let rows = vec![
        reading("M-ACC", day(4), 2.0),
        reading("M-ACC", day(3), 1.0),
        reading("M-ACC", day(3), 1.5),
        reading("M-ACC", day(2), 1.2),
        reading("M-ACC", day(5), 500.0),
        reading("M-X", day(4), 1.0),
        reading("M-ACC", day(9), 1.0),
        Err("at: no time".into()),
    ];
    let receipt = plant.ingest(&rows, day(5));
    let counts = (receipt.accepted, receipt.duplicates, receipt.late, receipt.quarantined);
    assert_eq!(counts, (3, 1, 1, 1));
    let refused: Vec<(usize, &str)> = receipt.refused.iter().map(|r| (r.index, r.reason.as_str())).collect();
    assert_eq!(
        refused,
        [
            (2, "conflict: at 2026-01-03T12:00:00Z the value 1 g is kept already, not 1.5 g"),
            (5, "there is no meter \"M-X\""),
            (6, "2026-01-09T12:00:00Z is more than five minutes in the future: check the device's clock and time zone"),
            (7, "at: no time"),
        ]
    );
    let strict = Batch { strict: true, ..GATEWAY };
    let again =
        plant.write(day(6), |tx| readings::ingest(tx, &[reading("M-ACC", day(6), 2.0), Err("x".into())], strict));
    assert!(matches!(again, Err(StoreError::Strict(receipt)) if receipt.refused.len() == 1));
    assert_eq!(plant.send("M-ACC", &[2.0], day(6)).duplicates, 0, "nothing of a strict batch was kept");
}

#[test]
fn a_trial_says_what_would_happen_and_keeps_nothing() {
    let plant = Plant::new();
    plant.set_limits("M-ACC", bearing(0), day(1)).unwrap();
    let rows = [reading("M-ACC", day(2), 10.0)];
    let trial = plant.store.trial(plant.admin.clone(), day(2), |tx| readings::ingest(tx, &rows, GATEWAY)).unwrap();
    assert_eq!((trial.accepted, trial.alarms.len(), trial.work_orders.len()), (1, 2, 1));
    assert!(all_alarms(&plant, "M-ACC").is_empty());
    assert_eq!(plant.ingest(&rows, day(2)), trial, "and then it happens just so");
}

#[test]
fn a_rung_out_of_order_is_refused_by_its_field_and_nothing_changes() {
    let plant = Plant::new();
    let wrong = json!({"rungs": [
        {"side": "high", "severity": "alert", "setpoint": 9.0, "response": {"kind": "raise"}},
        {"side": "high", "severity": "danger", "setpoint": 4.0, "response": {"kind": "raise"}}]});
    let error = plant.set_limits("M-ACC", wrong, day(1)).unwrap_err();
    assert_eq!(error.to_string(), "rungs[1].setpoint: danger high at 4 must lie above alert high at 9");
    let view = plant.store.read(Instant::LATEST, |view| tally_store::watch::limits::view(view, "M-ACC")).unwrap();
    assert_eq!(view.number, 0);
}

#[test]
fn the_gateway_sends_readings_and_nothing_else_though_its_readings_raise_work() {
    let plant = Plant::new();
    plant.set_limits("M-ACC", bearing(0), day(1)).unwrap();
    let gate = plant.person("gate");
    let rows = [reading("M-ACC", day(2), 5.0)];
    let receipt = plant.store.write(gate.clone(), day(2), |tx| readings::ingest(tx, &rows, GATEWAY)).unwrap();
    assert_eq!(receipt.work_orders.len(), 1);
    let moved =
        plant.store.write(gate, day(2), |tx| work::set_state(tx, receipt.work_orders[0], &move_to(WorkState::Ready)));
    assert!(matches!(moved, Err(StoreError::NotTheirs(_))), "{moved:?}");
}

//! What comes in from elsewhere and goes out: limits as a table, tags, events, and what people are told.

use crate::answers::alert;
use crate::common::{Plant, day, person, reading};
use serde_json::{Value, json};
use tally_core::{ground::time::Instant, outside::files::CsvOut};
use tally_store::{
    outside::{outbox, tags, webhooks},
    plant::master::{InPieces, whole},
    watch::{limits, readings},
};

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

//! Families of ladders, whose changes a second engineer approves, and what their alarms come to.

use crate::answers::{alert, of_meter};
use crate::common::{Plant, add_asset, add_meter, at, day, person, reading};
use serde_json::{Value, json};
use tally_core::{
    ground::time::{HOUR, Instant, Span},
    plant::settings::Settings,
    watch::limits::family::{FamilyFate, FamilyLadder},
};
use tally_store::{
    StoreError,
    plant::settings,
    watch::{alarms::performance, families, limits, limits::NewLadder, readings, readings::Voiding, replay},
};

/// Two engineers, of whom one approves what the other changes.
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
fn a_changed_danger_rung_waits_for_a_second_engineer() {
    let plant = Plant::new();
    two_engineers(&plant);
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

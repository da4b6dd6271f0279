//! Check sheets on a real database: added, answered bit by bit, finished once, with what follows.

use crate::common::{Plant, add_asset, add_meter, day};
use proptest::prelude::*;
use serde_json::{Value, json};
use tally_core::{
    ground::{
        ids::{CheckId, WorkOrderId},
        time::{HOUR, Instant},
    },
    work::{SourceWord, WorkState},
};
use tally_store::{
    Result, StoreError,
    outside::photos::Prepared,
    watch::readings,
    work::{
        self, attachments,
        checks::{self, Answering, CheckView, FinishedCheck},
        job_sheets,
    },
};

/// A round of the drive: the pressure (a meter of a part), whether it is dry, and where it leaks if it is not.
fn plant() -> Plant {
    let plant = Plant::new();
    let questions = json!([
        {"key": "bar", "text": "Pressure", "asks": {"kind": "reading", "meter": "Oil pressure"}, "compulsory": true,
            "rules": [{"is": {"when": "below", "value": 110.0}, "work_kind": "condition_based", "risk_rank": 2, "trade": "hydraulics",
                "title": "Find out where the pressure goes", "crew": "hyd"}]},
        {"key": "level", "text": "Level", "asks": {"kind": "number", "unit": "mm"}, "low": 10.0, "high": 30.0},
        {"key": "dry", "text": "Is it dry?", "asks": {"kind": "pass_fail"}, "compulsory": true},
        {"key": "where", "text": "Where does it leak?", "asks": {"kind": "choice", "choices": ["hose", "seal"]},
            "compulsory": true, "only_if": {"question": "dry", "is": {"when": "among", "values": ["fail"]}},
            "rules": [{"is": {"when": "among", "values": ["seal"]}, "work_kind": "corrective_deferred", "risk_rank": 4, "trade": "fitter"}]},
        {"key": "photo", "text": "A photo", "asks": {"kind": "photo"}}
    ]);
    plant
        .write(day(1), |tx| {
            add_asset(tx, json!({"code": "CYL", "name": "Cylinder", "level": "part", "parent": "EQ"}))?;
            add_meter(
                tx,
                json!({"code": "CYL-BAR", "asset": "CYL", "name": "Oil pressure", "kind": "measurement", "unit": "bar",
                "plausible_low": 0.0, "plausible_high": 400.0}),
            )?;
            tally_store::access::people::add_crew(
                tx,
                &serde_json::from_value(json!({"code": "hyd", "name": "Hydraulics",
                "department": "Lifts", "weekly_hours": 40.0}))
                .unwrap(),
            )?;
            put(tx, "ROUND", &questions)?;
            let job = json!({"title": "Look it over", "status": "active", "check_sheets": ["ROUND"],
                "steps": [{"text": "The cylinder", "asset": "CYL", "check_sheet": "ROUND"}]});
            job_sheets::put(tx, "LOOK", &serde_json::from_value(job).unwrap())
        })
        .unwrap();
    let limits = json!({"rungs": [{"side": "low", "severity": "alert", "setpoint": 100.0, "deadband": 2.0,
        "response": {"kind": "raise", "title": "Pressure low"}}]});
    plant.set_limits("CYL-BAR", limits, day(1)).unwrap();
    plant
}

fn put(tx: &mut tally_store::Tx, code: &str, questions: &Value) -> Result<()> {
    let sheet = json!({"title": "Daily round", "status": "active", "class": "gearbox", "questions": questions});
    checks::put(tx, code, &serde_json::from_value(sheet).unwrap())
}

fn raise(plant: &Plant, job: Option<&str>, state: &str) -> WorkOrderId {
    let new =
        json!({"title": "Look", "kind": "inspection", "asset": "EQ", "risk_rank": 3, "state": state, "job_sheet": job});
    plant.write(day(2), |tx| work::raise(tx, &serde_json::from_value(new).unwrap())).unwrap()
}

fn add(plant: &Plant, number: WorkOrderId) -> CheckId {
    let new = serde_json::from_value(json!({"sheet": "ROUND"})).unwrap();
    plant.write(day(2), |tx| checks::add(tx, number, &new)).unwrap()
}

fn answers(given: &[(&str, Value)]) -> Answering {
    let answers: Vec<Value> = given.iter().map(|(key, value)| json!({"question": key, "value": value})).collect();
    serde_json::from_value(json!({ "answers": answers })).unwrap()
}

fn number(value: f64) -> Value {
    json!({"kind": "number", "value": value})
}

fn chose(value: &str) -> Value {
    json!({"kind": "choices", "values": [value]})
}

fn finish(plant: &Plant, number: WorkOrderId, check: CheckId, last: &Answering, now: Instant) -> Result<FinishedCheck> {
    plant.write(now, |tx| checks::finish(tx, number, check, last))
}

fn view(plant: &Plant, number: WorkOrderId, check: CheckId, now: Instant) -> CheckView {
    plant.store.read(now, |view| checks::view(view, number, check)).unwrap()
}

fn at_fault<T: std::fmt::Debug>(refused: Result<T>) -> String {
    match refused {
        Err(StoreError::Invalid { field, .. }) => field,
        other => panic!("{other:?}"),
    }
}

#[test]
fn what_is_found_goes_to_the_meter_through_its_limits_and_raises_the_work_of_each_rule() {
    let plant = plant();
    let order = raise(&plant, None, "ready");
    let check = add(&plant, order);
    // The meter is that of the one part that has it.
    let asked = view(&plant, order, check, day(3));
    let meter = asked.questions[0].meter.as_ref().unwrap();
    assert_eq!((meter.code.as_str(), meter.unit.as_str(), meter.last), ("CYL-BAR", "bar", None));
    let found =
        answers(&[("bar", number(96.0)), ("level", number(40.0)), ("dry", chose("fail")), ("where", chose("seal"))]);
    let done = finish(&plant, order, check, &found, day(3)).unwrap();
    assert_eq!((done.readings, done.alarms.len(), done.by_limits.len(), done.by_answers.len()), (1, 1, 1, 2));
    let read = plant.store.read(day(4), |view| readings::newest(view, "CYL-BAR", day(9), false, 9)).unwrap();
    assert_eq!((read.len(), read[0].value), (1, 96.0));
    assert_eq!(serde_json::to_value(&read[0]).unwrap()["source"], "check_sheet");
    let by_rule = plant.order(done.by_answers[0], day(4));
    assert_eq!(
        (by_rule.row.title.as_str(), by_rule.row.source),
        ("Find out where the pressure goes", SourceWord::AnswerRule)
    );
    assert_eq!((by_rule.row.crew.as_deref(), by_rule.row.asset.code.as_str()), (Some("hyd"), "EQ"));
    assert!(
        by_rule.text.starts_with("For: hydraulics\n") && by_rule.text.ends_with("Pressure 96 bar, below 110 bar"),
        "{}",
        by_rule.text
    );
    assert_eq!(by_rule.follows.unwrap().number, order);
    let other = plant.order(done.by_answers[1], day(4));
    assert!(
        other.text.starts_with("For: fitter\n") && other.text.ends_with("Where does it leak: seal"),
        "{}",
        other.text
    );
    // The result stays, and says what it raised and what lay outside its band.
    let stays = view(&plant, order, check, day(5));
    assert_eq!(
        (stays.finished_at, stays.raised.len(), stays.judged.outside),
        (Some(day(3)), 2, vec!["level".to_owned()])
    );
    assert!(!stays.may_fill_in);
    assert!(matches!(finish(&plant, order, check, &found, day(4)), Err(StoreError::Conflict(_))), "it counts once");
}

/// What was finished where there was no network is known later: its result, its readings and the work that it raises are of then.
#[test]
fn a_sheet_finished_earlier_is_of_then() {
    let plant = plant();
    let order = raise(&plant, None, "ready");
    let check = add(&plant, order);
    let then = day(3).plus(-HOUR);
    let mut given = answers(&[("bar", number(96.0)), ("dry", chose("fail")), ("where", chose("seal"))]);
    given.at = Some(day(2).plus(-1));
    assert_eq!(at_fault(finish(&plant, order, check, &given, day(3))), "at");
    given.at = Some(then);
    let done = finish(&plant, order, check, &given, day(3)).unwrap();
    assert_eq!(view(&plant, order, check, day(4)).finished_at, Some(then));
    let read = plant.store.read(day(4), |view| readings::newest(view, "CYL-BAR", day(9), false, 9)).unwrap();
    assert_eq!(read[0].at, then);
    assert_eq!(plant.order(done.by_answers[0], day(4)).row.raised_at, then);
}

/// A rule that says no more than which job it asks for: trade, crew and hours are the job's.
/// Rank 2 has seven days: a sheet that arrives six days late leaves all of them.
#[test]
fn the_window_of_what_a_late_sheet_found_starts_when_it_arrives() {
    let plant = plant();
    let order = raise(&plant, None, "ready");
    let check = add(&plant, order);
    let mut found = answers(&[("bar", number(96.0)), ("dry", chose("pass"))]);
    found.at = Some(day(3));
    let done = finish(&plant, order, check, &found, day(9)).unwrap();
    let raised = plant.order(done.by_answers[0], day(9)).row;
    assert_eq!((raised.raised_at, raised.window_end), (day(3), day(16)));
}

/// rules.md §4: while the order of a finding is open the next finding joins it, and makes it as urgent.
#[test]
fn what_is_found_again_joins_the_order_that_is_open_about_it() {
    let plant = plant();
    let found = || answers(&[("bar", number(96.0)), ("dry", chose("pass"))]);
    let inspect = |now: Instant| {
        let order = raise(&plant, None, "ready");
        let check = add(&plant, order);
        let mut found = found();
        found.at = Some(now);
        finish(&plant, order, check, &found, now).unwrap().by_answers
    };
    let first = inspect(day(3));
    let milder = serde_json::from_value(json!({"risk_rank": 4})).unwrap();
    plant.write(day(4), |tx| work::change(tx, first[0], &milder)).unwrap();
    assert_eq!(inspect(day(5)), first);
    let order = plant.order(first[0], day(6));
    let again: Vec<&str> = order.reported_again.iter().map(|one| one.words.as_str()).collect();
    assert_eq!((order.row.risk_rank, again), (2, vec!["Daily round: Pressure 96 bar, below 110 bar"]));
    plant.do_work(first[0], day(7));
    assert_ne!(inspect(day(8)), first, "what is done is found anew");
}

#[test]
fn an_answer_of_another_year_is_refused_by_its_question() {
    let plant = plant();
    let order = raise(&plant, None, "ready");
    let check = add(&plant, order);
    for at in ["2027-01-01T00:00:00Z", "1960-01-01T00:00:00Z"] {
        let dated = json!({"answers": [{"question": "level", "value": number(20.0), "at": at}]});
        let dated: Answering = serde_json::from_value(dated).unwrap();
        let answered = plant.write(day(3), |tx| checks::answer(tx, order, check, &dated));
        assert_eq!(at_fault(answered), "answers.level", "{at}");
        assert_eq!(at_fault(finish(&plant, order, check, &dated, day(3))), "answers.level", "{at}");
    }
}

#[test]
fn what_a_rule_leaves_open_is_as_for_its_job() {
    let plant = plant();
    let job = json!({"title": "Renew the seal", "status": "active", "trade": "hydraulics", "crew": "hyd",
        "steps": [{"text": "Renew it", "hours": 2.5}]});
    let asks = json!([{"key": "dry", "text": "Is it dry?", "asks": {"kind": "pass_fail"}, "rules": [
        {"is": {"when": "among", "values": ["fail"]}, "work_kind": "corrective_deferred", "risk_rank": 3, "job_sheet": "SEAL"}]}]);
    let set_up = |tx: &mut tally_store::Tx| {
        job_sheets::put(tx, "SEAL", &serde_json::from_value(job).unwrap())?;
        put(tx, "ROUND", &asks)
    };
    plant.write(day(2), set_up).unwrap();
    let order = raise(&plant, None, "ready");
    let check = add(&plant, order);
    let done = finish(&plant, order, check, &answers(&[("dry", chose("fail"))]), day(3)).unwrap();
    let raised = plant.order(done.by_answers[0], day(4));
    assert!(raised.text.starts_with("For: hydraulics\n"), "{}", raised.text);
    assert_eq!((raised.row.crew.as_deref(), raised.row.estimated_hours), (Some("hyd"), Some(2.5)));
}

#[test]
fn a_reading_that_its_meter_refuses_leaves_everything_as_it_was() {
    let plant = plant();
    let order = raise(&plant, None, "ready");
    let check = add(&plant, order);
    let mut given = answers(&[("bar", number(96.0)), ("dry", chose("fail")), ("where", chose("seal"))]);
    given.answers[0].at = Some(day(9));
    assert_eq!(at_fault(finish(&plant, order, check, &given, day(3))), "answers.bar");
    assert_eq!(at_fault(finish(&plant, order, check, &answers(&[("bar", number(96.0))]), day(3))), "answers.dry");
    let now = view(&plant, order, check, day(3));
    assert_eq!((now.finished_at, now.begun_at, now.answers.len(), now.raised.len()), (None, None, 0, 0));
    assert!(plant.store.read(day(4), |view| readings::newest(view, "CYL-BAR", day(9), false, 9)).unwrap().is_empty());
}

#[test]
fn it_is_filled_in_once_work_is_ready_and_closing_waits_for_it() {
    let plant = plant();
    let order = raise(&plant, None, "raised");
    let check = add(&plant, order);
    let asked = view(&plant, order, check, day(2));
    assert_eq!(
        (asked.may_fill_in, asked.not_yet.as_deref()),
        (false, Some("the order is raised: it is filled in once that is ready"))
    );
    let early = plant.write(day(2), |tx| checks::answer(tx, order, check, &answers(&[("level", number(20.0))])));
    assert!(matches!(early, Err(StoreError::Conflict(_))));
    plant.do_work(order, day(3));
    assert_eq!(at_fault(plant.state(order, WorkState::Closed, day(4))), "checks");
    // Nobody began it: it can be left out.
    assert!(plant.order(order, day(4)).checks[0].may_leave_out);
    plant.write(day(4), |tx| checks::leave_out(tx, order, check)).unwrap();
    let again = add(&plant, order);
    plant.write(day(4), |tx| checks::answer(tx, order, again, &answers(&[("level", number(20.0))]))).unwrap();
    let begun = plant.write(day(4), |tx| checks::leave_out(tx, order, again));
    assert!(matches!(begun, Err(StoreError::Conflict(_))), "what was answered is not lost");
    finish(&plant, order, again, &answers(&[("bar", number(120.0)), ("dry", chose("pass"))]), day(5)).unwrap();
    plant.state(order, WorkState::Closed, day(6)).unwrap();
}

#[test]
fn a_job_sheet_brings_its_check_sheets_and_takes_those_along_that_nobody_began() {
    let plant = plant();
    let order = raise(&plant, Some("LOOK"), "ready");
    let standing = |now| -> Vec<(String, bool)> {
        let checks = plant.order(order, now).checks;
        checks.into_iter().map(|check| (check.asset.code, check.begun_at.is_some())).collect()
    };
    assert_eq!(standing(day(2)), [("EQ".to_owned(), false), ("CYL".into(), false)]);
    let first = plant.order(order, day(2)).checks[0].id;
    plant.write(day(3), |tx| checks::answer(tx, order, first, &answers(&[("level", number(20.0))]))).unwrap();
    let without = serde_json::from_value(json!({"clear": ["job_sheet"]})).unwrap();
    plant.write(day(3), |tx| work::change(tx, order, &without)).unwrap();
    assert_eq!(standing(day(3)), [("EQ".to_owned(), true)]);
    let with = serde_json::from_value(json!({"job_sheet": "LOOK"})).unwrap();
    plant.write(day(4), |tx| work::change(tx, order, &with)).unwrap();
    assert_eq!(standing(day(4)).len(), 3);
    // The class of its asset recommends it as well.
    assert_eq!(plant.order(order, day(4)).recommended_checks[0].code, "ROUND");
    let unknown = json!({"title": "Look", "check_sheets": ["NONE"]});
    let refused = plant.write(day(4), |tx| job_sheets::put(tx, "X", &serde_json::from_value(unknown).unwrap()));
    assert_eq!(at_fault(refused), "check_sheets[0]");
}

#[test]
fn numbers_are_followed_over_time_whatever_the_version() {
    let plant = plant();
    let mut orders = Vec::new();
    for (place, level) in [20.0, 21.5, 23.0].into_iter().enumerate() {
        let order = raise(&plant, None, "ready");
        let check = add(&plant, order);
        let now = day(3 + u32::try_from(place).unwrap());
        finish(
            &plant,
            order,
            check,
            &answers(&[("bar", number(120.0)), ("level", number(level)), ("dry", chose("pass"))]),
            now,
        )
        .unwrap();
        let words = json!([{"key": "level", "text": format!("Level, {place}"), "asks": {"kind": "number"}},
            {"key": "bar", "text": "Pressure", "asks": {"kind": "reading", "meter": "Oil pressure"}},
            {"key": "dry", "text": "Dry?", "asks": {"kind": "pass_fail"}}]);
        plant.write(now, |tx| put(tx, "ROUND", &words)).unwrap();
        orders.push((order, check));
    }
    let earlier = |(order, check): (WorkOrderId, CheckId)| -> Vec<f64> {
        let asked = view(&plant, order, check, day(9)).questions;
        let level = asked.into_iter().find(|one| one.question.key == "level").unwrap();
        level.earlier.into_iter().map(|one| one.value).collect()
    };
    assert_eq!((earlier(orders[2]), earlier(orders[0])), (vec![20.0, 21.5], vec![]));
    // Each keeps the words that it was filled in by.
    assert_eq!(view(&plant, orders[0].0, orders[0].1, day(9)).questions[1].question.text, "Level");
}

#[test]
fn a_photo_that_answers_stays_and_is_seen_on_its_check_alone() {
    let plant = plant();
    let (order, other) = (raise(&plant, None, "ready"), raise(&plant, None, "ready"));
    let (check, another) = (add(&plant, order), add(&plant, other));
    let files = plant.store.files();
    let photo = Prepared { media_type: "image/jpeg", bytes: b"a crack".into(), small: None, size: Some((4, 3)) };
    let kept = plant.write(day(2), |tx| attachments::keep(tx, &files, &photo)).unwrap();
    let given = answers(&[("photo", json!({"kind": "files", "files": [{"file": kept.file, "name": "crack.jpg"}]}))]);
    plant.write(day(2), |tx| checks::answer(tx, order, check, &given)).unwrap();
    let seen = |order, check| plant.store.read(day(3), |view| checks::file_of(view, order, check, &kept.file));
    assert_eq!(seen(order, check).unwrap(), "image/jpeg");
    assert!(matches!(seen(other, another), Err(StoreError::NotFound { .. })));
    assert!(matches!(seen(other, check), Err(StoreError::NotFound { .. })));
    let due = |now| plant.store.read(now, |view| attachments::any_unnamed(view, now)).unwrap();
    assert!(!due(day(99)));
    // Once nothing names it any more it goes like any other.
    let cleared = Answering { answers: vec![], cleared: vec!["photo".into()], at: None };
    plant.write(day(3), |tx| checks::answer(tx, order, check, &cleared)).unwrap();
    assert!(due(day(99)));
    let missing = answers(&[("photo", json!({"kind": "files", "files": [{"file": "none", "name": "x"}]}))]);
    assert_eq!(at_fault(plant.write(day(3), |tx| checks::answer(tx, order, check, &missing))), "answers.photo");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]
    /// Answers come bit by bit, in any order, some of them twice: the end is that of all sent at once.
    #[test]
    fn bit_by_bit_is_as_at_once(order in Just(vec![0usize, 1, 2, 3, 0, 2]).prop_shuffle(), level in 0.0..60.0f64) {
        let plant = plant();
        let all = [("bar", number(105.0)), ("level", number(level)), ("dry", chose("fail")), ("where", chose("seal"))];
        let (first, second) = (raise(&plant, None, "ready"), raise(&plant, None, "ready"));
        let (at_once, by_bits) = (add(&plant, first), add(&plant, second));
        for place in order {
            plant.write(day(3), |tx| checks::answer(tx, second, by_bits, &answers(&all[place..=place]))).unwrap();
        }
        let one = finish(&plant, first, at_once, &answers(&all), day(4)).unwrap();
        let other = finish(&plant, second, by_bits, &Answering::default(), day(5)).unwrap();
        prop_assert_eq!(one.by_answers.len(), other.by_answers.len());
        prop_assert_eq!(view(&plant, first, at_once, day(6)).judged, view(&plant, second, by_bits, day(6)).judged);
    }
}

use super::*;
use crate::{access::refusal::Refusal, ground::time::Instant, work::WorkState};
use proptest::prelude::*;
use rstest::rstest;
use serde_json::{Value, json};

fn sheet(questions: Value) -> CheckSheet {
    serde_json::from_value(json!({"title": "Daily round", "questions": questions})).unwrap()
}

/// A tension unit: its pressure, whether it leaks, and where if it does.
fn tension() -> CheckSheet {
    sheet(json!([
        {"key": "bar", "text": "Pressure", "asks": {"kind": "number", "unit": "bar"}, "compulsory": true, "low": 110.0, "high": 130.0,
            "rules": [{"is": {"when": "below", "value": 110.0}, "work_kind": "condition_based", "risk_rank": 2,
                "trade": "hydraulics", "title": "Find out where the pressure goes"}]},
        {"key": "dry", "text": "Is it dry?", "asks": {"kind": "pass_fail"}, "compulsory": true},
        {"key": "where", "text": "Where does it leak?", "asks": {"kind": "choice", "choices": ["hose", "seal", "fitting"], "several": true},
            "compulsory": true, "only_if": {"question": "dry", "is": {"when": "among", "values": ["fail"]}},
            "rules": [{"is": {"when": "among", "values": ["hose"]}, "work_kind": "corrective_deferred", "risk_rank": 3},
                {"is": {"when": "among", "values": ["seal"]}, "work_kind": "corrective_deferred", "risk_rank": 4, "trade": "fitter"}]},
        {"key": "photo", "text": "A photo of it", "asks": {"kind": "photo"},
            "only_if": {"question": "where", "is": {"when": "among", "values": ["hose", "seal"]}}}
    ]))
}

fn number(question: &str, value: f64) -> GivenAnswer {
    GivenAnswer { question: question.into(), value: AnswerValue::Number { value }, at: None }
}

fn chose(question: &str, values: &[&str]) -> GivenAnswer {
    let values = values.iter().map(|value| (*value).to_owned()).collect();
    GivenAnswer { question: question.into(), value: AnswerValue::Choices { values }, at: None }
}

fn judged(answers: &[GivenAnswer]) -> Judged {
    tension().judge(answers, |_| String::new()).unwrap()
}

#[test]
fn what_is_asked_follows_from_the_answers() {
    let fresh = judged(&[]);
    assert_eq!(
        (fresh.asked, fresh.missing),
        (vec!["bar".to_owned(), "dry".into()], vec!["bar".to_owned(), "dry".into()])
    );
    assert_eq!(judged(&[chose("dry", &["fail"])]).missing, ["bar", "where"]);
    assert_eq!(judged(&[chose("dry", &["fail"]), chose("where", &["hose"])]).asked, ["bar", "dry", "where", "photo"]);
    // Once it is dry nobody asks where it leaks, nor for a photo of that.
    let dry = judged(&[number("bar", 115.0), chose("dry", &["pass"]), chose("where", &["hose"])]);
    assert_eq!((dry.asked.len(), dry.missing.len(), dry.found.len()), (2, 0, 0));
}

#[test]
fn of_several_rules_that_one_answer_meets_the_worst_raises_and_says_what_was_found() {
    let found = judged(&[number("bar", 96.0), chose("dry", &["fail"]), chose("where", &["seal", "hose"])]).found;
    let said: Vec<(&str, &str)> = found.iter().map(|one| (one.title.as_str(), one.says.as_str())).collect();
    assert_eq!(
        said,
        [
            ("Find out where the pressure goes", "Pressure 96 bar, below 110 bar"),
            ("Where does it leak: seal, hose", "Where does it leak: seal, hose"),
        ]
    );
    assert_eq!(found.iter().map(|one| one.rule).collect::<Vec<_>>(), [0, 0]);
}

#[rstest]
#[case::of_1960(
    "1960-01-01T00:00:00Z",
    "answers.bar: is dated before the sheet could be begun, at 2026-03-01T08:00:00Z"
)]
#[case::of_2027("2027-01-01T00:00:00Z", "answers.bar: is dated after the sheet was filled in, at 2026-03-01T09:00:00Z")]
#[case::in_time("2026-03-01T08:30:00Z", "")]
fn answers_are_dated_between_the_sheets_start_and_its_finish(#[case] at: &str, #[case] said: &str) {
    let instant = |text: &str| Instant::parse(text).unwrap();
    let answer = GivenAnswer { at: Some(instant(at)), ..number("bar", 115.0) };
    let (from, until) = (instant("2026-03-01T08:00:00Z"), instant("2026-03-01T09:00:00Z"));
    let checked = CheckSheet::check_dates(&[number("dry", 1.0), answer], from, until);
    assert_eq!(checked.err().map_or_else(String::new, |refused| refused.to_string()), said);
}

#[rstest]
#[case::below(109.9, true)]
#[case::on_the_lower_edge(110.0, false)]
#[case::on_the_upper_edge(130.0, false)]
#[case::above(130.1, true)]
fn the_edges_of_a_band_belong_to_it(#[case] value: f64, #[case] outside: bool) {
    assert_eq!(!judged(&[number("bar", value)]).outside.is_empty(), outside);
}

#[test]
fn a_reading_is_told_in_its_meters_unit() {
    let sheet = sheet(json!([{"key": "t", "text": "Oil temperature", "asks": {"kind": "reading", "meter": "OIL"},
        "rules": [{"is": {"when": "above", "value": 70.5}, "work_kind": "condition_based", "risk_rank": 2}]}]));
    let judged = sheet.judge(&[number("t", 81.0)], |_| "Cel".into()).unwrap();
    assert_eq!(judged.found[0].says, "Oil temperature 81 Cel, above 70.5 Cel");
}

#[rstest]
#[case::not_asked(vec![number("none", 1.0)], "answers[0].question")]
#[case::twice(vec![number("bar", 1.0), number("bar", 2.0)], "answers.bar")]
#[case::in_another_way(vec![chose("bar", &["pass"])], "")]
#[case::a_number_for_a_choice(vec![number("dry", 1.0)], "answers.dry")]
#[case::no_such_choice(vec![chose("dry", &["perhaps"])], "answers.dry")]
#[case::two_of_one(vec![chose("dry", &["pass", "fail"])], "answers.dry")]
#[case::no_number(vec![number("bar", f64::NAN)], "answers.bar")]
fn a_wrong_answer_is_named(#[case] answers: Vec<GivenAnswer>, #[case] at_fault: &str) {
    let at_fault = if at_fault.is_empty() { "answers.bar" } else { at_fault };
    match tension().judge(&answers, |_| String::new()) {
        Err(Refusal::Field { field, .. }) => assert_eq!(field, at_fault),
        other => panic!("{other:?}"),
    }
}

#[test]
fn finishing_asks_for_what_is_compulsory() {
    let said = tension().finish(&[number("bar", 115.0)], |_| String::new()).unwrap_err().to_string();
    assert_eq!(said, "answers.dry: has to be answered");
    assert!(tension().finish(&[number("bar", 115.0), chose("dry", &["pass"])], |_| String::new()).is_ok());
}

#[rstest]
#[case::nothing_asked(json!([]), "questions")]
#[case::no_words(json!([{"key": "a", "text": " ", "asks": {"kind": "text"}}]), "questions[0].text")]
#[case::key(json!([{"key": "A b", "text": "t", "asks": {"kind": "text"}}]), "questions[0].key")]
#[case::key_twice(json!([{"key": "a", "text": "t", "asks": {"kind": "text"}}, {"key": "a", "text": "t", "asks": {"kind": "text"}}]), "questions[1].key")]
#[case::one_choice(json!([{"key": "a", "text": "t", "asks": {"kind": "choice", "choices": ["x"]}}]), "questions[0].asks.choices")]
#[case::choice_twice(json!([{"key": "a", "text": "t", "asks": {"kind": "choice", "choices": ["x", "x"]}}]), "questions[0].asks.choices[1]")]
#[case::band_of_words(json!([{"key": "a", "text": "t", "asks": {"kind": "text"}, "low": 1.0}]), "questions[0].low")]
#[case::band_upside_down(json!([{"key": "a", "text": "t", "asks": {"kind": "number"}, "low": 2.0, "high": 1.0}]), "questions[0].high")]
#[case::asked_by_a_later_one(json!([{"key": "a", "text": "t", "asks": {"kind": "text"}, "only_if": {"question": "b", "is": {"when": "above", "value": 1.0}}},
    {"key": "b", "text": "t", "asks": {"kind": "number"}}]), "questions[0].only_if.question")]
#[case::rule_of_words(json!([{"key": "a", "text": "t", "asks": {"kind": "text"}, "rules": [
    {"is": {"when": "above", "value": 1.0}, "work_kind": "inspection", "risk_rank": 1}]}]), "questions[0].rules[0].is")]
#[case::rule_of_no_choice(json!([{"key": "a", "text": "t", "asks": {"kind": "pass_fail"}, "rules": [
    {"is": {"when": "among", "values": ["x"]}, "work_kind": "inspection", "risk_rank": 1}]}]), "questions[0].rules[0].is")]
#[case::rank(json!([{"key": "a", "text": "t", "asks": {"kind": "number"}, "rules": [
    {"is": {"when": "above", "value": 1.0}, "work_kind": "inspection", "risk_rank": 9}]}]), "questions[0].rules[0].risk_rank")]
fn a_sheet_that_makes_no_sense_is_named(#[case] questions: Value, #[case] at_fault: &str) {
    match sheet(questions).check() {
        Err(Refusal::Field { field, .. }) => assert_eq!(field, at_fault),
        other => panic!("{other:?}"),
    }
    assert_eq!(tension().check(), Ok(()));
}

#[test]
fn it_is_filled_in_once_work_is_ready_and_before_it_is_over() {
    let may: Vec<WorkState> = WorkState::ALL.into_iter().filter(|state| may_fill_in(*state)).collect();
    use WorkState as S;
    assert_eq!(may, [S::Ready, S::Scheduled, S::UnderWay, S::Done, S::Returned]);
}

proptest! {
    /// Counted a second way: a question further down is asked where every answer on the way to it says so.
    #[test]
    fn a_chain_of_conditions_is_asked_as_far_as_it_holds(answers in prop::collection::vec(any::<bool>(), 1..8)) {
        let questions: Vec<Value> = (0..answers.len() + 1)
            .map(|place| {
                let only_if = (place > 0).then(|| json!({"question": format!("q{}", place - 1), "is": {"when": "among", "values": ["pass"]}}));
                json!({"key": format!("q{place}"), "text": "t", "asks": {"kind": "pass_fail"}, "only_if": only_if})
            })
            .collect();
        let given: Vec<GivenAnswer> = answers.iter().enumerate()
            .map(|(place, passed)| chose(&format!("q{place}"), &[if *passed { PASS } else { FAIL }]))
            .collect();
        let judged = sheet(json!(questions)).judge(&given, |_| String::new()).unwrap();
        let passed = answers.iter().take_while(|passed| **passed).count();
        prop_assert_eq!(judged.asked.len(), passed + 1);
    }
}

/// What a page looks up where there is no network it looks up by these cases: all answers to the questions of [`tension`].
#[test]
fn the_cases_for_pages_are_fresh() {
    let none = [None];
    let bars = [90.0, 110.0, 120.0, 130.0, 131.0].map(|value| Some(number("bar", value)));
    let dry = [PASS, FAIL].map(|value| Some(chose("dry", &[value])));
    let places: [&[&str]; 4] = [&[], &["hose"], &["fitting"], &["hose", "fitting"]];
    let places = places.map(|values| Some(chose("where", values)));
    let mut cases = Vec::new();
    for bar in none.iter().chain(&bars) {
        for dry in none.iter().chain(&dry) {
            for place in none.iter().chain(&places) {
                let answers: Vec<GivenAnswer> = [bar, dry, place].into_iter().flatten().cloned().collect();
                let judged = judged(&answers);
                cases.push(json!({"answers": answers, "judged": judged}));
            }
        }
    }
    let made = serde_json::to_string(&json!({"questions": tension().questions, "cases": cases})).unwrap();
    let file = concat!(env!("CARGO_MANIFEST_DIR"), "/../../web/src/common/checks/cases.json");
    if std::env::var_os("TALLY_WRITE_CASES").is_some() {
        std::fs::write(file, &made).unwrap();
    }
    let kept: Value = serde_json::from_str(&std::fs::read_to_string(file).unwrap()).unwrap();
    assert_eq!(kept, serde_json::from_str::<Value>(&made).unwrap(), "write them anew with TALLY_WRITE_CASES=1");
}

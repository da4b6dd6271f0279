//! The core against reference cases made with other tools. Each file names the source of every case; see its README's
//! words on how the values were checked. Files: `tests/reference/`.

#![allow(clippy::unwrap_used, reason = "a test that fails by an unwrap says where")]

use serde_json::{Value, json};
use tally_core::calc;

fn cases(text: &str) -> Vec<Value> {
    let file: Value = serde_json::from_str(text).unwrap();
    file["cases"].as_array().unwrap().clone()
}

/// Runs a whole reference file through the outside door and hands each case with its answer to `compare`.
fn each(text: &str, one: fn(Value) -> Result<Value, String>, mut compare: impl FnMut(&Value, &Value)) -> usize {
    let answers = calc::run(text, one).unwrap();
    let cases = cases(text);
    let answers = answers["cases"].as_array().unwrap();
    assert_eq!(answers.len(), cases.len());
    for (case, answer) in cases.iter().zip(answers) {
        assert_eq!(case["id"], answer["id"]);
        compare(case, &answer["output"]);
    }
    cases.len()
}

/// Source: 09_limits, per case "constructed edge case, worked out by hand" or "random case (seed …)", exact.
#[test]
fn limit_evaluation_matches_the_reference_cases() {
    let compared = each(include_str!("reference/09_limits.json"), calc::limits, |case, output| {
        let (id, source) = (&case["id"], &case["source"]);
        for key in ["events", "active_at_end", "highest_level_after_each_reading"] {
            assert_eq!(output[key], case["expected"][key], "{id} ({source}): {key}");
        }
    });
    assert_eq!(compared, 18);
}

/// Source: 08_downtime, per case "random case (seed …) … counting minutes" confirmed by interval algebra; integers
/// exact, availability to 1e-12 relative as the file says.
#[test]
fn interval_unions_match_the_reference_cases() {
    let compared = each(include_str!("reference/08_downtime.json"), calc::downtime, |case, output| {
        let (id, source, expected) = (&case["id"], &case["source"], &case["expected"]);
        for key in [
            "period_seconds",
            "operating_seconds",
            "down_seconds_any_time",
            "down_seconds",
            "merged_downtimes_in_period",
            "down_stretches_in_operating_time",
            "down_in_operating_time",
        ] {
            assert_eq!(output[key], expected[key], "{id} ({source}): {key}");
        }
        match (output["availability"].as_f64(), expected["availability"].as_f64()) {
            (Some(ours), Some(theirs)) => assert!((ours / theirs - 1.0).abs() <= 1e-12, "{id}: {ours} {theirs}"),
            (ours, theirs) => assert_eq!(ours, theirs, "{id}"),
        }
    });
    assert_eq!(compared, 10);
}

#[test]
fn a_case_that_makes_no_sense_is_named() {
    let file = json!({"cases": [{"id": "mine", "input": {"levels": [], "readings": [[5, 1.0], [5, 2.0]]}}]});
    let error = calc::run(&file.to_string(), calc::limits).unwrap_err();
    assert_eq!(error.to_string(), "case mine: the reading at 5 s does not come after the one before it");
    assert!(calc::run("[]", calc::limits).is_err());
}

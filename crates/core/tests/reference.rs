//! The core against reference cases made with other tools. Each file names the source of every case; see its README's
//! words on how the values were checked. Files: `tests/reference/`.

#![allow(clippy::unwrap_used, reason = "a test that fails by an unwrap says where")]

use serde_json::{Value, json};
use tally_core::outside::calc;

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

/// Every number of `expected` is in `output`, to `tolerance` relative (absolute for what is next to nothing); other values
/// are equal. Fields not answered are named in `left_out`.
fn close(path: &str, output: &Value, expected: &Value, tolerance: f64, left_out: &[&str]) {
    match (output, expected) {
        (Value::Object(ours), Value::Object(theirs)) => {
            for (key, theirs) in theirs.iter().filter(|(key, _)| !left_out.contains(&key.as_str())) {
                let ours = ours.get(key).unwrap_or_else(|| panic!("{path}: no {key}"));
                close(&format!("{path}.{key}"), ours, theirs, tolerance, left_out);
            }
        }
        (Value::Array(ours), Value::Array(theirs)) => {
            assert_eq!(ours.len(), theirs.len(), "{path}: {ours:?} {theirs:?}");
            for (index, (ours, theirs)) in ours.iter().zip(theirs).enumerate() {
                close(&format!("{path}[{index}]"), ours, theirs, tolerance, left_out);
            }
        }
        _ => match (output.as_f64(), expected.as_f64()) {
            (Some(ours), Some(theirs)) => {
                let off = (ours - theirs).abs();
                assert!(off <= tolerance * theirs.abs().max(1e-3), "{path}: {ours} against {theirs}");
            }
            _ => assert_eq!(output, expected, "{path}"),
        },
    }
}

/// Source: 07_charts, per case named there: published examples recalled from memory (Montgomery; NIST/SEMATECH), data sets
/// shipped with statsmodels, simulated series, tolerance factors by scipy's noncentral t with printed tables.
#[test]
fn control_charts_and_tolerance_factors_match_the_reference_cases() {
    let compared = each(include_str!("reference/07_charts.json"), calc::charts, |case, output| {
        let tolerance = if case["kind"] == "tolerance_factor" { 1e-7 } else { 1e-9 };
        close(&format!("{} ({})", case["id"], case["source"]), output, &case["expected"], tolerance, &[]);
    });
    assert_eq!(compared, 21);
}

/// Source: 04_trend, per case named there: data sets shipped with `reliability`, statsmodels and R, statistics by scipy
/// and exact rational arithmetic. Kendall's tau-b and the places of the interval's ends are not answered.
#[test]
fn trends_match_the_reference_cases() {
    let left_out = ["tau_b", "index_lower_0based", "index_upper_0based"];
    let compared = each(include_str!("reference/04_trend.json"), calc::trend, |case, output| {
        close(&format!("{} ({})", case["id"], case["source"]), output, &case["expected"], 1e-9, &left_out);
    });
    assert_eq!(compared, 11);
}

#[test]
fn a_case_that_makes_no_sense_is_named() {
    let file = json!({"cases": [{"id": "mine", "input": {"levels": [], "readings": [[5, 1.0], [5, 2.0]]}}]});
    let error = calc::run(&file.to_string(), calc::limits).unwrap_err();
    assert_eq!(error.to_string(), "case mine: the reading at 5 s does not come after the one before it");
    assert!(calc::run("[]", calc::limits).is_err());
}

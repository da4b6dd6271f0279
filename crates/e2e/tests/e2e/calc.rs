//! The program's outside door to the rules: reference cases through standard input and output.

use anyhow::{Context, Result, ensure};
use serde_json::Value;
use std::{
    io::Write,
    process::{Command, Output, Stdio},
};
use tally_e2e::{binary, root};

fn calc(rule: &str, input: &str) -> Result<Output> {
    let mut child = Command::new(binary(false))
        .args(["calc", rule])
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()?;
    let mut stdin = child.stdin.take().context("no standard input")?;
    let text = input.to_owned();
    // Written beside the reading, or both would wait for each other once the pipes are full.
    let writer = std::thread::spawn(move || stdin.write_all(text.as_bytes()));
    let output = child.wait_with_output()?;
    writer.join().map_err(|_panic| anyhow::anyhow!("the writer panicked"))??;
    Ok(output)
}

/// Sources: 08_downtime, 09_limits and 11_calendar, each case naming its own.
#[test]
fn reference_cases_go_in_and_their_expected_keys_come_out() -> Result<()> {
    for (rule, file) in
        [("limits", "09_limits.json"), ("downtime", "08_downtime.json"), ("calendar", "11_calendar.json")]
    {
        let text = std::fs::read_to_string(root().join("crates/core/tests/reference").join(file))?;
        let output = calc(rule, &text)?;
        ensure!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
        let answers: Value = serde_json::from_slice(&output.stdout)?;
        let cases: Value = serde_json::from_str(&text)?;
        let pairs =
            cases["cases"].as_array().into_iter().flatten().zip(answers["cases"].as_array().into_iter().flatten());
        let mut compared = 0;
        for (case, answer) in pairs {
            ensure!(case["id"] == answer["id"]);
            for (key, expected) in case["expected"].as_object().context("expected values")? {
                let found = &answer["output"][key];
                let same = match (found.as_f64(), expected.as_f64()) {
                    (Some(a), Some(b)) => (a - b).abs() <= 1e-12 * b.abs(),
                    _ => found == expected,
                };
                ensure!(same, "{} {key}: {found} is not {expected}", case["id"]);
                compared += 1;
            }
        }
        ensure!(compared >= 50, "only {compared} values of {file} compared");
    }
    Ok(())
}

/// Whether every number of `expected` is found to `tolerance`, and everything else as it is; these keys aside.
fn close(found: &Value, expected: &Value, tolerance: f64) -> bool {
    const LEFT_OUT: [&str; 3] = ["tau_b", "index_lower_0based", "index_upper_0based"];
    match (found, expected) {
        (Value::Object(found), Value::Object(expected)) => expected
            .iter()
            .filter(|(key, _)| !LEFT_OUT.contains(&key.as_str()))
            .all(|(key, value)| found.get(key).is_some_and(|found| close(found, value, tolerance))),
        (Value::Array(found), Value::Array(expected)) => {
            found.len() == expected.len() && found.iter().zip(expected).all(|(a, b)| close(a, b, tolerance))
        }
        _ => match (found.as_f64(), expected.as_f64()) {
            (Some(a), Some(b)) => (a - b).abs() <= tolerance * b.abs().max(1e-3),
            _ => found == expected,
        },
    }
}

/// Sources: 04_trend and 07_charts, each case naming its own; tolerances as those files say, 1e-7 for tolerance factors.
#[test]
fn charts_and_trends_come_out_as_expected() -> Result<()> {
    for (rule, file, cases_wanted) in [("charts", "07_charts.json", 21), ("trend", "04_trend.json", 11)] {
        let text = std::fs::read_to_string(root().join("crates/core/tests/reference").join(file))?;
        let output = calc(rule, &text)?;
        ensure!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
        let answers: Value = serde_json::from_slice(&output.stdout)?;
        let cases: Value = serde_json::from_str(&text)?;
        let (cases, answers) =
            (cases["cases"].as_array().context("cases")?, answers["cases"].as_array().context("answers")?);
        ensure!(cases.len() == cases_wanted && answers.len() == cases_wanted);
        for (case, answer) in cases.iter().zip(answers) {
            let tolerance = if case["kind"] == "tolerance_factor" { 1e-7 } else { 1e-9 };
            ensure!(close(&answer["output"], &case["expected"], tolerance), "{}: {}", case["id"], answer["output"]);
        }
    }
    Ok(())
}

#[test]
fn what_is_no_file_of_cases_is_said_and_fails() -> Result<()> {
    let output = calc("limits", "[1, 2]")?;
    ensure!(!output.status.success());
    let told = String::from_utf8_lossy(&output.stderr).into_owned();
    ensure!(told.contains("no JSON of the form"), "{told}");
    Ok(())
}

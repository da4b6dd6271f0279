//! Bad input is answered with problem details that name the field and the reason, and nothing is half-written.

use crate::caller::Caller;
use rstest::rstest;
use serde_json::{Value, json};

fn rung(severity: &str, setpoint: f64) -> Value {
    json!({"side": "high", "severity": severity, "setpoint": setpoint, "response": {"kind": "record"}})
}

#[rstest]
#[case::rungs_out_of_order("PUT", "/meters/BAR/ladder",
    json!({"reason": "r", "rungs": [rung("alert", 9.0), rung("danger", 4.0)]}),
    422, "rungs[1].setpoint", "danger high at 4 must lie above alert high at 9")]
#[case::a_crew_there_is_none_of("GET", "/work-orders?past_window=true&crew=NOBODY", json!(null), 422, "crew", "never \"NOBODY\"")]
#[case::text_for_a_number("PUT", "/meters/BAR/ladder",
    json!({"reason": "r", "rungs": [{"side": "high", "severity": "alert", "setpoint": "nine", "response": {"kind": "record"}}]}),
    422, "rungs[0].setpoint", "invalid type: string \"nine\", expected f64")]
#[case::no_reason("PUT", "/meters/BAR/ladder", json!({"reason": " ", "rungs": []}), 422, "reason", "say why")]
#[case::a_ring("POST", "/assets/SITE/move", json!({"parent": "P1", "at": "2026-02-01T00:00:00Z", "reason": "r"}),
    422, "parent", "the new parent would sit below the asset itself")]
#[case::an_unknown_asset("POST", "/meters", json!({"code": "X", "asset": "NO", "kind": "counter", "unit": "h"}),
    422, "asset", "there is no asset \"NO\"")]
#[case::a_code_with_a_slash("POST", "/assets", json!({"code": "a/b", "name": "n", "level": "part"}), 422, "code", "is no code")]
#[case::dropped_without_a_note("POST", "/work-orders/1001/state", json!({"to": "dropped"}), 422, "note", "say why")]
#[case::a_cause_without_its_problem("PUT", "/work-orders/1001/failure",
    json!({"cause": "X", "failed_at": "2026-02-01T00:00:00Z", "effect": "critical"}), 422, "codebook", "has no codebook")]
#[case::a_deadband_below_nothing("PUT", "/meters/BAR/ladder",
    json!({"reason": "r", "rungs": [{"side": "high", "severity": "alert", "setpoint": 9.0, "deadband": -1.0,
        "response": {"kind": "record"}}]}), 422, "rungs[0].deadband", "the deadband must not be negative")]
#[case::a_change_from_nothing("PUT", "/meters/BAR/ladder",
    json!({"reason": "r", "rungs": [{"side": "high", "severity": "alert", "setpoint": 9.0, "on": "change",
        "response": {"kind": "record"}}]}), 422, "rungs[0].baseline", "a change needs the baseline it is counted from")]
#[case::suspended_by_nothing("PUT", "/meters/BAR/ladder",
    json!({"reason": "r", "suspended_while": {"meter": "NO", "below": 1.0}, "rungs": [rung("alert", 9.0)]}),
    422, "suspended_while.meter", "there is no meter \"NO\"")]
#[case::people_who_are_not_there("PUT", "/meters/BAR/ladder",
    json!({"reason": "r", "rungs": [{"side": "high", "severity": "alert", "setpoint": 9.0,
        "response": {"kind": "notify", "tell": ["nobody"]}}]}), 422, "rungs[0].response.tell", "there is no person \"nobody\"")]
#[case::a_shelf_without_a_reason("PUT", "/meters/BAR/shelf", json!({"until": "2026-03-02T00:00:00Z", "reason": ""}),
    422, "reason", "say why its alarms are held back")]
#[case::a_shelf_in_the_past("PUT", "/meters/BAR/shelf", json!({"until": "2026-02-02T00:00:00Z", "reason": "r"}),
    422, "until", "must lie in the future")]
#[case::voided_for_nothing("POST", "/meters/BAR/void", json!({"at": "2026-02-01T00:00:00Z", "reason": ""}), 422, "reason", "say why the reading does not hold")]
#[case::an_exchange_of_no_counter("POST", "/meters/BAR/exchange",
    json!({"at": "2026-02-01T00:00:00Z", "final_value": 1.0, "start_value": 0.0}), 422, "meter", "only a counter's device is exchanged")]
#[case::drawn_backwards("POST", "/meters/BAR/replay",
    json!({"drawn": {"from": "2026-02-01T00:00:00Z", "to": "2026-01-01T00:00:00Z"}}), 422, "drawn.to", "is not after the start")]
#[case::a_replay_of_no_ladder("POST", "/meters/BAR/replay", json!({"ladder": {"rungs": [rung("alert", 9.0), rung("danger", 4.0)]}}),
    422, "ladder.rungs[1].setpoint", "danger high at 4 must lie above alert high at 9")]
#[case::no_rung_to_move("POST", "/meters/BAR/finder", json!({"rung": 3}), 422, "rung", "the ladder has no such rung with a setpoint")]
#[case::a_tag_of_no_meter("PUT", "/tags", json!({"tag": "T", "meter": "NO"}), 422, "meter", "there is no meter \"NO\"")]
#[case::a_tag_in_another_kind_of_unit("PUT", "/tags", json!({"tag": "T", "meter": "BAR", "unit": "Cel"}), 422, "unit", "Cel can't be turned into bar")]
#[case::a_short_secret("POST", "/webhooks", json!({"url": "http://127.0.0.1:9/", "secret": "short"}), 422, "secret", "needs 16 characters")]
#[case::an_address_of_nothing("POST", "/webhooks", json!({"url": "nowhere", "secret": "0123456789abcdef"}), 422, "url", "starts with https:// or http://")]
#[case::an_unknown_period("GET", "/tally?period=soon", json!(null), 400, "period", "is no period")]
#[case::an_unknown_indicator("GET", "/tally?indicators=cost", json!(null), 400, "indicators", "there is no indicator \"cost\"")]
#[case::a_way_to_nowhere("GET", "/tally?under=SITE", json!(null), 400, "under", "there is no scope")]
#[case::half_a_span("GET", "/tally?from=2026-01-01T00:00:00Z", json!(null), 400, "to", "give both from and to")]
#[tokio::test]
async fn the_field_and_the_reason_are_named(
    #[case] method: &str,
    #[case] path: &str,
    #[case] body: Value,
    #[case] status: u16,
    #[case] field: &str,
    #[case] reason: &str,
) {
    let caller = Caller::new().await;
    let answer = caller.call(method, path, None, (!body.is_null()).then_some(body)).await;
    assert_eq!((answer.status, answer.kind.as_str()), (status, "application/problem+json"), "{}", answer.body);
    let error = &answer.body["errors"][0];
    assert!(error["field"].as_str().is_some_and(|f| f.starts_with(field)), "{}", answer.body);
    assert!(error["reason"].as_str().is_some_and(|r| r.contains(reason)), "{}", answer.body);
}

#[rstest]
#[case::no_such_move("POST", "/work-orders/1001/state", json!({"to": "closed"}), 409, "work that is raised cannot become closed")]
#[case::no_such_work("GET", "/work-orders/77", json!(null), 404, "there is no work order \"77\"")]
#[case::no_such_meter("GET", "/meters/NO/readings", json!(null), 404, "there is no meter \"NO\"")]
#[case::no_such_way("GET", "/tally?scope=P1&under=SITE/NO", json!(null), 404, "there is no asset \"NO\"")]
#[case::no_such_scope("GET", "/tally?scope=NO", json!(null), 404, "there is no asset \"NO\"")]
#[case::a_taken_code("POST", "/assets", json!({"code": "P1", "name": "n", "level": "part"}), 409, "there is an asset P1 already")]
#[case::no_such_route("GET", "/nowhere", json!(null), 404, "there is nothing at /api/v1/nowhere")]
#[case::letters_for_a_number("GET", "/work-orders/abc", json!(null), 400, "abc")]
#[tokio::test]
async fn what_is_not_there_or_not_possible_is_said(
    #[case] method: &str,
    #[case] path: &str,
    #[case] body: Value,
    #[case] status: u16,
    #[case] detail: &str,
) {
    let caller = Caller::new().await;
    let answer = caller.call(method, path, None, (!body.is_null()).then_some(body)).await;
    assert_eq!((answer.status, answer.kind.as_str()), (status, "application/problem+json"), "{}", answer.body);
    assert!(answer.body["detail"].as_str().is_some_and(|d| d.contains(detail)), "{}", answer.body);
}

#[tokio::test]
async fn a_body_that_is_no_json_or_too_large_is_a_problem_too() {
    let caller = Caller::new().await;
    let broken = caller.raw("POST", "/api/v1/assets", None, "application/json", "{\"code\":".into()).await;
    assert_eq!((broken.status, broken.kind.as_str()), (400, "application/problem+json"));
    let large = " ".repeat(fair_tally::LARGEST_BATCH + 1);
    let large = caller.raw("POST", "/api/v1/readings", None, "application/json", large).await;
    assert_eq!((large.status, large.kind.as_str()), (413, "application/problem+json"), "{}", large.body);
}

#[tokio::test]
async fn a_batch_is_kept_row_by_row_or_not_at_all_when_strict() {
    let caller = Caller::new().await;
    let csv = "meter,at,value\nBAR,2026-02-01T00:00:00Z,5\nBAR,2026-02-30T00:00:00Z,5\nNO,2026-02-01T00:00:00Z,5\n";
    let strict = caller.raw("POST", "/api/v1/readings?strict=true", None, "text/csv", csv.into()).await;
    assert_eq!(strict.status, 422);
    assert_eq!(strict.body["receipt"]["refused"].as_array().map(Vec::len), Some(2));
    let trial = caller.raw("POST", "/api/v1/readings?dry_run=true", None, "text/csv", csv.into()).await;
    assert_eq!((trial.status, &trial.body["accepted"]), (200, &json!(1)));
    let before = caller.call("GET", "/meters/BAR", None, None).await.body["readings"].clone();
    assert_eq!(before, 0, "neither kept anything");
    let kept = caller.raw("POST", "/api/v1/readings", None, "text/csv", csv.into()).await;
    assert_eq!((kept.status, &kept.body["accepted"], &kept.body["refused"][0]["index"]), (200, &json!(1), &json!(1)));
    let again = caller.raw("POST", "/api/v1/readings", None, "text/csv", csv.into()).await;
    assert_eq!(again.body["duplicates"], 1);
    let raw = caller.raw("GET", "/api/v1/meters/BAR/readings?period=2026-02", None, "", String::new()).await;
    assert_eq!(raw.body["points"], json!([[1_769_904_000_000_i64, 5.0]]));
}

/// A zero amid what is looked for ends no question of the index.
#[tokio::test]
async fn whatever_is_looked_for_is_looked_for() {
    let caller = Caller::new().await;
    for letters in [
        "%00",
        "%00%00%00",
        "a%00b",
        "pu%00mp",
        "%0A%0D",
        "%22",
        "*",
        "a%20OR%20b",
        "%F0%9F%94%A7%F0%9F%94%A7%F0%9F%94%A7",
    ] {
        for path in ["/work-orders?text=", "/search?q=", "/meters?text=", "/master/assets?text=", "/changes?text="] {
            let answer = caller.call("GET", &format!("{path}{letters}"), None, None).await;
            assert_eq!(answer.status, 200, "{path}{letters}: {}", answer.body);
        }
        let ask = json!({"text": letters.replace("%00", "\0")});
        let listed = caller.call("POST", "/lists/work", None, Some(ask)).await;
        assert!([200, 422].contains(&listed.status), "{letters}: {}", listed.body);
    }
}

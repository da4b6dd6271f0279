//! Two people edit one thing: the second one is told who was first, and nothing of theirs is written over it.

use crate::caller::Caller;
use rstest::rstest;
use serde_json::{Value, json};

fn ladder(setpoint: f64) -> Value {
    json!({"reason": "r", "rungs": [{"side": "high", "severity": "alert", "setpoint": setpoint, "response": {"kind": "record"}}]})
}

fn settings(name: &str) -> Value {
    json!({"name": name, "currency": "EUR", "minor_digits": 2, "fiscal_month": 1, "time_zone": "UTC",
        "rank_windows": [2, 7, 28, 90, 180]})
}

#[rstest]
#[case::ladder("PUT", "/meters/BAR/ladder", "/meters/BAR/ladder", "number", [ladder(9.0), ladder(8.0)])]
#[case::family("PUT", "/families/pump/BAR", "/families/pump/BAR", "number",
    [json!({"reason": "r", "ladder": ladder(9.0)}), json!({"reason": "r", "ladder": ladder(8.0)})])]
#[case::codebook("PUT", "/codebooks/pumps", "/codebooks/pumps", "change",
    [json!({"name": "Pumps", "class": "pump", "problems": []}), json!({"name": "All pumps", "class": "pump", "problems": []})])]
#[case::settings("PUT", "/settings", "/settings", "change", [settings("Mill"), settings("Saw mill")])]
#[case::state("POST", "/work-orders/1001/state", "/work-orders/1001", "change", [json!({"to": "ready"}), json!({"to": "planning"})])]
#[tokio::test]
async fn the_second_of_two_editors_is_told_who_was_first(
    #[case] method: &str,
    #[case] path: &str,
    #[case] shown: &str,
    #[case] version: &str,
    #[case] bodies: [Value; 2],
) {
    let caller = Caller::new().await;
    if path.starts_with("/codebooks") {
        let first = json!({"name": "Pump", "class": "pump", "problems": []});
        caller.call(method, path, None, Some(first)).await;
    }
    let seen = async || caller.call("GET", shown, None, None).await.body[version].as_i64().unwrap();
    let [first, second] = bodies;
    let both_saw = seen().await;
    let based = |on: i64| format!("{path}?based_on={on}");
    let taken = caller.call(method, &based(both_saw), Some("engineer"), Some(first)).await;
    assert_eq!(taken.status, 200, "{}", taken.body);
    let now = seen().await;
    assert!(now > both_saw);
    let refused = caller.call(method, &based(both_saw), None, Some(second.clone())).await;
    let detail = refused.body["detail"].as_str().unwrap_or_default();
    assert_eq!(refused.status, 409, "{}", refused.body);
    assert!(detail.starts_with("engineer changed this at 2026-03-01T00:00:00Z"), "{detail}");
    assert_eq!(seen().await, now, "nothing was written");
    // Having looked, they may.
    let taken = caller.call(method, &based(now), None, Some(second)).await;
    assert_eq!(taken.status, 200, "{}", taken.body);
}

/// Who acknowledged alarms by mistake takes that back, all or none; nobody takes back another's.
#[tokio::test]
async fn an_acknowledgement_is_taken_back_by_who_made_it() {
    let caller = Caller::new().await;
    let rung = |side: &str, setpoint: f64| json!({"side": side, "severity": "alert", "setpoint": setpoint, "response": {"kind": "notify"}});
    let ladder = json!({"reason": "First", "rungs": [rung("high", 7.0)]});
    assert_eq!(caller.call("PUT", "/meters/BAR/ladder", None, Some(ladder)).await.status, 200);
    let reading = json!([{"meter": "BAR", "at": "2026-02-28T23:00:00Z", "value": 9}]);
    caller.call("POST", "/readings", None, Some(reading)).await;
    let of = async || caller.call("GET", "/alarms", None, None).await.body["alarms"][0].clone();
    let id = of().await["id"].clone();
    let post = async |path: &str, who: &str| {
        let ids = json!({"ids": [id]});
        caller.call("POST", &format!("/alarms/acknowledge{path}"), Some(who), Some(ids)).await
    };
    assert_eq!(post("", "technician").await.body["seen"], 1);
    assert_eq!(of().await["acknowledged_by"], "technician");
    let others = post("/take-back", "engineer").await;
    assert_eq!(others.status, 409);
    assert!(others.body["detail"].as_str().unwrap().contains("not acknowledged by you"), "{}", others.body);
    assert_eq!(post("/take-back", "technician").await.status, 204);
    assert_eq!(
        (of().await["acknowledged_by"].clone(), of().await["acknowledged_at"].clone()),
        (json!(null), json!(null))
    );
    assert_eq!(post("/take-back", "technician").await.status, 409, "once");
    assert_eq!(post("", "engineer").await.body["seen"], 1, "and then it is anybody's again");
}

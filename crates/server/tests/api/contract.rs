//! What outside programs rely on.

use crate::caller::Caller;
use serde_json::json;

/// The committed description, from which the web's types are generated, is the one the code gives.
#[test]
fn the_committed_description_of_the_api_is_fresh() {
    let committed = include_str!("../../../../web/src/generated/openapi.json");
    assert!(committed == fair_tally::openapi::text(), "stale: run cargo xtask generate");
}

#[tokio::test]
async fn the_routes_that_are_promised_are_described() {
    let caller = Caller::new().await;
    let description = caller.call("GET", "/openapi.json", None, None).await.body;
    for (path, methods) in [
        ("/assets", vec!["get", "post"]),
        ("/assets/{code}/move", vec!["post"]),
        ("/assets/{code}/downtime", vec!["post"]),
        ("/meters", vec!["get", "post"]),
        ("/readings", vec!["post"]),
        ("/meters/{code}/readings", vec!["get"]),
        ("/meters/{code}/ladder", vec!["get", "put"]),
        ("/meters/{code}/alarms", vec!["get"]),
        ("/work-orders", vec!["get", "post"]),
        ("/work-orders/{number}", vec!["get"]),
        ("/work-orders/{number}/state", vec!["post"]),
        ("/work-orders/{number}/entries", vec!["post"]),
        ("/work-orders/{number}/downtime", vec!["post"]),
        ("/work-orders/{number}/failure", vec!["put"]),
        ("/codebooks", vec!["get"]),
        ("/codebooks/{code}", vec!["get", "put"]),
        ("/tally", vec!["get"]),
        ("/indicators", vec!["get"]),
    ] {
        for method in methods {
            let operation = &description["paths"][format!("/api/v1{path}")][method];
            assert!(operation.is_object(), "{method} {path} is not described");
        }
    }
}

#[tokio::test]
async fn an_answer_of_the_tally_states_the_change_it_is_true_for() {
    let caller = Caller::new().await;
    let change = async || caller.call("GET", "/tally", None, None).await.body["change"].as_i64().unwrap();
    let before = change().await;
    let entry = json!({"kind": "tool", "quantity": "1", "unit_price": "12345", "description": "d"});
    caller.call("POST", "/work-orders/1001/entries", None, Some(entry)).await;
    assert!(change().await > before);
    let tally =
        caller.call("GET", "/tally?scope=SITE&period=2026&indicators=cost_total&why=true", None, None).await.body;
    assert_eq!(tally["rows"][0]["figures"]["cost_total"]["provisional"], 12_345);
    assert_eq!(tally["rows"][1]["asset"], "P1");
    assert_eq!(tally["why"][0]["parts"][0]["rows"][0]["work_order"], 1001);
}

#[tokio::test]
async fn a_screen_is_the_page_and_a_missing_file_is_not() {
    let caller = Caller::new().await;
    let gone = caller.raw("GET", "/assets/gone.js", None, "", String::new()).await;
    assert_eq!(gone.status, 404);
    let health = caller.raw("GET", "/healthz", None, "", String::new()).await;
    assert_eq!((health.status, health.body.as_str()), (200, Some("ok")));
}

//! What outside programs rely on.

use crate::caller::Caller;
use serde_json::json;
use std::{collections::BTreeMap, fs, path::Path};

/// The committed description, from which the web's types are generated, is the one the code gives.
#[test]
fn the_committed_description_of_the_api_is_fresh() {
    let committed = include_str!("../../../../web/src/generated/openapi.json");
    assert!(committed == fair_tally::openapi::text(), "stale: run cargo xtask generate");
}

/// Names of the types of a file that go into the description.
fn described_types(source: &str) -> Vec<String> {
    let mut found = Vec::new();
    let mut is_described = false;
    for line in source.lines() {
        let line = line.trim_start();
        let declared =
            line.strip_prefix("pub struct ").or(line.strip_prefix("pub enum ")).or(line.strip_prefix("struct "));
        if line.starts_with("#[") && line.contains("ToSchema") {
            is_described = true;
        } else if let Some(rest) = declared {
            let name: String = rest.chars().take_while(|letter| letter.is_alphanumeric()).collect();
            found.extend(std::mem::take(&mut is_described).then_some(name));
        }
    }
    found
}

fn sources(folder: &Path, visit: &mut impl FnMut(&Path, &str)) {
    for entry in fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            sources(&path, visit);
        } else if path.extension().is_some_and(|ending| ending == "rs") {
            visit(&path, &fs::read_to_string(&path).unwrap());
        }
    }
}

/// Of two types of one name, the description would hold one without a word.
#[test]
fn no_two_types_of_the_description_share_a_name() {
    let mut places: BTreeMap<String, Vec<String>> = BTreeMap::new();
    for layer in ["core", "store", "server"] {
        let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("..").join(layer).join("src");
        sources(&folder, &mut |path, source| {
            for name in described_types(source) {
                places.entry(name).or_default().push(path.display().to_string());
            }
        });
    }
    let schemas = fair_tally::openapi::description();
    let schemas = schemas["components"]["schemas"].as_object().unwrap().len();
    assert!(places.len() * 10 >= schemas * 9, "the types are found: {} of {schemas}", places.len());
    let shared: Vec<_> = places.iter().filter(|(_, places)| places.len() > 1).collect();
    assert!(shared.is_empty(), "{shared:#?}");
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
    assert_eq!((health.status, &health.body["status"]), (200, &json!("ok")), "{}", health.body);
}

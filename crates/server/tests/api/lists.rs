//! Lists over HTTP: what can't be asked, views that are kept, files of exactly what is listed, and whose work is told.

use crate::caller::Caller;
use rstest::rstest;
use serde_json::{Value, json};

async fn asked(caller: &Caller, person: &str, subject: &str, ask: Value) -> (u16, Value) {
    let said = caller.call("POST", &format!("/lists/{subject}"), Some(person), Some(ask)).await;
    (said.status, said.body)
}

#[rstest]
#[case::column(json!({"columns": ["x"]}), "columns[0]")]
#[case::filter(json!({"filter": [{"column": "cost", "from": "much"}]}), "filter[0].from")]
#[case::period(json!({"filter": [{"column": "raised_at", "within": "2026-01-01..12026-01-01"}]}), "filter[0].within")]
#[case::seven(json!({"group": [{"column": "state"}, {"column": "rank"}, {"column": "crew"}, {"column": "unit"}, {"column": "class"},
    {"column": "source"}, {"column": "level"}]}), "group")]
#[case::scope(json!({"scope": "NOWHERE"}), "scope")]
#[tokio::test]
async fn what_cant_be_asked_is_said_by_field(#[case] ask: Value, #[case] field: &str) {
    let caller = Caller::new().await;
    let (status, body) = asked(&caller, "administrator", "work", ask).await;
    assert_eq!((status, body["errors"][0]["field"].as_str()), (422, Some(field)), "{body}");
}

#[tokio::test]
async fn a_view_is_its_owners_unless_it_is_shared() {
    let caller = Caller::new().await;
    let ask = json!({"group": [{"column": "crew"}], "filter": [{"column": "state", "is": ["raised"]}]});
    let keep = |name: &str, shared: bool| json!({"name": name, "shared": shared, "ask": ask});
    for (name, shared) in [("Mine", false), ("Ours", true), ("Ours", true)] {
        let kept = caller.call("POST", "/lists/work/views", Some("planner"), Some(keep(name, shared))).await;
        assert_eq!(kept.status, 201, "{}", kept.body);
    }
    let names = async |person: &str| -> Vec<(String, bool)> {
        let views = caller.call("GET", "/lists/work/views", Some(person), None).await.body;
        let of = |view: &Value| (view["name"].as_str().unwrap().to_owned(), view["is_own"].as_bool().unwrap());
        views.as_array().unwrap().iter().map(of).collect()
    };
    assert_eq!(names("planner").await, [("Mine".to_owned(), true), ("Ours".to_owned(), true)]);
    assert_eq!(names("engineer").await, [("Ours".to_owned(), false)]);
    let views = caller.call("GET", "/lists/work/views", Some("engineer"), None).await.body;
    let of_view = |key: &str| views[0]["ask"][key].clone();
    assert_eq!((of_view("group"), of_view("filter")), (ask["group"].clone(), ask["filter"].clone()));
    let path = format!("/lists/work/views/{}", views[0]["id"]);
    assert_eq!(caller.call("DELETE", &path, Some("engineer"), None).await.status, 403);
    assert_eq!(caller.call("DELETE", &path, Some("planner"), None).await.status, 204);
    assert!(names("engineer").await.is_empty());
    let unnamed = caller.call("POST", "/lists/work/views", Some("planner"), Some(keep(" ", false))).await;
    assert_eq!((unnamed.status, unnamed.body["errors"][0]["field"].as_str()), (422, Some("name")));
}

/// A requester is told of what they raised, in rows, counts and sums alike, and in a file.
#[tokio::test]
async fn what_is_not_seen_is_in_no_list() {
    let caller = Caller::new().await;
    let new = json!({"title": "A rattle", "kind": "corrective_deferred", "asset": "P1", "risk_rank": 3});
    let raised = caller.call("POST", "/work-orders", Some("requester"), Some(new)).await;
    let number = raised.body["number"].as_i64().unwrap();
    let (_, all) = asked(&caller, "planner", "work", json!({"facets": ["state"]})).await;
    assert!(all["count"].as_u64().unwrap() > 1, "{all}");
    let (_, own) =
        asked(&caller, "requester", "work", json!({"facets": ["state"], "columns": ["number", "title"]})).await;
    assert_eq!((own["count"].as_u64(), own["rows"][0]["id"].as_i64()), (Some(1), Some(number)));
    assert_eq!(own["rows"][0]["cells"], json!([number as f64, "A rattle"]));
    assert_eq!(own["facets"][0]["values"][0]["count"], 1);
    let path = "/lists/work.csv/file?ask=%7B%22columns%22%3A%5B%22number%22%2C%22asset%22%5D%7D";
    let said = caller.call("GET", path, Some("requester"), None).await;
    let file = said.body.as_str().unwrap();
    let lines: Vec<&str> = file.lines().collect();
    assert_eq!(lines.len(), 2, "{file}");
    assert_eq!(lines[0], "Number,Asset,Asset (code)");
    assert!(lines[1].starts_with(&format!("{number},")) && lines[1].ends_with(",P1"), "{}", lines[1]);
}

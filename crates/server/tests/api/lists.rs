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
#[case::ahead(json!({"as_of": "2099-01-01T00:00:00Z"}), "as_of")]
#[case::known_ahead(json!({"known_at": "2099-01-01T00:00:00Z"}), "known_at")]
#[case::several(json!({"sort": [{"column": "tags"}]}), "sort[0].column")]
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

/// A change that is dated back: how it was is told by when it was so, and by when that became known.
#[tokio::test]
async fn work_is_told_as_it_was_and_as_it_was_known() {
    let caller = Caller::new().await;
    let crew = json!({"code": "late", "name": "Late", "department": "Nights", "weekly_hours": 80});
    caller.call("POST", "/crews", Some("administrator"), Some(crew)).await;
    let at = |text: &str| format!("2026-03-0{text}:00:00Z");
    let clock = async |text: &str| {
        let set = caller.call("PUT", "/clock", Some("administrator"), Some(json!({"now": at(text)}))).await;
        assert!(set.status < 300, "{}", set.body);
    };
    clock("3T08").await;
    let new = json!({"title": "A rattle", "kind": "corrective_deferred", "asset": "P1", "risk_rank": 3, "estimated_hours": 4.0});
    let raised = caller.call("POST", "/work-orders", Some("planner"), Some(new)).await;
    let number = raised.body["number"].as_i64().unwrap();
    clock("5T08").await;
    // Known on the fifth, and so since the fourth.
    let change = json!({"crew": "late", "estimated_hours": 9.0, "at": at("4T08")});
    let path = format!("/work-orders/{number}");
    let changed = caller.call("PATCH", &path, Some("planner"), Some(change)).await;
    assert_eq!(changed.status, 200, "{}", changed.body);
    let early = caller.call("PATCH", &path, Some("planner"), Some(json!({"risk_rank": 2, "at": at("4T07")}))).await;
    assert_eq!((early.status, early.body["errors"][0]["field"].as_str()), (422, Some("at")), "before the last change");
    let told = async |past: Value| {
        let mut ask = json!({"columns": ["department", "estimated"], "only": [number]});
        ask.as_object_mut().unwrap().extend(past.as_object().unwrap().clone());
        let (status, body) = asked(&caller, "planner", "work", ask).await;
        assert_eq!(status, 200, "{body}");
        body["rows"][0]["cells"].clone()
    };
    let (was, is) = (json!([null, 4.0]), json!(["Nights", 9.0]));
    assert_eq!(told(json!({})).await, is);
    assert_eq!(told(json!({"as_of": at("4T07")})).await, was);
    assert_eq!(told(json!({"as_of": at("4T09")})).await, is);
    assert_eq!(told(json!({"known_at": at("4T09")})).await, was, "nobody knew yet");
    assert_eq!(told(json!({"known_at": at("5T08")})).await, is);
    assert_eq!(told(json!({"as_of": at("2T08")})).await, json!(null), "it was not raised yet");
    let hours = async |past: &str| {
        let path = format!("/tally?scope=P1&period=2026-03&indicators=open_hours&depth=0{past}");
        let tally = caller.call("GET", &path, Some("planner"), None).await;
        tally.body["rows"][0]["figures"]["open_hours"]["value"].as_f64().unwrap()
    };
    let (before, now) = (hours(&format!("&known_at={}", at("4T09"))).await, hours("").await);
    assert_eq!(now - before, 5.0, "four hours were known, of nine");
    let (unknown, _) =
        asked(&caller, "planner", "work", json!({"figure": {"indicator": "open_work", "scope": "NOWHERE"}})).await;
    assert_eq!(unknown, 404);
    let ahead = caller.call("GET", "/tally?known_at=2099-01-01T00:00:00Z", Some("planner"), None).await;
    assert_eq!((ahead.status, ahead.body["errors"][0]["field"].as_str()), (422, Some("known_at")));
}

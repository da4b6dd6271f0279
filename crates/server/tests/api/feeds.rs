//! Work in calendar programs: under a secret address, read back by a general library.

use crate::caller::Caller;
use ical::{IcalParser, parser::ical::component::IcalEvent};
use serde_json::{Value, json};

/// Makes an address; its path below the API.
async fn made(caller: &Caller, person: &str, of: Value) -> String {
    let answer = caller.call("POST", "/work/feeds", Some(person), Some(of)).await;
    assert_eq!(answer.status, 201, "{}", answer.body);
    answer.body["path"].as_str().unwrap().strip_prefix("/api/v1").unwrap().to_owned()
}

/// What whoever has the address reads, as a general library takes it apart; none where there is nothing under it.
async fn events(caller: &Caller, path: &str) -> Option<Vec<IcalEvent>> {
    let answer = caller.unsigned("GET", path, &[], Value::Null).await;
    if answer.status() == 404 {
        return None;
    }
    assert_eq!(answer.headers()["content-type"], "text/calendar; charset=utf-8");
    let bytes = axum::body::to_bytes(answer.into_body(), 1 << 20).await.unwrap();
    // RFC 5545, 3.1: lines end with CRLF and are at most 75 octets long.
    let text = std::str::from_utf8(&bytes).unwrap();
    assert!(text.split("\r\n").all(|line| line.len() <= 75 && !line.contains('\n')), "{text}");
    let mut calendars: Vec<_> = IcalParser::new(&bytes[..]).collect::<Result<_, _>>().unwrap();
    assert_eq!(calendars.len(), 1);
    Some(calendars.remove(0).events)
}

fn said<'a>(event: &'a IcalEvent, name: &str) -> &'a str {
    let found = event.properties.iter().find(|property| property.name == name);
    found.and_then(|property| property.value.as_deref()).unwrap_or_default()
}

#[tokio::test]
async fn a_crews_work_and_ones_own_are_read_by_calendar_programs() {
    let caller = Caller::new().await;
    let crew = json!({"code": "mech", "name": "Mechanics", "department": "Lifts", "weekly_hours": 40.0});
    assert_eq!(caller.call("POST", "/crews", None, Some(crew)).await.status, 201);
    let raise = |title: &str, assignee: Option<&str>| {
        json!({"title": title, "kind": "inspection", "asset": "P1", "risk_rank": 2, "state": "ready", "crew": "mech",
            "assignee": assignee, "estimated_hours": 2.5})
    };
    for (title, assignee, start) in [
        ("Look at the pump, and its «seal»; then\\n", Some("technician"), "2026-02-18T07:00:00Z"),
        ("Grease it", None, "2026-02-19T06:30:00Z"),
    ] {
        let new = caller.call("POST", "/work-orders", Some("planner"), Some(raise(title, assignee))).await;
        assert_eq!(new.status, 201, "{}", new.body);
        let path = format!("/work-orders/{}", new.body["number"]);
        let dated = caller.call("PATCH", &path, Some("planner"), Some(json!({"scheduled_start": start}))).await;
        assert_eq!(dated.status, 200, "{}", dated.body);
    }
    let of_crew = made(&caller, "planner", json!({"crew": "mech"})).await;
    let own = made(&caller, "technician", json!({})).await;
    let all = events(&caller, &of_crew).await.unwrap();
    let orders: Vec<&IcalEvent> = all.iter().filter(|event| said(event, "UID").starts_with("work-")).collect();
    assert_eq!(orders.len(), 2);
    let pump = orders.iter().find(|event| said(event, "SUMMARY").starts_with("Look at the pump")).unwrap();
    assert_eq!((said(pump, "DTSTART"), said(pump, "DTEND")), ("20260218T070000Z", "20260218T093000Z"));
    // RFC 5545, 3.3.11: commas, semicolons and backslashes of a text are escaped.
    assert!(said(pump, "SUMMARY").contains("pump\\, and its «seal»\\; then\\\\n"), "{}", said(pump, "SUMMARY"));
    let mine = events(&caller, &own).await.unwrap();
    assert_eq!(mine.iter().map(|event| said(event, "UID")).collect::<Vec<_>>(), [said(pump, "UID")]);

    // Once it is renewed the old address is nobody's, and who is no longer active reads nothing.
    let renewed = made(&caller, "technician", json!({})).await;
    assert!(events(&caller, &own).await.is_none());
    assert_eq!(events(&caller, &renewed).await.unwrap().len(), 1);
    let list = caller.call("GET", "/work/feeds", Some("technician"), None).await.body;
    assert!(list[0]["crew"].is_null() && list[0]["made_at"].is_string(), "{list}");
    let left = json!({"rows": [{"values": {"code": "technician", "active": "no"}}]});
    let gone = caller.call("POST", "/master/people", None, Some(left)).await;
    assert_eq!(gone.status, 200, "{}", gone.body);
    assert!(events(&caller, &renewed).await.is_none());
    // A technician has no address for what is not theirs to see, and taken away is taken away.
    let taken = caller.call("DELETE", "/work/feeds?crew=mech", Some("planner"), None).await;
    assert_eq!(taken.status, 204, "{}", taken.body);
    assert!(events(&caller, &of_crew).await.is_none());
    let again = caller.call("DELETE", "/work/feeds?crew=mech", Some("planner"), None).await;
    assert_eq!(again.status, 404);
}

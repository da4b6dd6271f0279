//! Each writing route for each role, as a table: who may, all others are refused by name.

use crate::caller::Caller;
use serde_json::{Value, json};

const ROLES: [&str; 7] = ["engineer", "planner", "technician", "requester", "manager", "viewer", "gateway"];

fn row(code: &str, field: &str, value: &str) -> Value {
    json!({"rows": [{"values": {"code": code, field: value}}]})
}

fn routes() -> Vec<(&'static str, &'static str, Value, &'static [&'static str])> {
    let reading = json!([{"meter": "BAR", "at": "2026-02-01T00:00:00Z", "value": 1.0}]);
    let ladder = json!({"reason": "r", "rungs": [{"side": "high", "severity": "alert", "setpoint": 9.0, "response": {"kind": "record"}}]});
    let work = json!({"title": "t", "kind": "inspection", "asset": "P1", "risk_rank": 3});
    let entry = json!({"kind": "tool", "quantity": "1", "unit_price": "100", "description": "d"});
    let down = json!({"kind": "planned", "start": "2026-02-01T00:00:00Z", "end": "2026-02-01T01:00:00Z"});
    let failure = json!({"failed_at": "2026-02-01T00:00:00Z", "effect": "incipient"});
    let book = json!({"name": "Pumps", "class": "pump", "problems": []});
    vec![
        ("POST", "/readings", reading, &["engineer", "planner", "technician", "gateway"]),
        ("PUT", "/meters/BAR/ladder", ladder, &["engineer"]),
        ("POST", "/work-orders", work, &["engineer", "planner", "technician", "requester", "manager"]),
        ("PATCH", "/work-orders/1001", json!({"text": "x"}), &["engineer", "planner"]),
        ("POST", "/work-orders/1001/entries", entry, &["engineer", "planner", "technician"]),
        ("POST", "/work-orders/1001/downtime", down.clone(), &["engineer", "planner", "technician"]),
        ("PUT", "/work-orders/1001/failure", failure, &["engineer", "planner", "technician"]),
        ("POST", "/assets/P1/downtime", down, &["engineer", "planner", "technician"]),
        ("PUT", "/codebooks/pumps", book, &["engineer"]),
        (
            "PUT",
            "/settings",
            json!({"name": "n", "currency": "EUR", "minor_digits": 2, "fiscal_month": 1,
            "time_zone": "UTC", "rank_windows": [2, 7, 28, 90, 180]}),
            &["engineer"],
        ),
        (
            "POST",
            "/assets/P1/move",
            json!({"parent": "SITE", "at": "2026-02-01T00:00:00Z", "reason": "r"}),
            &["engineer"],
        ),
        (
            "PUT",
            "/assets/P1/parent-effect",
            json!({"effect": {"kind": "yes"}, "from": "2026-02-01T00:00:00Z"}),
            &["engineer"],
        ),
        ("POST", "/master/assets", row("P1", "name", "Pump"), &["engineer"]),
        ("POST", "/master/meters", row("BAR", "name", "Pressure"), &["engineer"]),
        ("POST", "/master/people", row("viewer", "name", "V"), &[]),
        ("POST", "/master/crews", json!({"rows": []}), &["engineer", "planner"]),
        ("POST", "/import/assets?dry_run=true", json!("code,name\nP1,Pump\n"), &["engineer"]),
        ("DELETE", "/assets/P1/picture", json!({}), &["engineer"]),
        (
            "PUT",
            "/calendars/none",
            json!({"code": "none", "name": "N", "time_zone": "UTC", "hours": []}),
            &["engineer"],
        ),
        ("PUT", "/assets/P1/calendar", json!({"calendar": "none", "from": "2026-02-01T00:00:00Z"}), &["engineer"]),
        ("POST", "/alarms/1/acknowledge", json!({}), &["engineer", "planner", "technician"]),
        ("POST", "/alarms/acknowledge", json!({"ids": []}), &["engineer", "planner", "technician"]),
        ("PUT", "/meters/BAR/shelf", json!({"until": "2026-03-02T00:00:00Z", "reason": "r"}), &["engineer", "planner"]),
        ("DELETE", "/meters/BAR/shelf", json!({}), &["engineer", "planner"]),
        ("POST", "/late-readings/1/judge", json!({"judgement": "j"}), &["engineer", "planner", "technician"]),
        ("POST", "/meters/BAR/void", json!({"at": "2026-02-01T00:00:00Z", "reason": "r"}), &["engineer", "planner"]),
        ("POST", "/meters/BAR/release", json!({"at": "2026-02-01T00:00:00Z"}), &["engineer", "planner"]),
        (
            "POST",
            "/meters/BAR/exchange",
            json!({"at": "2026-02-01T00:00:00Z", "final_value": 1.0, "start_value": 0.0}),
            &["engineer", "planner"],
        ),
        ("POST", "/meters/BAR/ladder/approve", json!({}), &["engineer"]),
        ("DELETE", "/meters/BAR/ladder/proposed", json!({}), &["engineer"]),
        ("PUT", "/families/pump/BAR", json!({"reason": "r", "ladder": {"rungs": []}}), &["engineer"]),
        ("PUT", "/tags", json!({"tag": "T", "meter": "BAR"}), &["engineer"]),
        ("DELETE", "/tags/T", json!({}), &["engineer"]),
        ("POST", "/webhooks", json!({"url": "http://127.0.0.1:9/", "secret": "0123456789abcdef"}), &["engineer"]),
        ("DELETE", "/webhooks/99", json!({}), &["engineer"]),
        ("POST", "/deliveries/99/resend", json!({}), &["engineer"]),
    ]
}

#[tokio::test]
async fn every_write_is_asked_of_the_role() {
    let caller = Caller::new().await;
    for (method, path, body, allowed) in routes() {
        for role in ROLES {
            let answer = caller.call(method, path, Some(role), Some(body.clone())).await;
            let refused = answer.status == 403;
            assert_eq!(!refused, allowed.contains(&role), "{method} {path} as {role}: {}", answer.body);
            if refused {
                assert!(
                    answer.body["detail"].as_str().unwrap().starts_with(&format!("a {role} may not")),
                    "{}",
                    answer.body
                );
            }
        }
    }
}

#[tokio::test]
async fn new_master_data_is_the_engineers_people_the_administrators_and_crews_the_planners_too() {
    let caller = Caller::new().await;
    for role in ROLES {
        for (path, body) in [
            ("/assets", json!({"code": format!("A-{role}"), "name": "A", "level": "part"})),
            ("/meters", json!({"code": format!("M-{role}"), "asset": "P1", "kind": "measurement", "unit": "1"})),
            (
                "/people",
                json!({"code": format!("p-{role}"), "name": "P", "role": "viewer", "crew": null, "rate": null}),
            ),
            ("/crews", json!({"code": format!("c-{role}"), "name": "C", "department": "D", "weekly_hours": 40.0})),
            ("/equipment-classes", json!({"code": format!("k-{role}"), "name": "K"})),
            ("/calendars", json!({"code": format!("w-{role}"), "name": "W", "time_zone": "UTC", "hours": []})),
        ] {
            let status = caller.call("POST", path, Some(role), Some(body)).await.status;
            let allowed = match path {
                "/people" => false,
                "/crews" => matches!(role, "engineer" | "planner"),
                _ => role == "engineer",
            };
            assert_eq!(status, if allowed { 201 } else { 403 }, "{path} as {role}");
        }
    }
}

#[tokio::test]
async fn everybody_but_the_gateway_may_look() {
    let caller = Caller::new().await;
    for path in [
        "/settings",
        "/start",
        "/people",
        "/calendars",
        "/changes",
        "/master/assets",
        "/master/equipment-classes",
        "/master/meters?scope=P1&filter=kind:measurement",
        "/master/people?all=true",
        "/master/crews?sort=weekly_hours&descending=true",
        "/export/assets.csv",
        "/export/codebooks.json",
        "/export/readings.ndjson",
        "/crews",
        "/period?period=this_month",
        "/search?q=pump",
        "/assets?depth=3",
        "/assets/P1",
        "/meters",
        "/meters/BAR",
        "/meters/BAR/lanes",
        "/meters/BAR/readings",
        "/meters/BAR/ladder",
        "/meters/BAR/alarms",
        "/alarms",
        "/alarms?show=held&scope=P1",
        "/alarms/performance?period=this_month",
        "/families",
        "/families/pump/BAR",
        "/meters/BAR/ladder/changes?from=0&to=0",
        "/meters/BAR/reading-list",
        "/outbox",
        "/tags",
        "/export/limits.csv",
        "/work-orders",
        "/work-orders/1001",
        "/codebooks",
        "/tally?scope=P1&why=true",
        "/tally?by=month",
    ] {
        for role in ROLES {
            let answer = caller.call("GET", path, Some(role), None).await;
            assert_eq!(answer.status, if role == "gateway" { 403 } else { 200 }, "{path} as {role}: {}", answer.body);
        }
    }
    for role in ROLES {
        for path in ["/meters/BAR/replay", "/meters/BAR/proposals", "/meters/BAR/forecast", "/families/pump/BAR/replay"]
        {
            let answer = caller.call("POST", path, Some(role), Some(json!({}))).await;
            assert_eq!(answer.status, if role == "gateway" { 403 } else { 200 }, "{path} as {role}: {}", answer.body);
        }
        let secrets = caller.call("GET", "/webhooks", Some(role), None).await;
        assert_eq!(secrets.status, if role == "engineer" { 200 } else { 403 }, "webhooks as {role}");
    }
    let nobody = caller.call("GET", "/people", Some("nobody"), None).await;
    assert_eq!((nobody.status, nobody.body["detail"].as_str()), (403, Some("x-person names nobody: \"nobody\"")));
    let without = caller.call("GET", "/people", None, None).await;
    assert_eq!(without.body["acting"], "admin", "without the header the first administrator acts");
}

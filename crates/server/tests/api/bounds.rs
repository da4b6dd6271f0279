//! Beyond every bound that the description states, the server refuses the field by its name; within them it takes it.

use crate::caller::Caller;
use serde_json::{Value, json};
use std::collections::BTreeSet;

/// A body that goes beyond one bound, and the field that does.
struct Beyond {
    field: String,
    bound: &'static str,
    body: Value,
}

struct Walk<'a> {
    description: &'a Value,
    whole: &'a Value,
    /// Schema and field of all that is stated.
    stated: BTreeSet<(String, &'static str)>,
    found: Vec<Beyond>,
}

impl Walk<'_> {
    fn beyond(&mut self, field: &str, pointer: &str, bound: &'static str, value: Value) {
        let mut body = self.whole.clone();
        *body.pointer_mut(pointer).unwrap() = value;
        self.stated.insert((field.to_owned(), bound));
        self.found.push(Beyond { field: field.to_owned(), bound, body });
    }

    fn value(&mut self, schema: &Value, value: &Value, field: &str, pointer: &str) {
        if let Some(name) = schema["$ref"].as_str().and_then(|path| path.rsplit('/').next()) {
            return self.value(&self.description["components"]["schemas"][name], value, field, pointer);
        }
        for part in ["allOf", "oneOf", "anyOf"].iter().filter_map(|part| schema[part].as_array()).flatten() {
            self.value(part, value, field, pointer);
        }
        match value {
            Value::Object(fields) => {
                for (name, value) in fields {
                    let path = if field.is_empty() { name.clone() } else { format!("{field}.{name}") };
                    self.value(&schema["properties"][name], value, &path, &format!("{pointer}/{name}"));
                }
            }
            Value::Array(items) => {
                if let Some(most) = schema["maxItems"].as_u64() {
                    self.beyond(field, pointer, "maxItems", vec![items[0].clone(); most as usize + 1].into());
                }
                if let Some(least) = schema["minItems"].as_u64() {
                    self.beyond(field, pointer, "minItems", vec![items[0].clone(); least as usize - 1].into());
                }
                if let Some(first) = items.first() {
                    self.value(&schema["items"], first, &format!("{field}[0]"), &format!("{pointer}/0"));
                }
            }
            Value::String(_) => self.text(schema, field, pointer),
            Value::Number(_) => self.number(schema, field, pointer),
            Value::Null | Value::Bool(_) => {}
        }
    }

    fn text(&mut self, schema: &Value, field: &str, pointer: &str) {
        if let Some(most) = schema["maxLength"].as_u64() {
            self.beyond(field, pointer, "maxLength", "x".repeat(most as usize + 1).into());
        }
        if let Some(least) = schema["minLength"].as_u64() {
            self.beyond(field, pointer, "minLength", "x".repeat(least as usize - 1).into());
        }
        if schema["pattern"].is_string() {
            self.beyond(field, pointer, "pattern", "x\n y".into());
        }
    }

    fn number(&mut self, schema: &Value, field: &str, pointer: &str) {
        if let Some(least) = schema["minimum"].as_i64() {
            self.beyond(field, pointer, "minimum", (least - 1).into());
        }
        if let Some(least) = schema["exclusiveMinimum"].as_i64() {
            self.beyond(field, pointer, "exclusiveMinimum", least.into());
        }
        if let Some(most) = schema["maximum"].as_i64() {
            self.beyond(field, pointer, "maximum", (most + 1).into());
        }
    }
}

fn ladder() -> Value {
    let response = json!({"kind": "raise", "title": "Look", "text": "Look at it", "work_kind": "inspection",
        "risk_rank": 2, "start_within_days": 3, "estimated_hours": 1.5, "decides": "planner"});
    json!({"rungs": [{"side": "high", "severity": "alert", "setpoint": 7.0, "deadband": 0.5, "response": response,
        "cause": "Wear", "consequence": "Stop", "what_to_do": "Look"}]})
}

/// A body that is taken, for each write with bounds of its own, with as many fields as it has.
fn bodies() -> Vec<(&'static str, &'static str, &'static str, Value)> {
    let hours = json!([{"weekday": 0, "from_minute": 480, "to_minute": 960}]);
    let season = json!({"name": "Winter", "from": "2025-12-01", "to": "2026-03-01", "hours": hours});
    let calendar = json!({"code": "day", "name": "Day", "time_zone": "UTC", "hours": hours, "seasons": [season]});
    let entry = json!({"kind": "tool", "quantity": "1", "unit_price": "10", "description": "Puller"});
    let remedy = json!({"code": "R", "name": "Renew"});
    let cause = json!({"code": "C", "name": "Cause", "below": [remedy]});
    let codebook = json!({"name": "Pumps", "problems": [{"code": "P", "name": "Problem", "below": [cause]}]});
    let failure = json!({"effect": "critical", "failed_at": "2026-02-20T00:00:00Z", "asset": "P1"});
    let asset = json!({"code": "NEW", "name": "New", "level": "part", "parent": "P1", "maker": "M", "model": "X",
        "serial": "1", "tags": ["hot"], "replacement_value": 1, "downtime_cost": 2});
    let meter = json!({"code": "NEW", "asset": "P1", "name": "Hours", "kind": "counter", "unit": "h", "resolution": 0.1,
        "rollover_at": 10_000.0, "greatest_rate": 1.0});
    let settings = json!({"name": "Plant", "currency": "EUR", "minor_digits": 2, "fiscal_month": 1, "time_zone": "UTC",
        "rank_windows": [2, 7, 28, 90, 180], "state_limits": [{"state": "raised", "days": 3, "rank": 2, "undated": false}]});
    let work = json!({"title": "Mend", "kind": "inspection", "asset": "P1", "risk_rank": 3, "text": "t", "estimated_hours": 2});
    let change = json!({"title": "Mend it", "text": "t", "risk_rank": 4, "estimated_hours": 3, "reference": "4711"});
    vec![
        ("post", "/assets", "/assets", asset),
        ("post", "/meters", "/meters", meter),
        ("post", "/calendars", "/calendars", calendar),
        ("post", "/equipment-classes", "/equipment-classes", json!({"code": "new", "name": "New"})),
        ("post", "/crews", "/crews", json!({"code": "new", "name": "N", "department": "D", "weekly_hours": 80})),
        (
            "post",
            "/people",
            "/people",
            json!({"code": "new", "name": "N", "role": "viewer", "rate": 4_000, "mail": "n@plant.example"}),
        ),
        ("put", "/codebooks/{code}", "/codebooks/NEW", codebook),
        ("put", "/settings", "/settings", settings),
        ("post", "/work-orders", "/work-orders", work),
        ("patch", "/work-orders/{number}", "/work-orders/1001", change),
        ("post", "/work-orders/{number}/entries", "/work-orders/1001/entries", entry),
        (
            "post",
            "/work-orders/{number}/entries/{id}/reverse",
            "/work-orders/1001/entries/1/reverse",
            json!({"reason": "wrong"}),
        ),
        ("put", "/work-orders/{number}/failure", "/work-orders/1001/failure", failure),
        ("put", "/meters/{code}/ladder", "/meters/BAR/ladder", {
            let mut new = ladder();
            new["reason"] = "First".into();
            new
        }),
        ("put", "/families/{class}/{name}", "/families/pump/BAR", json!({"reason": "First", "ladder": ladder()})),
        (
            "put",
            "/meters/{code}/shelf",
            "/meters/BAR/shelf",
            json!({"reason": "Tests", "until": "2026-03-08T00:00:00Z"}),
        ),
        (
            "put",
            "/assets/{code}/out-of-use",
            "/assets/P1/out-of-use",
            json!({"reason": "Off season", "from": "2026-03-01T00:00:00Z"}),
        ),
        (
            "post",
            "/meters/{code}/void",
            "/meters/BAR/void",
            json!({"at": "2026-02-25T00:00:00Z", "reason": "Wrong meter"}),
        ),
        (
            "post",
            "/assets/{code}/move",
            "/assets/P1/move",
            json!({"parent": null, "at": "2026-02-28T00:00:00Z", "reason": "Rebuilt"}),
        ),
        ("put", "/tags", "/tags", json!({"tag": "PLC.7", "meter": "BAR", "unit": "bar"})),
        ("post", "/webhooks", "/webhooks", json!({"url": "http://127.0.0.1:9/", "secret": "0123456789abcdef"})),
    ]
}

/// Whether what is named is the field, or the list that it stands in.
fn is_at(field: &str, named: &str) -> bool {
    !named.is_empty() && field.strip_prefix(named).is_some_and(|rest| rest.is_empty() || rest.starts_with('['))
}

#[tokio::test]
async fn beyond_each_bound_the_field_is_refused_and_within_it_is_taken() {
    let description = fair_tally::openapi::description();
    let caller = Caller::new().await;
    let reading = json!([{"meter": "BAR", "at": "2026-02-25T00:00:00Z", "value": 3}]);
    assert_eq!(caller.call("POST", "/readings", None, Some(reading)).await.body["accepted"], 1);
    let (mut beyond, mut wrong) = (0, Vec::new());
    for (method, path, called, body) in bodies() {
        let operation = &description["paths"][format!("/api/v1{path}")][method];
        let schema = &operation["requestBody"]["content"]["application/json"]["schema"];
        assert!(schema.is_object(), "{method} {path}");
        let mut walk = Walk { description: &description, whole: &body, stated: BTreeSet::new(), found: vec![] };
        walk.value(schema, &body, "", "");
        assert!(!walk.found.is_empty(), "{method} {path} states no bound");
        for Beyond { field, bound, body } in &walk.found {
            let answer = caller.call(&method.to_uppercase(), called, None, Some(body.clone())).await;
            let told = answer.body["errors"][0]["field"].as_str().unwrap_or_default();
            if ![400, 422].contains(&answer.status) || !is_at(field, told) {
                wrong
                    .push(format!("{method} {path}: beyond the {bound} of {field}: {} {}", answer.status, answer.body));
            }
            beyond += 1;
        }
        let within = caller.call(&method.to_uppercase(), called, None, Some(body)).await;
        if ![200, 201].contains(&within.status) {
            wrong.push(format!("{method} {path}: within all bounds: {}", within.body));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
    assert!(beyond > 150, "{beyond}");
}

//! Every route that the API describes, for every role, inside and outside the part of the plant that somebody is given: inside
//! they may what their role may, outside there is nothing, and no answer names what stands there.

use crate::{
    caller::Caller,
    permissions::{self, Line, ROLES},
};
use serde_json::{Value, json};

/// What stands outside is called so, and nothing else is.
const MARK: &str = "ZZ";

/// Of the whole plant: refused to whoever is given a part, by method and path.
const WHOLE: &[(&str, &str)] = &[
    ("get", "/backups"),
    ("post", "/backups"),
    ("get", "/changes"),
    ("get", "/export/{file}"),
    ("get", "/outbox"),
    ("get", "/tags"),
    ("get", "/values"),
    ("get", "/webhooks"),
    ("put", "/settings"),
    ("post", "/settings/second-approval/approve"),
    ("delete", "/settings/second-approval/proposed"),
    ("post", "/assets"),
    ("post", "/assets/{code}/move"),
    ("put", "/assets/{code}/parent-effect"),
    ("put", "/assets/{code}/calendar"),
    ("post", "/equipment-classes"),
    ("post", "/calendars"),
    ("put", "/calendars/{code}"),
    ("post", "/crews"),
    ("post", "/values"),
    ("delete", "/values/{id}"),
    ("post", "/meters"),
    ("post", "/master/{kind}"),
    ("put", "/codebooks/{code}"),
    ("put", "/job-sheets/{code}"),
    ("put", "/check-sheets/{code}"),
    ("put", "/tags"),
    ("delete", "/tags/{tag}"),
    ("post", "/webhooks"),
    ("delete", "/webhooks/{id}"),
    ("post", "/webhooks/{id}/resend"),
    ("post", "/deliveries/{id}/resend"),
    ("put", "/families/{class}/{name}"),
    ("post", "/families/{class}/{name}/approve"),
    ("delete", "/families/{class}/{name}/proposed"),
];

async fn made(caller: &Caller, method: &str, path: &str, body: Value) -> Value {
    let answer = caller.call(method, path, None, Some(body)).await;
    assert!([200, 201].contains(&answer.status), "{path}: {} {}", answer.status, answer.body);
    answer.body
}

async fn give(caller: &Caller, kind: &str, code: &str, scope: &str) {
    let body = json!({"rows": [{"values": {"code": code, "scope": scope}}]});
    let receipt = made(caller, "POST", &format!("/master/{kind}"), body).await;
    assert_eq!(receipt["refused"], 0, "{receipt}");
}

/// A plant with a pump inside and one outside that has all the first one has, and everybody but the administrator given the
/// first.
async fn plant() -> Caller {
    let caller = Caller::new().await;
    let asset = |code: &str, name: &str, level: &str, parent: &str| json!({"code": code, "name": name, "level": level, "parent": parent, "class": "pump"});
    made(&caller, "POST", "/assets", asset("ZZ-U", "ZZ unit", "unit", "SITE")).await;
    made(&caller, "POST", "/assets", asset("ZZ-P", "ZZ pump", "equipment", "ZZ-U")).await;
    // Once it stood there: where an asset stood is told as far as it is reached.
    let to = |parent: &str, at: &str| json!({"parent": parent, "at": at, "reason": "swap"});
    made(&caller, "POST", "/assets/P1/move", to("ZZ-U", "2026-01-01T00:00:00Z")).await;
    made(&caller, "POST", "/assets/P1/move", to("SITE", "2026-01-02T00:00:00Z")).await;
    let meter = json!({"code": "ZZ-BAR", "name": "BAR", "asset": "ZZ-P", "kind": "measurement", "unit": "bar"});
    made(&caller, "POST", "/meters", meter).await;
    let order = json!({"title": "ZZ look", "kind": "inspection", "asset": "ZZ-P", "risk_rank": 3});
    made(&caller, "POST", "/work-orders", order).await;
    let book = json!({"name": "Pumps", "class": "pump", "problems": []});
    made(&caller, "PUT", "/codebooks/pumps", book).await;
    let february = "2026-02-01T00:00:00Z";
    for (asset, meter, order) in [("P1", "BAR", 1001), ("ZZ-P", "ZZ-BAR", 1002)] {
        let ladder = json!({"reason": "r", "rungs": [
            {"side": "high", "severity": "alert", "setpoint": 9.0, "response": {"kind": "record"}}]});
        made(&caller, "PUT", &format!("/meters/{meter}/ladder"), ladder).await;
        let readings = json!([{"meter": meter, "at": "2026-02-03T00:00:00Z", "value": 12.0},
            {"meter": meter, "at": "2026-02-02T00:00:00Z", "value": 13.0}]);
        for reading in readings.as_array().unwrap() {
            made(&caller, "POST", "/readings", json!([reading])).await;
        }
        let down = json!({"kind": "unplanned", "start": february, "note": format!("{asset} stood")});
        made(&caller, "POST", &format!("/assets/{asset}/downtime"), down).await;
        let entry =
            json!({"kind": "tool", "quantity": "1", "unit_price": "12345", "description": format!("for {asset}")});
        made(&caller, "POST", &format!("/work-orders/{order}/entries"), entry).await;
        let failure = json!({"failed_at": february, "effect": "incipient"});
        made(&caller, "PUT", &format!("/work-orders/{order}/failure"), failure).await;
    }
    let plan = json!({"code": "ZZ-P-UP", "name": "Look at ZZ-P", "asset": "ZZ-P", "status": "active", "every_days": "90",
        "first_due": "2026-12-04", "estimated_hours": "2"});
    let receipt = made(&caller, "POST", "/master/upkeep-plans", json!({"rows": [{"values": plan}]})).await;
    assert_eq!(receipt["added"], 1, "{receipt}");
    // Booked inside, on an order that stands outside.
    let entry = json!({"kind": "tool", "quantity": "1", "unit_price": "100", "description": "a crane", "asset": "P1"});
    made(&caller, "POST", "/work-orders/1002/entries", entry).await;
    for role in ROLES.into_iter().filter(|role| *role != "administrator") {
        give(&caller, "people", role, "P1").await;
    }
    let crew = json!({"rows": [{"values": {"code": "away", "name": "Away", "department": "D", "scope": "ZZ-U"}}]});
    made(&caller, "POST", "/master/crews", crew).await;
    caller
}

/// The same line asked of what stands outside; nothing where it names nothing that stands anywhere.
fn outside(line: &Line) -> Option<(String, Value)> {
    let there = |text: &str| {
        let ids = [
            ("/alarms/1/", "/alarms/2/"),
            ("/late-readings/1/", "/late-readings/2/"),
            ("/downtime/99/", "/downtime/2/"),
        ];
        let text = text.replace("1001", "1002").replace("P1", "ZZ-P").replace("M-BAR", "ZZ-BAR");
        // A family is called as its meters are.
        let text = if text.starts_with("/families") { text } else { text.replace("BAR", "ZZ-BAR") };
        ids.iter().fold(text, |text, (from, to)| text.replace(from, to))
    };
    let (_, _, called, body, _) = line;
    let (path, text) = (there(called), there(&body.to_string()));
    let asked: Value = serde_json::from_str(&text).unwrap();
    (path != *called || asked != *body).then_some((path, asked))
}

/// What is said besides what was asked.
fn told(body: &Value, asked: &str) -> String {
    let words = ["ZZ-P", "ZZ-BAR"].into_iter().filter(|word| asked.contains(word));
    words.fold(body.to_string(), |text, word| text.replace(word, ""))
}

#[tokio::test]
async fn inside_everybody_may_what_their_role_may_and_hears_of_nothing_else() {
    for role in ROLES.into_iter().filter(|role| *role != "administrator") {
        let caller = plant().await;
        let mut whole: Vec<(&str, &str)> = Vec::new();
        for (method, path, called, body, allowed) in permissions::all() {
            let sent = (!body.is_null()).then(|| body.clone());
            let answer = caller.call(&method.to_uppercase(), called, Some(role), sent).await;
            let (may, is_whole) = (allowed.contains(&role), WHOLE.contains(&(method, path)));
            // What is imported is of the whole plant, but for readings; and so is what people and crews are given.
            let kind = called.split(['/', '?']).nth(2).unwrap_or_default();
            let is_whole = is_whole || path == "/import/{kind}" && kind == "assets";
            let is_whole = is_whole
                || path == "/master/{kind}" && ["people", "crews", "upkeep-plans", "storeroom"].contains(&kind);
            let said = answer.body["detail"].as_str().unwrap_or_default();
            assert_eq!(answer.status != 403, may && !is_whole, "{method} {called} as {role}: {} {said}", answer.status);
            // What is nowhere is not there either.
            assert!(
                called.contains("99") || body.to_string().contains("99") || !said.contains("your part of the plant"),
                "{method} {called} as {role}: {said}"
            );
            if may && is_whole {
                assert_eq!(said, "this is of the whole plant, and you are given a part of it", "{method} {called}");
                whole.push((method, path));
            }
            // A secret may hold any letters.
            let heard = if path == "/work/feeds" && method == "post" { String::new() } else { answer.body.to_string() };
            assert!(!heard.contains(MARK), "{method} {called} as {role}: {heard}");
        }
        if role == "engineer" {
            let missed = WHOLE.iter().filter(|line| !whole.contains(line)).collect::<Vec<_>>();
            // Those that take an administrator anyway, or planners.
            assert!(missed.iter().all(|(method, path)| (*method, *path) == ("post", "/backups")), "{missed:?}");
        }
    }
}

/// Such a row is told, and nothing of its order.
#[tokio::test]
async fn what_is_booked_inside_says_nothing_of_an_order_outside() {
    let caller = plant().await;
    let ask = |text: &str| {
        json!({"columns": ["description", "order", "order_title", "order_state"], "text": text,
            "filter": [{"column": "cost", "from": "50", "to": "11000"}]})
    };
    let count = async |role: Option<&str>, text: &str| {
        let answer = caller.call("POST", "/lists/entries", role, Some(ask(text))).await;
        assert_eq!(answer.status, 200, "{}", answer.body);
        (answer.body["count"].as_u64().unwrap(), answer.body.to_string())
    };
    let (found, said) = count(Some("engineer"), "").await;
    assert_eq!((found, said.contains("a crane"), said.contains("1002")), (1, true, false), "{said}");
    // Nor is it found by the order's words or number.
    for text in ["look", "1002"] {
        assert_eq!((count(Some("engineer"), text).await.0, count(None, text).await.0), (0, 1), "{text}");
    }
}

/// What these tests look for is there to be found: whoever reaches everything is told of it at every turn.
#[tokio::test]
async fn who_reaches_everything_hears_of_it() {
    let caller = plant().await;
    let mut named = Vec::new();
    for (method, _, called, body, _) in permissions::all() {
        let is_look = method == "get" || called.starts_with("/lists") || called.starts_with("/families");
        if is_look && called != "/backups" {
            // As the whole is asked for.
            let called = called.replace("scope=P1", "scope=SITE");
            let sent = (!body.is_null()).then(|| body.clone());
            let answer = caller.call(&method.to_uppercase(), &called, None, sent).await;
            named.extend(answer.body.to_string().contains(MARK).then_some(called));
        }
    }
    assert!(named.len() > 20, "{named:?}");
}

#[tokio::test]
async fn outside_there_is_nothing_for_anybody() {
    let caller = plant().await;
    let before = changes(&caller).await;
    let mut asked = 0;
    for line in permissions::all() {
        let Some((called, body)) = outside(&line) else { continue };
        let (method, path, _, _, allowed) = line;
        for role in allowed.iter().copied().filter(|role| *role != "administrator") {
            let sent = (!body.is_null()).then(|| body.clone());
            let answer = caller.call(&method.to_uppercase(), &called, Some(role), sent).await;
            asked += 1;
            let named = format!("{called} {body}");
            // A batch says of each row why it is refused.
            let is_batch = path == "/readings" && answer.body["refused"].as_array().is_some_and(|rows| rows.len() == 1);
            let is_batch = is_batch || path == "/work-orders/several" && answer.body["refused"] == 1;
            let is_beyond = is_batch || [403, 404, 422].contains(&answer.status);
            assert!(is_beyond, "{method} {called} as {role}: {} {}", answer.status, answer.body);
            let said = told(&answer.body, &named);
            assert!(!said.contains(MARK), "{method} {called} as {role}: {said}");
            if answer.status != 403 {
                assert!(said.contains("in your part of the plant"), "{method} {called} as {role}: {said}");
            }
        }
    }
    assert!(asked > 150, "{asked} were asked");
    // Nobody wrote anything there.
    assert_eq!(changes(&caller).await, before);
}

/// The trail, but for who signed in, was refused, or took a file.
async fn changes(caller: &Caller) -> Vec<Value> {
    let mut trail = caller.call("GET", "/changes?limit=500", None, None).await.body.as_array().unwrap().clone();
    trail.retain(|change| !["session", "request", "file"].contains(&change["kind"].as_str().unwrap()));
    trail
}

/// Codes of the tree that somebody sees.
async fn tree(caller: &Caller, person: &str) -> Vec<String> {
    let nodes = caller.call("GET", "/assets?depth=9", Some(person), None).await.body;
    nodes.as_array().unwrap().iter().map(|node| node["code"].as_str().unwrap().to_owned()).collect()
}

#[tokio::test]
async fn what_is_given_counts_at_once_and_follows_the_tree() {
    let caller = plant().await;
    assert_eq!(tree(&caller, "engineer").await, ["P1"]);
    assert_eq!(tree(&caller, "administrator").await, ["SITE", "P1", "ZZ-U", "ZZ-P"]);
    give(&caller, "people", "engineer", "P1 | ZZ-U").await;
    assert_eq!(tree(&caller, "engineer").await, ["P1", "ZZ-U", "ZZ-P"]);
    // A figure is of one asset: with two given, one is chosen.
    let figure = |scope: &str| format!("/tally?indicators=open_work&scope={scope}");
    let said = caller.call("GET", &figure(""), Some("engineer"), None).await;
    assert_eq!((said.status, said.body["errors"][0]["field"].as_str()), (400, Some("scope")), "{}", said.body);
    assert_eq!(caller.call("GET", &figure("ZZ-U"), Some("engineer"), None).await.status, 200);
    // With one, that is what there is.
    let of_planner = caller.call("GET", &figure(""), Some("planner"), None).await.body;
    assert_eq!(of_planner["rows"][0]["asset"], "P1", "{of_planner}");
    // What is moved away is gone with the next question.
    let to = json!({"parent": "ZZ-U", "at": "2026-02-20T00:00:00Z", "reason": "swap"});
    made(&caller, "POST", "/assets/P1/move", to).await;
    give(&caller, "people", "engineer", "ZZ-U").await;
    assert_eq!(tree(&caller, "engineer").await, ["ZZ-U", "P1", "ZZ-P"]);
    let back = json!({"parent": "SITE", "at": "2026-02-21T00:00:00Z", "reason": "swap"});
    made(&caller, "POST", "/assets/P1/move", back).await;
    assert_eq!(tree(&caller, "engineer").await, ["ZZ-U", "ZZ-P"]);
    give(&caller, "people", "engineer", "").await;
    assert_eq!(tree(&caller, "engineer").await, ["SITE", "P1", "ZZ-U", "ZZ-P"]);
}

#[tokio::test]
async fn what_a_crew_is_given_all_of_it_see() {
    let caller = plant().await;
    let crew = json!({"code": "mech", "name": "Mechanics", "department": "M", "weekly_hours": 40.0});
    made(&caller, "POST", "/crews", crew).await;
    for person in ["planner", "administrator"] {
        let body = json!({"rows": [{"values": {"code": person, "crew": "mech", "scope": ""}}]});
        made(&caller, "POST", "/master/people", body).await;
    }
    give(&caller, "crews", "mech", "ZZ-P").await;
    assert_eq!(tree(&caller, "planner").await, ["ZZ-P"]);
    give(&caller, "people", "planner", "P1").await;
    assert_eq!(tree(&caller, "planner").await, ["P1", "ZZ-P"]);
    // An administrator says what others see; a planner, who keeps the crews, does not.
    assert_eq!(tree(&caller, "administrator").await, ["SITE", "P1", "ZZ-U", "ZZ-P"]);
    give(&caller, "people", "planner", "").await;
    give(&caller, "crews", "mech", "").await;
    let body = json!({"rows": [{"values": {"code": "mech", "scope": "P1"}}]});
    let refused = caller.call("POST", "/master/crews", Some("planner"), Some(body)).await;
    assert_eq!(refused.status, 422);
    assert!(refused.body.to_string().contains("a planner may not change people"), "{}", refused.body);
}

#[tokio::test]
async fn who_can_not_be_bounded_is_told_why() {
    let caller = plant().await;
    for (code, values, reason) in [
        ("administrator", json!({"scope": "P1"}), "an administrator has none"),
        ("engineer", json!({"role": "administrator"}), "an administrator has none"),
        ("engineer", json!({"scope": "NONE"}), "there is no asset"),
    ] {
        let mut values = values;
        values["code"] = code.into();
        let body = json!({"rows": [{"values": values}]});
        let refused = caller.call("POST", "/master/people", None, Some(body)).await.body;
        assert_eq!(refused["errors"][0]["field"], "scope", "{refused}");
        assert!(refused["errors"][0]["reason"].as_str().unwrap().contains(reason), "{refused}");
    }
    assert_eq!(tree(&caller, "engineer").await, ["P1"]);
}

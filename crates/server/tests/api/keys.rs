//! Keys of gateways and scripts, numbers at shared devices, and what of both stands in the trail.

use crate::caller::Caller;
use crate::session::{GOOD, at, body, code, cookie, now, set, trail};
use serde_json::{Value, json};
use tally_core::ground::time::{DAY, MINUTE};

/// A gateway's key sends readings below its asset and does nothing else; revoked in the middle of sending, it is out.
#[tokio::test]
async fn a_key_sends_until_it_is_revoked_or_over() {
    let caller = Caller::new().await;
    let asset = json!({"code": "P2", "name": "Pump two", "level": "equipment", "parent": "SITE"});
    caller.call("POST", "/assets", None, Some(asset)).await;
    caller
        .call(
            "POST",
            "/meters",
            None,
            Some(json!({"code": "RPM", "asset": "P2", "kind": "measurement", "unit": "rpm"})),
        )
        .await;
    let new = |name: &str, scope: Value, until: Value| json!({"name": name, "role": "gateway", "scope": scope, "expires_at": until});
    for (body, field) in [
        (new("", Value::Null, Value::Null), "name"),
        (new("a b", Value::Null, Value::Null), "name"),
        (new("north", json!("NONE"), Value::Null), "scope"),
        (new("north", Value::Null, json!(now())), "expires_at"),
        (json!({"name": "north", "role": "administrator", "scope": "P1"}), "scope"),
    ] {
        let refused = caller.call("POST", "/keys", None, Some(body)).await;
        assert_eq!((refused.status, &refused.body["errors"][0]["field"]), (422, &json!(field)), "{}", refused.body);
    }
    let made = caller.call("POST", "/keys", None, Some(new("north", json!("P1"), json!(now().plus(DAY))))).await;
    assert_eq!(made.status, 201, "{}", made.body);
    let key = format!("Bearer {}", made.body["key"].as_str().unwrap());
    for taken in ["north", "viewer"] {
        assert_eq!(caller.call("POST", "/keys", None, Some(new(taken, Value::Null, Value::Null))).await.status, 409);
    }
    let send = async |minute: i64| {
        let rows =
            ["BAR", "RPM", "NONE"].map(|meter| json!({"meter": meter, "at": now().plus(-minute * MINUTE), "value": 1}));
        caller.unsigned("POST", "/readings?source=gateway", &[("authorization", key.as_str())], json!(rows)).await
    };
    let receipt = body(send(1).await).await;
    assert_eq!(receipt["accepted"], 1, "{receipt}");
    // What lies elsewhere and what is nowhere is refused in the same words.
    for (place, meter) in ["RPM", "NONE"].iter().enumerate() {
        let reason = format!("there is no meter {meter:?} in your part of the plant");
        assert_eq!(receipt["refused"][place]["reason"], reason);
    }
    for (method, path) in [("GET", "/people"), ("GET", "/meters"), ("GET", "/sessions"), ("GET", "/live")] {
        let answer = caller.unsigned(method, path, &[("authorization", key.as_str())], Value::Null).await;
        assert_eq!(answer.status(), 403, "{path}");
    }
    let listed = caller.call("GET", "/keys", None, None).await.body;
    assert_eq!(
        (&listed[0]["name"], &listed[0]["scope"], &listed[0]["works"]),
        (&json!("north"), &json!("P1"), &json!(true))
    );
    assert_eq!(caller.call("DELETE", "/keys/north", None, None).await.status, 204);
    assert_eq!(send(2).await.status(), 401);
    assert_eq!(caller.call("DELETE", "/keys/north", None, None).await.status, 409);
    // It is nobody to sign in as, and nobody to give work to.
    let people = caller.call("GET", "/people", None, None).await.body["people"].to_string();
    assert!(!people.contains("north") && !people.contains("(clock)"), "{people}");
    assert_eq!(caller.call("POST", "/people/north/reset-code", None, None).await.status, 404);

    let day = caller.call("POST", "/keys", None, Some(new("day", Value::Null, json!(now().plus(DAY))))).await.body;
    let day = format!("Bearer {}", day["key"].as_str().unwrap());
    let clock = async || caller.unsigned("GET", "/clock", &[("authorization", day.as_str())], Value::Null).await;
    assert_eq!(clock().await.status(), 200);
    at(&caller, now().plus(DAY)).await;
    assert_eq!(clock().await.status(), 401, "from its end on");
}

/// A key neither approves nor makes keys, whatever its role; what else its role may, it may.
#[tokio::test]
async fn a_key_is_no_second_engineer() {
    let caller = Caller::new().await;
    let made = caller.call("POST", "/keys", None, Some(json!({"name": "script", "role": "administrator"}))).await.body;
    let key = format!("Bearer {}", made["key"].as_str().unwrap());
    let ask = async |method: &'static str, path: &'static str, body: Value| {
        caller.unsigned(method, path, &[("authorization", key.as_str())], body).await
    };
    let twice = json!({"name": "Plant", "currency": "EUR", "minor_digits": 2, "fiscal_month": 1, "time_zone": "UTC",
        "locale": "en-GB", "rank_windows": [2, 7, 28, 90, 180], "second_approval": true});
    let settings = caller.call("PUT", "/settings", None, Some(twice)).await;
    assert_eq!(settings.status, 200, "{}", settings.body);
    let rung = json!({"side": "high", "severity": "danger", "setpoint": 9.0, "response": {"kind": "record"}});
    let ladder = json!({"reason": "r", "rungs": [rung]});
    assert_eq!(caller.call("PUT", "/meters/BAR/ladder", Some("engineer"), Some(ladder)).await.status, 200);
    let refused = ask("POST", "/meters/BAR/ladder/approve", json!({})).await;
    assert_eq!(refused.status(), 403);
    assert_eq!(body(refused).await["detail"], "a person approves, signed in as such, and not a key");
    let refused = ask("POST", "/keys", json!({"name": "more", "role": "administrator"})).await;
    assert_eq!(body(refused).await["detail"], "a key makes no keys");
    assert_eq!(ask("GET", "/people", Value::Null).await.status(), 200);
    let raised = json!({"title": "t", "kind": "inspection", "asset": "P1", "risk_rank": 3});
    let raised = body(ask("POST", "/work-orders", raised).await).await;
    let order = caller.call("GET", &format!("/work-orders/{}", raised["number"]), None, None).await.body;
    assert!(order.to_string().contains("script"), "the key's name stands with what it did: {order}");
}

/// An address on the machine or in a private network is refused where nobody allowed it.
#[tokio::test]
async fn webhooks_go_into_private_networks_only_where_it_is_allowed() {
    let caller = Caller::new().await;
    let hook = |url: &str| json!({"url": url, "secret": "0123456789abcdef"});
    for (url, status) in [("http://127.0.0.1:9/", 201), ("http://10.0.0.5/hook", 422), ("http://169.254.169.254/", 422)]
    {
        let answer = caller.call("POST", "/webhooks", None, Some(hook(url))).await;
        assert_eq!(answer.status, status, "{url}: {}", answer.body);
        assert!(status == 201 || answer.body["errors"][0]["field"] == "url", "{}", answer.body);
    }
    let kept = caller.call("GET", "/webhooks", None, None).await.body["webhooks"].as_array().unwrap().len();
    assert_eq!(kept, 1, "what is refused is not kept");
}

/// A number changes places at a device that an administrator shared and nowhere else, opens nothing that asks for a password, and
/// counts no more after ten wrong ones, whatever the server forgot meanwhile.
#[tokio::test]
async fn a_number_counts_at_a_shared_device_and_for_a_few_tries() {
    let caller = Caller::new().await;
    let given = code(&caller, "engineer").await;
    let hers = cookie(&set(&caller, "engineer", &given, GOOD).await);
    let ask = async |method: &'static str, path: &'static str, cookies: &str, given: Value| {
        caller.unsigned(method, path, &[("cookie", cookies)], given).await
    };
    for (pin, status) in [("12345", 422), ("123456", 422), ("518203", 204)] {
        assert_eq!(ask("PUT", "/session/pin", &hers, json!({"pin": pin})).await.status(), status, "{pin}");
    }
    let own = body(ask("GET", "/sessions", &hers, Value::Null).await).await;
    assert_eq!((&own["may_have_pin"], &own["pin_counts"]), (&json!(true), &json!(true)));
    let admin = caller.call("PUT", "/session/pin", None, Some(json!({"pin": "518203"}))).await;
    assert_eq!((admin.status, &admin.body["errors"][0]["field"]), (422, &json!("pin")));

    let right = || json!({"person": "engineer", "pin": "518203"});
    assert_eq!(ask("POST", "/session/pin", "", right()).await.status(), 401, "at any device");
    assert_eq!(ask("POST", "/session/pin", "fair-tally-device-0=guessed", right()).await.status(), 401);
    let shared = ask("POST", "/devices", &caller.cookie(None), json!({"name": "Hall"})).await;
    assert_eq!(shared.status(), 201);
    let device = cookie(&shared);
    let seen = body(ask("GET", "/session", &device, Value::Null).await).await;
    assert_eq!(seen["shared"], json!({"name": "Hall", "people": [{"code": "engineer", "name": "engineer"}]}));

    let came = ask("POST", "/session/pin", &device, right()).await;
    assert_eq!(came.status(), 200);
    let session = cookie(&came);
    // Who signs in in a browser ends the session that it had.
    let both = format!("{session}; {device}");
    let again = ask("POST", "/session/pin", &both, right()).await;
    assert_eq!(ask("GET", "/people", &session, Value::Null).await.status(), 401);
    let session = cookie(&again);
    assert_eq!(ask("GET", "/people", &session, Value::Null).await.status(), 200);
    let approval = ask("POST", "/meters/BAR/ladder/approve", &session, json!({})).await;
    assert_eq!((approval.status().as_u16(), body(approval).await["needs"].clone()), (401, json!("password")));
    let other = ask("PUT", "/session/pin", &session, json!({"pin": "640193"})).await;
    assert_eq!(other.status(), 401, "a number makes no number");

    let wrong = || json!({"person": "engineer", "pin": "640193"});
    for minute in 1..=10 {
        at(&caller, now().plus(minute * MINUTE)).await;
        assert_eq!(ask("POST", "/session/pin", &device, wrong()).await.status(), 401, "{minute}");
    }
    at(&caller, now().plus(3 * 60 * MINUTE)).await;
    assert_eq!(ask("POST", "/session/pin", &device, right()).await.status(), 401, "after ten wrong ones");
    let seen = body(ask("GET", "/session", &device, Value::Null).await).await;
    assert_eq!(seen["shared"]["people"], json!([]));
    let own = body(ask("GET", "/sessions", &hers, Value::Null).await).await;
    assert_eq!(own["pin_counts"], json!(false));
    // Set anew with the password, it counts again, until the device is shared no more.
    assert_eq!(ask("POST", "/session/again", &hers, json!({"password": GOOD})).await.status(), 204);
    assert_eq!(ask("PUT", "/session/pin", &hers, json!({"pin": "640193"})).await.status(), 204);
    assert_eq!(ask("POST", "/session/pin", &device, wrong()).await.status(), 200);
    let id = caller.call("GET", "/devices", None, None).await.body[0]["id"].clone();
    assert_eq!(caller.call("DELETE", &format!("/devices/{id}"), None, None).await.status, 204);
    assert_eq!(ask("POST", "/session/pin", &device, wrong()).await.status(), 401);
    // A code, which is asked for when a device is lost, takes the number with it.
    let given = code(&caller, "engineer").await;
    let hers = cookie(&set(&caller, "engineer", &given, GOOD).await);
    let own = body(ask("GET", "/sessions", &hers, Value::Null).await).await;
    assert_eq!(own["pin_counts"], Value::Null);
}

/// Whoever is refused something for who they are, and whoever takes a file away, stands in the trail.
#[tokio::test]
async fn refusals_and_files_are_in_the_trail() {
    let caller = Caller::new().await;
    for _ in 0..3 {
        assert_eq!(caller.call("GET", "/keys", Some("viewer"), None).await.status, 403);
    }
    assert_eq!(caller.call("GET", "/export/people.csv", Some("manager"), None).await.status, 200);
    assert_eq!(caller.call("GET", "/lists/work.csv/file", Some("planner"), None).await.status, 200);
    let told = async || trail(&caller.call("GET", "/changes?limit=500", None, None).await);
    // They are taken down while the answers go out.
    let lines = ["was refused GET /keys", "took people.csv", "took work.csv"];
    for _ in 0..200 {
        let told = told().await;
        if lines.iter().all(|line| told.iter().any(|told| told == line)) {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(10)).await;
    }
    let told = told().await;
    let count = |line: &str| told.iter().filter(|told| *told == line).count();
    for line in lines {
        assert_eq!(count(line), 1, "{line}: {told:?}");
    }
}

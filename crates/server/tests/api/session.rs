//! Signing in and out: with a password, with a code, with a key; what ends a session, and what takes a fresh one.

use crate::caller::{Answer, Caller};
use axum::{body::Body, http::Response};
use serde_json::{Value, json};
use tally_core::ground::time::{HOUR, Instant, MINUTE};

pub const GOOD: &str = "gravel ladder oyster";
const OTHER: &str = "harbour pencil thunder";

pub fn now() -> Instant {
    Instant::parse("2026-03-01T00:00:00Z").unwrap()
}

pub async fn body(response: Response<Body>) -> Value {
    let bytes = axum::body::to_bytes(response.into_body(), usize::MAX).await.unwrap();
    serde_json::from_slice(&bytes).unwrap_or_default()
}

/// The cookie that an answer sets, as a browser sends it back.
pub fn cookie(response: &Response<Body>) -> String {
    let set = response.headers()["set-cookie"].to_str().unwrap();
    assert!(set.ends_with("; HttpOnly; SameSite=Lax") && set.contains("; Path=/; "), "{set}");
    set.split(';').next().unwrap().to_owned()
}

/// A code for that person, made by an administrator.
pub async fn code(caller: &Caller, person: &str) -> String {
    let made = caller.call("POST", &format!("/people/{person}/reset-code"), None, None).await;
    assert_eq!(made.status, 201, "{}", made.body);
    made.body["code"].as_str().unwrap().to_owned()
}

pub async fn set(caller: &Caller, person: &str, code: &str, password: &str) -> Response<Body> {
    let body = json!({"person": person, "code": code, "password": password});
    caller.unsigned("POST", "/session/code", &[], body).await
}

pub async fn sign_in(caller: &Caller, person: &str, password: &str) -> Response<Body> {
    caller.unsigned("POST", "/session", &[], json!({"person": person, "password": password})).await
}

/// Who the server takes the owner of a cookie for.
pub async fn who(caller: &Caller, cookie: &str) -> Value {
    let answer = caller.unsigned("GET", "/session", &[("cookie", cookie)], Value::Null).await;
    body(answer).await["signed_in"]["code"].clone()
}

pub async fn status(caller: &Caller, cookie: &str, method: &str, path: &str) -> u16 {
    caller.unsigned(method, path, &[("cookie", cookie)], Value::Null).await.status().as_u16()
}

pub async fn at(caller: &Caller, instant: Instant) {
    let set = caller.call("PUT", "/clock", None, Some(json!({"now": instant}))).await;
    assert_eq!(set.status, 200, "{}", set.body);
}

/// All changes that are told of one kind of thing, the newest first: what was done, to whom, and by whom.
pub fn trail(answer: &Answer) -> Vec<String> {
    let changes = answer.body.as_array().unwrap_or_else(|| panic!("{}", answer.body));
    changes.iter().map(|one| format!("{} {}", one["action"].as_str().unwrap(), one["code"].as_str().unwrap())).collect()
}

/// From nobody to a technician who signs in: the whole way, and what each wrong step is answered.
#[tokio::test]
async fn a_code_sets_a_password_once_and_the_password_signs_in() {
    let caller = Caller::new().await;
    let first = body(caller.unsigned("GET", "/session", &[], Value::Null).await).await;
    assert_eq!(
        first,
        json!({"signed_in": null, "scope": [], "is_first": true, "has_passkeys": false, "shared": null, "demo": []})
    );
    let given = code(&caller, "technician").await;
    for (wrong, password, status, says) in [
        ("AAAA-AAAA-AAAA", GOOD, 401, "the code is not right"),
        (given.as_str(), "short", 422, "password: has 5 characters"),
        (given.as_str(), "technician12", 422, "password: is among the first"),
    ] {
        let refused = set(&caller, "technician", wrong, password).await;
        assert_eq!(refused.status(), status);
        assert!(body(refused).await["detail"].as_str().unwrap().starts_with(says), "{wrong}");
    }
    let lowered = given.to_lowercase().replace('-', " ");
    let entered = set(&caller, "TECHNICIAN", &lowered, GOOD).await;
    assert_eq!(entered.status(), 200);
    assert_eq!(who(&caller, &cookie(&entered)).await, "technician");
    assert_eq!(set(&caller, "technician", &given, OTHER).await.status(), 401, "a code works once");

    for (person, password) in [("technician", OTHER), ("nobody", GOOD), ("viewer", GOOD), ("", "")] {
        let refused = sign_in(&caller, person, password).await;
        let problem = body(refused).await;
        assert_eq!(problem["detail"], "no active person has this code with this password", "{person}");
        assert_eq!((&problem["status"], &problem["needs"]), (&json!(401), &json!("sign_in")));
    }
    let entered = sign_in(&caller, " Technician ", GOOD).await;
    assert_eq!(entered.status(), 200);
    let session = cookie(&entered);
    assert_eq!(entered.headers()["cache-control"], "no-store", "no cache keeps what one person saw for the next");
    assert_eq!(status(&caller, &session, "GET", "/work-orders").await, 200);
    assert_eq!(status(&caller, &session, "GET", "/keys").await, 403, "it is the technician's own role");
    assert_eq!(status(&caller, &session, "DELETE", "/session").await, 204);
    assert_eq!(status(&caller, &session, "GET", "/work-orders").await, 401);

    let found = trail(&caller.call("GET", "/changes?text=refused%20Session%20nobody", None, None).await);
    assert_eq!(found, ["was refused nobody"], "the trail is searched by words");
    let told = trail(&caller.call("GET", "/changes?limit=50", None, None).await);
    for wanted in
        ["signed in technician", "was refused nobody", "was refused viewer", "set technician", "ended technician"]
    {
        assert!(told.iter().any(|line| line == wanted), "{wanted}: {told:?}");
    }
}

#[tokio::test]
async fn a_code_is_over_after_an_hour_and_the_newest_alone_works() {
    let caller = Caller::new().await;
    let old = code(&caller, "viewer").await;
    let new = code(&caller, "viewer").await;
    assert_eq!(set(&caller, "viewer", &old, GOOD).await.status(), 401);
    at(&caller, now().plus(HOUR)).await;
    assert_eq!(set(&caller, "viewer", &new, "short").await.status(), 422, "to the minute it works");
    at(&caller, now().plus(HOUR + 1)).await;
    assert_eq!(set(&caller, "viewer", &new, GOOD).await.status(), 401);
    assert_eq!(caller.call("POST", "/people/nobody/reset-code", None, None).await.status, 404);
}

/// Guessing is slowed, also with many at once; the right password is looked at after the wait, and ends it.
#[tokio::test(flavor = "multi_thread")]
async fn guessing_waits() {
    let caller = Caller::new().await;
    let given = code(&caller, "viewer").await;
    set(&caller, "viewer", &given, GOOD).await;
    let caller = std::sync::Arc::new(caller);
    let tries = (0..12).map(|n| {
        let (caller, wrong) = (caller.clone(), format!("wrong password {n}"));
        tokio::spawn(async move { sign_in(&caller, "viewer", &wrong).await.status().as_u16() })
    });
    let mut all = Vec::new();
    for one in tries.collect::<Vec<_>>() {
        all.push(one.await.unwrap());
    }
    all.sort_unstable();
    assert_eq!(all, [[401; 5].as_slice(), &[429; 7]].concat());
    let waits = sign_in(&caller, "viewer", GOOD).await;
    assert_eq!((waits.status().as_u16(), waits.headers()["retry-after"].to_str().unwrap()), (429, "1"));
    assert_eq!(body(waits).await["detail"], "there were too many wrong tries; try again in 1 s");
    at(&caller, now().plus(1_000)).await;
    assert_eq!(sign_in(&caller, "viewer", GOOD).await.status(), 200);
    assert_eq!(sign_in(&caller, "viewer", "wrong again").await.status(), 401, "it begins anew");
}

/// Whatever ends a session ends it at once: idleness, age, another's press, a new password, being made inactive.
#[tokio::test]
async fn a_session_ends_by_each_of_its_ends() {
    let caller = Caller::new().await;
    let given = code(&caller, "planner").await;
    let first = cookie(&set(&caller, "planner", &given, GOOD).await);
    let second = cookie(&sign_in(&caller, "planner", GOOD).await);
    let third = cookie(&sign_in(&caller, "planner", GOOD).await);

    let own = caller.unsigned("GET", "/sessions", &[("cookie", &second)], Value::Null).await;
    let own = body(own).await["sessions"].as_array().unwrap().clone();
    assert_eq!(own.iter().filter(|one| one["is_this"] == true).count(), 1);
    assert_eq!(own.len(), 3);
    let others = own.iter().filter(|one| one["is_this"] == false).map(|one| one["id"].as_i64().unwrap());
    let newest = others.max().unwrap();
    assert_eq!(status(&caller, &second, "DELETE", &format!("/sessions/{newest}")).await, 204);
    assert_eq!(status(&caller, &second, "DELETE", &format!("/sessions/{newest}")).await, 404);
    assert_eq!((who(&caller, &third).await, who(&caller, &first).await), (Value::Null, json!("planner")));
    let ended = caller.unsigned("DELETE", "/sessions", &[("cookie", &second)], Value::Null).await;
    assert_eq!(body(ended).await, json!({"ended": 1}));
    assert_eq!((who(&caller, &first).await, who(&caller, &second).await), (Value::Null, json!("planner")));

    // Another's session is not there to be ended.
    let mine = cookie(&sign_in(&caller, "planner", GOOD).await);
    let id = caller.call("GET", "/sessions", Some("engineer"), None).await.body["sessions"][0]["id"].clone();
    assert_eq!(status(&caller, &mine, "DELETE", &format!("/sessions/{id}")).await, 404);

    let change = async |password: &'static str, new: &'static str| {
        let body = json!({"password": password, "new_password": new});
        caller.unsigned("PUT", "/session/password", &[("cookie", second.as_str())], body).await
    };
    assert_eq!(body(change("not mine at all", OTHER).await).await["detail"], "password: is not yours");
    let refused = body(change(GOOD, "password1234").await).await;
    assert_eq!(refused["errors"][0]["field"], "new_password", "{refused}");
    assert_eq!(change(GOOD, OTHER).await.status(), 204);
    assert_eq!((who(&caller, &mine).await, who(&caller, &second).await), (Value::Null, json!("planner")));
    assert_eq!(sign_in(&caller, "planner", GOOD).await.status(), 401, "the old one is gone");

    // An hour idle, seen, and idle again: sixteen hours from when it was seen.
    at(&caller, now().plus(HOUR)).await;
    assert_eq!(status(&caller, &second, "GET", "/people").await, 200);
    // That it is used is written down while the answer goes out.
    let seen = || async { body(caller.unsigned("GET", "/sessions", &[("cookie", &second)], Value::Null).await).await };
    while seen().await["sessions"][0]["seen_at"] != json!(now().plus(HOUR)) {
        tokio::time::sleep(std::time::Duration::from_millis(5)).await;
    }
    at(&caller, now().plus(17 * HOUR + 1)).await;
    assert_eq!(who(&caller, &second).await, Value::Null);
    at(&caller, now()).await;

    let lost = cookie(&sign_in(&caller, "planner", OTHER).await);
    assert_eq!(caller.call("DELETE", "/people/nobody/sessions", None, None).await.status, 404);
    let ended = caller.call("DELETE", "/people/planner/sessions", None, None).await;
    assert!(ended.body["ended"].as_i64().unwrap() >= 1, "{}", ended.body);
    assert_eq!(who(&caller, &lost).await, Value::Null, "an administrator ends the sessions of a lost phone");

    let again = cookie(&sign_in(&caller, "planner", OTHER).await);
    let gone = json!({"rows": [{"values": {"code": "planner", "active": "no"}}]});
    assert_eq!(caller.call("POST", "/master/people", None, Some(gone)).await.status, 200);
    assert_eq!(status(&caller, &again, "GET", "/people").await, 401, "at once");
    assert_eq!(sign_in(&caller, "planner", OTHER).await.status(), 401);
    let back = json!({"rows": [{"values": {"code": "planner", "active": "yes"}}]});
    assert_eq!(caller.call("POST", "/master/people", None, Some(back)).await.status, 200);
    assert_eq!(who(&caller, &again).await, Value::Null, "who comes back signs in again");
}

/// A role that changes counts from the next request on.
#[tokio::test]
async fn a_role_is_that_of_now() {
    let caller = Caller::new().await;
    let given = code(&caller, "planner").await;
    let session = cookie(&set(&caller, "planner", &given, GOOD).await);
    assert_eq!(status(&caller, &session, "GET", "/tally?depth=0").await, 200);
    let becomes = json!({"rows": [{"values": {"code": "planner", "role": "requester"}}]});
    assert_eq!(caller.call("POST", "/master/people", None, Some(becomes)).await.status, 200);
    assert_eq!(status(&caller, &session, "GET", "/tally?depth=0").await, 403);
}

/// People, keys and approvals are decided on shortly after the password was given; a key gives itself each time.
#[tokio::test]
async fn what_opens_the_door_takes_a_fresh_password() {
    let caller = Caller::new().await;
    let given = code(&caller, "administrator").await;
    let session = cookie(&set(&caller, "administrator", &given, GOOD).await);
    let ask = async |method: &'static str, path: &'static str, given: Value| {
        let answer = caller.unsigned(method, path, &[("cookie", session.as_str())], given).await;
        let status = answer.status().as_u16();
        (status, body(answer).await["needs"].clone())
    };
    let person = |code: &str| json!({"code": code, "name": "New", "role": "viewer"});
    at(&caller, now().plus(15 * MINUTE)).await;
    assert_eq!(ask("POST", "/people", person("one")).await, (201, Value::Null));
    at(&caller, now().plus(15 * MINUTE + 1)).await;
    let rows = json!({"rows": [{"values": {"code": "one", "role": "administrator"}}]});
    for (method, path, body) in [
        ("POST", "/people", person("two")),
        ("POST", "/master/people", rows),
        ("POST", "/people/one/reset-code", Value::Null),
        ("POST", "/keys", json!({"name": "north", "role": "gateway"})),
        ("DELETE", "/keys/north", Value::Null),
        ("POST", "/meters/BAR/ladder/approve", json!({})),
        ("POST", "/settings/second-approval/approve", Value::Null),
    ] {
        assert_eq!(ask(method, path, body).await, (401, json!("password")), "{path}");
    }
    assert_eq!(
        ask("POST", "/crews", json!({"code": "c", "name": "C", "department": "D", "weekly_hours": 40})).await.0,
        201
    );
    assert_eq!(ask("POST", "/session/again", json!({"password": "another one"})).await.0, 422);
    assert_eq!(ask("POST", "/people", person("two")).await.0, 401);
    assert_eq!(ask("POST", "/session/again", json!({"password": GOOD})).await.0, 204);
    assert_eq!(ask("POST", "/people", person("two")).await, (201, Value::Null));
}

/// Nothing of the demo's press exists elsewhere, and of secrets nothing is kept.
#[tokio::test]
async fn no_press_signs_in_here_and_no_secret_is_kept() {
    let (caller, store) = Caller::with_store().await;
    let pressed = caller.unsigned("POST", "/session/demo", &[], json!({"person": "administrator"})).await;
    assert_eq!(pressed.status(), 404);
    let given = code(&caller, "administrator").await;
    let header = [("idempotency-key", "k1")];
    let chosen = json!({"person": "administrator", "code": given, "password": GOOD});
    let entered = caller.unsigned("POST", "/session/code", &header, chosen).await;
    let session = cookie(&entered);
    let headers = [("cookie", session.as_str()), ("idempotency-key", "k2")];
    let made = caller.unsigned("POST", "/keys", &headers, json!({"name": "north", "role": "gateway"})).await;
    let key = body(made).await["key"].as_str().unwrap().to_owned();
    let wrong = "this is a wrong password";
    assert_eq!(sign_in(&caller, "administrator", wrong).await.status(), 401);
    store.checkpoint().unwrap();
    let kept = std::fs::read(store.path()).unwrap();
    let holds = |text: &str| kept.windows(text.len()).any(|window| window == text.as_bytes());
    assert!(holds("$argon2id$v=19$m=19456,t=2,p=1$"), "the file is what is looked through");
    let token = session.split_once('=').unwrap().1;
    for secret in [GOOD, token, key.as_str(), key.trim_start_matches("fairtally_"), given.as_str(), wrong] {
        assert!(!holds(secret), "{secret} is in the file");
    }
    assert!(!holds(&given.replace('-', "")));
}

/// Pressed twice, both presses sign in: that the session of before has ended already is nothing to either.
#[tokio::test(flavor = "multi_thread")]
async fn signing_in_twice_at_once_signs_in_twice() {
    let caller = Caller::new().await;
    let given = code(&caller, "planner").await;
    let mut session = cookie(&set(&caller, "planner", &given, GOOD).await);
    for _ in 0..5 {
        let before = session.clone();
        let headers = [("cookie", before.as_str())];
        let enter = async || {
            let given = json!({"person": "planner", "password": GOOD});
            caller.unsigned("POST", "/session", &headers, given).await
        };
        let (one, other) = tokio::join!(enter(), enter());
        assert_eq!((one.status().as_u16(), other.status().as_u16()), (200, 200));
        session = cookie(&one);
    }
}

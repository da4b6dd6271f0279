//! Writes that their client sends again, because it never heard the answer.

use crate::caller::Caller;
use serde_json::{Value, json};

struct Sent<'a> {
    key: &'a str,
    person: Option<&'a str>,
    path: &'a str,
    body: Value,
}

async fn send(caller: &Caller, sent: Sent<'_>) -> crate::caller::Answer {
    caller.keyed(sent.key, sent.person, "POST", &format!("/api/v1{}", sent.path), sent.body.to_string()).await
}

async fn count(caller: &Caller) -> usize {
    caller.call("GET", "/work-orders", None, None).await.body["totals"]["count"].as_u64().unwrap() as usize
}

fn oil(title: &str) -> Value {
    json!({"title": title, "kind": "inspection", "asset": "P1", "risk_rank": 3})
}

#[tokio::test]
async fn what_is_sent_again_under_its_key_is_done_once_and_answered_alike() {
    let caller = Caller::new().await;
    let before = count(&caller).await;
    let raise = |key, title| Sent { key, person: None, path: "/work-orders", body: oil(title) };
    let first = send(&caller, raise("k-1", "Look at the oil")).await;
    assert_eq!(first.status, 201, "{}", first.body);
    let again = send(&caller, raise("k-1", "Look at the oil")).await;
    assert_eq!((again.status, &again.body, again.kind.as_str()), (201, &first.body, "application/json"));
    assert_eq!(count(&caller).await, before + 1);
    // Another key, and another person's same key, are other writes.
    assert_eq!(send(&caller, raise("k-2", "Look at the oil")).await.status, 201);
    let other = Sent { person: Some("engineer"), ..raise("k-1", "Look at the oil") };
    let own = send(&caller, other).await;
    assert_eq!(own.status, 201, "{}", own.body);
    assert_ne!(own.body, first.body);
    assert_eq!(count(&caller).await, before + 3);
    // A key names one thing.
    let changed = send(&caller, raise("k-1", "Look at the brake")).await;
    assert_eq!((changed.status, &changed.body["errors"][0]["field"]), (422, &json!("idempotency-key")));
    let elsewhere = Sent { path: "/crews", ..raise("k-1", "Look at the oil") };
    assert_eq!(send(&caller, elsewhere).await.status, 422);
}

#[tokio::test]
async fn what_was_refused_may_be_sent_again_under_its_key() {
    let caller = Caller::new().await;
    let before = count(&caller).await;
    let nowhere = json!({"title": "Look", "kind": "inspection", "asset": "NOWHERE", "risk_rank": 3});
    let refused = Sent { key: "k-3", person: None, path: "/work-orders", body: nowhere };
    assert_eq!(send(&caller, refused).await.status, 422);
    let mended = Sent { key: "k-3", person: None, path: "/work-orders", body: oil("Look") };
    assert_eq!(send(&caller, mended).await.status, 201);
    assert_eq!(count(&caller).await, before + 1);
    let long = "k".repeat(101);
    let unnamed = Sent { key: &long, person: None, path: "/work-orders", body: oil("Look") };
    let answer = send(&caller, unnamed).await;
    assert_eq!((answer.status, &answer.body["errors"][0]["field"]), (400, &json!("idempotency-key")));
}

/// Many at once under one key: one is done, and the others hear either its answer or that it is done.
#[tokio::test]
async fn a_key_that_is_pressed_twice_is_done_once() {
    let caller = Caller::new().await;
    let before = count(&caller).await;
    let press = || send(&caller, Sent { key: "k-4", person: None, path: "/work-orders", body: oil("Twice") });
    let (a, b, c) = tokio::join!(press(), press(), press());
    let statuses = [a.status, b.status, c.status];
    assert!(statuses.iter().all(|status| [201, 409].contains(status)), "{statuses:?}");
    assert!(statuses.contains(&201));
    assert_eq!(count(&caller).await, before + 1);
}

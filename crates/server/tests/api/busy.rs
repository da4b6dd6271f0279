//! Long work beside everybody else: files that are taken in while gateways send, duties that fail, bodies that take long.

use crate::caller::Caller;
use crate::sound::{now, sql, write};
use fair_tally::{AppState, Clock, duties as clockwork};
use rstest::rstest;
use serde_json::{Value, json};
use std::sync::Arc;
use tally_core::ground::time::Instant;
use tally_store::{Store, StoreError};

/// The table of mail is gone, as a defect would have it: its duty says so, the others go on, and health is not well.
#[tokio::test(flavor = "multi_thread")]
async fn a_duty_that_fails_is_tried_again_and_shown() {
    let folder = tempfile::tempdir().unwrap();
    let store = Arc::new(Store::open(folder.path(), now()).unwrap());
    let state = AppState::new(store.clone(), Clock::standing_at(now()));
    let caller = Caller::over(state.clone(), folder);
    sql(&store, "ALTER TABLE outbox RENAME TO away");
    clockwork::begin(&state);
    let health = async |wanted: u16| {
        for _ in 0..200 {
            let health = caller.raw("GET", "/healthz", None, "", String::new()).await;
            if health.status == wanted {
                return health.body;
            }
            tokio::time::sleep(std::time::Duration::from_millis(50)).await;
        }
        panic!("health never answered {wanted}");
    };
    let told = health(503).await;
    let duty =
        |name: &str| told["duties"].as_array().unwrap().iter().find(|duty| duty["duty"] == name).unwrap().clone();
    assert!(duty("send mail")["error"].as_str().unwrap().contains("outbox"), "{told}");
    assert_eq!(duty("answer again")["error"], Value::Null);
    sql(&store, "ALTER TABLE away RENAME TO outbox");
    health(200).await;
}

/// Somebody holds the writer: what can't be taken apart is refused all the same, and looks are answered.
#[tokio::test(flavor = "multi_thread")]
async fn a_body_is_taken_apart_before_the_writer_is_waited_for() {
    let (caller, store) = Caller::with_store().await;
    let (go, wait) = std::sync::mpsc::channel::<()>();
    let (held, is_held) = std::sync::mpsc::channel();
    let holding = store.clone();
    let holder = std::thread::spawn(move || {
        write(&holding, |_| {
            held.send(()).unwrap();
            wait.recv().map_err(|_gone| StoreError::Cancelled)
        });
    });
    is_held.recv().unwrap();
    for (path, kind, body) in [
        ("/api/v1/readings", "application/json", "{\"meter\": 1}"),
        ("/api/v1/import/readings", "text/csv", "a,b\n1,2\n"),
        ("/api/v1/import/assets", "text/csv", " \n"),
        ("/api/v1/work-orders", "application/json", "{\"title\": 5}"),
    ] {
        let answer = caller.raw("POST", path, None, kind, body.into()).await;
        assert_eq!(answer.status, 422, "{path}: {}", answer.body);
    }
    for path in ["/meters/BAR", "/tally", "/work-orders", "/export/assets.csv"] {
        assert_eq!(caller.call("GET", path, None, None).await.status, 200, "{path}");
    }
    go.send(()).unwrap();
    holder.join().unwrap();
}

fn file_of(head: &str, rows: impl Iterator<Item = String>) -> String {
    std::iter::once(head.to_owned()).chain(rows).map(|line| line + "\n").collect()
}

/// Readings of a minute, as a file.
fn many_readings(rows: i64) -> String {
    let start = Instant::parse("2026-01-01T00:00:00Z").unwrap();
    file_of("meter,at,value", (0..rows).map(|n| format!("BAR,{},{}", start.plus(n * 60_000), n % 7)))
}

/// Whatever a file holds, it is taken in pieces: a batch that is sent after it began is answered before it ends.
#[rstest]
#[case::readings("readings", many_readings(60_000), 60_000)]
// From the bottom up: each parent comes after what is below it, often in another piece.
#[case::assets("assets", file_of("code,name,level,parent", (0..5_000).rev().map(|n| {
    let parent = if n < 2_000 { "SITE".into() } else { format!("A{}", n - 2_000) };
    format!("A{n},Asset {n},part,{parent}")
})), 5_000)]
#[case::meters("meters", file_of("code,asset,kind,unit", (0..5_000).map(|n| format!("M{n},P1,measurement,bar"))), 5_000)]
#[case::people("people", file_of("code,name,role,crew", (0..5_000).map(|n| format!("p{n},Person {n},viewer,crew{}", n % 3))), 5_000)]
#[case::limits("limits", file_of("meter,side,severity,setpoint,response", (0..800).map(|n| format!("M{n},high,alert,5,record"))), 800)]
#[case::codebooks("codebooks", file_of("codebook,problem,problem_name", (0..5_000).map(|n| format!("B{},P{n},Problem {n}", n / 200))), 5_000)]
#[tokio::test(flavor = "multi_thread")]
async fn gateways_send_while_a_file_is_taken_in(#[case] kind: &str, #[case] file: String, #[case] rows: u64) {
    let (caller, _store) = Caller::with_store().await;
    let caller = Arc::new(caller);
    if kind == "limits" {
        let meters = file_of("code,asset,kind,unit", (0..800).map(|n| format!("M{n},P1,measurement,bar")));
        let made = caller.raw("POST", "/api/v1/import/meters", None, "text/csv", meters).await.body;
        assert_eq!(made["added"], 800, "{made}");
    }
    let path = format!("/api/v1/import/{kind}?job=long");
    let (taking, to) = (caller.clone(), path.clone());
    let import = tokio::spawn(async move { taking.raw("POST", &to, None, "text/csv", file).await });
    let progress = async || caller.call("GET", "/imports/long", None, None).await;
    while progress().await.body["done"].as_u64().unwrap_or(0) == 0 {
        assert!(!import.is_finished(), "it was taken whole, before anybody else was");
        tokio::time::sleep(std::time::Duration::from_millis(1)).await;
    }
    let another = caller.raw("POST", &path, None, "text/csv", "code\n".into()).await;
    assert_eq!(another.status, 409, "two imports of one name: {}", another.body);
    let batch = json!([{"meter": "BAR", "at": "2026-02-28T23:00:00Z", "value": 3}]);
    let sent = caller.call("POST", "/readings", None, Some(batch)).await;
    assert_eq!(sent.body["accepted"], 1);
    assert!(!import.is_finished(), "the batch waited for the import");
    assert_eq!(progress().await.status, 200);
    let taken = import.await.unwrap();
    assert_eq!((taken.status, &taken.body["added"]), (200, &json!(rows)), "{}", taken.body["lines"][0]);
}

/// What was taken until an import was cancelled stays, and the same file goes on from there.
#[tokio::test(flavor = "multi_thread")]
async fn a_cancelled_file_goes_on_where_it_was_stopped() {
    let (caller, _store) = Caller::with_store().await;
    let caller = Arc::new(caller);
    let file = many_readings(60_000);
    let (taking, sent) = (caller.clone(), file.clone());
    let import =
        tokio::spawn(
            async move { taking.raw("POST", "/api/v1/import/readings?job=long", None, "text/csv", sent).await },
        );
    while caller.call("GET", "/imports/long", None, None).await.body["done"].as_u64().unwrap_or(0) == 0 {
        tokio::time::sleep(std::time::Duration::from_millis(5)).await;
    }
    assert_eq!(caller.call("DELETE", "/imports/long", None, None).await.status, 200);
    let taken = import.await.unwrap().body;
    let stopped = taken["stopped"]["done"].as_u64().unwrap();
    assert_eq!(taken["stopped"]["all"], 60_000);
    assert_eq!(taken["added"].as_u64(), Some(stopped), "{taken}");
    let again = caller.raw("POST", "/api/v1/import/readings", None, "text/csv", file).await.body;
    assert_eq!((again["unchanged"].as_u64(), again["added"].as_u64()), (Some(stopped), Some(60_000 - stopped)));
}

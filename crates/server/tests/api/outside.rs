//! The ways to the outside, over real sockets: the gateway stand-in, the receiver, mail files, and what browsers are told.

use crate::signing::Signing;
use fair_tally::{
    AppState, Clock, app, duties as clockwork,
    outside::{
        gateway::{self, Gateway},
        outgoing::{Allowed, Outgoing},
        receiver,
    },
};
use serde_json::{Value, json};
use std::{path::Path, sync::Arc, time::Duration};
use tally_core::{access::roles::Role, ground::time::Instant};
use tally_demo::gateway::Fault;
use tally_store::Store;

const NOW: &str = "2026-03-01T00:00:00Z";
const SECRET: &str = "0123456789abcdef";

struct Running {
    folder: tempfile::TempDir,
    url: String,
    client: reqwest::Client,
    /// Of a gateway.
    key: String,
}

async fn serve(router: axum::Router) -> String {
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.unwrap();
    let url = format!("http://{}", listener.local_addr().unwrap());
    tokio::spawn(async move { axum::serve(listener, router).await.unwrap() });
    url
}

impl Running {
    /// A pump with a pressure that raises work above 20 bar and tells the planner, and the clock's work under way.
    async fn start() -> Self {
        let folder = tempfile::tempdir().unwrap();
        let now = Instant::parse(NOW).unwrap();
        let store = Arc::new(Store::open(folder.path(), now).unwrap());
        let mut state = AppState::new(store, Clock::standing_at(now));
        state.outgoing = Outgoing::to(Allowed::new(vec!["127.0.0.0/8".parse().unwrap()]));
        clockwork::begin(&state);
        let signing = Signing::on(state.clone());
        let key = format!("Bearer {}", signing.key("script", Role::Administrator)).parse().unwrap();
        let headers = [(reqwest::header::AUTHORIZATION, key)].into_iter().collect();
        let client = reqwest::Client::builder().default_headers(headers).build().unwrap();
        let key = signing.key("north", Role::Gateway);
        let running = Self { url: serve(app(state)).await, folder, client, key };
        for (code, role) in [("pia", "planner"), ("gateway", "gateway")] {
            running
                .post("/people", json!({"code": code, "name": "Pia Plan", "role": role, "mail": "pia@plant.example"}))
                .await;
        }
        running.post("/assets", json!({"code": "P1", "name": "Pump", "level": "equipment"})).await;
        running
            .post(
                "/meters",
                json!({"code": "BAR", "asset": "P1", "name": "Pressure", "kind": "measurement",
            "unit": "bar", "plausible_low": 0.0, "plausible_high": 400.0}),
            )
            .await;
        let ladder = json!({"reason": "r", "rungs": [{"side": "high", "severity": "alert", "setpoint": 20.0,
            "deadband": 1.0, "response": {"kind": "raise", "tell": ["pia"]}}]});
        let answer = running.client.put(running.at("/meters/BAR/ladder")).json(&ladder).send().await.unwrap();
        assert!(answer.status().is_success());
        running
    }

    fn at(&self, path: &str) -> String {
        format!("{}/api/v1{path}", self.url)
    }

    async fn post(&self, path: &str, body: Value) -> Value {
        let answer = self.client.post(self.at(path)).json(&body).send().await.unwrap();
        assert!(answer.status().is_success(), "{path}: {}", answer.text().await.unwrap());
        answer.json().await.unwrap()
    }

    async fn get(&self, path: &str) -> Value {
        self.client.get(self.at(path)).send().await.unwrap().json().await.unwrap()
    }

    /// Asks until it is so; the clock's work comes by every second.
    async fn until(&self, path: &str, is_so: impl Fn(&Value) -> bool) -> Value {
        for _ in 0..200 {
            let answer = self.get(path).await;
            if is_so(&answer) {
                return answer;
            }
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
        panic!("{path} never came to be so: {}", self.get(path).await);
    }

    fn gateway(&self, faults: Vec<Fault>) -> Gateway {
        Gateway { url: self.url.clone(), key: self.key.clone(), speed: 0.0, every_s: 60, faults }
    }
}

/// Readings a minute apart on the day before: 100 of them, the last ten above the limit.
fn file(folder: &Path) -> std::path::PathBuf {
    let path = folder.join("readings.csv");
    let start = Instant::parse("2026-02-28T12:00:00Z").unwrap();
    let rows = (0..100).map(|n| format!("BAR,{},{}\n", start.plus(n * 60_000), if n < 90 { 10 } else { 25 }));
    std::fs::write(&path, format!("meter,at,value\n{}", rows.collect::<String>())).unwrap();
    path
}

#[tokio::test(flavor = "multi_thread")]
async fn a_gateway_with_faults_loses_and_doubles_nothing() {
    let running = Running::start().await;
    let samples = gateway::from_file(&file(running.folder.path())).unwrap();
    assert_eq!(samples.len(), 100);
    let faults = vec![Fault::Duplicates, Fault::Late, Fault::Bursts];
    let played = gateway::play(&running.gateway(faults), samples.clone(), |_| {}).await.unwrap();
    // 100 / 7 = 14 are sent twice, and known the second time.
    assert_eq!((played.sent, played.accepted, played.duplicates, played.refused), (114, 100, 14, 0), "{played:?}");
    assert_eq!(played.work_orders.iter().collect::<std::collections::HashSet<_>>().len(), 1);
    let again = gateway::play(&running.gateway(vec![]), samples.clone(), |_| {}).await.unwrap();
    assert_eq!((again.accepted, again.duplicates), (0, 100), "the same file again adds nothing");
    let wild = gateway::shifted(samples, Instant::parse("2026-02-28T18:00:00Z").unwrap());
    let wild = gateway::play(&running.gateway(vec![Fault::OutOfRange]), wild, |_| {}).await.unwrap();
    assert_eq!((wild.accepted, wild.quarantined), (100, 7), "100 / 13 are a thousand times too high");
    let list = running.get("/meters/BAR/reading-list?apart=true").await;
    assert_eq!(list["readings"].as_array().unwrap().len(), 7);
}

#[tokio::test(flavor = "multi_thread")]
async fn a_batch_that_is_not_answered_is_sent_again_and_not_doubled() {
    let running = Running::start().await;
    // A line that breaks after the server has taken the batch: the gateway can't know.
    let (to, broken) = (running.url.clone(), Arc::new(std::sync::atomic::AtomicBool::new(false)));
    let proxy = axum::Router::new().fallback(move |request: axum::extract::Request| {
        let (to, broken) = (to.clone(), broken.clone());
        async move {
            let path = request.uri().to_string();
            let key = request.headers()["authorization"].clone();
            let body = axum::body::to_bytes(request.into_body(), usize::MAX).await.unwrap();
            let kind = ("content-type", "application/json");
            let request = reqwest::Client::new().post(format!("{to}{path}")).header(kind.0, kind.1);
            let request = request.header("authorization", key).body(body);
            let answer = request.send().await.unwrap().text().await.unwrap();
            let first = !broken.swap(true, std::sync::atomic::Ordering::SeqCst);
            let status = if first { 503 } else { 200 };
            (axum::http::StatusCode::from_u16(status).unwrap(), [kind], answer)
        }
    });
    let gateway = Gateway { url: serve(proxy).await, ..running.gateway(vec![]) };
    let samples = gateway::from_file(&file(running.folder.path())).unwrap();
    let mut lines = Vec::new();
    let played = gateway::play(&gateway, samples, |line| lines.push(line.to_owned())).await.unwrap();
    assert_eq!((played.retries, played.accepted + played.duplicates, played.duplicates), (1, 100, 1), "{lines:?}");
    assert_eq!(running.get("/meters/BAR").await["readings"], 100);
}

#[tokio::test(flavor = "multi_thread")]
async fn what_raises_work_is_mailed_with_its_words_and_told_to_the_receiver_once() {
    let running = Running::start().await;
    let out = running.folder.path().join("events.ndjson");
    let receiver = serve(receiver::router(SECRET, Some(out.clone()), 0)).await;
    running.post("/webhooks", json!({"url": format!("{receiver}/"), "secret": SECRET})).await;
    let samples = gateway::from_file(&file(running.folder.path())).unwrap();
    let played = gateway::play(&running.gateway(vec![]), samples, |_| {}).await.unwrap();
    let number = played.work_orders[0];
    let order = running.get(&format!("/work-orders/{number}")).await;

    let path = format!("/outbox?work_order={number}");
    let outbox = running.until(&path, |page| !page["messages"][0]["sent_at"].is_null()).await;
    let message = &outbox["messages"][0];
    assert_eq!((&message["subject"], &message["body"]), (&order["title"], &order["text"]));
    let mail = std::fs::read_to_string(running.folder.path().join(message["file"].as_str().unwrap())).unwrap();
    for line in
        ["To: \"Pia Plan\" <pia@plant.example>", "Subject: Pump: Pressure at alert", "Pressure: 25 bar, above 20 bar."]
    {
        assert!(mail.contains(line), "{line} in\n{mail}");
    }
    assert!(mail.contains("Date: Sun, 01 Mar 2026 00:00:00 +0000\r\n"), "RFC 5322, by the server's clock:\n{mail}");

    let told = running.until("/webhooks", |all| all["webhooks"][0]["waiting"] == 0).await;
    assert_eq!(told["webhooks"][0]["delivered"], told["deliveries"].as_array().unwrap().len());
    let first = told["deliveries"].as_array().unwrap().last().unwrap()["id"].clone();
    running.post(&format!("/deliveries/{first}/resend"), json!({})).await;
    running.until("/webhooks", |all| all["webhooks"][0]["waiting"] == 0).await;
    let events: Vec<Value> =
        std::fs::read_to_string(&out).unwrap().lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    let kinds: Vec<_> = events.iter().map(|event| event["kind"].as_str().unwrap()).collect();
    assert_eq!(kinds, ["work_order", "alarm"], "sent again, it is known by its id");
    assert_eq!((&events[1]["data"]["text"], &events[1]["data"]["work_order"]), (&order["text"], &json!(number)));
}

#[tokio::test(flavor = "multi_thread")]
async fn a_receiver_takes_nothing_that_is_not_signed_and_an_address_that_fails_is_tried_again() {
    let url = serve(receiver::router(SECRET, Some(tempfile::tempdir().unwrap().path().join("x")), 1)).await;
    let client = reqwest::Client::new();
    let send = |signature: String| {
        let request = client.post(format!("{url}/")).header(clockwork::SIGNATURE, signature);
        async { request.body(r#"{"id": 1}"#).send().await.unwrap().status().as_u16() }
    };
    assert_eq!(send("sha256=00".into()).await, 401);
    let signed = || clockwork::signature(SECRET, br#"{"id": 1}"#);
    assert_eq!(send(signed()).await, 503, "turned away once, as asked for");

    let running = Running::start().await;
    running.post("/webhooks", json!({"url": "http://127.0.0.1:1/", "secret": SECRET})).await;
    running.post("/readings", json!([{"meter": "BAR", "at": "2026-02-28T00:00:00Z", "value": 30.0}])).await;
    let told = running.until("/webhooks", |all| all["deliveries"][0]["attempts"] == 1).await;
    assert_eq!(told["deliveries"][0]["next_at"], "2026-03-01T00:00:10Z", "ten seconds later by the server's clock");

    // What was given up on goes out again, all of it at once.
    let all = told["deliveries"].as_array().unwrap().len();
    let sql = rusqlite::Connection::open(running.folder.path().join("fair-tally.db")).unwrap();
    assert_eq!(sql.execute("UPDATE deliveries SET next_at = NULL, attempts = 9", []).unwrap(), all);
    let address = running.get("/webhooks").await["webhooks"][0].clone();
    assert_eq!(address["failed"], all);
    let sent = running.post(&format!("/webhooks/{}/resend", address["id"]), json!({})).await;
    assert_eq!(sent["deliveries"], all);
    running.until("/webhooks", |told| told["deliveries"][0]["attempts"] == 1).await;
    assert_eq!(running.post(&format!("/webhooks/{}/resend", address["id"]), json!({})).await["deliveries"], 0);
}

#[tokio::test(flavor = "multi_thread")]
async fn browsers_are_told_what_changed() {
    let running = Running::start().await;
    let mut stream = running.client.get(running.at("/live")).send().await.unwrap();
    assert_eq!(stream.headers()["content-type"], "text/event-stream");
    running.post("/readings", json!([{"meter": "BAR", "at": "2026-02-28T00:00:00Z", "value": 30.0}])).await;
    let mut heard = async || {
        let mut text = String::new();
        while !text.contains("\n\n") {
            text.push_str(&String::from_utf8_lossy(&stream.chunk().await.unwrap().unwrap()));
        }
        serde_json::from_str::<Value>(text.trim().strip_prefix("data:").unwrap().trim()).unwrap()
    };
    // A thread of its own passes news on: that of the limits may still come.
    let mut first = heard().await;
    if first["setup"] == true {
        first = heard().await;
    }
    assert_eq!(first, json!({"meters": ["BAR"], "alarms": true, "work": true, "setup": false}));
    running.post("/assets", json!({"code": "P2", "name": "Pump", "level": "equipment"})).await;
    assert_eq!(heard().await, json!({"meters": [], "alarms": false, "work": false, "setup": true}));
    let stranger = reqwest::get(running.at("/live")).await.unwrap();
    assert_eq!(stranger.status(), 401);
}

#[tokio::test(flavor = "multi_thread")]
async fn setting_the_clock_does_what_is_due_by_then() {
    let running = Running::start().await;
    let shelf = json!({"until": "2026-03-02T00:00:00Z", "reason": "cabling"});
    let put = |path: &str, body: Value| running.client.put(running.at(path)).json(&body).send();
    assert!(put("/meters/BAR/shelf", shelf).await.unwrap().status().is_success());
    running.post("/readings", json!([{"meter": "BAR", "at": NOW, "value": 30.0}])).await;
    let held = running.get("/alarms?show=held").await;
    assert_eq!((&held["counts"]["held"], &held["shelves"][0]["holds"]), (&json!(1), &json!(1)));
    assert!(put("/clock", json!({"now": "2026-03-02T00:00:01Z"})).await.unwrap().status().is_success());
    let alarms = running.get("/alarms").await;
    assert_eq!((&alarms["alarms"][0]["response"], &alarms["counts"]["held"]), (&json!("raised"), &json!(0)));
}

/// A backup asked for by hand is there soon; only an administrator asks; what watches the server sees its age.
#[tokio::test]
async fn a_backup_is_made_by_hand_and_told_of() {
    let caller = crate::caller::Caller::new().await;
    let listed = caller.call("GET", "/backups", None, None).await.body;
    assert_eq!((&listed["last"], &listed["is_old"], &listed["keep"]), (&Value::Null, &json!(false), &json!(0)));
    for role in ["engineer", "planner", "technician"] {
        let refused = caller.call("POST", "/backups", Some(role), None).await;
        assert_eq!(
            (refused.status, refused.body["detail"].as_str()),
            (403, Some(&*format!("a {role} may not make backups")))
        );
    }
    assert_eq!(caller.call("POST", "/backups", None, None).await.status, 202);
    let made = 'made: {
        for _ in 0..200 {
            let listed = caller.call("GET", "/backups", None, None).await.body;
            assert_eq!(listed["failed"], Value::Null);
            if listed["making_since"].is_null() && !listed["last"].is_null() {
                break 'made listed;
            }
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
        panic!("no backup was made");
    };
    assert_eq!((made["backups"][0]["made_for"].as_str(), made["last"].as_str()), (Some("hand"), Some(NOW)));
    // The same second again: its name is taken, and that is said.
    assert_eq!(caller.call("POST", "/backups", None, None).await.status, 202);
    let failed = 'failed: {
        for _ in 0..200 {
            let listed = caller.call("GET", "/backups", None, None).await.body;
            if listed["making_since"].is_null() && !listed["failed"].is_null() {
                break 'failed listed["failed"].as_str().unwrap().to_owned();
            }
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
        panic!("it was not said");
    };
    assert!(failed.contains("is there already"), "{failed}");
    let metrics = caller.raw("GET", "/metrics", None, "", String::new()).await;
    let told = metrics.body.as_str().unwrap().to_owned();
    for line in [
        "fair_tally_backup_age_seconds 0",
        "fair_tally_open_work_orders 1",
        "fair_tally_writing 0",
        "fair_tally_ready 0",
    ] {
        assert!(told.lines().any(|one| one == line), "{line}: {told}");
    }
    let refused = "fair_tally_answers_total{method=\"POST\",route=\"/api/v1/backups\",status=\"403\"} 3";
    assert!(told.lines().any(|one| one == refused), "{told}");
    assert_eq!(caller.raw("GET", "/readyz", None, "", String::new()).await.status, 503);
    assert_eq!(caller.call("GET", "/tally?period=2026-02", None, None).await.status, 200);
    assert_eq!(caller.raw("GET", "/readyz", None, "", String::new()).await.status, 200);
}

/// A night's backup that could not be made is tried again after an hour, not every minute; until then it is said.
#[test]
fn a_night_that_failed_is_tried_again_after_an_hour() {
    use fair_tally::outside::backups::{BackupPlan, Backups};
    let folder = tempfile::tempdir().unwrap();
    let at = |text: &str| Instant::parse(text).unwrap();
    let store = Store::open(&folder.path().join("data"), at(NOW)).unwrap();
    let to = folder.path().join("backups");
    let backups = Backups::new(BackupPlan { folder: to.clone(), keep: 2 });
    let nights =
        |day: &str| backups.by_night(&store, at(day)).map(|()| backups.standing(&store, at(day)).unwrap().made.len());
    assert_eq!(nights("2026-03-01T01:00:00Z").unwrap(), 0, "not due");
    // Its name is taken.
    std::fs::create_dir(&to).unwrap();
    let taken = to.join(tally_store::outside::backup::BackupFor::Night.name(at("2026-03-02T02:00:00Z")));
    std::fs::write(&taken, "").unwrap();
    assert!(nights("2026-03-02T02:00:00Z").is_err());
    std::fs::remove_file(&taken).unwrap();
    assert!(nights("2026-03-02T02:30:00Z").is_err() && std::fs::read_dir(&to).unwrap().count() == 0, "it waits");
    assert_eq!(nights("2026-03-02T03:00:00Z").unwrap(), 1);
    assert_eq!(nights("2026-03-02T09:00:00Z").unwrap(), 1, "once a night");
    assert_eq!(nights("2026-03-03T09:00:00Z").unwrap(), 2);
    assert_eq!(nights("2026-03-04T02:00:00Z").unwrap(), 2, "the newest two");
}

//! What an attacker or an accident sends, in process: refused by name, and everybody else goes on.

use crate::caller::Caller;
use fair_tally::{AppState, Clock, duties as clockwork};
use rstest::rstest;
use serde_json::{Value, json};
use std::sync::Arc;
use tally_core::ground::time::{DAY, Instant};
use tally_store::{Store, StoreError, Tx, access::people};

pub fn now() -> Instant {
    Instant::parse("2026-03-01T00:00:00Z").unwrap()
}

pub fn write<T>(store: &Store, work: impl FnOnce(&mut Tx) -> Result<T, StoreError>) -> T {
    let admin = store.read(Instant::LATEST, |view| people::first_administrator(view)).unwrap();
    store.write(admin, now(), work).unwrap()
}

pub fn sql(store: &Store, sql: &str) {
    rusqlite::Connection::open(store.path()).unwrap().execute_batch(sql).unwrap();
}

#[tokio::test]
async fn a_page_of_another_site_writes_nothing_and_frames_nothing() {
    let caller = Caller::new().await;
    let row = "code,name,role\nmallory,Mallory,administrator\n";
    for (kind, status) in [("text/plain", 415), ("application/x-www-form-urlencoded", 415), ("", 415)] {
        let sent = caller.raw("POST", "/api/v1/import/people", None, kind, row.into()).await;
        assert_eq!(sent.status, status, "{kind}: {}", sent.body);
        let reading = "[{\"meter\":\"BAR\",\"at\":\"2026-02-01T00:00:00Z\",\"value\":1}]";
        let sent = caller.raw("POST", "/api/v1/readings", None, kind, reading.into()).await;
        assert_eq!(sent.status, status, "{kind}: {}", sent.body);
    }
    let foreign = [("origin", "http://evil.example"), ("sec-fetch-site", "cross-site")];
    for (header, value) in foreign {
        let sent = caller.with(&[(header, value)], "POST", "/api/v1/settings/second-approval/approve").await;
        assert_eq!(
            (sent.status().as_u16(), sent.headers()["content-type"].to_str().unwrap()),
            (403, "application/problem+json")
        );
    }
    let rebound = caller.with(&[("host", "evil.example")], "GET", "/api/v1/people").await;
    assert_eq!(rebound.status(), 421);
    let page = caller.with(&[], "GET", "/watch").await;
    let policy = page.headers()["content-security-policy"].to_str().unwrap();
    assert!(policy.contains("frame-ancestors 'none'") && policy.contains("default-src 'self'"), "{policy}");
    assert_eq!(page.headers()["referrer-policy"], "same-origin");
    assert_eq!(caller.call("GET", "/people", None, None).await.body["people"].as_array().unwrap().len(), 9);
}

#[tokio::test]
async fn who_can_not_be_read_is_nobody() {
    let caller = Caller::new().await;
    for given in [&b"\xff\xfe"[..], b" ", b"Basic YTpi", b"Bearer"] {
        let value = axum::http::HeaderValue::from_bytes(given).unwrap();
        let answer = caller.as_header("authorization", value, "GET", "/api/v1/people").await;
        assert_eq!(answer.status(), 400, "{given:?}");
    }
    for given in [&b"\xff\xfe"[..], b" ", b"fair-tally-0", b"fair-tally-0=", b"fair-tally-0=x; y", b"=;=;="] {
        let value = axum::http::HeaderValue::from_bytes(given).unwrap();
        let answer = caller.as_header("cookie", value, "GET", "/api/v1/people").await;
        assert_eq!(answer.status(), 401, "{given:?}");
    }
    let said = caller
        .call(
            "POST",
            "/readings?source=entered",
            Some("gateway"),
            Some(json!([{"meter": "BAR", "at": now(), "value": 1}])),
        )
        .await;
    assert_eq!((said.status, said.body["detail"].as_str()), (403, Some("a gateway may not send readings as entered")));
}

/// Every write of the description, with a body that is nothing: a viewer is refused for being one.
#[tokio::test]
async fn the_role_is_asked_before_the_body_is_read() {
    let caller = Caller::new().await;
    let description = fair_tally::openapi::description();
    let mut asked = 0;
    for (path, methods) in description["paths"].as_object().unwrap() {
        for (method, operation) in methods.as_object().unwrap().iter().filter(|(method, _)| *method != "get") {
            let looks = ["/replay", "/finder", "/proposals", "/forecast", "/ladders/edit", "/clock", "/imports/{job}"];
            // How one signs in is everybody's.
            let is_way_in = path.contains("/session") || path.contains("/passkeys");
            if is_way_in || looks.iter().any(|end| path.ends_with(end)) {
                continue;
            }
            let path = path
                .replace("/import/{kind}", "/import/assets")
                .replace("{kind}", "assets")
                .replace("{number}", "1001")
                .replace("{id}", "1")
                .replace(['{', '}'], "");
            let sent = caller.raw(&method.to_uppercase(), &path, Some("viewer"), "text/plain", "{[,".into()).await;
            assert_eq!(sent.status, 403, "{method} {path} {}: {}", operation["operationId"], sent.body);
            asked += 1;
        }
    }
    assert!(asked > 40, "{asked}");
}

#[rstest]
#[case::person("POST", "/people", json!({"code": "ida", "name": "Ida\nBcc: x", "role": "viewer"}), "name", "one line")]
#[case::plant("PUT", "/settings", json!({"name": "Plant\r\n", "currency": "EUR", "minor_digits": 2, "fiscal_month": 1,
    "time_zone": "UTC", "rank_windows": [2, 7, 28, 90, 180]}), "name", "one line")]
#[case::a_row("POST", "/master/people", json!({"rows": [{"values": {"code": "planner", "name": "a\u{2028}b"}}]}),
    "rows[0].values.name", "one line")]
#[case::a_title("POST", "/work-orders", json!({"title": "t".repeat(5_000_000), "kind": "inspection", "asset": "P1",
    "risk_rank": 3}), "", "more than")]
#[case::a_long_title("POST", "/work-orders", json!({"title": "t".repeat(600), "kind": "inspection", "asset": "P1",
    "risk_rank": 3}), "title", "600 characters")]
#[case::wages("POST", "/people", json!({"code": "ida", "name": "Ida", "role": "viewer", "rate": -5}), "rate", "negative")]
#[case::value("POST", "/assets", json!({"code": "A", "name": "A", "level": "part", "replacement_value": -1}),
    "replacement_value", "negative")]
#[case::hours("POST", "/crews", json!({"code": "c", "name": "C", "department": "D", "weekly_hours": -40.0}),
    "weekly_hours", "0 or more")]
#[case::year_one("POST", "/assets/P1/downtime", json!({"kind": "planned", "start": "0001-01-01T00:00:00Z",
    "end": "2026-02-01T00:00:00Z"}), "start", "1950")]
#[case::many_limits("PUT", "/settings", json!({"name": "n", "currency": "EUR", "minor_digits": 2, "fiscal_month": 1,
    "time_zone": "UTC", "rank_windows": [2, 7, 28, 90, 180],
    "state_limits": vec![json!({"state": "raised", "days": 1, "undated": false}); 1_200]}), "state_limits", "at most 100")]
#[case::many_codes("PUT", "/codebooks/pumps", json!({"name": "Pumps", "class": "pump",
    "problems": (0..30_000).map(|n| json!({"code": format!("P{n}"), "name": "x"})).collect::<Vec<_>>()}),
    "problems", "30000 codes")]
#[case::redirecting_user("POST", "/webhooks", json!({"url": "http://user:pw@127.0.0.1/", "secret": "0123456789abcdef"}),
    "url", "user")]
#[case::a_blank_in_the_address("POST", "/webhooks", json!({"url": "http://a b/", "secret": "0123456789abcdef"}), "url", "blanks")]
#[tokio::test]
async fn what_does_not_fit_is_refused_by_its_field(
    #[case] method: &str,
    #[case] path: &str,
    #[case] body: Value,
    #[case] field: &str,
    #[case] reason: &str,
) {
    let caller = Caller::new().await;
    let answer = caller.call(method, path, None, Some(body)).await;
    assert!([413, 422].contains(&answer.status), "{}", answer.body);
    let told = answer.body["errors"][0]["reason"].as_str().or(answer.body["detail"].as_str()).unwrap_or_default();
    assert!(told.contains(reason), "{}", answer.body);
    assert_eq!(answer.body["errors"][0]["field"].as_str().unwrap_or_default(), field, "{}", answer.body);
}

#[rstest]
#[case::nothing_in_a_filter("/work-orders?crew=%00", 422)]
#[case::a_quote_in_a_filter("/work-orders?crew=%27%20OR%201--", 422)]
#[case::a_cursor_too_far("/master/assets?cursor=9223372036854775808", 400)]
#[case::a_cursor_at_the_end("/master/assets?cursor=9223372036854775807", 400)]
#[case::a_cursor_of_work("/work-orders?cursor=9223372036854775808_1", 422)]
#[case::many_filters("/master/assets?filter=FILTERS", 400)]
#[case::many_crews("/work-orders?crew=CREWS", 400)]
#[case::all_of_time("/tally?from=0001-01-01T00:00:00Z&to=9998-01-01T00:00:00Z", 200)]
#[case::before_all_time("/tally?from=0001-01-01T00:00:00Z&to=0002-01-01T00:00:00Z", 400)]
#[tokio::test]
async fn lists_are_bounded_and_values_bound(#[case] path: &str, #[case] status: u16) {
    let caller = Caller::new().await;
    let path = path.replace("FILTERS", &"level:x,".repeat(7_500)).replace("CREWS", &"x,".repeat(8_000));
    let answer = caller.call("GET", &path, None, None).await;
    assert_eq!(answer.status, status, "{}", answer.body);
}

#[tokio::test]
async fn a_tally_over_all_of_time_is_cut_to_where_there_can_be_data() {
    let caller = Caller::new().await;
    let all = caller.call("GET", "/tally?from=0001-01-01T00:00:00Z&to=9998-01-01T00:00:00Z", None, None).await.body;
    assert_eq!(all["span"], json!({"start": "1950-01-01T00:00:00Z", "end": "2036-03-01T00:00:00Z"}));
}

#[tokio::test]
async fn a_method_that_is_not_taken_is_a_problem_too() {
    let caller = Caller::new().await;
    for (method, path) in [("DELETE", "/api/v1/people"), ("POST", "/healthz"), ("PUT", "/watch")] {
        let answer = caller.raw(method, path, None, "", String::new()).await;
        assert_eq!((answer.status, answer.kind.as_str()), (405, "application/problem+json"), "{method} {path}");
    }
}

/// 200,000 columns are refused at the head line; refused rows are listed up to a bound and counted beyond it.
#[tokio::test]
async fn wide_files_and_rows_of_nothing_cost_little() {
    let caller = Caller::new().await;
    let wide = format!("code{}\n", ",x".repeat(200_000));
    let answer = caller.raw("POST", "/api/v1/import/assets", None, "text/csv", wide).await;
    assert_eq!(
        (answer.status, answer.body["detail"].as_str()),
        (422, Some("file: the first line names 200001 columns; 200 are the most"))
    );
    let zeros = format!("[{}0]", "0,".repeat(50_000));
    let answer = caller.raw("POST", "/api/v1/readings", None, "application/json", zeros).await.body;
    assert_eq!((answer["refused"].as_array().unwrap().len(), &answer["more_refused"]), (1_000, &json!(49_001)));
}

#[tokio::test]
async fn cells_that_a_spreadsheet_would_run_go_out_guarded_and_come_back_as_they_were() {
    let caller = Caller::new().await;
    let named = json!({"code": "EVIL", "name": "=HYPERLINK(\"http://evil.example\")", "level": "part", "parent": "P1"});
    assert_eq!(caller.call("POST", "/assets", None, Some(named)).await.status, 201);
    let csv = caller.call("GET", "/export/assets.csv", None, None).await.body.as_str().unwrap().to_owned();
    assert!(csv.contains("\"'=HYPERLINK(\"\"http://evil.example\"\")\""), "{csv}");
    let json = caller.call("GET", "/export/assets.json", None, None).await.body;
    assert!(json.as_array().unwrap().iter().any(|row| row["name"] == "=HYPERLINK(\"http://evil.example\")"), "{json}");
    let again = caller.raw("POST", "/api/v1/import/assets?dry_run=true", None, "text/csv", csv).await.body;
    assert_eq!((&again["changed"], &again["refused"]), (&json!(0), &json!(0)), "{again}");
}

/// One meter's row, and another's block of readings, are torn: the rest is taken and written out.
#[tokio::test]
async fn what_can_not_be_read_of_a_meter_is_that_meters_alone() {
    let (caller, store) = Caller::with_store().await;
    let new = |code: &str| json!({"code": code, "asset": "P1", "kind": "measurement", "unit": "bar"});
    for code in ["TORN", "BLOCK"] {
        caller.call("POST", "/meters", None, Some(new(code))).await;
    }
    sql(
        &store,
        "UPDATE meters SET kind = 'nonsense' WHERE code = 'TORN';
        INSERT INTO reading_blocks (meter_id, from_at, to_at, readings, columns)
        SELECT id, 1000, 2000, 2, x'0102' FROM meters WHERE code = 'BLOCK'",
    );
    let at = "2026-02-01T00:00:00Z";
    let rows = json!([{"meter": "TORN", "at": at, "value": 1}, {"meter": "BAR", "at": at, "value": 5}]);
    let taken = caller.call("POST", "/readings", None, Some(rows)).await;
    assert_eq!((taken.status, &taken.body["accepted"]), (200, &json!(1)), "{}", taken.body);
    let reason = taken.body["refused"][0]["reason"].as_str().unwrap();
    assert!(reason.starts_with("the meter TORN can't be read"), "{reason}");
    let cookie = caller.cookie(None);
    let written = caller.with(&[("cookie", &cookie)], "GET", "/api/v1/export/readings.csv").await;
    assert_eq!(
        (written.status().as_u16(), written.headers()["x-unreadable-meters"].to_str().unwrap()),
        (200, "BLOCK, TORN")
    );
    let bytes = axum::body::to_bytes(written.into_body(), usize::MAX).await.unwrap();
    assert!(String::from_utf8_lossy(&bytes).contains("BAR,2026-02-01T00:00:00Z,5"));
}

/// The disk is full for the writer, as SQLite sees it: no page may be added.
#[tokio::test]
async fn a_full_disk_is_said_and_ends_by_itself() {
    let (caller, store) = Caller::with_store().await;
    let bound = |pages: u32| {
        write(&store, |tx| tally_store::bound(tx, pages));
    };
    bound(1);
    let text = "x".repeat(19_000);
    let mut raised = 201;
    for _ in 0..50 {
        let work = json!({"title": "Look", "kind": "inspection", "asset": "P1", "risk_rank": 3, "text": text});
        let answer = caller.call("POST", "/work-orders", None, Some(work)).await;
        raised = answer.status;
        if raised != 201 {
            assert_eq!(
                (answer.kind.as_str(), answer.body["title"].as_str()),
                ("application/problem+json", Some("Insufficient Storage"))
            );
            break;
        }
    }
    assert_eq!(raised, 507);
    bound(1_000_000);
    assert_eq!(caller.raw("GET", "/healthz", None, "", String::new()).await.status, 200);
}

#[tokio::test]
async fn a_clock_that_went_back_is_a_standing_warning() {
    let caller = Caller::new().await;
    let start = async || caller.call("GET", "/start", None, None).await.body["ahead"].clone();
    let clock = async |at: Instant| caller.call("PUT", "/clock", None, Some(json!({"now": at}))).await.status;
    assert_eq!(clock(now().plus(400 * DAY)).await, 200);
    let later = json!([{"meter": "BAR", "at": now().plus(399 * DAY), "value": 1}]);
    assert_eq!(caller.call("POST", "/readings", None, Some(later)).await.body["accepted"], 1);
    assert_eq!(start().await, Value::Null);
    clock(now()).await;
    assert_eq!(start().await, json!({"meters": 1, "first": ["BAR"], "newest": now().plus(399 * DAY)}));
    let void = json!({"at": now().plus(399 * DAY), "reason": "the clock was wrong"});
    assert_eq!(caller.call("POST", "/meters/BAR/void", None, Some(void)).await.status, 200);
    assert_eq!(start().await, Value::Null);
}

/// A line break that is kept from before it was refused, in the plant's name and in a person's; and an address that is none.
#[tokio::test(flavor = "multi_thread")]
async fn a_line_break_in_a_name_ends_no_duty_and_mail_says_what_became_of_it() {
    let folder = tempfile::tempdir().unwrap();
    let store = Arc::new(Store::open(folder.path(), now()).unwrap());
    let state = AppState::new(store.clone(), Clock::standing_at(now()));
    let caller = Caller::over(state.clone(), folder);
    for (code, mail) in [("ida", "ida@plant.example"), ("tess", "not an address")] {
        let person = json!({"code": code, "name": "x", "role": "planner", "mail": mail});
        caller.call("POST", "/people", None, Some(person)).await;
    }
    sql(&store, "UPDATE people SET name = 'Ida' || char(10) || 'Bcc: all' WHERE code = 'ida';
        INSERT INTO settings (key, value) VALUES ('installation', json_object('name', 'Plant' || char(13, 10), 'currency', 'EUR',
            'minor_digits', 2, 'fiscal_month', 1, 'time_zone', 'UTC', 'rank_windows', json('[2, 7, 28, 90, 180]')))
        ON CONFLICT (key) DO UPDATE SET value = json_set(value, '$.name', 'Plant' || char(13, 10));
        INSERT INTO outbox (at, person_id, subject, body) SELECT 0, id, 'Look' || char(10) || 'X: y', 'b' FROM people
        WHERE code IN ('ida', 'tess') ORDER BY code");
    clockwork::begin(&state);
    let messages = async || caller.call("GET", "/outbox", None, None).await.body["messages"].clone();
    for _ in 0..200 {
        if messages().await.as_array().unwrap().iter().all(|one| !one["sent_at"].is_null() || !one["failed"].is_null())
        {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(50)).await;
    }
    let told = messages().await;
    assert_eq!((&told[1]["file"], &told[1]["failed"]), (&json!("outbox/00000001.eml"), &Value::Null), "{told}");
    assert!(told[0]["failed"].as_str().unwrap().contains("\"not an address\" is no mail address"), "{told}");
    assert_eq!(told[0]["sent_at"], Value::Null);
    let mail = std::fs::read_to_string(store.path().parent().unwrap().join("outbox/00000001.eml")).unwrap();
    let heads: Vec<&str> = mail.lines().take_while(|line| !line.is_empty()).collect();
    assert!(heads.iter().all(|line| !line.starts_with("Bcc") && !line.starts_with("X:")), "{mail}");
    let health = caller.raw("GET", "/healthz", None, "", String::new()).await;
    assert_eq!(health.status, 200, "{}", health.body);
    assert_eq!(health.body["duties"].as_array().unwrap().len(), 13);
}

//! Files in and out over HTTP: the samples that ship with the program, and the demo plant there and back.

use crate::caller::Caller;
use rstest::rstest;
use serde_json::json;
use std::io::Read;
use tally_core::ground::time::Instant;
use tally_demo::{TODAY, ensure, opening, plan::Size};
use tally_store::{Store, StoreError, View, access::people, plant::calendars};

use fair_tally::{
    Clock,
    outside::{
        files,
        files::{Doing, Export, FileKind, Import, Parsed},
        format::Format,
    },
};

fn sample(name: &str) -> Vec<u8> {
    std::fs::read(format!("{}/../../samples/{name}", env!("CARGO_MANIFEST_DIR"))).unwrap()
}

async fn import(caller: &Caller, kind: &str, name: &str, dry_run: bool) -> serde_json::Value {
    let media_type = match name.rsplit('.').next() {
        Some("json") => "application/json",
        Some("ndjson") => "application/x-ndjson",
        _ => "text/csv",
    };
    let path = format!("/api/v1/import/{kind}?dry_run={dry_run}&name={name}&time_zone=CET");
    let answer = caller.bytes("POST", &path, media_type, sample(name)).await;
    assert_eq!(answer.status, 200, "{}", answer.body);
    answer.body
}

/// Kind, file, rows that are good, refused lines: as samples/README.md says.
#[tokio::test]
async fn the_samples_have_the_bad_rows_they_are_said_to_have() {
    let caller = Caller::new().await;
    let files: [(&str, &str, u64, &[u64]); 10] = [
        ("people", "people.csv", 3, &[5, 6]),
        ("assets", "assets.csv", 9, &[11, 12, 13, 14]),
        ("meters", "meters.csv", 5, &[7, 8, 9, 10]),
        ("codebooks", "codebooks.csv", 4, &[6, 7]),
        ("limits", "limits.csv", 3, &[5, 6, 7, 8]),
        ("readings", "readings.csv", 6, &[4, 5, 9, 11, 12]),
        ("readings", "readings.json", 2, &[3, 4]),
        ("readings", "readings.ndjson", 2, &[3, 4]),
        ("work-orders", "work-orders.csv", 4, &[6, 7, 8, 9]),
        ("work-entries", "work-entries.csv", 3, &[5, 6, 7]),
    ];
    for (kind, name, good, refused) in files {
        let trial = import(&caller, kind, name, true).await;
        let kept = import(&caller, kind, name, false).await;
        for (receipt, what) in [(&trial, "trial"), (&kept, "kept")] {
            assert_eq!(receipt["added"], good, "{what} of {name}: {receipt}");
            let lines = receipt["lines"].as_array().unwrap().iter().filter(|line| line["outcome"] == "refused");
            let lines: Vec<u64> = lines.map(|line| line["line"].as_u64().unwrap()).collect();
            assert_eq!(lines, refused, "{what} of {name}");
        }
        let again = import(&caller, kind, name, false).await;
        assert_eq!((&again["added"], &again["unchanged"]), (&json!(0), &json!(good)), "{name} again: {again}");
    }
    // What the orders say is what the file said: three of its times are CET.
    let orders = caller.call("GET", "/work-orders?text=makes%20no%20snow&state=closed", None, None).await.body;
    let order =
        caller.call("GET", &format!("/work-orders/{}", orders["work_orders"][0]["number"]), None, None).await.body;
    assert_eq!((&order["reference"], &order["state"]), (&json!("S-0817"), &json!("closed")), "{order}");
    assert_eq!(order["raised_at"], "2025-12-03T05:10:00Z");
    assert_eq!(
        (&order["downtime"][0]["start"], &order["downtime"][0]["end"]),
        (&json!("2025-12-03T05:00:00Z"), &json!("2025-12-03T09:30:00Z"))
    );
    // 3.5 h at 46.50 and four at 12.80.
    assert_eq!(order["cost"], 16_275 + 5_120);
    assert_eq!(order["failures"][0]["problem"]["code"], "NOSNOW");
    let readings = import(&caller, "meters", "meters.csv", true).await;
    assert_eq!(readings["file"], json!({"encoding": "Windows-1252", "delimiter": ";"}));
    let named = caller.call("GET", "/meters/SNW-RES-TMP", None, None).await.body["name"].clone();
    assert_eq!(named, "Water temperature (°C)");
}

#[tokio::test]
async fn a_report_and_an_export_are_files() {
    let caller = Caller::new().await;
    let csv = "code;name\r\nP1;Pumpe S\u{fc}d\r\nP2;\r\n".as_bytes().to_vec();
    let report = caller.accepting("text/csv", "POST", "/api/v1/import/assets?dry_run=true", "text/csv", csv).await;
    let report = report.body.as_str().unwrap().to_owned();
    assert_eq!(
        report,
        "line,code,outcome,field,from,to,reason\n2,P1,changed,name,Pump,Pumpe Süd,\n3,P2,refused,name,,,is missing\n"
    );
    let people = caller.raw("GET", "/api/v1/export/people.csv", None, "", String::new()).await;
    assert!(people.kind.starts_with("text/csv"));
    assert!(
        people
            .body
            .as_str()
            .unwrap()
            .starts_with("code,name,role,crew,rate,mail,active,away,scope\nadmin,Administrator,")
    );
    let json = caller.call("GET", "/export/assets.json?scope=P1", None, None).await;
    assert_eq!((&json.body[0]["code"], json.body.as_array().map(Vec::len)), (&json!("P1"), Some(1)));
    let readings = json!([{"meter": "BAR", "at": "2026-02-01T00:00:00Z", "value": 1.5}]);
    caller.call("POST", "/readings", None, Some(readings)).await;
    let lines = caller.raw("GET", "/api/v1/export/readings.ndjson", None, "", String::new()).await;
    assert_eq!(lines.body, json!({"meter": "BAR", "at": "2026-02-01T00:00:00Z", "value": 1.5}));
}

#[rstest]
#[case("/api/v1/import/ghosts", 400, "ghosts")]
#[case("/api/v1/import/assets?time_zone=Nowhere/Land", 400, "is no time zone of the IANA list")]
#[case("/api/v1/export/assets.pdf", 400, "is none of csv, json, ndjson, xlsx")]
#[case("/api/v1/export/ghosts.csv", 400, "there is nothing to export called")]
#[tokio::test]
async fn what_can_be_no_file_is_said(#[case] path: &str, #[case] status: u16, #[case] words: &str) {
    let caller = Caller::new().await;
    let method = if path.contains("export") { "GET" } else { "POST" };
    let answer = caller.raw(method, path, None, "text/csv", "code\nX\n".into()).await;
    assert_eq!(answer.status, status, "{}", answer.body);
    assert!(answer.body["detail"].as_str().unwrap().contains(words), "{}", answer.body);
}

#[tokio::test]
async fn a_file_without_codes_or_columns_is_refused_whole() {
    let caller = Caller::new().await;
    for (body, words) in [("", "the file is empty"), ("name\nPump\n", "one of them \"code\""), ("a,a\n", "twice")] {
        let answer = caller.raw("POST", "/api/v1/import/assets", None, "text/csv", body.into()).await;
        assert_eq!(answer.status, 422, "{}", answer.body);
        assert!(answer.body["detail"].as_str().unwrap().contains(words), "{}", answer.body);
    }
    let gone = caller.call("GET", "/imports/none", None, None).await;
    assert_eq!((gone.status, gone.body["detail"].as_str()), (404, Some("there is no import under way \"none\"")));
}

/// A long import tells how far it is; when it is cancelled, what was taken stays, and the same file goes on from there.
#[tokio::test]
async fn an_import_under_way_is_seen_and_cancelled() {
    let caller = Caller::new().await;
    let mut csv = String::from("code,name,level,parent\n");
    (0..12_000).for_each(|n| csv.push_str(&format!("N-{n},Node {n},part,SITE\n")));
    let import = caller.bytes("POST", "/api/v1/import/assets?job=long", "text/csv", csv.clone().into_bytes());
    let cancel = async {
        loop {
            let progress = caller.call("GET", "/imports/long", None, None).await;
            if progress.status == 200 && progress.body["all"] == 12_000 {
                let other = caller.call("DELETE", "/imports/long", Some("viewer"), None).await;
                assert_eq!(other.status, 403, "{}", other.body);
                return caller.call("DELETE", "/imports/long", None, None).await;
            }
            tokio::task::yield_now().await;
        }
    };
    let (import, cancel) = tokio::join!(import, cancel);
    assert_eq!(cancel.status, 200, "{}", cancel.body);
    let before = 2;
    let left = caller.call("GET", "/master/assets", None, None).await.body["total"].as_u64().unwrap() - before;
    match import.status {
        200 => {
            let stopped = &import.body["stopped"];
            assert_eq!((stopped["done"].as_u64(), stopped["all"].as_u64()), (Some(left), Some(12_000)));
            assert!((1..12_000).contains(&left), "{stopped}");
        }
        // Before the first piece.
        409 => assert_eq!((left, import.body["detail"].as_str()), (0, Some("cancelled; nothing of it was kept"))),
        other => panic!("{other}: {}", import.body),
    }
    assert_eq!(caller.call("GET", "/imports/long", None, None).await.status, 404);
    let again = caller.bytes("POST", "/api/v1/import/assets", "text/csv", csv.into_bytes()).await.body;
    assert_eq!((again["unchanged"].as_u64(), again["added"].as_u64()), (Some(left), Some(12_000 - left)));
}

/// Of a million lines that are no readings, a tenth is read, and little of it is kept to be shown.
#[tokio::test]
async fn a_million_bad_readings_are_given_up() {
    let caller = Caller::new().await;
    let csv = format!("meter,at,value\n{}", "BAR,soon,1\n".repeat(1_000_000));
    let answer = caller.bytes("POST", "/api/v1/import/readings?dry_run=true", "text/csv", csv.into_bytes()).await;
    assert_eq!(answer.status, 200);
    assert_eq!((&answer.body["refused"], &answer.body["given_up"]), (&json!(100_000), &json!(true)));
    assert_eq!(answer.body["lines"].as_array().map(Vec::len), Some(20_000));
}

#[tokio::test]
async fn a_picture_is_known_by_its_bytes() {
    let caller = Caller::new().await;
    let png = b"\x89PNG\r\n\x1a\nthe rest of it".to_vec();
    let page = caller.bytes("PUT", "/api/v1/assets/P1/picture", "text/html", png.clone()).await;
    assert_eq!(page.status, 415, "{}", page.body);
    let put = caller.bytes("PUT", "/api/v1/assets/P1/picture", "image/jpeg", png).await;
    assert_eq!(put.status, 200, "{}", put.body);
    let got = caller.raw("GET", "/api/v1/assets/P1/picture", None, "", String::new()).await;
    assert_eq!((got.status, got.kind.as_str()), (200, "image/png"));
    assert_eq!(caller.call("GET", "/assets/P1", None, None).await.body["has_picture"], true);
    let page = caller.bytes("PUT", "/api/v1/assets/P1/picture", "image/png", b"<html>".to_vec()).await;
    assert_eq!((page.status, &page.body["errors"][0]["field"]), (422, &json!("picture")));
    assert_eq!(caller.call("DELETE", "/assets/P1/picture", None, None).await.status, 200);
    assert_eq!(caller.call("GET", "/assets/P1/picture", None, None).await.status, 404);
}

#[tokio::test]
async fn many_rows_change_together_or_not_at_all() {
    let caller = Caller::new().await;
    let rows = |name: &str| {
        json!({"rows": [
            {"values": {"code": "P1", "criticality": "B"}, "was": {"criticality": ""}},
            {"values": {"code": name, "criticality": "B"}, "was": {"criticality": ""}},
        ]})
    };
    let refused = caller.call("POST", "/master/assets", None, Some(rows("NEW"))).await;
    assert_eq!((refused.status, &refused.body["errors"][0]["field"]), (422, &json!("rows[1].name")));
    let asset = caller.call("GET", "/assets/P1", None, None).await.body;
    assert_eq!(asset["criticality"], json!(null), "the good row is not kept either");
    let done = caller.call("POST", "/master/assets", None, Some(rows("SITE"))).await;
    assert_eq!((done.status, &done.body["changed"]), (200, &json!(2)), "{}", done.body);
    let one = json!({"rows": [{"values": {"code": "P1", "criticality": "X"}}]});
    let wrong = caller.call("POST", "/master/assets", None, Some(one)).await;
    assert_eq!((wrong.status, &wrong.body["errors"][0]["field"]), (422, &json!("criticality")), "a form's own field");
}

/// Grades named by numbers, and by words with commas, come back as they went out: of one meter, and of all.
#[tokio::test]
async fn grades_go_out_and_come_in_by_their_names() {
    let caller = Caller::new().await;
    for (code, grades) in
        [("G", ["1", "2", "3", "4", "5"]), ("C", ["none", "some, dry", "some, wet", "a \"lot\"", "all"])]
    {
        let meter = json!({"code": code, "asset": "P1", "kind": "grade", "grades": grades});
        assert_eq!(caller.call("POST", "/meters", None, Some(meter)).await.status, 201);
        for (hour, grade) in grades.iter().enumerate() {
            let row = json!([{"meter": code, "at": format!("2026-02-01T0{hour}:00:00Z"), "value": grade}]);
            let receipt = caller.call("POST", "/readings", None, Some(row)).await.body;
            assert_eq!((&receipt["accepted"], &receipt["refused"]), (&json!(1), &json!([])), "{grade}");
        }
        let read = caller.call("GET", &format!("/meters/{code}"), None, None).await.body;
        assert_eq!(read["last"]["value"].as_f64(), Some(4.0), "the fifth of the list");
        let path = format!("/api/v1/meters/{code}/readings?period=2026");
        let csv = caller.accepting("text/csv", "GET", &path, "", vec![]).await.body;
        let told = csv.as_str().unwrap().to_owned();
        let all = caller.call("GET", "/export/readings.csv?period=2026", None, None).await.body;
        for line in told.lines() {
            assert!(all.as_str().unwrap().contains(line), "{line}");
        }
        let again = caller.raw("POST", "/api/v1/readings", None, "text/csv", told).await.body;
        assert_eq!((&again["duplicates"], &again["accepted"], &again["refused"]), (&json!(5), &json!(0), &json!([])));
    }
}

fn open(folder: &tempfile::TempDir, now: Instant) -> Store {
    Store::open(folder.path(), now).unwrap()
}

/// A file of work without the numbers of orders, which each plant gives itself; what has none of another program's keeps that of the
/// plant it comes from as such.
fn unnumbered(csv: &[u8]) -> Vec<u8> {
    let mut reader = csv::ReaderBuilder::new().has_headers(false).flexible(true).from_reader(csv);
    let mut writer = csv::WriterBuilder::new().flexible(true).from_writer(Vec::new());
    for row in reader.records() {
        writer.write_record(row.unwrap().iter().skip(2)).unwrap();
    }
    writer.into_inner().unwrap()
}

/// The demo's whole set-up, written out and taken in by an empty installation, is the same there.
#[test]
fn the_demo_written_out_makes_the_same_plant_elsewhere() {
    let now = opening(TODAY);
    let (from, to) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let (demo, other) = (open(&from, now), open(&to, now));
    ensure(&demo, TODAY, Size::Small, |_| ()).unwrap();
    let admin = other.read(Instant::LATEST, |view| people::first_administrator(view)).unwrap();
    // Calendars have no file; they are carried over as they are.
    for one in demo.read(Instant::LATEST, |view| calendars::list(view)).unwrap() {
        let new = calendars::NewCalendar { code: one.code, name: one.name, calendar: one.calendar };
        other.write(admin.clone(), now, |tx| calendars::add(tx, &new)).unwrap();
    }
    let written = |store: &Store, kind, format| {
        let look = |view: &View| files::export_aside(view, kind, &Export::default(), format);
        let mut bytes = Vec::new();
        store.read(Instant::LATEST, look).unwrap().file.read_to_end(&mut bytes).unwrap();
        bytes
    };
    for kind in [
        FileKind::EquipmentClasses,
        FileKind::Crews,
        FileKind::People,
        FileKind::Assets,
        FileKind::Meters,
        FileKind::Codebooks,
        FileKind::Storeroom,
        FileKind::WorkOrders,
        FileKind::WorkEntries,
        FileKind::Readings,
    ] {
        let taken = |store: &Store, format, bytes: &[u8]| {
            let import = Import { kind, format, zone: None, name: Some("there and back".into()) };
            let doing = Doing { actor: admin.clone(), clock: &Clock::standing_at(now) };
            Parsed::of(&import, bytes)
                .and_then(|parsed| files::import(store, &doing, &import, parsed, false, &mut |_, _| true))
                .map(|taken| taken.receipt)
                .map_err(|error: StoreError| error.to_string())
                .unwrap()
        };
        for format in Format::ALL {
            let again = taken(&demo, format, &written(&demo, kind, format));
            let nothing = (again.added, again.changed, again.refused) == (0, 0, 0);
            assert!(nothing && again.rows > 0, "{kind:?} {format:?}: {:?}", again.lines.first());
        }
        let csv = written(&demo, kind, Format::Csv);
        let there = taken(&other, Format::Csv, &csv);
        assert_eq!(there.refused, 0, "{kind:?}: {:?}", there.lines.first());
        let again = written(&other, kind, Format::Csv);
        let is_of_work = matches!(kind, FileKind::WorkOrders | FileKind::WorkEntries);
        let (went, came) = if is_of_work { (unnumbered(&csv), unnumbered(&again)) } else { (csv, again) };
        let mut lines = went.split(|byte| *byte == b'\n').zip(came.split(|byte| *byte == b'\n'));
        let first = lines.find(|(one, other)| one != other);
        let text = |line: &[u8]| String::from_utf8_lossy(line).into_owned();
        assert!(went == came, "{kind:?} differs: {:?}", first.map(|(one, other)| (text(one), text(other))));
    }
}

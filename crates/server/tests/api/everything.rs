//! Everything that a list of the whole demo leads to opens, and what the lists and figures say is counted a second way.

use crate::signing::Signing;
use fair_tally::{AppState, Clock, app};
use serde_json::Value;
use std::{
    collections::{BTreeMap, BTreeSet},
    sync::Arc,
};
use tally_demo::{TODAY, ensure, opening, plan::Size};
use tally_store::Store;
use tower::ServiceExt;

pub struct Demo {
    _folder: tempfile::TempDir,
    router: axum::Router,
    signing: Signing,
    pub store: Arc<Store>,
    /// The first administrator without one.
    pub acting: Option<&'static str>,
}

impl Demo {
    fn new() -> Self {
        let folder = tempfile::tempdir().unwrap();
        let store = Arc::new(Store::open(folder.path(), opening(TODAY)).unwrap());
        ensure(&store, TODAY, Size::Full, |_| ()).unwrap();
        let state = AppState::new(store.clone(), Clock::standing_at(opening(TODAY)));
        Self { _folder: folder, router: app(state.clone()), signing: Signing::on(state), store, acting: None }
    }

    pub async fn get(&self, path: &str) -> (u16, Value) {
        self.get_as(path, self.acting).await
    }

    async fn get_as(&self, path: &str, person: Option<&str>) -> (u16, Value) {
        let uri = format!("/api/v1{path}");
        let request = axum::http::Request::builder().uri(uri).header("host", "localhost");
        let request = request.header("cookie", self.signing.cookie(person));
        let request = request.body(axum::body::Body::empty()).unwrap();
        let answer = self.router.clone().oneshot(request).await.unwrap();
        let status = answer.status().as_u16();
        let bytes = axum::body::to_bytes(answer.into_body(), usize::MAX).await.unwrap();
        (status, serde_json::from_slice(&bytes).unwrap_or_default())
    }

    pub async fn opened(&self, path: &str) -> Value {
        let (status, body) = self.get(path).await;
        assert_eq!(status, 200, "{path}: {body}");
        body
    }

    /// As somebody else sees it.
    pub async fn opened_as(&self, path: &str, person: &str) -> Value {
        let (status, body) = self.get_as(path, Some(person)).await;
        assert_eq!(status, 200, "{path} as {person}: {body}");
        body
    }

    /// All rows of a list, page by page.
    pub async fn all(&self, path: &str, rows: &str) -> Vec<Value> {
        let joint = if path.contains('?') { '&' } else { '?' };
        let (mut all, mut cursor) = (Vec::new(), String::new());
        loop {
            let page = self.opened(&format!("{path}{joint}limit=500{cursor}")).await;
            all.extend(page[rows].as_array().unwrap().iter().cloned());
            match page["next_cursor"].as_str() {
                Some(next) => cursor = format!("&cursor={next}"),
                None => return all,
            }
        }
    }

    /// A way of its own to the rows, to count them a second way.
    pub fn database(&self) -> rusqlite::Connection {
        rusqlite::Connection::open(self.store.path()).unwrap()
    }

    pub fn count(&self, sql: &str) -> i64 {
        self.database().query_row(sql, [], |row| row.get(0)).unwrap()
    }

    /// What Setup's filters offer is what a look through all rows finds, also under the filter that leaves most.
    async fn every_filter(&self) {
        for kind in ["assets", "meters", "people", "crews", "equipment-classes", "upkeep-plans", "storeroom"] {
            let mut query = String::new();
            for _ in 0..2 {
                let path = format!("/master/{kind}?all=true{query}");
                let page = self.opened(&format!("{path}&limit=1")).await;
                let rows = self.all(&path, "rows").await;
                assert_eq!(page["total"].as_u64(), Some(rows.len() as u64), "{path}");
                let filtered = query.split(['=', ':']).nth(1).unwrap_or_default().to_owned();
                for facet in page["facets"].as_array().unwrap() {
                    let column = facet["column"].as_str().unwrap();
                    let mut counts: BTreeMap<&str, u64> = BTreeMap::new();
                    for row in &rows {
                        *counts.entry(row["values"][column].as_str().unwrap()).or_default() += 1;
                    }
                    let offered: BTreeMap<&str, u64> = facet["values"]
                        .as_array()
                        .unwrap()
                        .iter()
                        .map(|one| (one["value"].as_str().unwrap(), one["count"].as_u64().unwrap()))
                        .collect();
                    // Of its own filter a column offers the others, too.
                    if column != filtered && counts.len() <= 60 {
                        assert_eq!(offered, counts, "{path}: {column}");
                    }
                }
                let Some(facet) = page["facets"].as_array().unwrap().first() else { break };
                let most = facet["values"][0]["value"].as_str().unwrap();
                query = format!("&filter={}:{}", facet["column"].as_str().unwrap(), most.replace(' ', "%20"));
            }
        }
    }

    async fn every_order(&self) {
        let orders = self.all("/work-orders?sort=number", "work_orders").await;
        assert_eq!(orders.len() as i64, self.count("SELECT count(*) FROM work_orders"));
        let (mut raised, mut photos, mut checks, mut numbers) = (0, 0, 0, 0);
        for order in &orders {
            let detail = self.opened(&format!("/work-orders/{}", order["number"])).await;
            assert_eq!(detail["number"], order["number"]);
            let rows =
                |name: &str| detail[name].as_array().unwrap().iter().map(|row| row["id"].clone()).collect::<Vec<_>>();
            for id in rows("attachments") {
                for small in [true, false] {
                    self.opened(&format!("/work-orders/{}/attachments/{id}?small={small}", order["number"])).await;
                }
                photos += 1;
            }
            for id in rows("checks") {
                let check = self.opened(&format!("/work-orders/{}/checks/{id}", order["number"])).await;
                let answers = check["answers"].as_array().unwrap().iter();
                let of_finished = check["finished_at"].is_string();
                numbers += answers.filter(|answer| of_finished && answer["value"]["kind"] == "number").count() as i64;
                checks += 1;
            }
            if !detail["why"].is_null() {
                // It keeps what raised it: the meter, the version and what was read.
                let why = &detail["why"];
                assert!(why["meter"].is_string() && why["ladder_version"].is_number(), "{}: {why}", order["number"]);
                assert!(!why["occurrences"].as_array().unwrap().is_empty(), "{}: {why}", order["number"]);
                raised += 1;
            }
        }
        assert_eq!(photos, self.count("SELECT count(*) FROM attachments WHERE removed_at IS NULL"));
        assert_eq!(checks, self.count("SELECT count(*) FROM checks"));
        assert_eq!(numbers, self.count("SELECT count(*) FROM check_numbers"), "each number is followed over time");
        assert!(photos > 2 && checks > 1_000 && numbers > checks, "{photos} {checks} {numbers}");
        let mut pictures = 0;
        for sheet in self.opened("/check-sheets").await.as_array().unwrap() {
            let code = sheet["code"].as_str().unwrap();
            let opened = self.opened(&format!("/check-sheets/{code}")).await;
            for question in opened["sheet"]["questions"].as_array().unwrap() {
                if let Some(file) = question["picture"].as_str() {
                    self.opened(&format!("/check-sheets/{code}/pictures/{file}?small=true")).await;
                    pictures += 1;
                }
            }
        }
        assert_eq!(pictures, self.count("SELECT count(*) FROM sheet_pictures"));
        assert!(pictures > 0);
        let library = self.opened("/check-questions").await;
        let texts: BTreeSet<&str> =
            library.as_array().unwrap().iter().map(|one| one["question"]["text"].as_str().unwrap()).collect();
        let asked = self.count(
            "SELECT count(DISTINCT q.value ->> 'text') FROM check_sheets s JOIN check_sheet_versions v ON v.sheet_id = s.id
                 AND v.number = (SELECT max(number) FROM check_sheet_versions WHERE sheet_id = s.id),
             json_each(v.sheet, '$.questions') q WHERE s.status <> 'retired'",
        );
        assert_eq!(texts.len() as i64, asked, "fewer than an answer holds");
        assert_eq!(raised, self.count("SELECT count(*) FROM work_orders WHERE source_meter_id IS NOT NULL"));
        assert!(raised > 500, "{raised}");
    }

    async fn every_meter_and_alarm(&self) {
        let meters = self.all("/meters", "meters").await;
        assert_eq!(meters.len() as i64, self.count("SELECT count(*) FROM meters WHERE retired_at IS NULL"));
        let mut alarms = 0;
        for meter in &meters {
            let code = meter["code"].as_str().unwrap();
            for path in ["", "/lanes", "/ladder", "/reading-list"] {
                self.opened(&format!("/meters/{code}{path}")).await;
            }
            let listed =
                self.opened(&format!("/meters/{code}/alarms?from=2000-01-01T00:00:00Z&to=2100-01-01T00:00:00Z")).await;
            for alarm in listed.as_array().unwrap() {
                alarms += 1;
                for order in alarm["work_orders"].as_array().unwrap() {
                    self.opened(&format!("/work-orders/{order}")).await;
                }
            }
        }
        assert_eq!(
            alarms,
            self.count("SELECT count(*) FROM alarms a JOIN meters m ON m.id = a.meter_id WHERE m.retired_at IS NULL")
        );
    }

    async fn every_asset(&self) {
        let assets = self.opened("/assets?depth=99").await;
        let assets = assets.as_array().unwrap();
        assert_eq!(assets.len() as i64, self.count("SELECT count(*) FROM assets WHERE retired_at IS NULL"));
        for asset in assets {
            self.opened(&format!("/assets/{}", asset["code"].as_str().unwrap())).await;
        }
    }

    /// Each figure of each asset of the first levels says why, and the rows of its why sum up to it.
    async fn every_why(&self) {
        let indicators = self.opened("/indicators").await;
        let keys: BTreeSet<&str> =
            indicators.as_array().unwrap().iter().map(|one| one["id"].as_str().unwrap()).collect();
        let asked = keys.iter().copied().collect::<Vec<_>>().join(",");
        let tree = self.opened("/assets?depth=2").await;
        for asset in tree.as_array().unwrap() {
            let code = asset["code"].as_str().unwrap();
            let path = format!("/tally?scope={code}&period=2025&why=true&indicators={asked}");
            let tally = self.opened(&path).await;
            let told = tally["why"].as_array().unwrap();
            assert_eq!(told.len(), keys.len(), "{code}");
            let figures = &tally["rows"][0]["figures"];
            for why in told {
                let key = why["indicator"].as_str().unwrap();
                let parts = why["parts"].as_array().unwrap();
                for part in parts {
                    // Rows that are told, and those that are only counted, are the part.
                    let rows: i64 =
                        part["rows"].as_array().unwrap().iter().map(|row| row["amount"].as_i64().unwrap()).sum();
                    let total = rows + part["more_amount"].as_i64().unwrap_or(0);
                    assert_eq!(total, part["total"].as_i64().unwrap(), "{code} {key}: {}", part["name"]);
                }
                let definition = indicators.as_array().unwrap().iter().find(|one| one["id"] == key).unwrap();
                if definition["roll_up"] != "additive" && definition["roll_up"] != "union" {
                    continue;
                }
                let sum: i64 = parts.iter().map(|part| part["total"].as_i64().unwrap()).sum();
                let unit = if definition["unit"] == "hours" { 3_600_000.0 } else { 1.0 };
                let figure = figures[key]["value"].as_f64().unwrap() * unit;
                // What is exact in less than a minor unit is told in whole ones.
                assert!((sum as f64 - figure).abs() <= 0.5, "{code} {key}: {sum} {figure}");
            }
        }
    }

    /// Every row that a tally opens down to the parts, by the way that leads to it: it is the row that it was opened from, what
    /// is below it adds up to it, and so does its why.
    async fn every_row_by_its_way(&self) {
        let value = |row: &Value, key: &str| row["figures"][key]["value"].as_f64().unwrap_or(0.0);
        let asked = "period=2025&indicators=cost_total,failures";
        let roots = self.opened(&format!("/tally?{asked}&depth=0")).await;
        let tops = roots["rows"].as_array().unwrap().iter().filter(|row| row["kind"] == "asset");
        let mut open: Vec<(Value, String)> = tops.map(|row| (row.clone(), "/".to_owned())).collect();
        let mut opened = 0;
        while let Some((row, way)) = open.pop() {
            let code = row["asset"].as_str().unwrap();
            let path = format!("/tally?scope={code}&under={way}&{asked}&depth=1&why=true");
            let tally = self.opened(&path).await;
            let rows = tally["rows"].as_array().unwrap();
            let below: Vec<&Value> = rows.iter().filter(|row| row["depth"] == 1).collect();
            for key in ["cost_total", "failures"] {
                assert_eq!(value(&rows[0], key), value(&row, key), "{path} {key}");
                if !below.is_empty() {
                    let sum: f64 = below.iter().map(|row| value(row, key)).sum();
                    assert_eq!(sum, value(&row, key), "{path} {key}");
                }
            }
            let cost = tally["why"].as_array().unwrap().iter().find(|why| why["indicator"] == "cost_total").unwrap();
            let parts = cost["parts"].as_array().unwrap();
            let sum: i64 = parts.iter().map(|part| part["total"].as_i64().unwrap()).sum();
            assert_eq!(sum as f64, value(&row, "cost_total"), "{path}: its why");
            let further = if way == "/" { format!("/{code}") } else { format!("{way}/{code}") };
            let rows = below.into_iter().filter(|row| row["kind"] == "asset" && row["has_children"] == true);
            open.extend(rows.map(|row| (row.clone(), further.clone())));
            opened += 1;
        }
        assert!(opened > 100, "{opened}");
    }

    /// A list as it is asked for.
    pub async fn list(&self, subject: &str, ask: Value) -> Value {
        let uri = format!("/api/v1/lists/{subject}");
        let request = axum::http::Request::builder().method("POST").uri(uri).header("host", "localhost");
        let request = request.header("cookie", self.signing.cookie(self.acting));
        let request =
            request.header("content-type", "application/json").body(axum::body::Body::from(ask.to_string())).unwrap();
        let answer = self.router.clone().oneshot(request).await.unwrap();
        let status = answer.status();
        let bytes = axum::body::to_bytes(answer.into_body(), usize::MAX).await.unwrap();
        let body: Value = serde_json::from_slice(&bytes).unwrap();
        assert!(status.is_success(), "{subject} {ask}: {body}");
        body
    }
}

#[tokio::test]
async fn everything_that_a_list_leads_to_opens() {
    let demo = Demo::new();
    demo.every_filter().await;
    demo.every_order().await;
    demo.every_meter_and_alarm().await;
    demo.every_asset().await;
    demo.every_why().await;
    demo.every_row_by_its_way().await;
    demo.every_look().await;
    demo.alarms_and_ranking().await;
    demo.alarms_a_second_way().await;
    demo.money_a_second_way().await;
    demo.open_work_a_second_way().await;
    demo.weeks().await;
    demo.shifts().await;
    demo.already_raised().await;
    demo.years().await;
    demo.lists_a_second_way().await;
    demo.rows_of_figures().await;
    demo.a_part_a_second_way().await;
}

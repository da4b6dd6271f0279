//! Everything that a list of the whole demo leads to opens, and what the lists and figures say is counted a second way.

use crate::signing::Signing;
use fair_tally::{AppState, Clock, app};
use serde_json::Value;
use std::{
    collections::{BTreeMap, BTreeSet},
    sync::Arc,
};
use tally_core::ground::time::Instant;
use tally_demo::{TODAY, ensure, opening, plan::Size};
use tally_store::{Store, plant::settings};
use tower::ServiceExt;

pub struct Demo {
    _folder: tempfile::TempDir,
    router: axum::Router,
    signing: Signing,
    store: Arc<Store>,
    /// The first administrator without one.
    acting: Option<&'static str>,
}

impl Demo {
    fn new() -> Self {
        let folder = tempfile::tempdir().unwrap();
        let store = Arc::new(Store::open(folder.path(), opening(TODAY)).unwrap());
        ensure(&store, TODAY, Size::Full, |_| ()).unwrap();
        let state = AppState::new(store.clone(), Clock::standing_at(opening(TODAY)));
        Self { _folder: folder, router: app(state.clone()), signing: Signing::on(state), store, acting: None }
    }

    async fn get(&self, path: &str) -> (u16, Value) {
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
    async fn all(&self, path: &str, rows: &str) -> Vec<Value> {
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

    /// Alarms by local day, counted from the alarms themselves.
    async fn alarms_a_second_way(&self) {
        let told = self.opened("/alarms/performance?period=last_12_months").await;
        let at = |key: &str| Instant::parse(told["span"][key].as_str().unwrap()).unwrap();
        let zone = self.store.read(Instant::LATEST, |view| settings::time_zone(view)).unwrap();
        // Those that ask for a response: rungs that only record are no alarms of the standard.
        let sql = "SELECT entered_at FROM alarms a WHERE kind = 'limit' AND entered_at >= ?1 AND entered_at < ?2
            AND (SELECT json_extract(v.definition, '$.rungs[' || a.rung || '].response.kind')
                 FROM ladder_versions v WHERE v.id = a.version_id) <> 'record'";
        let database = self.database();
        let mut select = database.prepare(sql).unwrap();
        let rows = select.query_map([at("start").ms(), at("end").ms()], |row| row.get(0)).unwrap();
        let entered: Vec<i64> = rows.collect::<Result<_, _>>().unwrap();
        let mut counted: BTreeMap<String, u64> = BTreeMap::new();
        for ms in entered {
            *counted.entry(Instant::from_ms(ms).in_zone(&zone).date().to_string()).or_default() += 1;
        }
        let days = told["by_day"].as_array().unwrap();
        let days = days.iter().map(|day| (day["date"].as_str().unwrap().to_owned(), day["alarms"].as_u64().unwrap()));
        let days: BTreeMap<String, u64> = days.filter(|(_, alarms)| *alarms > 0).collect();
        assert_eq!(days, counted);
        assert!(!days.is_empty());
    }

    /// The rows below a parent, its own and what was formerly there are the parent; the sites are all money of the year.
    async fn money_a_second_way(&self) {
        let all = self.opened("/tally?period=2025&depth=1&indicators=cost_total,failures").await;
        let sites = all["rows"].as_array().unwrap();
        let sum = |key: &str| -> f64 {
            sites
                .iter()
                .filter(|row| row["depth"] == 0)
                .map(|row| row["figures"][key]["value"].as_f64().unwrap_or(0.0))
                .sum()
        };
        let year = "BETWEEN 1735686000000 AND 1767222000000 - 1";
        let money = self.count(&format!("SELECT sum(amount) FROM entries WHERE at {year}"));
        let failures = self.count(&format!(
            "SELECT count(*) FROM failure_reports f JOIN work_orders w ON w.number = f.work_order
             WHERE failed_at {year} AND effect <> 'incipient' AND w.state <> 'dropped'"
        ));
        assert_eq!((sum("cost_total"), sum("failures")), (money as f64, failures as f64));
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

    fn counts(&self, sql: &str) -> BTreeMap<String, (u64, i64)> {
        let database = self.database();
        let mut select = database.prepare(sql).unwrap();
        let row = |row: &rusqlite::Row| Ok((row.get::<_, String>(0)?, (row.get(1)?, row.get(2)?)));
        select.query_map([], row).unwrap().collect::<Result<_, _>>().unwrap()
    }

    /// Every list of the whole demo, grouped, counted and summed by plain SQL as well; every row on some page, once.
    async fn lists_a_second_way(&self) {
        let grouped = async |subject: &str, column: &str, sum: &str, filter: Value| -> BTreeMap<String, (u64, i64)> {
            let ask = serde_json::json!({"group": [{"column": column}], "summaries": [{"column": sum, "of": "sum"}],
                "filter": filter, "limit": 0});
            let told = self.list(subject, ask).await;
            let of = |group: &Value| {
                let sum = group["summaries"][0].as_f64().unwrap_or(0.0);
                let key = group["filter"].as_str().unwrap().to_owned();
                (key, (group["count"].as_u64().unwrap(), (sum * 1e3).round() as i64))
            };
            told["groups"].as_array().unwrap().iter().map(of).collect()
        };
        let none = serde_json::json!([]);
        let by_state = "SELECT state, count(*), sum(cost) * 1000 FROM work_orders GROUP BY state";
        assert_eq!(grouped("work", "state", "cost", none.clone()).await, self.counts(by_state));
        let by_crew = "SELECT ifnull(c.code, ''), count(*), sum(spent_ms) / 3600 FROM work_orders w
            LEFT JOIN crews c ON c.id = w.crew_id GROUP BY 1";
        assert_eq!(grouped("work", "crew", "spent", none.clone()).await, self.counts(by_crew));
        let by_person = "SELECT ifnull(p.code, ''), count(*), sum(amount) * 1000 FROM entries e
            LEFT JOIN people p ON p.id = e.person_id WHERE at >= 1735686000000 AND at < 1767222000000 GROUP BY 1";
        let in_2025 = serde_json::json!([{"column": "at", "within": "2025"}]);
        assert_eq!(grouped("entries", "person", "cost", in_2025).await, self.counts(by_person));
        let by_order_state = "SELECT w.state, count(*), sum(amount) * 1000 FROM entries e
            JOIN work_orders w ON w.number = e.work_order WHERE e.kind IN ('material', 'service') GROUP BY 1";
        let bought = serde_json::json!([{"column": "entry_kind", "is": ["material", "service"]}]);
        assert_eq!(grouped("entries", "order_state", "cost", bought).await, self.counts(by_order_state));
        let by_class = "SELECT ifnull(k.code, ''), count(*), sum(end_at - start_at) / 3600 FROM downtimes d
            JOIN assets a ON a.id = d.asset_id LEFT JOIN equipment_classes k ON k.id = a.class_id
            WHERE end_at IS NOT NULL GROUP BY 1";
        let ended = serde_json::json!([{"column": "end", "blank": false}]);
        assert_eq!(grouped("downtime", "class", "hours", ended).await, self.counts(by_class));
        let by_effect = "SELECT effect, count(*), 0 FROM failure_reports GROUP BY effect";
        let failures = grouped("failures", "effect", "time_to_restore", none).await;
        let failures: BTreeMap<String, u64> = failures.into_iter().map(|(key, (count, _))| (key, count)).collect();
        let wanted = self.counts(by_effect).into_iter().map(|(key, (count, _))| (key, count)).collect();
        assert_eq!(failures, wanted);
        for (subject, table) in [
            ("work", "work_orders"),
            ("entries", "entries"),
            ("downtime", "downtimes"),
            ("failures", "failure_reports"),
            ("alarms", "alarms"),
        ] {
            let (mut ids, mut cursor, mut pages) = (BTreeSet::new(), Value::Null, 0);
            loop {
                let ask = serde_json::json!({"cursor": cursor, "limit": 500, "sort": [{"column": "asset", "descending": true}]});
                let page = self.list(subject, ask).await;
                for row in page["rows"].as_array().unwrap() {
                    assert!(ids.insert(row["id"].as_i64().unwrap()), "{subject} tells {row} twice");
                }
                pages += 1;
                cursor = page["next_cursor"].clone();
                if cursor.is_null() {
                    break;
                }
            }
            assert_eq!(ids.len() as i64, self.count(&format!("SELECT count(*) FROM {table}")), "{subject}");
            assert!(pages > 1 || ids.len() <= 500, "{subject}");
        }
    }

    /// The rows behind figures of a lift, as a list: they come to the figure, in each subject that it is made of.
    async fn rows_of_figures(&self) {
        let all = self.opened("/tally?scope=G1&period=2025&depth=0").await;
        let figures = &all["rows"][0]["figures"];
        for (indicator, subject) in [
            ("cost_total", "entries"),
            ("cost_material", "entries"),
            ("cost_life", "entries"),
            ("unplanned_downtime", "downtime"),
            ("failures", "failures"),
            ("open_work", "work"),
            ("open_hours", "work"),
        ] {
            let figure = serde_json::json!({"indicator": indicator, "scope": "G1", "period": "2025"});
            let sum = serde_json::json!({"column": "counted", "of": "sum"});
            let told =
                self.list(subject, serde_json::json!({"figure": figure, "summaries": [sum], "limit": 500})).await;
            let sum = told["summaries"][0].as_f64().unwrap();
            let wanted = figures[indicator]["value"].as_f64().unwrap();
            assert!((sum - wanted).abs() < 1e-6 * wanted.max(1.0), "{indicator}: {sum}, {wanted}");
            assert!(wanted > 0.0, "{indicator} is made of something");
            let columns = told["columns"].as_array().unwrap();
            let counted = columns.iter().position(|column| column["id"] == "counted").unwrap();
            assert!(told["rows"].as_array().unwrap().iter().all(|row| row["cells"][counted].is_number()));
        }
    }

    /// Somebody who is given a group: what they are told of is all that stands below it by the placements, every row of it opens,
    /// and every other order, meter and asset is nothing to them.
    async fn a_part_a_second_way(mut self) {
        let engineer = "SELECT id FROM people WHERE role = 'engineer' AND active = 1 ORDER BY id LIMIT 1";
        let give = format!(
            "INSERT INTO scopes (person_id, asset_id) VALUES (({engineer}), (SELECT id FROM assets WHERE code = 'G1'))"
        );
        self.database().execute(&give, []).unwrap();
        let code = self
            .database()
            .query_row(&format!("SELECT code FROM people WHERE id = ({engineer})"), [], |row| row.get(0));
        self.acting = Some(String::leak(code.unwrap()));
        let below = "WITH RECURSIVE below (id) AS (SELECT id FROM assets WHERE code = 'G1' UNION
                SELECT p.asset_id FROM placements p JOIN below ON p.parent_id = below.id WHERE p.to_at IS NULL) ";
        let count = |from: &str| self.count(&format!("{below} SELECT count(*) FROM {from}")) as u64;
        for (subject, from) in [
            ("work", "work_orders w WHERE w.asset_id IN below"),
            ("entries", "entries e WHERE e.asset_id IN below"),
            ("downtime", "downtimes d WHERE d.asset_id IN below"),
            ("failures", "failure_reports f WHERE f.asset_id IN below"),
            ("alarms", "alarms a JOIN meters m ON m.id = a.meter_id WHERE m.asset_id IN below"),
        ] {
            let told = self.list(subject, serde_json::json!({"limit": 1})).await;
            assert_eq!(told["count"].as_u64(), Some(count(from)), "{subject}");
            assert!(count(from) > 0, "{subject}");
        }
        let of = |select: &str| -> Vec<(String, bool)> {
            let database = self.database();
            let mut select = database.prepare(&format!("{below} {select}")).unwrap();
            let rows = select.query_map([], |row| Ok((row.get(0)?, row.get(1)?))).unwrap();
            rows.map(Result::unwrap).collect()
        };
        let orders = of("SELECT CAST(number AS TEXT), asset_id IN below FROM work_orders");
        let meters = of("SELECT code, asset_id IN below FROM meters WHERE retired_at IS NULL");
        let assets = of("SELECT code, id IN below FROM assets");
        let mut opened = [0, 0];
        for (path, all) in [("/work-orders", &orders), ("/meters", &meters), ("/assets", &assets)] {
            for (code, is_reached) in all {
                let (status, body) = self.get(&format!("{path}/{code}")).await;
                assert_eq!(status, if *is_reached { 200 } else { 404 }, "{path}/{code}: {body}");
                opened[usize::from(*is_reached)] += 1;
            }
        }
        assert!(opened.iter().all(|opened| *opened > 100), "{opened:?}");
        let listed = self.all("/meters", "meters").await;
        assert_eq!(listed.len(), meters.iter().filter(|(_, is_reached)| *is_reached).count());
        let tree = self.opened("/assets?depth=12").await;
        let living = "assets a WHERE a.id IN below AND (a.retired_at IS NULL OR a.retired_at > 9e15)";
        assert_eq!(tree.as_array().unwrap().len() as u64, count(living));
        // A figure without a scope is that of the group.
        let all = self.opened("/tally?period=2024&depth=0&indicators=cost_total,open_work").await;
        let group = self.opened("/tally?scope=G1&period=2024&depth=0&indicators=cost_total,open_work").await;
        assert_eq!(all["rows"], group["rows"]);
    }

    /// Open work at the end of a past year, and how much of it nobody estimated: the last state by then, order by order.
    async fn open_work_a_second_way(&self) {
        let all = self.opened("/tally?period=2024&depth=0&indicators=open_work,open_without_estimate").await;
        let sum = |key: &str| -> f64 {
            let sites = all["rows"].as_array().unwrap().iter();
            sites.map(|row| row["figures"][key]["value"].as_f64().unwrap_or(0.0)).sum()
        };
        let end = Instant::parse(all["span"]["end"].as_str().unwrap()).unwrap().ms() - 1;
        let open = format!(
            "SELECT count(*) FROM work_orders w WHERE (SELECT to_state FROM state_changes s WHERE s.work_order = w.number
                 AND s.at <= {end} ORDER BY s.at DESC, s.id DESC LIMIT 1)
                 NOT IN ('done', 'returned', 'closed', 'dropped')"
        );
        let (open, unestimated) = (self.count(&open), self.count(&format!("{open} AND w.estimated_hours IS NULL")));
        assert_eq!((sum("open_work"), sum("open_without_estimate")), (open as f64, unestimated as f64));
        assert!(open > 10 && unestimated < open, "{open} {unestimated}");
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

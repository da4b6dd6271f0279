//! What the lists and figures of the whole demo say, counted a second way.

use crate::everything::Demo;
use serde_json::Value;
use std::collections::{BTreeMap, BTreeSet};
use tally_core::ground::time::Instant;
use tally_store::plant::settings;

impl Demo {
    /// Alarms by local day, counted from the alarms themselves.
    pub async fn alarms_a_second_way(&self) {
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
    pub async fn money_a_second_way(&self) {
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

    fn counts(&self, sql: &str) -> BTreeMap<String, (u64, i64)> {
        let database = self.database();
        let mut select = database.prepare(sql).unwrap();
        let row = |row: &rusqlite::Row| Ok((row.get::<_, String>(0)?, (row.get(1)?, row.get(2)?)));
        select.query_map([], row).unwrap().collect::<Result<_, _>>().unwrap()
    }

    /// Every list of the whole demo, grouped, counted and summed by plain SQL as well; every row on some page, once.
    pub async fn lists_a_second_way(&self) {
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
    pub async fn rows_of_figures(&self) {
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
    pub async fn a_part_a_second_way(mut self) {
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
    pub async fn open_work_a_second_way(&self) {
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

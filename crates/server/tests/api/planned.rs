//! The planner's looks on the whole demo: everything they lead to opens, and what they say is counted a second way.

use crate::everything::Demo;
use serde_json::Value;
use std::collections::HashMap;
use tally_demo::{TODAY, opening};

const OPEN: &str = "'raised', 'planning', 'waiting', 'ready', 'scheduled', 'under_way'";

impl Demo {
    /// The week before, this one and the next: every order on a day or without one opens, and a crew's hours are those of SQL.
    pub async fn weeks(&self) {
        let (mut day, mut dated) = (String::new(), 0);
        for _ in 0..3 {
            let board = self.opened(&format!("/work/week?day={day}")).await;
            for crew in board["crews"].as_array().unwrap() {
                let days = crew["days"].as_array().unwrap();
                let orders: Vec<&Value> = days.iter().flat_map(|day| day["orders"].as_array().unwrap()).collect();
                for order in &orders {
                    self.opened(&format!("/work-orders/{}", order["number"])).await;
                }
                dated += orders.len();
                let from = tally_core::ground::time::Instant::parse(&format!(
                    "{}T00:00:00Z",
                    board["monday"].as_str().unwrap()
                ));
                let from = from.unwrap().ms();
                let sum: f64 = self
                    .database()
                    .query_row(
                        &format!(
                            "SELECT ifnull(sum(max(w.estimated_hours - w.spent_ms / 3600000.0, 0)), 0) FROM work_orders w
                             JOIN crews c ON c.id = w.crew_id AND c.code = ?1
                             WHERE w.state IN ({OPEN}) AND w.scheduled_end IS NULL AND w.scheduled_start BETWEEN ?2 AND ?3"
                        ),
                        (crew["code"].as_str(), from, from + 7 * 86_400_000 - 1),
                        |row| row.get(0),
                    )
                    .unwrap();
                assert!((crew["load_hours"].as_f64().unwrap() - sum).abs() < 1e-6, "{} {sum}", crew["load_hours"]);
            }
            let undated = "SELECT count(*) FROM work_orders
                 WHERE state IN ('raised', 'planning', 'ready') AND scheduled_start IS NULL";
            assert_eq!(board["undated"], self.count(undated));
            for order in board["queue"].as_array().unwrap() {
                self.opened(&format!("/work-orders/{}", order["number"])).await;
            }
            day = board["after"].as_str().unwrap().into();
        }
        assert!(dated > 5, "{dated}");
    }

    /// What is open near every asset, counted by hand over lines of the tree; what it leads to opens.
    pub async fn already_raised(&self) {
        let database = self.database();
        let rows = |sql: &str| -> Vec<(i64, i64)> {
            let mut select = database.prepare(sql).unwrap();
            let found = select.query_map([], |row| Ok((row.get(0)?, row.get(1)?))).unwrap();
            found.map(Result::unwrap).collect()
        };
        let parents: HashMap<i64, i64> =
            rows("SELECT asset_id, parent_id FROM placements WHERE to_at IS NULL AND parent_id IS NOT NULL")
                .into_iter()
                .collect();
        let line =
            |asset: i64| std::iter::successors(Some(asset), |below| parents.get(below).copied()).collect::<Vec<_>>();
        let from = opening(TODAY).ms() - 90 * 86_400_000;
        let open =
            rows(&format!("SELECT number, asset_id FROM work_orders WHERE state IN ({OPEN}) AND raised_at >= {from}"));
        let lines: Vec<Vec<i64>> = open.iter().map(|(_, asset)| line(*asset)).collect();
        let mut told = 0;
        let assets = self.opened("/assets?depth=99").await;
        let ids: HashMap<String, i64> = {
            let mut select = database.prepare("SELECT code, id FROM assets").unwrap();
            select.query_map([], |row| Ok((row.get(0)?, row.get(1)?))).unwrap().map(Result::unwrap).collect()
        };
        for asset in assets.as_array().unwrap() {
            let code = asset["code"].as_str().unwrap();
            let above = line(ids[code]);
            let near = lines.iter().filter(|line| line.contains(&ids[code]) || above.contains(&line[0])).count();
            let found = self.opened(&format!("/work-orders/already-raised?asset={code}&title=oil%20leaks")).await;
            assert_eq!(found["count"], near, "{code}");
            told += near;
        }
        assert!(told > 100, "{told}");
        let late = self.opened("/work-orders?late_waiting=true").await;
        let sql = format!(
            "SELECT count(*) FROM work_orders WHERE state = 'waiting' AND expected_until < {}",
            opening(TODAY).ms()
        );
        assert_eq!(late["totals"]["count"], self.count(&sql));
    }
}

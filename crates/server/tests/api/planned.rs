//! The planner's looks on the whole demo: everything they lead to opens, and what they say is counted a second way.

use crate::everything::Demo;
use jiff::{ToSpan, civil::Date};
use serde_json::{Value, json};
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

    /// The year ahead of every crew: cycles by days are those that plain addition gives, a week's hours those of its cycles; every
    /// plan opens with what its cycles came to, and how many were in time is what SQL counts.
    pub async fn years(&self) {
        let year = self.opened("/upkeep/year").await;
        let first: Date = year["weeks"][0].as_str().unwrap().parse().unwrap();
        let mut plans: Vec<String> = Vec::new();
        for crew in year["crews"].as_array().unwrap() {
            let of_crew =
                self.opened(&format!("/upkeep/year?crew={}", crew["code"].as_str().unwrap_or_default())).await;
            let told = of_crew["plans"].as_array().unwrap();
            assert_eq!(of_crew["plans_in_all"], told.len(), "all are told");
            let mut load = vec![0.0; 52];
            for plan in told {
                let cycles = plan["cycles"].as_array().unwrap();
                for cycle in cycles {
                    load[cycle["week"].as_u64().unwrap() as usize] += plan["hours"].as_f64().unwrap_or(0.0);
                    if let Some(number) = cycle["work_order"].as_i64() {
                        let order = self.opened(&format!("/work-orders/{number}")).await;
                        assert_eq!(order["cycle"]["plan"], plan["code"]);
                    }
                }
                self.added_up(plan, first);
                plans.push(plan["code"].as_str().unwrap().into());
            }
            for (week, hours) in load.iter().enumerate() {
                let said = crew["load_hours"][week].as_f64().unwrap();
                assert!((said - hours).abs() < 1e-6, "{} {week}: {said} {hours}", crew["code"]);
            }
        }
        plans.sort();
        plans.dedup();
        assert_eq!(plans.len() as i64, self.count("SELECT count(*) FROM upkeep_plans WHERE status = 'active'"));
        let mut judged = 0;
        for code in &plans {
            let plan = self.opened(&format!("/upkeep/plans/{code}")).await;
            let counted: i64 = self
                .database()
                .query_row(
                    "SELECT count(*) FROM upkeep_cycles c JOIN upkeep_plans p ON p.id = c.plan_id AND p.code = ?1
                     JOIN state_changes s ON s.work_order = c.work_order AND s.to_state = 'done'
                     JOIN work_orders w ON w.number = c.work_order AND w.state IN ('done', 'closed')
                     WHERE date(s.at / 1000, 'unixepoch', '+1 hour') <= date(c.due, '+' || c.grace_days || ' days')",
                    [code],
                    |row| row.get(0),
                )
                .unwrap();
            assert_eq!(plan["in_time"], counted, "{code}");
            judged += plan["judged"].as_i64().unwrap();
            for cycle in plan["cycles"].as_array().unwrap() {
                if let Some(number) = cycle["work_order"].as_i64() {
                    self.opened(&format!("/work-orders/{number}")).await;
                }
            }
        }
        assert!(judged > 50, "{judged}");
        let decided = self.opened("/decisions").await;
        let open = "SELECT count(*) FROM risk_decisions d JOIN work_orders w ON w.number = d.work_order
             WHERE d.answer IS NULL AND w.state NOT IN ('closed', 'dropped')";
        assert_eq!((&decided["open"], decided["open"].as_i64() > Some(0)), (&self.count(open).into(), true));
        let asked: Vec<i64> = {
            let database = self.database();
            let mut select = database.prepare("SELECT DISTINCT work_order FROM risk_decisions").unwrap();
            select.query_map([], |row| row.get(0)).unwrap().map(Result::unwrap).collect()
        };
        for number in &asked {
            let order = self.opened(&format!("/work-orders/{number}")).await;
            let is_open = order["decisions"].as_array().unwrap().iter().any(|one| one["is_open"] == true);
            assert_eq!(is_open, !order["known"].is_null(), "{number}");
        }
        assert!(asked.len() > 10, "{asked:?}");
        let sheets = self.opened("/job-sheets").await;
        for sheet in sheets.as_array().unwrap() {
            let code = sheet["code"].as_str().unwrap();
            let opened = self.opened(&format!("/job-sheets/{code}")).await;
            let sql = format!(
                "SELECT count(*) FROM work_orders w JOIN job_sheet_versions v ON v.id = w.job_version_id
                 JOIN job_sheets j ON j.id = v.sheet_id AND j.code = '{code}'"
            );
            assert_eq!(
                (&opened["used"], &sheet["used"]),
                (&self.count(&sql).into(), &self.count(&sql).into()),
                "{code}"
            );
        }
        assert!(sheets.as_array().unwrap().len() >= 8, "{sheets}");
        self.open_rounds(sheets.as_array().unwrap()).await;
        let proposed = self.opened("/upkeep/levelling").await;
        assert!(proposed["over_after_hours"].as_f64().unwrap() < proposed["over_before_hours"].as_f64().unwrap());
    }

    /// The line of time of everybody and of every crew: every order on it opens, and there are as many as SQL counts.
    pub async fn shifts(&self) {
        let to_do = "w.state IN ('ready', 'scheduled', 'under_way')";
        let (people, crews, who_works): (Vec<String>, Vec<String>, Vec<String>) = {
            let database = self.database();
            let codes = |sql: &str| -> Vec<String> {
                let mut select = database.prepare(sql).unwrap();
                select.query_map([], |row| row.get(0)).unwrap().map(Result::unwrap).collect()
            };
            (
                codes("SELECT code FROM people WHERE active AND account = 'person' ORDER BY code"),
                codes("SELECT code FROM crews ORDER BY code"),
                codes(
                    "SELECT code FROM people WHERE active AND role IN ('technician', 'planner', 'engineer') ORDER BY code",
                ),
            )
        };
        let mut seen = HashMap::new();
        let lines = people.iter().map(|code| ("person", code)).chain(crews.iter().map(|code| ("crew", code)));
        for (kind, code) in lines {
            let line = self.opened(&format!("/shift?{kind}={code}")).await;
            let theirs = match kind {
                "crew" => format!("w.crew_id = (SELECT id FROM crews WHERE code = '{code}')"),
                _ => format!(
                    "EXISTS (SELECT 1 FROM people p WHERE p.code = '{code}' AND (w.assignee_id = p.id
                         OR (w.crew_id = p.crew_id AND w.assignee_id IS NULL AND w.scheduled_start IS NOT NULL)))"
                ),
            };
            let counted = self.count(&format!("SELECT count(*) FROM work_orders w WHERE {to_do} AND {theirs}"));
            assert_eq!(line["to_do"], counted, "{kind} {code}");
            let parts = line["parts"].as_array().unwrap();
            for (place, part) in parts.iter().enumerate() {
                let at = part["at"].as_str().unwrap();
                assert!(place == 0 || at != "late", "what is late stands first: {line}");
                for order in part["orders"].as_array().unwrap() {
                    *seen.entry(at.to_owned()).or_insert(0) += 1;
                    self.opened(&format!("/work-orders/{}", order["number"])).await;
                    // What was due before now is late, and nothing else of what is not begun.
                    let due = tally_core::ground::time::Instant::parse(order["due"].as_str().unwrap()).unwrap();
                    let is_past = due < opening(TODAY);
                    let is_begun = at == "now" || at == "finished";
                    assert!(is_begun || is_past == (at == "late"), "{at} {order}");
                }
            }
        }
        assert!(["late", "today", "ahead"].iter().all(|at| seen.contains_key(*at)), "{seen:?}");
        for code in who_works {
            self.taken_along(&code).await;
        }
    }

    /// What somebody takes along, counted a second way: each order as its page is, each check sheet that is open, each codebook.
    async fn taken_along(&self, code: &str) {
        let taken = self.opened_as("/shift/taken-along", code).await;
        let line = self.opened_as("/shift", code).await;
        assert_eq!(taken["shift"], line, "{code}");
        // Seven days after the demo's 16 February.
        let within =
            |part: &Value| part["at"] != "finished" && part["day"].as_str().is_none_or(|day| day <= "2026-02-23");
        let wanted: Vec<&Value> = line["parts"]
            .as_array()
            .unwrap()
            .iter()
            .filter(|part| within(part))
            .flat_map(|part| part["orders"].as_array().unwrap())
            .map(|order| &order["number"])
            .collect();
        let orders = taken["orders"].as_array().unwrap();
        assert_eq!(orders.iter().map(|order| &order["number"]).collect::<Vec<_>>(), wanted, "{code}");
        let mut checks = 0;
        for order in orders {
            let number = order["number"].as_i64().unwrap();
            assert_eq!(*order, self.opened_as(&format!("/work-orders/{number}"), code).await);
            checks +=
                self.count(&format!("SELECT count(*) FROM checks WHERE work_order = {number} AND finished_at IS NULL"));
            let book = order["codebook"].as_str();
            let has = taken["codebooks"].as_array().unwrap().iter().any(|one| one["code"].as_str() == book);
            assert!(book.is_none() || has, "{code} {number}");
        }
        assert_eq!(taken["checks"].as_array().unwrap().len() as i64, checks, "{code}");
    }

    /// Each round with its map, on which each visit stands once; and of the orders that follow one, each visit with its check sheets.
    async fn open_rounds(&self, sheets: &[Value]) {
        let rounds: Vec<&Value> = sheets.iter().filter(|sheet| !sheet["round"].is_null()).collect();
        assert_eq!(rounds.len(), 2, "{rounds:?}");
        for round in rounds {
            let opened = self.opened(&format!("/job-sheets/{}", round["code"].as_str().unwrap())).await;
            let visits: Vec<&str> =
                opened["steps"].as_array().unwrap().iter().map(|step| step["asset"].as_str().unwrap()).collect();
            let map = self.opened(&format!("/rounds/map?visits={}", visits.join(","))).await;
            let mut drawn = 0;
            for line in map.as_array().unwrap() {
                for visit in line["visits"].as_array().unwrap() {
                    assert_eq!(line["code"], visits[usize::try_from(visit.as_u64().unwrap()).unwrap()]);
                    drawn += 1;
                }
            }
            assert_eq!((drawn, &round["steps"]), (visits.len(), &json!(visits.len())));
        }
        let walked: Vec<i64> = {
            let database = self.database();
            let mut select = database
                .prepare(
                    "SELECT w.number FROM work_orders w JOIN job_sheet_versions v ON v.id = w.job_version_id
                     WHERE json_extract(v.sheet, '$.round') IS NOT NULL",
                )
                .unwrap();
            select.query_map([], |row| row.get(0)).unwrap().map(Result::unwrap).collect()
        };
        assert!(!walked.is_empty());
        for number in walked {
            let order = self.opened(&format!("/work-orders/{number}")).await;
            let steps = order["job"]["steps"].as_array().unwrap().len();
            let at_visits = order["checks"].as_array().unwrap().iter().filter(|check| !check["step"].is_null()).count();
            let settled =
                self.count(&format!("SELECT count(*) FROM job_ticks WHERE work_order = {number} AND line = 'step'"));
            assert_eq!(order["job"]["open_steps"], json!(steps as i64 - settled), "{number}");
            let kept = format!("SELECT count(*) FROM checks WHERE work_order = {number} AND step IS NOT NULL");
            assert_eq!((at_visits as i64, at_visits > 0), (self.count(&kept), true), "{number}");
        }
    }

    /// The cycles ahead of a plan by days, as planned: the first date and so many days again and again, after the last one settled.
    fn added_up(&self, plan: &Value, monday: Date) {
        let database = self.database();
        let (every, first): (Option<i64>, Option<String>) = database
            .query_row(
                "SELECT iif(every_units IS NULL AND counts_from = 'planned', every_days, NULL), first_due FROM upkeep_plans WHERE code = ?1",
                [plan["code"].as_str()],
                |row| Ok((row.get(0)?, row.get(1)?)),
            )
            .unwrap();
        let Some((every, first)) = every.zip(first) else { return };
        let settled: Option<String> = database
            .query_row(
                "SELECT max(c.due) FROM upkeep_cycles c JOIN upkeep_plans p ON p.id = c.plan_id AND p.code = ?1
                 JOIN assets a ON a.id = c.asset_id AND a.code = ?2 WHERE c.outcome IS NOT NULL",
                [plan["code"].as_str(), plan["asset"]["code"].as_str()],
                |row| row.get(0),
            )
            .unwrap();
        let (first, last): (Date, Date) = (first.parse().unwrap(), monday.saturating_add(363.days()));
        let since = settled.map_or(tally_demo::plan::before(TODAY, tally_demo::plan::PLANS_SINCE), |due| {
            due.parse::<Date>().unwrap().tomorrow().unwrap()
        });
        let expected: Vec<String> = first
            .series(every.days())
            .skip_while(|date| *date < since)
            .take_while(|date| *date <= last)
            .map(|date| date.to_string())
            .collect();
        let told = plan["cycles"].as_array().unwrap().iter().filter(|cycle| cycle["work_order"].is_null());
        let told: Vec<&str> = told.map(|cycle| cycle["due"].as_str().unwrap()).collect();
        assert_eq!(told, expected, "{}", plan["code"]);
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

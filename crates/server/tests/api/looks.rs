//! What figures are taken apart into, all over the demo: it opens, and comes to the figures.

use crate::everything::Demo;
use serde_json::{Value, json};

impl Demo {
    /// What figures are taken apart into, for everything down to the systems: it opens, and comes to the figures.
    pub async fn every_look(&self) {
        let indicators = self.opened("/indicators").await;
        let flows: Vec<&Value> = indicators
            .as_array()
            .unwrap()
            .iter()
            .filter(|one| one["roll_up"] == "additive" || one["roll_up"] == "union")
            .collect();
        for asset in self.opened("/assets?depth=2").await.as_array().unwrap() {
            let code = asset["code"].as_str().unwrap();
            let tally = self.opened(&format!("/tally?scope={code}&period=2025&depth=0")).await;
            let (now, before) = (&tally["rows"][0]["figures"], &tally["rows"][0]["before"]);
            for one in &flows {
                let id = one["id"].as_str().unwrap();
                let unit = if one["unit"] == "hours" { 3_600_000.0 } else { 1.0 };
                let change = self.opened(&format!("/tally/changed?scope={code}&period=2025&indicator={id}")).await;
                for (side, figures) in [("now", now), ("before", before)] {
                    let figure = figures[id]["value"].as_f64().unwrap() * unit;
                    let told = change[side].as_i64().unwrap();
                    assert!((told as f64 - figure).abs() <= 0.5, "{code} {id} {side}: {told} {figure}");
                    for of in change["of"].as_array().unwrap() {
                        let parts = of["parts"].as_array().unwrap().iter();
                        let sum: i64 = parts.map(|part| part[side].as_i64().unwrap()).sum();
                        assert_eq!(sum, told, "{code} {id} {side} by {}", of["dimension"]);
                    }
                }
            }
            let line = self.opened(&format!("/tally/downtime?scope={code}&period=2025")).await;
            for (place, id) in ["unplanned_downtime", "planned_downtime", "external_downtime"].iter().enumerate() {
                let ms = line["lanes"][0]["ms"][place].as_i64().unwrap();
                let figure = now[id]["value"].as_f64().unwrap();
                assert!((ms as f64 / 3_600_000.0 - figure).abs() < 1e-9, "{code} {id}: {ms} {figure}");
            }
            let open = self.opened(&format!("/tally/backlog?scope={code}&months=3")).await;
            let today = self.opened(&format!("/tally?scope={code}&period=this_month&depth=0")).await;
            let today = &today["rows"][0]["figures"];
            for (key, id) in
                [("count", "open_work"), ("past_window", "past_window"), ("over_limit", "over_state_limit")]
            {
                assert_eq!(open["now"][key].as_f64(), today[id]["value"].as_f64(), "{code} {key}");
            }
            let forecast = self.opened(&format!("/tally/forecast?scope={code}&period=this_month")).await;
            let spent = forecast[0]["spent"].as_f64();
            assert_eq!(spent, today["cost_ytd"]["value"].as_f64(), "{code}: what is spent is the year to date");
            let said = self.opened(&format!("/headlines?scope={code}")).await;
            for headline in said["headlines"].as_array().unwrap() {
                if headline["ask"].is_null() {
                    assert_eq!(headline["count"], 0, "{code}: {headline}");
                    continue;
                }
                let listed = self.list("work", headline["ask"].clone()).await;
                assert_eq!(listed["count"], headline["count"], "{code}: {headline}");
            }
        }
        for asset in self.opened("/assets?depth=1").await.as_array().unwrap().iter().take(3) {
            for id in ["cost_total", "failures", "open_work"] {
                self.parts_lead_to_their_rows(asset["code"].as_str().unwrap(), id).await;
            }
        }
        // What downtime costs, worked out from the hours: only lifts have a cost, and each hour of one costs that.
        let mut select = self.database();
        let costs: Vec<(String, f64)> = {
            let select = &mut select;
            let mut costs =
                select.prepare("SELECT code, downtime_cost FROM assets WHERE downtime_cost IS NOT NULL").unwrap();
            costs.query_map([], |row| Ok((row.get(0)?, row.get(1)?))).unwrap().collect::<Result<_, _>>().unwrap()
        };
        for (code, cost) in costs {
            let lift = self.opened(&format!("/tally?scope={code}&period=last_12_months&depth=0")).await;
            let figures = &lift["rows"][0]["figures"];
            let wanted = figures["unplanned_downtime"]["value"].as_f64().unwrap() * cost;
            let told = figures["downtime_cost"]["value"].as_f64().unwrap();
            assert!(wanted > 0.0 && (told - wanted).abs() < 1.0, "{code}: {told}, from the hours {wanted}");
        }
    }

    /// Alarms as the tally counts them and as their own page does; assets ranked, and each as the tally says.
    pub async fn alarms_and_ranking(&self) {
        let page = self.opened("/alarms/performance?period=2025").await;
        let tally = self.opened("/tally?scope=OMB&period=2025&depth=0").await;
        let figures = &tally["rows"][0]["figures"];
        assert_eq!(figures["alarms"]["value"].as_f64(), page["alarms"].as_f64());
        let per_day = (figures["alarms_per_day"]["value"].as_f64().unwrap() - page["per_day"].as_f64().unwrap()).abs();
        assert!(per_day < 1e-9);
        let share = |part: &str, of: &str| page[part].as_f64().unwrap() / page[of].as_f64().unwrap();
        assert_eq!(figures["work_from_alarms"]["value"].as_f64(), Some(share("led_to_work", "alarms")));
        assert_eq!(figures["nuisance_share"]["value"].as_f64(), Some(share("nothing_wrong", "judged")));
        let ranked = self.opened("/tally/ranking?by=cost_total&period=2025&most=500").await;
        for row in ranked["rows"].as_array().unwrap().iter().step_by(25) {
            let code = row["asset"].as_str().unwrap();
            let alone = self.opened(&format!("/tally?scope={code}&period=2025&depth=0&indicators=cost_total")).await;
            assert_eq!(alone["rows"][0]["figures"], row["figures"], "{code}");
        }
    }

    /// Each part of a difference leads to as many rows as it says it is of, on both sides: of what stood, as it stood then.
    async fn parts_lead_to_their_rows(&self, code: &str, indicator: &str) {
        let change = self.opened(&format!("/tally/changed?scope={code}&period=2025&indicator={indicator}")).await;
        let subject = match change["rows"].as_str().unwrap() {
            "work_order" => "work",
            "entry" => "entries",
            rows => &format!("{rows}s"),
        };
        for of in change["of"].as_array().unwrap().iter().filter(|of| !of["column"].is_null()) {
            for part in of["parts"].as_array().unwrap() {
                let filter = match part["value"].as_str().unwrap() {
                    "" => json!({"column": of["column"], "blank": true}),
                    value => json!({"column": of["column"], "is": [value]}),
                };
                for (side, (span, rows)) in [("span", "rows_now"), ("before_span", "rows_before")].iter().enumerate() {
                    let [from, to] = ["start", "end"].map(|end| &change[span][end]);
                    let figure = json!({"indicator": indicator, "scope": code, "from": from, "to": to});
                    let mut ask = json!({"figure": figure, "filter": [filter], "limit": 0});
                    if !change["stood_at"][side].is_null() {
                        ask["as_of"] = change["stood_at"][side].clone();
                    }
                    let listed = self.list(subject, ask).await;
                    assert_eq!(listed["count"], part[rows], "{code} {indicator} by {} {part}, {rows}", of["dimension"]);
                }
            }
        }
    }
}

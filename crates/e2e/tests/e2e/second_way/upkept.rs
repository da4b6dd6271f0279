//! Cycles of upkeep: which were in time, told by dates of the plant, plan by plan.

use super::{demo, lists};
use jiff::{ToSpan, civil::Date, tz::TimeZone};
use serde_json::json;
use std::collections::BTreeMap;
use tally_core::{
    ground::time::{Instant, Span},
    lists::SubjectId,
    plant::assets::Basis,
    tally::{Question, figures, indicators::Indicator},
};
use tally_demo::plan::TIME_ZONE;
use tally_store::StoreError;

/// A cycle as it stands in the database: plan, when due, and whether it was in time; none while it can be.
fn cycles(today: Date, zone: &TimeZone) -> Vec<(String, Date, Option<bool>)> {
    let conn = demo().database();
    let sql = "SELECT p.code, c.due, c.grace_days, c.outcome, (SELECT min(s.at) FROM state_changes s
            WHERE s.work_order = c.work_order AND s.to_state = 'done')
        FROM upkeep_cycles c JOIN upkeep_plans p ON p.id = c.plan_id WHERE c.outcome IS NOT NULL";
    let mut select = conn.prepare(sql).unwrap();
    let rows = select.query_map([], |row| {
        let due: Date = row.get::<_, String>(1)?.parse().unwrap();
        let last = due.saturating_add(row.get::<_, i64>(2)?.days());
        let done: Option<i64> = row.get(4)?;
        let done = done.map(|at| Instant::from_ms(at).in_zone(zone).date());
        let in_time = match done {
            Some(done) => Some(done <= last),
            None => (row.get::<_, String>(3)? == "missed" || last < today).then_some(false),
        };
        Ok((row.get(0)?, due, in_time))
    });
    rows.unwrap().map(|row| row.unwrap()).collect()
}

#[test]
fn cycles_that_were_in_time() {
    let plant = demo();
    let zone = TimeZone::get(TIME_ZONE).unwrap();
    let all = cycles(plant.now.in_zone(&zone).date(), &zone);
    let told =
        lists::ask(plant, SubjectId::Cycles, json!({"group": [{"column": "plan"}, {"column": "in_time"}], "limit": 0}));
    let mut theirs: BTreeMap<Vec<String>, i64> = BTreeMap::new();
    for (plan, _, in_time) in &all {
        let in_time = in_time.map_or(String::new(), |in_time| u8::from(in_time).to_string());
        *theirs.entry(vec![plan.clone(), in_time]).or_default() += 1;
    }
    let ours: BTreeMap<Vec<String>, i64> =
        lists::innermost(&told, 2).into_iter().map(|(key, (count, _))| (key, count)).collect();
    assert_eq!(ours, theirs);

    // Of the ten weeks before today, month by month.
    let months = ["2025-11-30T23:00:00Z", "2025-12-31T23:00:00Z", "2026-01-31T23:00:00Z", "2026-02-28T23:00:00Z"];
    let mut compared = 0;
    for pair in months.windows(2) {
        let period = Span::new(Instant::parse(pair[0]).unwrap(), Instant::parse(pair[1]).unwrap()).unwrap();
        let lies_in = |due: &Date| period.contains(Instant::parse(&format!("{due}T12:00:00Z")).unwrap());
        let judged: Vec<bool> = all.iter().filter(|one| lies_in(&one.1)).filter_map(|one| one.2).collect();
        let kept = judged.iter().filter(|in_time| **in_time).count();
        let theirs = (!judged.is_empty()).then(|| kept as f64 / judged.len() as f64);
        let q = Question { period, now: plant.now, basis: Basis::AsIs };
        let ours = plant.store.read(plant.now, |view| {
            let facts = view.facts()?;
            let roots: Vec<_> = facts.tree.roots_during(period).map(|root| facts.tree.node(root).id).collect();
            assert_eq!(roots.len(), 1, "one plant");
            Ok::<_, StoreError>(figures(facts, &roots, &[Indicator::PlanCompliance], q)[0][0].value)
        });
        assert_eq!(ours.unwrap(), theirs, "{pair:?}");
        compared += usize::from(kept > 0 && kept < judged.len());
    }
    assert!(compared > 0, "some were late, some not");
}

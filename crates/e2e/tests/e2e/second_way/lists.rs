//! Lists: filters, groups, totals, counts, pages, and as of a past instant.

use super::{Plant, demo, large, looks::code};
use rusqlite::Connection;
use serde_json::{Value, json};
use std::collections::BTreeMap;
use tally_core::{
    ground::time::{DAY, Instant},
    lists::{Answer, Asked, Cell, SubjectId},
};
use tally_store::lists::answer;

pub(super) fn ask(plant: &Plant, subject: SubjectId, asked: Value) -> Answer {
    let asked: Asked = serde_json::from_value(asked).unwrap();
    plant.store.read(plant.now, |view| answer::answer(view, subject, &asked, None)).unwrap()
}

fn number(cell: &Cell) -> f64 {
    match cell {
        Cell::Number(number) => *number,
        other => panic!("{other:?} is no number"),
    }
}

/// Rows of a key of texts, a count and sums, as SQL tells them.
fn groups(conn: &Connection, sql: &str, keys: usize, sums: usize) -> BTreeMap<Vec<String>, (i64, Vec<f64>)> {
    let mut select = conn.prepare(sql).unwrap();
    let rows = select.query_map([], |row| {
        let key = (0..keys).map(|place| row.get::<_, Option<String>>(place).map(Option::unwrap_or_default));
        let key = key.collect::<rusqlite::Result<Vec<_>>>()?;
        let sum = (0..sums).map(|place| row.get::<_, Option<f64>>(keys + 1 + place).map(Option::unwrap_or_default));
        Ok((key, (row.get(keys)?, sum.collect::<rusqlite::Result<Vec<_>>>()?)))
    });
    rows.unwrap().map(|row| row.unwrap()).collect()
}

/// The innermost groups of an answer, by the values that its rows have in common.
pub(super) fn innermost(answer: &Answer, levels: usize) -> BTreeMap<Vec<String>, (i64, Vec<f64>)> {
    let mut path: Vec<String> = Vec::new();
    let mut found = BTreeMap::new();
    for group in &answer.groups {
        path.truncate(group.depth);
        path.push(group.filter.clone());
        if path.len() == levels {
            let sums = group.summaries.iter().map(number).collect();
            found.insert(path.clone(), (i64::try_from(group.count).unwrap(), sums));
        }
    }
    found
}

fn same(ours: &BTreeMap<Vec<String>, (i64, Vec<f64>)>, theirs: &BTreeMap<Vec<String>, (i64, Vec<f64>)>) {
    assert!(theirs.len() > 1, "there is something to compare");
    assert_eq!(ours.keys().collect::<Vec<_>>(), theirs.keys().collect::<Vec<_>>());
    for (key, (count, sums)) in theirs {
        let (our_count, our_sums) = &ours[key];
        assert_eq!(our_count, count, "{key:?}");
        for (ours, theirs) in our_sums.iter().zip(sums) {
            assert!((ours - theirs).abs() < 1e-6 * theirs.abs().max(1.0), "{key:?}: {ours}, by SQL {theirs}");
        }
    }
}

const OPEN: &str = "('raised', 'planning', 'waiting', 'ready', 'scheduled', 'under_way')";

/// Work: groups in groups with sums, values with counts, and all pages of an order by cost.
#[rstest::rstest]
#[case(demo())]
#[case(large())]
fn of_work(#[case] plant: &Plant) {
    let conn = plant.database();
    let asked = json!({"filter": [{"column": "rank", "is": ["1", "2", "3"]}],
        "group": [{"column": "department"}, {"column": "state"}, {"column": "crew"}], "facets": ["rank", "work_kind"],
        "summaries": [{"column": "cost", "of": "sum"}, {"column": "spent", "of": "sum"}], "limit": 0});
    let told = ask(plant, SubjectId::Work, asked);
    let by_sql = groups(
        &conn,
        "SELECT w.department, w.state, c.code, count(*), sum(cost), sum(spent_ms) / 3600000.0 FROM work_orders w
         LEFT JOIN crews c ON c.id = w.crew_id WHERE risk_rank <= 3 GROUP BY 1, 2, 3",
        3,
        2,
    );
    same(&innermost(&told, 3), &by_sql);
    let counts = |which: &str| -> BTreeMap<String, u64> {
        let facet = told.facets.iter().find(|facet| facet.column == which).unwrap();
        facet.values.iter().map(|one| (one.value.clone(), one.count)).collect()
    };
    let by_sql = |sql: &str| -> BTreeMap<String, u64> {
        let mut select = conn.prepare(sql).unwrap();
        let rows = select.query_map([], |row| Ok((row.get(0)?, row.get(1)?))).unwrap();
        rows.map(|row| row.unwrap()).collect()
    };
    let ranks = "SELECT CAST(risk_rank AS TEXT), count(*) FROM work_orders GROUP BY 1";
    assert_eq!(counts("rank"), by_sql(ranks), "under all filters but its own");
    let kinds = "SELECT kind, count(*) FROM work_orders WHERE risk_rank <= 3 GROUP BY 1";
    assert_eq!(counts("work_kind"), by_sql(kinds));
    let mut select = conn
        .prepare(&format!("SELECT number FROM work_orders WHERE state IN {OPEN} ORDER BY cost DESC, number"))
        .unwrap();
    let wanted: Vec<i64> = select.query_map([], |row| row.get(0)).unwrap().map(|row| row.unwrap()).collect();
    let (mut found, mut cursor) = (Vec::new(), None::<String>);
    let states = ["raised", "planning", "waiting", "ready", "scheduled", "under_way"];
    loop {
        let page = ask(
            plant,
            SubjectId::Work,
            json!({"filter": [{"column": "state", "is": states}], "columns": ["number"],
            "sort": [{"column": "cost", "descending": true}], "limit": 500, "cursor": cursor}),
        );
        assert_eq!(page.count, wanted.len() as u64);
        found.extend(page.rows.iter().map(|row| row.id));
        cursor = page.next_cursor;
        if cursor.is_none() {
            break;
        }
    }
    assert_eq!(found, wanted);
}

/// Entries of a month by person and kind; downtime by kind; failures by effect and problem; alarms by severity.
#[rstest::rstest]
#[case(demo(), "2025-11-30T23:00:00Z", "2025-12-31T23:00:00Z")]
#[case(large(), "2025-12-01T00:00:00Z", "2026-01-01T00:00:00Z")]
fn of_what_happened(#[case] plant: &Plant, #[case] from: &str, #[case] to: &str) {
    let conn = plant.database();
    let (start, end) = (Instant::parse(from).unwrap().ms(), Instant::parse(to).unwrap().ms());
    let sum = |column: &str| json!({"column": column, "of": "sum"});
    let told = ask(
        plant,
        SubjectId::Entries,
        json!({"filter": [{"column": "at", "from": from, "to": to}],
        "group": [{"column": "person"}, {"column": "entry_kind"}], "summaries": [sum("cost"), sum("hours")], "limit": 0}),
    );
    let sql = format!(
        "SELECT p.code, e.kind, count(*), sum(amount), sum(hours_ms) / 3600000.0 FROM entries e LEFT JOIN people p ON p.id = e.person_id
         WHERE at >= {start} AND at < {end} GROUP BY 1, 2"
    );
    same(&innermost(&told, 2), &groups(&conn, &sql, 2, 2));
    let told = ask(
        plant,
        SubjectId::Downtime,
        json!({"group": [{"column": "downtime_kind"}, {"column": "class"}],
        "summaries": [sum("hours")], "limit": 0}),
    );
    let sql = format!(
        "SELECT d.kind, c.code, count(*), sum(min(ifnull(end_at, {0}), {0}) - start_at) / 3600000.0 FROM downtimes d
         JOIN assets a ON a.id = d.asset_id LEFT JOIN equipment_classes c ON c.id = a.class_id GROUP BY 1, 2",
        plant.now.ms()
    );
    same(&innermost(&told, 2), &groups(&conn, &sql, 2, 1));
    let told = ask(
        plant,
        SubjectId::Failures,
        json!({"group": [{"column": "effect"}, {"column": "order_state"}], "limit": 0}),
    );
    let sql = "SELECT f.effect, w.state, count(*) FROM failure_reports f JOIN work_orders w ON w.number = f.work_order GROUP BY 1, 2";
    same(&innermost(&told, 2), &groups(&conn, sql, 2, 0));
    let told =
        ask(plant, SubjectId::Failures, json!({"group": [{"column": "problem"}, {"column": "cause"}], "limit": 0}));
    let (problem, cause) = (code("f.problem_id"), code("f.cause_id"));
    let sql = format!("SELECT {problem}, {cause}, count(*) FROM failure_reports f GROUP BY 1, 2");
    same(&innermost(&told, 2), &groups(&conn, &sql, 2, 0));
}

#[test]
fn of_alarms() {
    let told = ask(
        demo(),
        SubjectId::Alarms,
        json!({"group": [{"column": "severity"}, {"column": "response"}, {"column": "order_verdict"}],
        "summaries": [{"column": "stood", "of": "sum"}], "limit": 0}),
    );
    let sql = format!(
        "SELECT CASE severity WHEN 1 THEN 'notice' WHEN 2 THEN 'alert' WHEN 3 THEN 'serious' ELSE 'danger' END, a.response, w.verdict,
             count(*), sum(min(ifnull(left_at, {0}), {0}) - entered_at) / 3600000.0
         FROM alarms a LEFT JOIN work_orders w ON w.number = a.work_order GROUP BY 1, 2, 3",
        demo().now.ms()
    );
    same(&innermost(&told, 3), &groups(&demo().database(), &sql, 3, 1));
}

/// Work as of past instants: where it stood, and what it had cost by then.
#[rstest::rstest]
#[case(demo(), 40)]
#[case(demo(), 700)]
#[case(large(), 3)]
#[case(large(), 900)]
fn as_of_a_past_instant(#[case] plant: &Plant, #[case] days_ago: i64) {
    let at = plant.now.plus(-days_ago * DAY);
    let told = ask(
        plant,
        SubjectId::Work,
        json!({"as_of": at, "group": [{"column": "state"}, {"column": "rank"}],
        "summaries": [{"column": "cost", "of": "sum"}, {"column": "spent", "of": "sum"}], "limit": 0}),
    );
    let at = at.ms();
    let sql = format!(
        "SELECT (SELECT s.to_state FROM state_changes s WHERE s.work_order = w.number AND s.at <= {at} ORDER BY s.at DESC, s.id DESC LIMIT 1),
             CAST(CASE WHEN w.fields_since IS NULL OR w.fields_since <= {at} THEN w.risk_rank
                 ELSE (SELECT f.risk_rank FROM former_fields f WHERE f.work_order = w.number AND (f.since <= {at}
                     OR f.id = (SELECT min(g.id) FROM former_fields g WHERE g.work_order = w.number)) ORDER BY f.id DESC LIMIT 1)
                 END AS TEXT),
             count(*), sum((SELECT ifnull(sum(e.amount), 0) FROM entries e WHERE e.work_order = w.number AND e.at <= {at})),
             sum((SELECT ifnull(sum(e.hours_ms), 0) FROM entries e WHERE e.work_order = w.number AND e.at <= {at})) / 3600000.0
         FROM work_orders w WHERE raised_at <= {at} GROUP BY 1, 2"
    );
    same(&innermost(&told, 2), &groups(&plant.database(), &sql, 2, 2));
    let today = ask(plant, SubjectId::Work, json!({"limit": 0}));
    assert!(told.count < today.count);
}

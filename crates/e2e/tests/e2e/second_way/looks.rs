//! What figures are taken apart into: the parts of a difference, and the cuts of a backlog.

use super::{
    Plant, demo,
    figures::{FAILURES, at, left_at, open_at, places, then},
    large,
};
use rstest::rstest;
use std::collections::BTreeMap;
use tally_core::{
    ground::{
        ids::AssetId,
        time::{DAY, HOUR, Instant, Span},
        words::word,
    },
    plant::assets::Basis,
    tally::{BacklogCut, Dimension, HeldBack, Question, Scope, Way, backlog, changed, indicators::Indicator},
};
use tally_store::StoreError;

/// By what it is called: amounts, and how many rows they are of.
type Parts = BTreeMap<String, Vec<i64>>;

fn asked(plant: &Plant, sql: &str) -> Parts {
    let conn = plant.database();
    let mut select = conn.prepare(sql).unwrap();
    let columns = select.column_count();
    let mut rows = select.query([]).unwrap();
    let mut parts = Parts::new();
    while let Some(row) = rows.next().unwrap() {
        let key: String = row.get(0).unwrap();
        parts.insert(key, (1..columns).map(|column| row.get(column).unwrap()).collect());
    }
    parts
}

fn added(parts: &mut Parts, key: &str, values: &[i64]) {
    let sums = parts.entry(key.to_owned()).or_insert_with(|| vec![0; values.len()]);
    sums.iter_mut().zip(values).for_each(|(sum, value)| *sum += value);
}

/// Rows of `what` (id, asset, at) that happened below a scope; all of them without one.
fn below(scope: Option<AssetId>, what: &str) -> String {
    let Some(scope) = scope else { return "1".into() };
    format!(
        "h.id IN (WITH RECURSIVE places AS ({}), line (id, asset, at) AS (
            SELECT id, asset_id, at FROM ({what})
            UNION ALL
            SELECT l.id, p.parent_id, l.at FROM line l JOIN places p
                ON p.asset_id = l.asset AND p.from_at <= l.at AND (p.to_at IS NULL OR p.to_at > l.at)
            WHERE p.parent_id IS NOT NULL)
        SELECT id FROM line WHERE asset = {})",
        places(),
        scope.0
    )
}

/// The last instant of a period that is past.
fn end_of(period: Span) -> i64 {
    period.end().ms() - 1
}

/// The rows of an indicator in a period: id, asset, instant, amount, order, kind, and their own problem.
fn rows_of(indicator: Indicator, period: Span) -> String {
    let (from, to) = (period.start().ms(), period.end().ms());
    match indicator {
        Indicator::OpenWork => format!(
            "SELECT number AS id, asset AS asset_id, {at} AS at, 1 AS amount, number AS work_order, NULL AS kind, NULL AS problem_id,
                NULL AS item_id, NULL AS supplier_id FROM {}",
            open_at(end_of(period)),
            at = end_of(period),
        ),
        Indicator::Failures => format!(
            "SELECT id, asset_id, failed_at AS at, 1 AS amount, work_order, effect AS kind, problem_id, NULL AS item_id,
                NULL AS supplier_id FROM {FAILURES} WHERE failed_at >= {from} AND failed_at < {to}"
        ),
        _ => format!(
            "SELECT id, asset_id, at, amount, work_order, kind, NULL AS problem_id, item_id, supplier_id FROM entries
             WHERE at >= {from} AND at < {to}"
        ),
    }
}

/// The code of an id; with it, where others have that code.
pub(super) fn code(id: &str) -> String {
    format!(
        "(SELECT c.code || iif((SELECT count(*) FROM codes o WHERE o.code = c.code) > 1, '#' || c.id, '') FROM codes c
        WHERE c.id = {id})"
    )
}

/// What a dimension is called in the rows: a failure's problem is its own, an order's that of the first of its failures that has one.
/// What stood is of the kind and the crew of then.
fn called(indicator: Indicator, dimension: Dimension, period: Span) -> String {
    let called = match dimension {
        Dimension::WorkKind if indicator == Indicator::OpenWork => return then("kind", end_of(period)),
        Dimension::Crew if indicator == Indicator::OpenWork => {
            return format!("(SELECT code FROM crews WHERE id = {})", then("crew_id", end_of(period)));
        }
        Dimension::Kind => "h.kind",
        Dimension::WorkKind => "w.kind",
        Dimension::Crew => "(SELECT code FROM crews WHERE id = w.crew_id)",
        Dimension::Item => "(SELECT name FROM items WHERE id = h.item_id)",
        Dimension::Supplier => "(SELECT name FROM suppliers WHERE id = h.supplier_id)",
        Dimension::Problem if indicator == Indicator::Failures => return code("h.problem_id"),
        Dimension::Problem => {
            let until = if indicator == Indicator::OpenWork { end_of(period) } else { i64::MAX };
            return code(&format!(
                "(SELECT f.problem_id FROM failure_reports f WHERE f.work_order = h.work_order
                    AND f.problem_id IS NOT NULL AND f.failed_at <= {until} ORDER BY f.failed_at, f.id LIMIT 1)"
            ));
        }
        Dimension::Child => unreachable!("children are counted where figures are"),
    };
    called.into()
}

fn parts_by_sql(plant: &Plant, scope: Option<AssetId>, indicator: Indicator, by: Dimension, period: Span) -> Parts {
    let what = rows_of(indicator, period);
    let sql = format!(
        "SELECT ifnull({}, ''), sum(h.amount), count(*) FROM ({what}) h JOIN work_orders w ON w.number = h.work_order
         WHERE {} GROUP BY 1",
        called(indicator, by, period),
        below(scope, &what)
    );
    asked(plant, &sql)
}

/// Everything, and some assets with others below them.
fn scopes(plant: &Plant) -> Vec<Option<AssetId>> {
    let conn = plant.database();
    let mut select = conn
        .prepare(
            "SELECT DISTINCT asset_id FROM placements
             WHERE to_at IS NULL AND asset_id IN (SELECT parent_id FROM placements) ORDER BY asset_id LIMIT 6",
        )
        .unwrap();
    let some = select.query_map([], |row| Ok(Some(AssetId(row.get(0)?)))).unwrap();
    std::iter::once(None).chain(some.map(Result::unwrap)).collect()
}

#[rstest]
#[case::demo(demo(), ["2024-12-31T23:00:00Z", "2025-12-31T23:00:00Z"])]
#[case::large(large(), ["2025-03-01T00:00:00Z", "2025-06-01T00:00:00Z"])]
fn the_parts_of_a_difference(#[case] plant: &Plant, #[case] period: [&str; 2]) {
    let [from, to] = period.map(at);
    let now = Span::new(from, to).unwrap();
    let before = Span::new(now.start().plus(-now.ms()), now.start()).unwrap();
    let dimensions: Vec<Dimension> = Dimension::ALL.into_iter().filter(|one| *one != Dimension::Child).collect();
    let mut found = 0;
    for scope in scopes(plant) {
        for indicator in [Indicator::CostTotal, Indicator::Failures, Indicator::OpenWork] {
            let questions = [now, before].map(|period| Question { period, now: plant.now, basis: Basis::AsWas });
            let asked = Scope { asset: scope, under: Way::default(), depth: 1 };
            let change = plant.store.read(plant.now, |view| {
                Ok::<_, StoreError>(changed(view.facts()?, &asked, indicator, questions, None, &dimensions)?)
            });
            for of in change.unwrap().of {
                let (mut ours, mut theirs) = (Parts::new(), Parts::new());
                for part in &of.parts {
                    let (rows_now, rows_before) = (part.rows_now as i64, part.rows_before as i64);
                    added(&mut ours, &part.value, &[part.now, rows_now, part.before, rows_before]);
                }
                for (period, place) in [(now, 0), (before, 2)] {
                    for (key, sums) in parts_by_sql(plant, scope, indicator, of.dimension, period) {
                        let mut all = [0; 4];
                        all[place..place + 2].copy_from_slice(&sums);
                        added(&mut theirs, &key, &all);
                    }
                }
                assert_eq!(ours, theirs, "{indicator:?} of {scope:?} by {:?}", of.dimension);
                found += ours.len();
            }
        }
    }
    assert!(found > 50, "{found}");
}

/// Below a scope at an instant.
fn stood_below(scope: Option<AssetId>, as_of: Instant) -> String {
    let Some(scope) = scope else { return "1".into() };
    format!(
        "o.asset IN (WITH RECURSIVE places AS ({}), below (asset) AS (
            SELECT {} UNION ALL
            SELECT p.asset_id FROM below b JOIN places p ON p.parent_id = b.asset
                AND p.from_at <= {as_of} AND (p.to_at IS NULL OR p.to_at > {as_of}))
        SELECT asset FROM below)",
        places(),
        scope.0,
        as_of = as_of.ms()
    )
}

/// What a cut's values are in the rows; the bands of age are those of the screen: up to 7, 30, 90 and 180 days in full.
fn cut_by(cut: BacklogCut, as_of: i64) -> String {
    match cut {
        BacklogCut::State => "o.state".into(),
        BacklogCut::Crew => format!("(SELECT code FROM crews WHERE id = {})", then("crew_id", as_of)),
        BacklogCut::Department => then("department", as_of),
        BacklogCut::Rank => format!("CAST({} AS TEXT)", then("risk_rank", as_of)),
        BacklogCut::Age => {
            let days = format!("(({as_of} - w.raised_at) / {DAY})");
            format!("CAST(({days} > 7) + ({days} > 30) + ({days} > 90) + ({days} > 180) AS TEXT)")
        }
    }
}

#[rstest]
#[case::demo(demo())]
#[case::large(large())]
fn the_cuts_of_a_backlog(#[case] plant: &Plant) {
    let instants = [0, 40, 200, 500].map(|days| plant.now.plus(-days * DAY + if days > 0 { HOUR } else { 0 }));
    let mut found = 0;
    for scope in scopes(plant) {
        let told = plant.store.read(plant.now, |view| {
            Ok::<_, StoreError>(backlog(view.facts()?, scope, &instants, None, &HeldBack::default()))
        });
        for (as_of, told) in instants.iter().zip(told.unwrap()) {
            let ms = as_of.ms();
            for (cut, groups) in BacklogCut::ALL.into_iter().zip(&told.cuts) {
                let ours: Parts = groups
                    .iter()
                    .map(|group| (group.value.clone(), vec![group.count as i64, group.ms, group.past_window as i64]))
                    .collect();
                let sql = format!(
                    "SELECT value, sum(is_order), CAST(round(sum(ms)) AS INTEGER), sum(is_past) FROM (
                        SELECT ifnull({cut}, '') AS value, 1 AS is_order, 0 AS ms, o.window_end < {ms} AS is_past
                        FROM {open} o JOIN work_orders w ON w.number = o.number WHERE {below}
                        UNION ALL
                        SELECT ifnull({cut}, ''), 0, l.ms, 0
                        FROM {left} l JOIN {open} o ON o.number = l.number JOIN work_orders w ON w.number = o.number
                        WHERE l.ms > 0 AND {left_below}) GROUP BY 1",
                    cut = cut_by(cut, ms),
                    open = open_at(ms),
                    left = left_at(ms),
                    below = stood_below(scope, *as_of),
                    left_below = stood_below(scope, *as_of).replace("o.asset", "l.asset"),
                );
                assert_eq!(ours, asked(plant, &sql), "{} of {scope:?} as of {as_of}", word(&cut));
                found += ours.len();
            }
        }
    }
    assert!(found > 100, "{found}");
}

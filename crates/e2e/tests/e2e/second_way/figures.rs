//! Every additive indicator of every asset, as it was and as it is.

use super::{Plant, demo, large};
use rstest::rstest;
use rusqlite::OptionalExtension;
use std::collections::HashMap;
use tally_core::{
    ground::{
        ids::AssetId,
        time::{DAY, HOUR, Instant, Span},
    },
    plant::assets::{Basis, Criticality},
    tally::{
        HeldTo, Question, figures_held,
        indicators::{Indicator, RollUp, Unit},
    },
    work::WorkKind,
};
use tally_store::StoreError;

/// Where assets stood and until when. A first place reaches back to the beginning.
pub(super) fn places() -> &'static str {
    "SELECT asset_id, parent_id, to_at,
        CASE WHEN from_at = min(from_at) OVER (PARTITION BY asset_id) THEN -9e18 ELSE from_at END AS from_at FROM placements"
}

/// What happened on assets, as rows of asset, instant, amount and order, where `held` says that it counts, is added to each asset
/// and all above it: those that stood above it at that instant, or stand above it now (`?1`).
fn up_the_tree(happened: &str, held: &str) -> String {
    format!(
        "WITH RECURSIVE happened (asset, at, amount, work) AS ({happened}),
        places AS ({places}),
        line (asset, at, amount) AS (
            SELECT asset, ifnull(?1, at), amount FROM happened WHERE {held}
            UNION ALL
            SELECT p.parent_id, l.at, l.amount FROM line l JOIN places p
                ON p.asset_id = l.asset AND p.from_at <= l.at AND (p.to_at IS NULL OR p.to_at > l.at)
            WHERE p.parent_id IS NOT NULL)
        SELECT asset, sum(amount) FROM line GROUP BY asset",
        places = places()
    )
}

/// A field of an order as it was at an instant.
pub(super) fn then(column: &str, at: i64) -> String {
    format!(
        "(SELECT CASE
            WHEN w.fields_since IS NULL OR w.fields_since <= {at} THEN w.{column}
            WHEN f.id IS NULL THEN (SELECT g.{column} FROM former_fields g WHERE g.work_order = w.number ORDER BY g.id LIMIT 1)
            ELSE f.{column} END
         FROM (SELECT 1) LEFT JOIN former_fields f ON f.id = (SELECT max(g.id) FROM former_fields g
            WHERE g.work_order = w.number AND g.since <= {at}))"
    )
}

/// Work that was open at an instant: its estimate of then in milliseconds (nothing where there was none), what had been spent on it,
/// its window, and since when it stood in which state.
pub(super) fn open_at(at: i64) -> String {
    format!(
        "(SELECT w.number, w.asset_id AS asset, round({estimated} * {HOUR}) AS estimated,
            (SELECT ifnull(sum(hours_ms), 0) FROM entries e WHERE e.work_order = w.number AND e.at <= {at}) AS spent,
            {window} AS window_end, {scheduled} AS scheduled, s.to_state AS state, s.at AS since, s.waiting_for
        FROM work_orders w JOIN state_changes s ON s.id = (SELECT c.id FROM state_changes c
            WHERE c.work_order = w.number AND c.at <= {at} ORDER BY c.at DESC, c.id DESC LIMIT 1)
        WHERE s.to_state NOT IN ('done', 'returned', 'closed', 'dropped'))",
        estimated = then("estimated_hours", at),
        window = then("window_end", at),
        scheduled = then("scheduled_start", at),
    )
}

/// What is left of open work at an instant, by the assets of its steps that were not done or skipped by then, in proportion to their
/// hours, and at its own for what no step names: rows of number, asset, milliseconds (not rounded) and whether it is its own.
/// Orders without an estimate have none.
pub(super) fn left_at(at: i64) -> String {
    format!(
        "(WITH o AS MATERIALIZED (SELECT number, asset, estimated, max(estimated - spent, 0) AS left FROM {open}
            WHERE estimated IS NOT NULL),
        all_steps AS MATERIALIZED (SELECT o.number, ifnull(a.id, o.asset) AS asset, a.id IS NOT NULL AS elsewhere,
                round((s.value ->> 'hours') * {HOUR}) AS ms, t.at IS NULL OR t.at > {at} AS is_open
            FROM o JOIN work_orders w ON w.number = o.number JOIN job_sheet_versions v ON v.id = w.job_version_id
            JOIN json_each(v.sheet, '$.steps') s LEFT JOIN assets a ON a.code = s.value ->> 'asset'
            LEFT JOIN job_ticks t ON t.work_order = o.number AND t.line = 'step' AND t.place = s.key
            WHERE s.value ->> 'hours' IS NOT NULL),
        steps AS MATERIALIZED (SELECT * FROM all_steps WHERE number IN (SELECT number FROM all_steps WHERE elsewhere)),
        weights AS MATERIALIZED (
            SELECT number, asset, ms, 0 AS is_rest FROM steps WHERE is_open
            UNION ALL
            SELECT number, asset,
                max(0, estimated - ifnull((SELECT sum(ms) FROM steps s WHERE s.number = o.number), 0)), 1 FROM o),
        wholes AS MATERIALIZED (SELECT number, sum(ms) AS whole FROM weights GROUP BY number)
        SELECT number, w.asset, left * iif(whole = 0, is_rest, ms * 1.0 / whole) AS ms
        FROM weights w JOIN o USING (number) JOIN wholes USING (number))",
        open = open_at(at),
    )
}

/// Failure reports whose work was not dropped.
pub(super) const FAILURES: &str = "(SELECT f.* FROM failure_reports f JOIN work_orders w ON w.number = f.work_order
    WHERE w.state <> 'dropped' AND f.effect <> 'incipient')";

/// The rows of an indicator in a period, of which `year` is where the fiscal year of its end began; none where it does not add up.
fn happened(indicator: Indicator, (from, to, year): (i64, i64, i64), as_of: i64) -> Option<String> {
    use Indicator as I;
    let cost = |from: i64, kind: &str| {
        format!(
            "SELECT asset_id, at, amount, work_order FROM entries WHERE at >= {from} AND at < {to} AND kind LIKE '{kind}'"
        )
    };
    let open = |amount: &str, which: &str| {
        format!("SELECT asset, {as_of}, {amount}, number FROM {} WHERE {which}", open_at(as_of))
    };
    Some(match indicator {
        I::CostTotal => cost(from, "%"),
        I::CostLabour => cost(from, "labour"),
        I::CostMaterial => cost(from, "material"),
        I::CostService => cost(from, "service"),
        I::CostTool => cost(from, "tool"),
        I::CostYtd => cost(year, "%"),
        I::CostLife => cost(i64::MIN, "%"),
        I::Failures => {
            format!("SELECT asset_id, failed_at, 1, work_order FROM {FAILURES} WHERE failed_at >= {from} AND failed_at < {to}")
        }
        I::RepeatFailures => format!(
            "SELECT f.asset_id, f.failed_at, 1, f.work_order FROM {FAILURES} f WHERE f.failed_at >= {from} AND f.failed_at < {to}
             AND EXISTS (SELECT 1 FROM {FAILURES} b WHERE b.asset_id = f.asset_id AND b.problem_id = f.problem_id
                AND (b.failed_at, b.id) < (f.failed_at, f.id) AND b.failed_at >= f.failed_at - {})",
            90 * DAY
        ),
        I::Raised => {
            format!("SELECT asset_id, raised_at, 1, number FROM work_orders WHERE raised_at >= {from} AND raised_at < {to}")
        }
        I::Completed => format!(
            "SELECT asset_id, done, 1, number FROM (SELECT w.asset_id, w.number, (SELECT min(s.at) FROM state_changes s
                WHERE s.work_order = w.number AND s.to_state = 'done') AS done FROM work_orders w)
             WHERE done >= {from} AND done < {to}"
        ),
        I::Alarms => format!(
            "SELECT m.asset_id, a.entered_at, 1, a.work_order FROM alarms a JOIN meters m ON m.id = a.meter_id
             WHERE a.kind = 'limit' AND (SELECT json_extract(v.definition, '$.rungs[' || a.rung || '].response.kind')
                 FROM ladder_versions v WHERE v.id = a.version_id) IS NOT 'record' AND a.entered_at >= {from} AND a.entered_at < {to}"
        ),
        // All that slowed was within required time, and nothing of it stood.
        I::SlowedDowntime => format!(
            "SELECT asset_id, start_at, (end_at - start_at) * share, work_order FROM downtimes
             WHERE share < 1 AND start_at >= {from} AND start_at < {to}"
        ),
        I::PastWindow => open("1", &format!("window_end < {as_of}")),
        // The limits there are at first: planning ten days, waiting for parts 21, ready without a date 14.
        I::OverStateLimit => {
            let longer = |days: i64| format!("{as_of} - since > {}", days * DAY);
            open(
                "1",
                &format!(
                    "(state = 'planning' AND {}) OR (state = 'waiting' AND waiting_for = 'parts' AND {})
                 OR (state = 'ready' AND scheduled IS NULL AND {})",
                    longer(10),
                    longer(21),
                    longer(14)
                ),
            )
        }
        I::OpenWork => open("1", "1"),
        I::OpenHours => format!("SELECT asset, {as_of}, ms, number FROM {}", left_at(as_of)),
        I::OpenWithoutEstimate => open("1", "estimated IS NULL"),
        _ => return None,
    })
}

/// Whether it tells what stands at an instant, and not what happened.
fn stands(indicator: Indicator) -> bool {
    use Indicator as I;
    matches!(indicator, I::OpenWork | I::OpenHours | I::OpenWithoutEstimate | I::PastWindow | I::OverStateLimit)
}

/// What figures are held to, and the condition on rows that says the same: what stands is asked by what its order was then, what
/// happened by what its order is.
struct HeldToSome {
    to: HeldTo,
    /// Of an asset `a`.
    asset: String,
    /// Of kind, crew, department and rank, each as it is to be asked.
    work: Option<Box<dyn Fn([String; 4]) -> String>>,
}

impl HeldToSome {
    fn all() -> Self {
        Self { to: HeldTo::default(), asset: "1".into(), work: None }
    }

    /// The condition on rows of asset and work; of an instant, where they stood at it.
    fn condition(&self, stood_at: Option<i64>) -> String {
        let asset = format!("asset IN (SELECT a.id FROM assets a WHERE {})", self.asset);
        let Some(of) = &self.work else { return asset };
        let fields = ["kind", "crew_id", "department", "risk_rank"];
        let work = of(fields.map(|field| stood_at.map_or(format!("w.{field}"), |at| then(field, at))));
        format!("{asset} AND work IN (SELECT w.number FROM work_orders w WHERE {work})")
    }
}

/// Some of each thing that figures can be held to: of assets, of work, and of both.
fn held_to_some(plant: &Plant) -> Vec<HeldToSome> {
    let conn = plant.database();
    let most = |of: &str| -> String {
        let sql = format!("SELECT {of} GROUP BY 1 ORDER BY count(*) DESC LIMIT 1");
        conn.query_row(&sql, [], |row| row.get(0)).optional().unwrap().unwrap_or_default()
    };
    let class = most("c.code FROM assets a JOIN equipment_classes c ON c.id = a.class_id");
    let tag = most("t.value FROM assets a JOIN json_each(a.tags) t");
    let crew = most("c.code FROM work_orders w JOIN crews c ON c.id = w.crew_id");
    let department = most("department FROM work_orders WHERE department IS NOT NULL");
    let tagged = match tag.as_str() {
        "" => "1".into(),
        tag => format!("EXISTS (SELECT 1 FROM json_each(a.tags) t WHERE t.value = '{tag}')"),
    };
    let of_tag = HeldTo { tag: Some(tag).filter(|tag| !tag.is_empty()).into_iter().collect(), ..HeldTo::default() };
    let of_class = HeldTo { class: vec![class.clone(), String::new()], ..HeldTo::default() };
    let of_crew = HeldTo { crew: vec![crew.clone(), String::new()], ..HeldTo::default() };
    let of_department = HeldTo { department: vec![department.clone()], ..HeldTo::default() };
    let of_both = HeldTo {
        criticality: vec![Criticality::A, Criticality::B],
        work_kind: vec![WorkKind::Inspection, WorkKind::CorrectiveDeferred],
        rank: vec![2, 3],
        ..HeldTo::default()
    };
    let by_crew =
        move |[_, is, ..]: [String; 4]| format!("ifnull({is} = (SELECT id FROM crews WHERE code = '{crew}'), 1)");
    let by_department = move |[.., is, _]: [String; 4]| format!("{is} = '{department}'");
    let by_kind_and_rank = |[kind, _, _, rank]: [String; 4]| {
        format!("{kind} IN ('inspection', 'corrective_deferred') AND {rank} IN (2, 3)")
    };
    let of_classes = format!("ifnull(a.class_id = (SELECT id FROM equipment_classes WHERE code = '{class}'), 1)");
    vec![
        HeldToSome { to: of_tag, asset: tagged, work: None },
        HeldToSome { to: of_class, asset: of_classes, work: None },
        HeldToSome { to: of_crew, asset: "1".into(), work: Some(Box::new(by_crew)) },
        HeldToSome { to: of_department, asset: "1".into(), work: Some(Box::new(by_department)) },
        HeldToSome { to: of_both, asset: "a.criticality IN ('A', 'B')".into(), work: Some(Box::new(by_kind_and_rank)) },
    ]
}

/// Compares all figures of all assets; says how many of them are not nothing.
fn compared(plant: &Plant, from: Instant, to: Instant, year: Instant) -> usize {
    compared_held(plant, (from, to, year), &HeldToSome::all())
}

fn compared_held(plant: &Plant, (from, to, year): (Instant, Instant, Instant), some: &HeldToSome) -> usize {
    let conn = plant.database();
    let period = Span::new(from, to).unwrap();
    let as_of = if to < plant.now { to.plus(-1) } else { plant.now };
    let mut found = 0;
    let all = tally_core::tally::indicators::CATALOGUE.iter().map(|definition| definition.id);
    for indicator in all {
        let Some(happened) = happened(indicator, (from.ms(), to.ms(), year.ms()), as_of.ms()) else {
            // What downtime costs is worked out from its hours, lift by lift, where everything is opened.
            let is_additive = indicator.definition().roll_up == RollUp::Additive;
            assert!(!is_additive || indicator == Indicator::DowntimeCost, "{indicator:?} is counted a second way");
            continue;
        };
        for basis in [Basis::AsWas, Basis::AsIs] {
            let now = (basis == Basis::AsIs).then_some(plant.now.ms());
            let stood_at = stands(indicator).then_some(as_of.ms());
            let condition = some.condition(stood_at);
            let mut select = conn.prepare(&up_the_tree(&happened, &condition)).unwrap();
            let rows = select.query_map([now], |row| Ok((row.get::<_, i64>(0)?, row.get::<_, f64>(1)?))).unwrap();
            let by_sql: HashMap<i64, f64> = rows.map(|row| row.unwrap()).collect();
            let q = Question { period, now: plant.now, basis };
            plant
                .store
                .read(plant.now, |view| {
                    let facts = view.facts()?;
                    let held = some.to.held(facts)?;
                    let ids: Vec<AssetId> = (0..facts.tree.len()).map(|index| facts.tree.node(index).id).collect();
                    for (id, figure) in ids.iter().zip(figures_held(facts, &ids, &[indicator], q, held.as_ref())) {
                        let is_time = indicator.definition().unit == Unit::Hours;
                        let unit = if is_time { HOUR as f64 } else { 1.0 };
                        let ours = (figure[0].value.unwrap_or_default() * unit).round();
                        let theirs = by_sql.get(&id.0).copied().unwrap_or_default();
                        // Parts of an order that are no whole milliseconds may be rounded either way.
                        let near = if indicator == Indicator::OpenHours { 5.0 } else { 0.0 };
                        assert!(
                            (ours - theirs).abs() <= near,
                            "{indicator:?} {basis:?} of asset {id} from {from} to {to}, {:?}: {ours}, by SQL {theirs}",
                            some.to
                        );
                        found += usize::from(ours != 0.0);
                    }
                    Ok::<_, StoreError>(())
                })
                .unwrap();
        }
    }
    found
}

pub(super) fn at(text: &str) -> Instant {
    Instant::parse(text).unwrap()
}

#[test]
fn of_the_demo() {
    // The demo's clocks show Central European Time.
    let year = |year: i32| at(&format!("{}-12-31T23:00:00Z", year - 1));
    let now = demo().now;
    assert!(compared(demo(), year(2025), year(2026), year(2025)) > 3_000);
    assert!(compared(demo(), now.plus(-365 * DAY), now.plus(DAY), year(2026)) > 3_000);
    assert!(compared(demo(), at("2024-05-31T22:00:00Z"), at("2024-06-30T22:00:00Z"), year(2024)) > 1_000);
}

#[test]
fn of_a_plant_of_20_000_assets() {
    let year = |year: i32| at(&format!("{year}-01-01T00:00:00Z"));
    let found = compared(large(), year(2025), year(2026), year(2025));
    assert!(found > 50_000, "{found}");
    let found = compared(large(), at("2023-03-01T00:00:00Z"), at("2023-03-15T00:00:00Z"), year(2023));
    assert!(found > 20_000, "{found}");
}

/// Held to some, of the year before last and as of now; what stood then is held to by what it was then.
#[rstest]
#[case::demo(demo(), "2024-12-31T23:00:00Z", "2025-12-31T23:00:00Z")]
#[case::large(large(), "2025-01-01T00:00:00Z", "2026-01-01T00:00:00Z")]
fn of_what_they_are_held_to(#[case] plant: &Plant, #[case] from: &str, #[case] to: &str) {
    let (from, to) = (at(from), at(to));
    for some in held_to_some(plant) {
        for (from, to, year) in [(from, to, from), (to, plant.now.plus(DAY), to)] {
            let found = compared_held(plant, (from, to, year), &some);
            assert!(found > 100, "{:?}: {found}", some.to);
        }
    }
}

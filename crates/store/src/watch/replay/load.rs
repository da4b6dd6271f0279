//! What a question about the past needs of one meter, read once.

use crate::{
    ground::{
        error::{Result, StoreError},
        rows::list_of,
        view::View,
    },
    watch::{limits, meters, readings, readings::exchanges},
};
use rusqlite::{Connection, params};
use serde::{Deserialize, Serialize};
use std::{ops::Range, sync::Arc};
use tally_core::{
    ground::{
        ids::{AssetId, MeterId, WorkOrderId},
        severity::Severity,
        time::{DAY, HOUR, Instant, Span},
    },
    plant::assets::Tree,
    watch::{
        limits::{
            Ladder,
            replay::{Assumptions, History},
            warnings::{Past, middle},
        },
        meters::Meter,
        readings::{Columns, through},
    },
};
use utoipa::ToSchema;

/// How long work of this meter usually takes, and what it comes to.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct UsualWork {
    /// From raised to done: the median.
    pub lasts_ms: i64,
    /// Mean of hours spent and of cost in minor units.
    pub hours: f64,
    pub cost: f64,
    /// Finished orders these are taken from; 0 where they are assumed.
    pub from: usize,
    /// Whose orders: `of this meter`, `of this asset`, `assumed`.
    pub of: &'static str,
}

impl UsualWork {
    pub(super) fn words(&self) -> String {
        let days = self.lasts_ms as f64 / DAY as f64;
        match self.from {
            0 => format!("Work is taken to last {days:.0} days; there is none to go by."),
            n => format!("Work is taken to last {days:.1} days: the median of {n} finished orders {}.", self.of),
        }
    }
}

/// Everything of one meter that a replay needs, read once.
pub(super) struct Loaded {
    pub(super) id: MeterId,
    pub(super) rules: Meter,
    pub(super) readings: Arc<Columns>,
    pub(super) past: Past,
    pub(super) rows: Vec<FailedOf>,
    pub(super) problems: Vec<ProblemCount>,
    pub(super) usual: UsualWork,
    pub(super) assumptions: Assumptions,
    pub(super) horizon_days: u32,
    /// From when on the newest version of its ladder holds, where it has one.
    ladder_since: Option<Instant>,
}

/// What a ladder looks at of a meter.
pub(super) struct LookedAt {
    pub(super) readings: Arc<Columns>,
    pub(super) through: Option<Vec<f64>>,
    pub(super) part: Range<usize>,
    /// What suspends it.
    suspended: Option<(Arc<Columns>, f64)>,
}

impl LookedAt {
    pub(super) fn history<'a>(&'a self, loaded: &'a Loaded, until: Instant) -> History<'a> {
        History {
            meter: &loaded.rules,
            readings: &self.readings,
            through: self.through.as_deref(),
            part: self.part.clone(),
            suspended: self.suspended.as_ref().map(|(other, below)| (&**other, *below)),
            since: Instant::EARLIEST,
            until,
            past: &loaded.past,
        }
    }
}

impl Loaded {
    /// What `ladder` looks at: all readings of the span, or those while the other meter runs.
    pub(super) fn looked_at(&self, view: &View, ladder: &Ladder, span: Span) -> Result<LookedAt> {
        // A counter goes on from what its device read when the version began; under a draft that is now.
        let through = match ladder.derives() {
            true => {
                let zero = self.ladder_since.filter(|_| ladder == &self.own(view).unwrap_or_default());
                through(&self.rules, &self.readings, &exchanges::of(view.conn, self.id)?, zero.unwrap_or(view.now))
            }
            false => None,
        };
        let Some(other) = &ladder.suspended_while else {
            let part = self.readings.places(span);
            return Ok(LookedAt { readings: self.readings.clone(), through, part, suspended: None });
        };
        let id = meters::id_of(view.conn, &other.meter)?
            .ok_or_else(|| StoreError::invalid("ladder.suspended_while.meter", "there is no such meter"))?;
        let running = readings::whole(view, id)?;
        let kept = self.readings.within(span).while_running(&running, other.below);
        let through = through.map(|through| {
            let places = kept.at().iter().filter_map(|at| self.readings.at().binary_search(at).ok());
            places.map(|place| through[place]).collect()
        });
        let part = 0..kept.len();
        Ok(LookedAt { readings: Arc::new(kept), through, part, suspended: Some((running, other.below)) })
    }

    pub(super) fn own(&self, view: &View) -> Result<Ladder> {
        limits::newest(view.conn, self.id)
    }
}

pub(super) fn load(view: &View, code: &str, span: Span, asked: &JudgedBy) -> Result<Loaded> {
    let (conn, now, tree) = (view.conn, view.now, &view.facts()?.tree);
    let id = meters::require(conn, code)?;
    let MeterId(meter) = id;
    let mut select = conn.prepare_cached("SELECT * FROM meters WHERE id = ?1")?;
    let mut found = select.query([meter])?;
    let row = found.next()?.ok_or_else(|| StoreError::not_found("meter", code))?;
    let (rules, asset) = (meters::rules(row)?, row.get("asset_id")?);
    let readings = readings::whole(view, id)?;
    let Failures { at: failures, rows, problems } = failures(conn, tree, asset, span, asked, now)?;
    let usual = usual_work(conn, meter, asset)?;
    let horizon_days = asked.horizon_days.unwrap_or(30).clamp(1, 3_650);
    let usually = Assumptions::default();
    let days = |days: Option<f64>, usual: i64| {
        days.filter(|days| (0.0..=3_650.0).contains(days)).map_or(usual, |days| (days * DAY as f64).round() as i64)
    };
    let assumptions = Assumptions {
        work_lasts_ms: usual.lasts_ms,
        least: asked.least.unwrap_or(Severity::Alert),
        horizon_ms: i64::from(horizon_days) * DAY,
        calm_ms: days(asked.calm_days, usually.calm_ms),
        lead_ms: days(asked.lead_days, usually.lead_ms),
        ..usually
    };
    let past = Past { failures, found: found_spans(conn, meter, span)? };
    let ladder_since = limits::newest_since(conn, id)?;
    Ok(Loaded { id, rules, readings, past, rows, problems, usual, assumptions, horizon_days, ladder_since })
}

/// The work of a failure.
pub(super) struct FailedOf {
    pub(super) work: WorkOrderId,
    pub(super) title: String,
    pub(super) problem: Option<String>,
    /// Minor units that its order came to, shared among the order's failures.
    pub(super) cost: f64,
}

pub(super) struct Failures {
    /// When each that was asked for failed, ascending.
    pub(super) at: Vec<Instant>,
    pub(super) rows: Vec<FailedOf>,
    /// Of all, asked for or not.
    pub(super) problems: Vec<ProblemCount>,
}

/// Coded failures of the asset and of all below it: what a meter sees is often coded on a part of its asset. Those of dropped
/// work are none.
pub(super) fn failures(
    conn: &Connection,
    tree: &Tree,
    asset: AssetId,
    span: Span,
    asked: &JudgedBy,
    now: Instant,
) -> Result<Failures> {
    let ids = match tree.index(asset) {
        Some(index) => list_of(tree.below(index, now).into_iter().map(|below| tree.node(below).id)),
        None => list_of([asset]),
    };
    let mut select = conn.prepare_cached(
        "SELECT f.failed_at, w.number, w.title, c.code, c.name, w.cost,
             (SELECT count(*) FROM failure_reports o WHERE o.work_order = w.number) AS reports
         FROM failure_reports f JOIN work_orders w ON w.number = f.work_order JOIN codes c ON c.id = f.problem_id
         WHERE f.asset_id IN rarray(?1) AND f.failed_at >= ?2 AND f.failed_at < ?3 AND f.effect <> 'incipient'
           AND w.state <> 'dropped'
         ORDER BY f.failed_at, f.id",
    )?;
    let mut found = select.query(params![ids, span.start().ms(), span.end().ms()])?;
    let (mut at, mut rows, mut problems) = (Vec::new(), Vec::new(), Vec::new());
    while let Some(row) = found.next()? {
        let code: String = row.get(3)?;
        count_problem(&mut problems, ProblemCount { code: code.clone(), name: row.get(4)?, failures: 1 });
        if asked.problems.as_ref().is_none_or(|chosen| chosen.contains(&code)) {
            at.push(row.get("failed_at")?);
            rows.push(FailedOf {
                work: row.get(1)?,
                title: row.get(2)?,
                problem: Some(code),
                cost: row.get::<_, i64>(5)? as f64 / row.get::<_, i64>(6)?.max(1) as f64,
            });
        }
    }
    problems.sort_by(|a, b| b.failures.cmp(&a.failures).then_with(|| a.name.cmp(&b.name)));
    Ok(Failures { at, rows, problems })
}

/// Real alarms of the meter whose work found something.
fn found_spans(conn: &Connection, meter: i64, span: Span) -> Result<Vec<Span>> {
    let mut select = conn.prepare_cached(
        "SELECT a.entered_at, a.left_at FROM alarms a
         WHERE a.meter_id = ?1 AND a.entered_at < ?3 AND (a.left_at IS NULL OR a.left_at >= ?2)
           AND EXISTS (SELECT 1 FROM alarm_answers n JOIN work_orders w ON w.number = n.work_order
                       WHERE n.alarm_id = a.id AND w.verdict = 'found_it')",
    )?;
    let mut rows = select.query(params![meter, span.start().ms(), span.end().ms()])?;
    let mut spans = Vec::new();
    while let Some(row) = rows.next()? {
        let (from, to): (Instant, Instant) =
            (row.get("entered_at")?, row.get::<_, Option<Instant>>("left_at")?.unwrap_or(span.end()));
        // An alarm that was left at the reading that entered it still stood at that reading.
        spans.extend(Span::new(from, to.max(from.plus(1))).ok());
    }
    Ok(spans)
}

pub(super) fn usual_work(conn: &Connection, meter: i64, asset: AssetId) -> Result<UsualWork> {
    let of_meter = finished(conn, "w.source_meter_id = ?1", meter)?;
    let (orders, of) = match of_meter.is_empty() {
        false => (of_meter, "of this meter"),
        true => (finished(conn, "w.asset_id = ?1 AND w.source_meter_id IS NOT NULL", asset.0)?, "of this asset"),
    };
    if orders.is_empty() {
        let lasts_ms = Assumptions::default().work_lasts_ms;
        return Ok(UsualWork { lasts_ms, hours: 0.0, cost: 0.0, from: 0, of: "assumed" });
    }
    let mut lasted: Vec<i64> = orders.iter().map(|(lasted, ..)| *lasted).collect();
    lasted.sort_unstable();
    let from = orders.len();
    let mean = |of: fn(&(i64, i64, i64)) -> i64| orders.iter().map(of).sum::<i64>() as f64 / from as f64;
    Ok(UsualWork {
        lasts_ms: middle(&lasted).unwrap_or_default(),
        hours: mean(|(_, spent, _)| *spent) / HOUR as f64,
        cost: mean(|(.., cost)| *cost),
        from,
        of,
    })
}

/// Milliseconds from raised to first done, spent, and cost of finished orders.
fn finished(conn: &Connection, which: &str, id: i64) -> Result<Vec<(i64, i64, i64)>> {
    let mut select = conn.prepare_cached(&format!(
        "SELECT min(s.at) - w.raised_at, w.spent_ms, w.cost FROM work_orders w
         JOIN state_changes s ON s.work_order = w.number AND s.to_state = 'done' WHERE {which} GROUP BY w.number"
    ))?;
    let rows = select.query_map([id], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?)))?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

/// What is asked besides the ladder.
#[derive(Debug, Clone, Default, Deserialize, ToSchema)]
pub struct JudgedBy {
    /// Days before a failure in which a warning counts, and after a warning in which a failure does; 30 without it.
    pub horizon_days: Option<u32>,
    /// Days between spells that still make one warning; 7 without it.
    pub calm_days: Option<f64>,
    /// Days that it takes to act: a shorter warning is too late; 1 without it.
    pub lead_days: Option<f64>,
    /// The least severity that counts as a warning; alert without it.
    pub least: Option<Severity>,
    /// Codes of the problems that this meter can see; all without it.
    pub problems: Option<Vec<String>>,
}

/// A problem that failures were coded with, and how many.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct ProblemCount {
    pub code: String,
    pub name: String,
    pub failures: usize,
}

/// Adds to the count of that problem, or begins one.
pub(super) fn count_problem(problems: &mut Vec<ProblemCount>, one: ProblemCount) {
    match problems.iter_mut().find(|known| known.code == one.code) {
        Some(known) => known.failures += one.failures,
        None => problems.push(one),
    }
}

//! Where plans stand: each on its asset, or on every asset of its class.

use crate::ground::{
    error::{Result, StoreError},
    rows::{date, from_json, list_of},
};
use jiff::{civil::Date, tz::TimeZone};
use rusqlite::{Connection, Row, params, types::Value};
use std::{
    collections::{BTreeMap, HashMap},
    rc::Rc,
};
use tally_core::{
    ground::{
        ids::{AssetId, CrewId, MeterId, PlanId},
        time::{DAY, HOUR, Instant},
    },
    work::{
        JobSheet, WorkKind, WorkState,
        plans::{CounterUse, LastDone, Recurrence, Season, Settled, Standing},
    },
};

/// What the work of a plan is to be.
#[derive(Debug, Clone)]
pub(super) struct Work {
    pub title: String,
    pub text: String,
    pub kind: WorkKind,
    pub risk_rank: u8,
    pub crew: Option<CrewId>,
    pub estimated_hours: Option<f64>,
    pub first_state: WorkState,
    /// The version of its job sheet that work takes now.
    pub job_version: Option<i64>,
}

/// A plan on one asset.
#[derive(Debug, Clone)]
pub(super) struct Course {
    pub plan: PlanId,
    pub code: String,
    pub asset: AssetId,
    pub asset_code: String,
    pub asset_name: String,
    pub meter: Option<MeterId>,
    pub recurrence: Recurrence,
    pub standing: Standing,
    pub work: Work,
}

impl Course {
    /// The work of one cycle, in milliseconds.
    pub(super) fn work_ms(&self) -> i64 {
        self.work.estimated_hours.map_or(0, |hours| (hours * HOUR as f64).round() as i64)
    }

    /// How much its counter is used a day.
    pub(super) fn per_day(&self) -> Option<f64> {
        self.standing.counter.map(|counter| counter.per_day)
    }
}

/// Which plans are looked at.
#[derive(Debug, Clone, Copy)]
pub(super) enum Which<'a> {
    /// All that make work.
    Active,
    /// These, whether or not they make work.
    These(&'a [PlanId]),
}

impl Which<'_> {
    /// As a condition on a column with the id of a plan, whose second value are the ids.
    fn condition(self, column: &str) -> String {
        match self {
            // An array is null wherever no table is made of it.
            Self::Active => "?2 IS NULL".to_owned(),
            Self::These(_) => format!("{column} IN rarray(?2)"),
        }
    }

    fn ids(self) -> Rc<Vec<Value>> {
        match self {
            Self::Active => list_of::<i64>([]),
            Self::These(plans) => list_of(plans.iter().copied()),
        }
    }
}

/// Before a counter was looked at for the first time its use is not known.
const COLUMNS: &str =
    "p.id AS plan_id, p.code, p.name, p.text, p.kind, p.risk_rank, p.estimated_hours, p.first_state, p.every_days,
    p.every_units, p.counts_from, p.first_due, p.first_count, p.season, p.lead_days, p.tolerance_days, p.active_since, v.id AS job_version, v.sheet,
    ifnull(p.crew_id, a.crew_id) AS crew_id, a.id AS asset_id, a.code AS asset_code, a.name AS asset_name";

/// The newest version of a plan's job sheet, where it goes by one that is active.
const SHEETS: &str = "LEFT JOIN job_sheets j ON j.id = p.job_sheet_id AND j.status = 'active'
    LEFT JOIN job_sheet_versions v ON v.sheet_id = j.id
        AND v.number = (SELECT max(number) FROM job_sheet_versions WHERE sheet_id = j.id)";

fn dates(text: Option<String>) -> Result<Option<Date>> {
    text.map(|text| date("upkeep_plans", &text)).transpose()
}

/// The plans with where each stands, in the order of their codes and of their assets' codes. What hangs on them is read in one go
/// each, not plan by plan.
pub(super) fn courses(conn: &Connection, which: Which, now: Instant, zone: &TimeZone) -> Result<Vec<Course>> {
    let narrow = match which {
        Which::Active => format!("p.status = 'active' AND p.active_since IS NOT NULL AND {}", which.condition("p.id")),
        Which::These(_) => which.condition("p.id"),
    };
    let living = "(a.retired_at IS NULL OR a.retired_at > ?1)";
    let mut select = conn.prepare_cached(&format!(
        "SELECT {COLUMNS}, ifnull(p.meter_id, (SELECT m.id FROM meters m WHERE p.every_units IS NOT NULL AND m.asset_id = a.id
                 AND m.running_hours = 1 AND m.retired_at IS NULL)) AS meter_id
         FROM upkeep_plans p JOIN assets a ON a.id = p.asset_id {SHEETS} WHERE {narrow} AND {living}
         UNION ALL
         SELECT {COLUMNS}, (SELECT m.id FROM meters m WHERE p.every_units IS NOT NULL AND m.asset_id = a.id
                 AND m.running_hours = 1 AND m.retired_at IS NULL)
         FROM upkeep_plans p JOIN assets a ON a.class_id = p.class_id {SHEETS} WHERE {narrow} AND {living}
         ORDER BY 2, a.code"
    ))?;
    let mut found = Vec::new();
    let mut rows = select.query(params![now, which.ids()])?;
    while let Some(row) = rows.next()? {
        found.push(course(row)?);
    }
    stand(conn, &mut found, which, zone)?;
    Ok(found)
}

fn course(row: &Row) -> Result<Course> {
    let season: Option<String> = row.get("season")?;
    let season = season.map(|text| Season::parse(&text)).transpose();
    let recurrence = Recurrence {
        every_days: row.get("every_days")?,
        every_units: row.get("every_units")?,
        counts_from: row.get("counts_from")?,
        first_due: dates(row.get("first_due")?)?,
        first_count: row.get("first_count")?,
        season: season.map_err(|error| StoreError::corrupt("upkeep_plans", error))?,
        lead_days: row.get("lead_days")?,
        tolerance_days: row.get("tolerance_days")?,
    };
    let sheet: Option<String> = row.get("sheet")?;
    let sheet: Option<JobSheet> = sheet.map(|text| from_json("job_sheet_versions", &text)).transpose()?;
    let hours: Option<f64> = row.get("estimated_hours")?;
    let since = dates(row.get("active_since")?)?.unwrap_or(Date::MAX);
    Ok(Course {
        plan: row.get("plan_id")?,
        code: row.get("code")?,
        asset: row.get("asset_id")?,
        asset_code: row.get("asset_code")?,
        asset_name: row.get("asset_name")?,
        meter: row.get("meter_id")?,
        recurrence,
        standing: Standing { since, settled: None, open: None, done: None, moved: BTreeMap::new(), counter: None },
        work: Work {
            title: row.get("name")?,
            text: row.get::<_, Option<String>>("text")?.unwrap_or_default(),
            kind: row.get("kind")?,
            risk_rank: row.get("risk_rank")?,
            crew: row.get("crew_id")?,
            estimated_hours: hours.or(sheet.as_ref().and_then(JobSheet::hours)),
            job_version: row.get("job_version")?,
            first_state: row.get("first_state")?,
        },
    })
}

type Key = (PlanId, AssetId);

/// Reads what was settled, is open, was done and was moved.
fn stand(conn: &Connection, courses: &mut [Course], which: Which, zone: &TimeZone) -> Result<()> {
    let counters = counters(conn, courses, zone)?;
    let mut open = open(conn, which, zone)?;
    let mut moved = moved(conn, which)?;
    let mut newest = conn.prepare_cached(
        "SELECT c.number, c.due, (SELECT m.mark FROM upkeep_cycles m WHERE m.plan_id = ?1 AND m.asset_id = ?2
                 AND m.outcome IS NOT NULL AND m.mark IS NOT NULL ORDER BY m.number DESC LIMIT 1),
             c.outcome = 'missed' OR ifnull(w.state = 'dropped', FALSE)
         FROM upkeep_cycles c LEFT JOIN work_orders w ON w.number = c.work_order
         WHERE c.plan_id = ?1 AND c.asset_id = ?2 AND c.outcome IS NOT NULL ORDER BY c.number DESC LIMIT 1",
    )?;
    let mut done = conn.prepare_cached(
        "SELECT c.done_count, (SELECT max(s.at) FROM state_changes s WHERE s.work_order = c.work_order AND s.to_state = 'done')
         FROM upkeep_cycles c JOIN work_orders w ON w.number = c.work_order
         WHERE c.plan_id = ?1 AND c.asset_id = ?2 AND c.outcome = 'raised' AND w.state IN ('done', 'returned', 'closed')
         ORDER BY c.number DESC LIMIT 1",
    )?;
    for course in courses {
        let key = (course.plan, course.asset);
        course.standing.counter = course.meter.and_then(|meter| counters.get(&meter).copied());
        course.standing.open = open.remove(&key);
        course.standing.moved = moved.remove(&key).unwrap_or_default();
        let mut rows = newest.query([course.plan.0, course.asset.0])?;
        if let Some(row) = rows.next()? {
            let due = date("upkeep_cycles", &row.get::<_, String>(1)?)?;
            course.standing.settled = Some(Settled { number: row.get(0)?, due, mark: row.get(2)? });
            // One that was missed, also because its work was dropped, is what the next counts from.
            if row.get(3)? {
                continue;
            }
        }
        let mut rows = done.query([course.plan.0, course.asset.0])?;
        if let Some(row) = rows.next()?
            && let Some(at) = row.get::<_, Option<Instant>>(1)?
        {
            let on = at.in_zone(zone).date();
            // Until it is worked out, by the mean use since.
            let by_use = |counter: CounterUse| {
                let days = on.until(counter.on).map_or(0.0, |span| f64::from(span.get_days()));
                counter.count - counter.per_day * days
            };
            let count = row.get::<_, Option<f64>>(0)?.or(course.standing.counter.map(by_use));
            course.standing.done = Some(LastDone { on, count });
        }
    }
    Ok(())
}

/// What the counters of these read, and their use.
fn counters(conn: &Connection, courses: &[Course], zone: &TimeZone) -> Result<HashMap<MeterId, CounterUse>> {
    let wanted = list_of(courses.iter().filter_map(|course| course.meter));
    let mut select = conn.prepare_cached(
        "SELECT meter_id, at, count, per_day, low, high FROM upkeep_counters WHERE meter_id IN rarray(?1)",
    )?;
    let rows = select.query_map([wanted], |row| {
        let on = row.get::<_, Instant>(1)?.in_zone(zone).date();
        let told = CounterUse { on, count: row.get(2)?, per_day: row.get(3)?, low: row.get(4)?, high: row.get(5)? };
        Ok((row.get(0)?, told))
    })?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

/// By when open work of plans is to be done: as it is scheduled, else as it was asked for. Not by their states: most open work may
/// be of other plans.
fn open(conn: &Connection, which: Which, zone: &TimeZone) -> Result<HashMap<Key, Date>> {
    let mut select = conn.prepare_cached(&format!(
        "SELECT plan_id, asset_id, ifnull(scheduled_end, ifnull(target_finish, window_end))
         FROM work_orders INDEXED BY work_of_plans
         WHERE plan_id IS NOT NULL AND state IN ('raised', 'planning', 'waiting', 'ready', 'scheduled', 'under_way')
             AND ?1 AND {}",
        which.condition("plan_id")
    ))?;
    let rows = select.query_map(params![true, which.ids()], |row| {
        let until: Instant = row.get(2)?;
        // The end of a day is that day's.
        Ok(((row.get(0)?, row.get(1)?), until.plus(-1).in_zone(zone).date()))
    })?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

fn moved(conn: &Connection, which: Which) -> Result<HashMap<Key, BTreeMap<i64, Date>>> {
    let mut select = conn.prepare_cached(&format!(
        "SELECT plan_id, asset_id, number, moved_to FROM upkeep_cycles
         WHERE outcome IS NULL AND moved_to IS NOT NULL AND ?1 AND {}",
        which.condition("plan_id")
    ))?;
    let mut rows = select.query(params![true, which.ids()])?;
    let mut found: HashMap<Key, BTreeMap<i64, Date>> = HashMap::new();
    while let Some(row) = rows.next()? {
        let to = date("upkeep_cycles", &row.get::<_, String>(3)?)?;
        found.entry((row.get(0)?, row.get(1)?)).or_default().insert(row.get(2)?, to);
    }
    Ok(found)
}

/// The use of a counter is worked out from whole weeks until a day.
pub(super) const WEEK: i64 = 7 * DAY;

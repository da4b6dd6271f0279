//! The year ahead: what falls due in which week, beside what each crew can do.

use super::courses::{Course, Which, courses};
use crate::{
    ground::{error::Result, view::View},
    plant::{assets::NamedAsset, settings},
    work::{week, week::as_hours},
};
use jiff::{ToSpan, civil::Date};
use serde::Serialize;
use std::collections::BTreeMap;
use tally_core::{
    access::roles::{Action, may},
    facts::Names,
    ground::{
        ids::{CrewId, WorkOrderId},
        period::midnight,
    },
    work::{
        plans::{
            Cycle, DueBy,
            year::{WEEKS, last_day, week_of},
        },
        week::monday,
    },
};
use utoipa::ToSchema;

/// A cycle in a week of the year ahead.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct YearCycle {
    pub number: i64,
    /// Before any move.
    pub due: String,
    /// When it is to be done.
    pub on: String,
    /// Counted from the first week of the year ahead.
    pub week: usize,
    pub by: DueBy,
    /// The weeks between which a counter makes it due.
    pub earliest_week: usize,
    pub latest_week: usize,
    /// The days it may be moved to, one a week, by week.
    pub places: BTreeMap<usize, String>,
    pub is_moved: bool,
    /// Its work, where that is open.
    pub work_order: Option<WorkOrderId>,
}

/// A plan on an asset, with its cycles of the year ahead.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct YearPlan {
    pub code: String,
    pub name: String,
    pub asset: NamedAsset,
    /// Of what stands below the whole, the part it is in: a lift, a line.
    pub within: Option<String>,
    pub hours: Option<f64>,
    pub every_days: Option<u32>,
    pub every_units: Option<f64>,
    /// Of the counter.
    pub unit: Option<String>,
    pub cycles: Vec<YearCycle>,
}

/// A crew's year ahead. Hours by week.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct YearCrew {
    /// None for plans of no crew.
    pub code: Option<String>,
    pub name: String,
    /// What it can do in a week.
    pub capacity_hours: f64,
    pub load_hours: Vec<f64>,
    /// Whether a week holds more than it can do.
    pub is_over: Vec<bool>,
    pub cycles: usize,
    pub weeks_over: usize,
    /// Its fullest week.
    pub peak_hours: f64,
    pub peak_week: usize,
}

/// The year ahead.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct YearAhead {
    /// The Mondays of its weeks.
    pub weeks: Vec<String>,
    /// Their numbers in their years (ISO 8601).
    pub numbers: Vec<i8>,
    pub crews: Vec<YearCrew>,
    pub weeks_over: usize,
    /// Plans of the crew, or the week, that is asked for.
    pub plans: Vec<YearPlan>,
    /// How many there are of them, of which some are told.
    pub plans_in_all: usize,
    /// Whoever looks may move cycles.
    pub may_plan: bool,
}

/// Of which crew and which week plans are told.
#[derive(Debug, Clone, Default)]
pub struct YearAsked {
    /// Code; empty for plans of no crew.
    pub crew: Option<String>,
    pub week: Option<usize>,
}

/// Plans told at once.
const MOST_PLANS: usize = 200;

/// A plan on an asset with what lies ahead of it.
pub(super) struct Ahead {
    pub(super) course: Course,
    pub(super) cycles: Vec<Cycle>,
}

/// What the viewer sees of all plans.
pub(super) struct Looked {
    pub(super) all: Vec<Ahead>,
    /// Of the first week.
    pub(super) monday: Date,
    pub(super) today: Date,
    /// What of the plant the viewer reaches.
    pub(super) reached: Vec<bool>,
}

pub(super) fn look(view: &View, scope: Option<&str>) -> Result<Looked> {
    let zone = settings::time_zone(view)?;
    let today = view.now.in_zone(&zone).date();
    let monday = monday(today);
    let within = week::within(view, scope)?;
    let tree = &view.facts()?.tree;
    let mut all = courses(view.conn, Which::Active, view.now, &zone)?;
    all.retain(|course| {
        tree.index(course.asset).is_some_and(|index| within[index]) && view.viewer.sees_work_of(course.work.crew)
    });
    let until = last_day(monday);
    let all =
        all.into_iter().map(|course| Ahead { cycles: course.recurrence.ahead(&course.standing, today, until), course });
    Ok(Looked { all: all.collect(), monday, today, reached: week::within(view, None)? })
}

/// A cycle of upkeep that lies ahead.
#[derive(Debug, Clone, PartialEq)]
pub struct CycleAhead {
    /// Codes of the plan and of its asset.
    pub plan: String,
    pub number: i64,
    pub title: String,
    pub asset: String,
    pub on: Date,
}

/// Cycles of a crew in the year ahead, for a calendar.
pub(in crate::work) fn ahead_of_crew(view: &View, crew: CrewId) -> Result<Vec<CycleAhead>> {
    let looked = look(view, None)?;
    let of_crew = looked.all.iter().filter(|one| one.course.work.crew == Some(crew));
    let events = of_crew.flat_map(|Ahead { course, cycles }| {
        cycles.iter().map(move |cycle| CycleAhead {
            plan: format!("{}-{}", course.code, course.asset_code),
            number: cycle.number,
            title: course.work.title.clone(),
            asset: course.asset_name.clone(),
            on: cycle.on,
        })
    });
    Ok(events.collect())
}

/// The week that open work, or what is late, is taken to be done in.
pub(super) fn week_at(on: Date, monday: Date) -> Option<usize> {
    if on < monday { Some(0) } else { week_of(on, monday) }
}

impl Ahead {
    /// Weeks in which its work falls: that of cycles, and that which is open.
    fn weeks(&self, monday: Date) -> impl Iterator<Item = usize> {
        let on = self.cycles.iter().map(|cycle| cycle.on).chain(self.course.standing.open);
        on.filter_map(move |on| week_at(on, monday))
    }
}

/// What a crew can do in each week, in milliseconds.
pub(super) fn capacity(view: &View, crew: Option<CrewId>, monday: Date) -> Result<Vec<i64>> {
    let (facts, zone) = (view.facts()?, settings::time_zone(view)?);
    let weekly = crew.and_then(|crew| facts.worth.weekly_ms.get(&crew));
    let at = |week: usize| midnight(monday.saturating_add((week as i64).weeks()), &zone).max(view.now);
    Ok((0..WEEKS).map(|week| weekly.and_then(|dated| dated.at(at(week))).unwrap_or(0)).collect())
}

/// The work of one crew by week, in milliseconds.
#[derive(Default)]
struct Load {
    ms: Vec<i64>,
    cycles: usize,
}

fn loads(all: &[Ahead], monday: Date) -> BTreeMap<Option<CrewId>, Load> {
    let mut loads: BTreeMap<Option<CrewId>, Load> = BTreeMap::new();
    for one in all {
        let load = loads.entry(one.course.work.crew).or_default();
        load.ms.resize(WEEKS, 0);
        for week in one.weeks(monday) {
            load.ms[week] += one.course.work_ms();
            load.cycles += 1;
        }
    }
    loads
}

pub(super) fn named(view: &View, crew: Option<CrewId>) -> Result<(Option<String>, String)> {
    let name = crew.and_then(|crew| Names::find(&view.facts().ok()?.names.crews, crew.0));
    Ok((name.map(|name| name.code.clone()), name.map_or_else(|| "No crew".into(), |name| name.name.clone())))
}

/// The year ahead, below an asset or everywhere, with the plans of one crew or one week.
///
/// # Errors
/// [`crate::StoreError::Invalid`] for a scope there is not.
pub fn year(view: &View, scope: Option<&str>, told: &YearAsked) -> Result<YearAhead> {
    let looked = look(view, scope)?;
    let Looked { all, monday, .. } = &looked;
    let monday = *monday;
    view.go_on()?;
    let mut crews = Vec::new();
    for (crew, load) in loads(all, monday) {
        let capacity = capacity(view, crew, monday)?;
        let (code, name) = named(view, crew)?;
        let is_over: Vec<bool> = load.ms.iter().zip(&capacity).map(|(load, capacity)| load > capacity).collect();
        let (peak_week, peak) =
            load.ms.iter().enumerate().max_by_key(|(week, ms)| (**ms, WEEKS - week)).unwrap_or((0, &0));
        crews.push(YearCrew {
            code,
            name,
            capacity_hours: as_hours(capacity[0]),
            weeks_over: is_over.iter().filter(|over| **over).count(),
            is_over,
            peak_hours: as_hours(*peak),
            peak_week,
            cycles: load.cycles,
            load_hours: load.ms.into_iter().map(as_hours).collect(),
        });
    }
    crews.sort_by(|a, b| (a.code.is_none(), &a.name).cmp(&(b.code.is_none(), &b.name)));
    let mut chosen = Vec::new();
    for one in all {
        let of_crew = match &told.crew {
            Some(code) => named(view, one.course.work.crew)?.0.unwrap_or_default() == *code,
            None => true,
        };
        if of_crew && told.week.is_none_or(|week| one.weeks(monday).any(|of| of == week)) {
            chosen.push(one);
        }
    }
    let plans_in_all = chosen.len();
    let plans = chosen.into_iter().take(MOST_PLANS).map(|one| plan(view, &looked, one)).collect::<Result<_>>()?;
    let mondays = (0..WEEKS as i64).map(|week| monday.saturating_add(week.weeks()));
    Ok(YearAhead {
        numbers: mondays.clone().map(|monday| monday.iso_week_date().week()).collect(),
        weeks: mondays.map(|monday| monday.to_string()).collect(),
        weeks_over: crews.iter().map(|crew| crew.weeks_over).sum(),
        crews,
        plans,
        plans_in_all,
        may_plan: may(view.viewer.mover().0, Action::PlanWork).is_ok(),
    })
}

/// Of what stands below the whole, the part that an asset is in, where that is reached.
pub(super) fn part_of(view: &View, reached: &[bool], course: &Course) -> Result<Option<String>> {
    let facts = view.facts()?;
    let Some(index) = facts.tree.index(course.asset) else { return Ok(None) };
    let line: Vec<usize> = facts.tree.line_at(index, view.now).collect();
    let part = line.len().checked_sub(2).filter(|part| *part > 0).map(|part| line[part]);
    Ok(part.filter(|part| reached[*part]).map(|part| facts.assets[part].name.clone()))
}

fn plan(view: &View, looked: &Looked, one: &Ahead) -> Result<YearPlan> {
    let Ahead { course, cycles } = one;
    let (monday, today) = (looked.monday, looked.today);
    let movables = course.recurrence.movable(&course.standing, cycles, course.work_ms(), today, monday);
    let places = |cycle: &Cycle| {
        let found = movables.iter().find(|movable| movable.number == cycle.number);
        let shifts = found.into_iter().flat_map(|movable| &movable.movable.places).map(|place| place.shift);
        let days = shifts.map(|shift| cycle.on.saturating_add((shift * 7).days()));
        days.filter_map(|on| Some((week_at(on, monday)?, on.to_string()))).collect()
    };
    let last = WEEKS - 1;
    let mut told: Vec<YearCycle> = cycles
        .iter()
        .filter_map(|cycle| {
            Some(YearCycle {
                number: cycle.number,
                due: cycle.due.to_string(),
                on: cycle.on.to_string(),
                week: week_at(cycle.on, monday)?,
                by: cycle.by,
                earliest_week: week_at(cycle.earliest, monday).unwrap_or(last),
                latest_week: week_at(cycle.latest, monday).unwrap_or(last),
                places: places(cycle),
                is_moved: cycle.on != cycle.due,
                work_order: None,
            })
        })
        .collect();
    if let Some(open) = course.standing.open
        && let Some(week) = week_at(open, monday)
    {
        let mut select = view.conn.prepare_cached(
            "SELECT number, ifnull(cycle, 0) FROM work_orders WHERE plan_id = ?1 AND asset_id = ?2
                 AND state IN ('raised', 'planning', 'waiting', 'ready', 'scheduled', 'under_way') ORDER BY number LIMIT 1",
        )?;
        let (work_order, number) =
            select.query_row([course.plan.0, course.asset.0], |row| Ok((row.get(0)?, row.get(1)?)))?;
        let (due, on) = (open.to_string(), open.to_string());
        let open = YearCycle {
            number,
            due,
            on,
            week,
            by: DueBy::Days,
            earliest_week: week,
            latest_week: week,
            places: BTreeMap::new(),
            is_moved: false,
            work_order: Some(work_order),
        };
        told.insert(0, open);
    }
    let unit = match course.meter.filter(|_| course.recurrence.every_units.is_some()) {
        Some(meter) => Some(
            view.conn.prepare_cached("SELECT unit FROM meters WHERE id = ?1")?.query_row([meter], |row| row.get(0))?,
        ),
        None => None,
    };
    Ok(YearPlan {
        code: course.code.clone(),
        name: course.work.title.clone(),
        asset: NamedAsset { code: course.asset_code.clone(), name: course.asset_name.clone() },
        within: part_of(view, &looked.reached, course)?,
        hours: course.work.estimated_hours,
        every_days: course.recurrence.every_days,
        every_units: course.recurrence.every_units,
        unit,
        cycles: told,
    })
}

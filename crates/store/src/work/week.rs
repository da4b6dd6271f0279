//! The week: what is scheduled by crew and day, and what waits for nothing and has no day yet.

use super::{
    parts::Storeroom,
    several::{SeveralDone, several},
};
use crate::{
    ground::{
        error::{Result, StoreError},
        reach::Named,
        rows::{from_json, list_of},
        tx::Tx,
        view::View,
    },
    plant::{assets, assets::NamedAsset, settings},
};
use jiff::{ToSpan, civil::Date};
use rusqlite::Row;
use serde::Serialize;
use std::collections::HashMap;
use tally_core::{
    access::roles::{Action, may},
    facts::OpenHours,
    ground::{
        ids::{AssetId, CrewId, PersonId, WorkOrderId},
        period::midnight,
        time::{DAY, HOUR, Instant, Span},
    },
    plant::assets::reached,
    tally::RequiredDays,
    work::{
        Away, JobSheet, Several, StateMove, There, WorkState,
        week::{Conflict, OnDay, Placing, Scheduled, capacity_on, conflicts, dates_of, days_of_week, spread},
    },
};
use utoipa::ToSchema;

/// Orders without a day that are told.
const MOST_TOLD: usize = 100;

/// Work on a day.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct WeekOrder {
    pub number: WorkOrderId,
    pub title: String,
    pub asset: NamedAsset,
    pub state: WorkState,
    pub risk_rank: u8,
    pub assignee: Option<String>,
    pub window_end: Instant,
    /// Hours of it that fall on that day; nothing where nobody estimated it.
    pub hours: Option<f64>,
    pub conflicts: Vec<Conflict>,
    /// It began on a day before.
    pub goes_on: bool,
}

/// A crew's day.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct WeekDay {
    /// As `2026-03-02`.
    pub date: String,
    pub capacity_hours: f64,
    pub load_hours: f64,
    /// More is to be done than the crew can do.
    pub is_over: bool,
    pub orders: Vec<WeekOrder>,
}

/// A crew's week.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct WeekCrew {
    /// Nothing for work without a crew.
    pub code: Option<String>,
    pub name: String,
    pub capacity_hours: f64,
    pub load_hours: f64,
    pub is_over: bool,
    /// Hours of all its open work, in weeks of its capacity; nothing where it has none, or not all of it is seen.
    pub backlog_weeks: Option<f64>,
    /// The same of what is ready or scheduled.
    pub ready_weeks: Option<f64>,
    pub days: Vec<WeekDay>,
}

/// Work that waits for nothing and has no day.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct WaitingOrder {
    pub number: WorkOrderId,
    pub title: String,
    pub asset: NamedAsset,
    pub crew: Option<String>,
    pub state: WorkState,
    pub risk_rank: u8,
    pub state_since: Instant,
    pub window_end: Instant,
    pub past_window: bool,
    /// It stands longer in its state than it may.
    pub over_limit: bool,
    pub estimated_hours: Option<f64>,
}

/// A week by crew and day.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct WeekBoard {
    /// Its Monday, as `2026-03-02`, and its number after ISO 8601.
    pub monday: String,
    pub number: i8,
    /// The Mondays before and after.
    pub before: String,
    pub after: String,
    /// Today, where it lies in this week.
    pub today: Option<String>,
    pub crews: Vec<WeekCrew>,
    /// Of all crews.
    pub capacity_hours: f64,
    pub load_hours: f64,
    /// Days on which some crew has more to do than it can.
    pub days_over: usize,
    /// How much work waits for nothing and has no day.
    pub undated: usize,
    /// Of it what is late in its state first, then what is due first.
    pub queue: Vec<WaitingOrder>,
    /// Whoever looks may put work on it.
    pub may_plan: bool,
}

/// What is scheduled in a week, below an asset or everywhere.
///
/// # Errors
/// [`StoreError::Invalid`] for a scope there is not.
pub fn week(view: &View, scope: Option<&str>, monday: Date) -> Result<WeekBoard> {
    let facts = view.facts()?;
    let zone = settings::time_zone(view)?;
    let days = days_of_week(monday);
    let after = monday.saturating_add(jiff::Span::new().days(7));
    let within = within(view, scope)?;
    let counts = |asset: AssetId| facts.tree.index(asset).is_some_and(|index| within[index]);
    let today = view.now.in_zone(&zone).date();
    let week = Span::new(midnight(monday, &zone), midnight(after, &zone));
    let week = week.map_err(|error| StoreError::invalid("week", error))?;
    let mut required = RequiredDays::new(facts, week, view.now);
    let hours = facts.open_hours(view.now, |asset| within[asset as usize]);
    let mut crews: Vec<Option<CrewId>> = crews(view)?.into_iter().map(Some).collect();
    let mut board: HashMap<Option<CrewId>, Vec<Cell>> = HashMap::new();
    let weekly = |crew: Option<CrewId>| {
        let at = midnight(monday, &zone).max(view.now.min(midnight(after, &zone)));
        crew.and_then(|crew| facts.worth.weekly_ms.get(&crew)).and_then(|dated| dated.at(at)).unwrap_or(0)
    };
    let empty = |crew| days.map(|date| Cell::new(date, capacity_on(date, weekly(crew)))).to_vec();
    let mut orders = scheduled(view, week.start(), week.end())?;
    orders.retain(|order| counts(order.asset_id));
    let needs = Needs::of(view, &orders, today)?;
    for order in orders {
        let (first, last) = dates_of(order.start, order.end, &zone);
        let shares: HashMap<Date, i64> = spread(order.left_ms.unwrap_or(0), first, last).into_iter().collect();
        let on_board = board.entry(order.crew).or_insert_with(|| empty(order.crew));
        for (date, cell) in days.iter().zip(on_board) {
            // A day without hours is not worked on, but for the one it begins on.
            let share = shares.get(date);
            if *date < first || *date > last || (share.is_none() && *date != first) {
                continue;
            }
            let ms = share.copied().unwrap_or(0);
            let day = Span::new(midnight(*date, &zone), midnight(date.saturating_add(1.day()), &zone));
            let on_day = OnDay {
                state: order.row.state,
                window_end: order.row.window_end,
                date: *date,
                parts: needs.parts(&order),
                away: needs.away(&order),
                asset_runs: needs.needs_outage(&order)
                    && facts
                        .tree
                        .index(order.asset_id)
                        .zip(day.ok())
                        .is_some_and(|(asset, day)| required.is_required(asset as u32, day)),
            };
            cell.load_ms += ms;
            cell.orders.push(WeekOrder {
                hours: order.left_ms.map(|_| as_hours(ms)),
                conflicts: conflicts(on_day, &zone),
                goes_on: *date > first,
                ..order.row.clone()
            });
        }
    }
    if board.contains_key(&None) {
        crews.push(None);
    }
    // Of crews whose work is not theirs to see there is nothing to say.
    let sees_all = view.viewer.sees_all_work();
    crews.retain(|crew| sees_all || board.contains_key(crew) || (crew.is_some() && *crew == view.viewer.crew()));
    let (mut all_capacity_ms, mut all_load_ms) = (0, 0);
    let crew_row = |crew: Option<CrewId>| {
        let days = board.remove(&crew).unwrap_or_else(|| empty(crew));
        let weekly = weekly(crew);
        let load_ms: i64 = days.iter().map(|day| day.load_ms).sum();
        (all_capacity_ms, all_load_ms) = (all_capacity_ms + weekly, all_load_ms + load_ms);
        let OpenHours { all_ms, ready_ms } = hours.get(&crew).copied().unwrap_or_default();
        let weeks = |ms: i64| (sees_all && weekly > 0).then(|| ms as f64 / weekly as f64);
        let name = crew.and_then(|crew| tally_core::facts::Names::find(&facts.names.crews, crew.0));
        WeekCrew {
            code: name.map(|name| name.code.clone()),
            name: name.map_or_else(|| "No crew".into(), |name| name.name.clone()),
            capacity_hours: as_hours(weekly),
            load_hours: as_hours(load_ms),
            is_over: load_ms > weekly,
            backlog_weeks: weeks(all_ms),
            ready_weeks: weeks(ready_ms),
            days: days.into_iter().map(Cell::told).collect(),
        }
    };
    let crews: Vec<WeekCrew> = crews.into_iter().map(crew_row).collect();
    let mut queue = undated(view)?;
    queue.retain(|(asset, _)| counts(*asset));
    queue.sort_by_key(|(_, order)| (!order.over_limit, order.window_end, order.number));
    Ok(WeekBoard {
        monday: monday.to_string(),
        number: monday.iso_week_date().week(),
        before: monday.saturating_sub(jiff::Span::new().days(7)).to_string(),
        after: after.to_string(),
        today: days.contains(&today).then(|| today.to_string()),
        days_over: crews.iter().flat_map(|crew| &crew.days).filter(|day| day.is_over).count(),
        crews,
        capacity_hours: as_hours(all_capacity_ms),
        load_hours: as_hours(all_load_ms),
        undated: queue.len(),
        queue: queue.into_iter().take(MOST_TOLD).map(|(_, order)| order).collect(),
        may_plan: may(view.viewer.mover().0, Action::PlanWork).is_ok(),
    })
}

pub(super) fn as_hours(ms: i64) -> f64 {
    ms as f64 / HOUR as f64
}

/// A crew's day while it is filled, in milliseconds.
#[derive(Debug, Clone)]
struct Cell {
    date: Date,
    capacity_ms: i64,
    load_ms: i64,
    orders: Vec<WeekOrder>,
}

impl Cell {
    fn new(date: Date, capacity_ms: i64) -> Self {
        Self { date, capacity_ms, load_ms: 0, orders: Vec::new() }
    }

    fn told(self) -> WeekDay {
        WeekDay {
            date: self.date.to_string(),
            capacity_hours: as_hours(self.capacity_ms),
            load_hours: as_hours(self.load_ms),
            is_over: self.load_ms > self.capacity_ms,
            orders: self.orders,
        }
    }
}

/// By dense index what is asked for: below the scope, and reached.
pub(super) fn within(view: &View, scope: Option<&str>) -> Result<Vec<bool>> {
    let tree = &view.facts()?.tree;
    let mut within = reached(tree, view.viewer.bounds()).unwrap_or_else(|| vec![true; tree.len()]);
    if let Some(scope) = scope.filter(|code| !code.is_empty()) {
        let scope = assets::require_reached(view, scope)?;
        let mut below = vec![false; tree.len()];
        for index in tree.index(scope).map(|index| tree.shape_at(view.now).below(index as u32)).unwrap_or_default() {
            below[index as usize] = true;
        }
        within.iter_mut().zip(below).for_each(|(within, below)| *within &= below);
    }
    Ok(within)
}

fn crews(view: &View) -> Result<Vec<CrewId>> {
    let mut select = view.conn.prepare_cached("SELECT id FROM crews ORDER BY name, id")?;
    let rows = select.query_map([], |row| row.get(0))?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

/// An order with a day.
struct OnBoard {
    row: WeekOrder,
    asset_id: AssetId,
    crew: Option<CrewId>,
    start: Instant,
    end: Option<Instant>,
    left_ms: Option<i64>,
    assignee: Option<PersonId>,
    job_version: Option<i64>,
}

/// What scheduled orders need: parts, a standstill, somebody who is there.
struct Needs {
    /// When its parts are there, and whether its asset has to stand still.
    by_order: HashMap<WorkOrderId, (Vec<There>, bool)>,
    away: HashMap<PersonId, Vec<Away>>,
}

impl Needs {
    fn of(view: &View, orders: &[OnBoard], today: Date) -> Result<Self> {
        let mut select = view.conn.prepare_cached("SELECT id, sheet FROM job_sheet_versions WHERE id IN rarray(?1)")?;
        let versions = list_of(orders.iter().filter_map(|order| order.job_version));
        let sheets = select
            .query_map([versions], |row| Ok((row.get::<_, i64>(0)?, row.get::<_, String>(1)?)))?
            .collect::<rusqlite::Result<Vec<_>>>()?;
        let sheets = sheets.into_iter().map(|(id, text)| Ok((id, from_json::<JobSheet>("job_sheet_versions", &text)?)));
        let sheets = sheets.collect::<Result<HashMap<_, _>>>()?;
        let items = sheets.values().flat_map(|sheet| &sheet.parts).map(|part| part.item.as_str());
        let numbers: Vec<WorkOrderId> = orders.iter().map(|order| order.row.number).collect();
        let storeroom = Storeroom::of(view.conn, &numbers, items)?;
        let by_order = orders.iter().filter_map(|order| {
            let (number, sheet) = (order.row.number, sheets.get(&order.job_version?)?);
            let there = sheet.parts.iter().map(|part| storeroom.there(number, part, today)).collect();
            Some((number, (there, sheet.needs_outage)))
        });
        let mut select =
            view.conn.prepare_cached("SELECT id, away FROM people WHERE id IN rarray(?1) AND away <> '[]'")?;
        let people = list_of(orders.iter().filter_map(|order| order.assignee));
        let away = select.query_map([people], |row| Ok((row.get(0)?, row.get::<_, String>(1)?)))?;
        let mut by_person: HashMap<PersonId, Vec<Away>> = HashMap::new();
        for row in away {
            let (person, text) = row?;
            let days = from_json::<Vec<String>>("people", &text)?;
            let days = days.iter().map(|days| days.parse().map_err(|error| StoreError::corrupt("people", error)));
            by_person.insert(person, days.collect::<Result<_>>()?);
        }
        Ok(Self { by_order: by_order.collect(), away: by_person })
    }

    fn job(&self, order: &OnBoard) -> Option<&(Vec<There>, bool)> {
        self.by_order.get(&order.row.number)
    }

    fn parts(&self, order: &OnBoard) -> &[There] {
        self.job(order).map_or(&[], |(parts, _)| parts)
    }

    fn needs_outage(&self, order: &OnBoard) -> bool {
        self.job(order).is_some_and(|(_, needs_outage)| *needs_outage)
    }

    fn away(&self, order: &OnBoard) -> &[Away] {
        order.assignee.and_then(|person| self.away.get(&person)).map_or(&[], Vec::as_slice)
    }
}

/// Open work that is scheduled in a window. What goes on for longer than a year is told in its first year only.
fn scheduled(view: &View, from: Instant, to: Instant) -> Result<Vec<OnBoard>> {
    let mut select = view.conn.prepare_cached(&format!(
        "SELECT w.*, a.code AS asset, a.name AS asset_name, p.name AS assignee FROM work_orders w
         JOIN assets a ON a.id = w.asset_id LEFT JOIN people p ON p.id = w.assignee_id
         WHERE w.scheduled_start IS NOT NULL
             AND w.state IN ('raised', 'planning', 'waiting', 'ready', 'scheduled', 'under_way')
             AND w.scheduled_start >= ?1 AND w.scheduled_start < ?2
             AND (w.scheduled_start >= ?3 OR w.scheduled_end > ?3) AND {}
         ORDER BY w.scheduled_start, w.risk_rank, w.number",
        view.viewer.condition("w")
    ))?;
    let found = select.query_map([from.plus(-366 * DAY), to, from], |row: &Row| {
        let estimated: Option<f64> = row.get("estimated_hours")?;
        let spent: i64 = row.get("spent_ms")?;
        Ok(OnBoard {
            asset_id: row.get("asset_id")?,
            crew: row.get("crew_id")?,
            start: row.get("scheduled_start")?,
            end: row.get("scheduled_end")?,
            assignee: row.get("assignee_id")?,
            job_version: row.get("job_version_id")?,
            left_ms: estimated.map(|hours| ((hours * HOUR as f64).round() as i64 - spent).max(0)),
            row: WeekOrder {
                number: row.get("number")?,
                title: row.get("title")?,
                asset: NamedAsset { code: row.get("asset")?, name: row.get("asset_name")? },
                state: row.get("state")?,
                risk_rank: row.get("risk_rank")?,
                assignee: row.get("assignee")?,
                window_end: row.get("window_end")?,
                hours: None,
                conflicts: Vec::new(),
                goes_on: false,
            },
        })
    })?;
    Ok(found.collect::<rusqlite::Result<_>>()?)
}

/// Work that waits for nothing and has no day, with the asset it is on.
fn undated(view: &View) -> Result<Vec<(AssetId, WaitingOrder)>> {
    let facts = view.facts()?;
    let mut select = view.conn.prepare_cached(&format!(
        "SELECT w.number, w.title, w.asset_id, a.code, a.name, c.code, w.risk_rank, w.state_since, w.window_end,
             w.estimated_hours, w.state
         FROM work_orders w JOIN assets a ON a.id = w.asset_id LEFT JOIN crews c ON c.id = w.crew_id
         WHERE w.state IN ('raised', 'planning', 'ready') AND w.scheduled_start IS NULL AND {}",
        view.viewer.condition("w")
    ))?;
    let found = select.query_map([], |row| {
        let (crew, risk_rank, state_since): (Option<String>, u8, Instant) = (row.get(5)?, row.get(6)?, row.get(7)?);
        let state: WorkState = row.get(10)?;
        let number = row.get(0)?;
        let window_end: Instant = row.get(8)?;
        let order = WaitingOrder {
            number,
            title: row.get(1)?,
            asset: NamedAsset { code: row.get(3)?, name: row.get(4)? },
            state,
            risk_rank,
            state_since,
            window_end,
            past_window: window_end < view.now,
            over_limit: facts.order_is_over_limit(number, view.now),
            estimated_hours: row.get(9)?,
            crew,
        };
        Ok((row.get(2)?, order))
    })?;
    Ok(found.collect::<rusqlite::Result<_>>()?)
}

/// Puts an order on a crew's day, or takes it off the board; it can be put back as [`several`].
///
/// # Errors
/// As [`several`], and [`StoreError::Invalid`] for a date that is none.
pub fn place(tx: &mut Tx, number: WorkOrderId, to: &Placing) -> Result<SeveralDone> {
    tx.require(Action::PlanWork)?;
    tx.require_reach(&Named::Order(number))?;
    let zone = settings::time_zone(tx)?;
    let state = super::state(tx.conn, number)?.state;
    let mut select =
        tx.conn.prepare_cached("SELECT scheduled_start, scheduled_end FROM work_orders WHERE number = ?1")?;
    let (start, end) = select.query_row([number], |row| Ok((row.get(0)?, row.get(1)?)))?;
    drop(select);
    let (change, state) = to.change(Scheduled { state, start, end }, &zone)?;
    let orders = vec![number];
    let done = several(tx, &Several { orders, change: Some(change), to: state.map(StateMove::to) })?;
    match done.orders.iter().find_map(|one| one.refused.clone()) {
        Some(refused) => Err(StoreError::Conflict(refused)),
        None => Ok(done),
    }
}

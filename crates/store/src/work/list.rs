//! The list of work, filtered, sorted and in parts, with facets and totals.

use crate::{
    ground::{
        error::{Result, StoreError},
        rows::{list_of, word},
        view::View,
        viewer::Viewer,
    },
    lists::{facet::FacetValue, letters::Letters},
    plant::{assets::NamedAsset, settings},
};
use rusqlite::{Connection, Row, ToSql};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use tally_core::{
    ground::{
        ids::{AssetId, WorkOrderId},
        severity::Severity,
        time::{DAY, HOUR, Instant},
    },
    work::{InState, SourceWord, StateLimit, WaitingFor, WorkKind, WorkState},
};
use utoipa::ToSchema;

/// A work order as listed.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct WorkRow {
    pub number: WorkOrderId,
    pub title: String,
    pub kind: WorkKind,
    pub asset: NamedAsset,
    pub state: WorkState,
    pub state_since: Instant,
    pub waiting_for: Option<WaitingFor>,
    pub source: SourceWord,
    pub source_severity: Option<Severity>,
    pub raised_at: Instant,
    pub risk_rank: u8,
    pub window_end: Instant,
    /// Open, and its window has run out.
    pub past_window: bool,
    /// It has stood longer in its state than is allowed.
    pub over_limit: bool,
    pub target_start: Option<Instant>,
    pub crew: Option<String>,
    pub assignee: Option<String>,
    pub estimated_hours: Option<f64>,
    pub spent_hours: f64,
    /// Minor units.
    pub cost: i64,
}

/// How the list is filtered.
#[derive(Debug, Clone, Default)]
pub struct Filter {
    /// Asset ids; `None` for all.
    pub scope: Option<Vec<AssetId>>,
    /// Any of these; all where empty.
    pub states: Vec<WorkState>,
    pub kinds: Vec<WorkKind>,
    pub ranks: Vec<u8>,
    pub crews: Vec<String>,
    pub sources: Vec<String>,
    /// In number, title or asset.
    pub text: Option<String>,
    pub past_window: bool,
    /// Only work over the limit of its state.
    pub over_limit: bool,
}

/// What the list is sorted by.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum SortBy {
    #[default]
    WindowEnd,
    Raised,
    Rank,
    Number,
    Cost,
    Spent,
}

impl SortBy {
    fn column(self) -> &'static str {
        match self {
            Self::WindowEnd => "w.window_end",
            Self::Raised => "w.raised_at",
            Self::Rank => "w.risk_rank",
            Self::Number => "w.number",
            Self::Cost => "w.cost",
            Self::Spent => "w.spent_ms",
        }
    }
}

/// Which part of the sorted list.
#[derive(Debug, Clone, Default)]
pub struct Page {
    pub sort: SortBy,
    pub descending: bool,
    pub cursor: Option<String>,
    pub limit: usize,
}

/// The values of each filter, counted under the other filters.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, ToSchema)]
pub struct Facets {
    /// States that count as open.
    pub open: Vec<WorkState>,
    pub state: Vec<FacetValue>,
    pub kind: Vec<FacetValue>,
    pub rank: Vec<FacetValue>,
    pub crew: Vec<FacetValue>,
    pub source: Vec<FacetValue>,
}

/// What all orders of the filtered list come to.
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize, ToSchema)]
pub struct Totals {
    pub count: i64,
    pub estimated_hours: f64,
    pub spent_hours: f64,
    /// Minor units.
    pub cost: i64,
    pub past_window: i64,
    pub over_limit: i64,
}

/// A part of the list, with facets and totals of all of it.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct WorkPage {
    pub work_orders: Vec<WorkRow>,
    pub facets: Facets,
    pub totals: Totals,
    pub next_cursor: Option<String>,
}

pub(super) const COLUMNS: &str = "w.*, a.code AS asset, a.name AS asset_name, c.code AS crew, p.name AS assignee";
pub(super) const JOINS: &str = "JOIN assets a ON a.id = w.asset_id LEFT JOIN crews c ON c.id = w.crew_id
     LEFT JOIN people p ON p.id = w.assignee_id";

pub(super) fn work_row(row: &Row, limits: &[StateLimit], now: Instant) -> Result<WorkRow> {
    let state: WorkState = row.get("state")?;
    let window_end = row.get("window_end")?;
    let (state_since, waiting_for) = (row.get("state_since")?, row.get("waiting_for")?);
    let (risk_rank, crew): (u8, Option<String>) = (row.get("risk_rank")?, row.get("crew")?);
    let standing = InState {
        state,
        since: state_since,
        waiting_for,
        is_dated: row.get::<_, Option<i64>>("scheduled_start")?.is_some(),
        rank: risk_rank,
        crew: crew.as_deref(),
    };
    let over_limit = limits.iter().any(|limit| limit.is_exceeded(standing, now));
    Ok(WorkRow {
        number: row.get("number")?,
        title: row.get("title")?,
        kind: row.get("kind")?,
        asset: NamedAsset { code: row.get("asset")?, name: row.get("asset_name")? },
        state,
        state_since,
        waiting_for,
        source: row.get("source")?,
        source_severity: row.get("source_severity")?,
        raised_at: row.get("raised_at")?,
        risk_rank,
        window_end,
        past_window: state.is_open() && window_end < now,
        over_limit,
        target_start: row.get("target_start")?,
        crew,
        assignee: row.get("assignee")?,
        estimated_hours: row.get("estimated_hours")?,
        spent_hours: row.get::<_, i64>("spent_ms")? as f64 / HOUR as f64,
        cost: row.get("cost")?,
    })
}

/// A value by the name it is bound under.
type Bound = (&'static str, Box<dyn ToSql>);

/// A filter as SQL: a condition for each facet, and their values, which are bound.
struct Conditions {
    base: String,
    /// The column, and what was chosen of it.
    facets: [(&'static str, Vec<String>); 5],
    bound: Vec<Bound>,
    searches: bool,
}

/// Names under which the chosen values of the facets are bound.
const CHOSEN: [&str; 5] = [":states", ":kinds", ":ranks", ":crews", ":sources"];

fn texts<'a>(values: impl IntoIterator<Item = &'a String>) -> Box<dyn ToSql> {
    Box::new(list_of(values.into_iter().cloned()))
}

const FACETS: [&str; 5] = ["w.state", "w.kind", "CAST(w.risk_rank AS TEXT)", "ifnull(c.code, '')", "w.source"];

/// Over one of the limits, as SQL: what [`StateLimit::is_exceeded`] says of one work order, for many at once.
fn over_limit(limits: &[StateLimit], now: Instant) -> String {
    let mut any = vec!["0".to_owned()];
    for limit in limits {
        let before = now.plus(-i64::from(limit.days) * DAY).ms();
        let mut sql = format!("w.state = '{}' AND w.state_since < {before}", word(&limit.state));
        if let Some(reason) = &limit.waiting_for {
            sql.push_str(&format!(" AND w.waiting_for IS '{}'", word(reason)));
        }
        if limit.undated {
            sql.push_str(" AND w.scheduled_start IS NULL");
        }
        if let Some(rank) = limit.rank {
            sql.push_str(&format!(" AND w.risk_rank = {rank}"));
        }
        if let Some(crew) = &limit.crew {
            let crew = crew.replace('\'', "''");
            sql.push_str(&format!(" AND w.crew_id IS (SELECT id FROM crews WHERE code = '{crew}')"));
        }
        any.push(format!("({sql})"));
    }
    format!("({})", any.join(" OR "))
}

fn conditions(filter: &Filter, viewer: Viewer, limits: &[StateLimit], now: Instant) -> Conditions {
    let facets = [
        (FACETS[0], filter.states.iter().map(word).collect()),
        (FACETS[1], filter.kinds.iter().map(word).collect()),
        (FACETS[2], filter.ranks.iter().map(ToString::to_string).collect()),
        (FACETS[3], filter.crews.clone()),
        (FACETS[4], filter.sources.clone()),
    ];
    let mut base = viewer.condition("w");
    let mut bound: Vec<Bound> = Vec::new();
    if let Some(scope) = &filter.scope {
        base.push_str(" AND w.asset_id IN rarray(:scope)");
        bound.push((":scope", Box::new(list_of(scope.iter().copied()))));
    }
    let letters = filter.text.as_deref().and_then(Letters::of);
    if let Some(letters) = &letters {
        let (titled, value) = letters.condition("search_work", "w.number", "w.title", ":text");
        let (placed, _) = letters.condition("search_assets", "w.asset_id", "a.name || ' ' || a.code", ":text");
        base.push_str(&format!(" AND (instr(w.number, :typed) > 0 OR {titled} OR {placed})"));
        bound.push((":typed", Box::new(letters.text.clone())));
        bound.push((":text", Box::new(value)));
    }
    if filter.past_window {
        base.push_str(&format!(" AND w.window_end < {} AND w.state IN ({})", now.ms(), open_states()));
    }
    if filter.over_limit {
        base.push_str(&format!(" AND {}", over_limit(limits, now)));
    }
    Conditions { base, facets, bound, searches: letters.is_some_and(|letters| letters.phrase.is_none()) }
}

impl Conditions {
    /// All of it, and what it binds.
    fn whole(&self) -> (String, Vec<Bound>) {
        let mut sql = self.base.clone();
        let mut chosen_values = Vec::new();
        for (name, (column, chosen)) in CHOSEN.into_iter().zip(&self.facets).filter(|(_, (_, c))| !c.is_empty()) {
            sql.push_str(&format!(" AND {column} IN rarray({name})"));
            chosen_values.push((name, texts(chosen)));
        }
        (sql, chosen_values)
    }
}

fn named<'a>(bound: impl IntoIterator<Item = &'a Bound>) -> Vec<(&'static str, &'a dyn ToSql)> {
    bound.into_iter().map(|(name, value)| (*name, &**value)).collect()
}

/// A part of the filtered, sorted list, with facets and totals of the whole of it.
///
/// # Errors
/// [`StoreError::Invalid`] for a cursor that is none.
pub fn list(view: &View, filter: &Filter, page: &Page) -> Result<WorkPage> {
    let conn = view.conn;
    let now = view.now;
    let limits = settings::get(conn)?.state_limits;
    let conditions = conditions(filter, view.viewer, &limits, now);
    let (column, order, beyond) = match page.descending {
        true => (page.sort.column(), "DESC", "<"),
        false => (page.sort.column(), "ASC", ">"),
    };
    let after = match &page.cursor {
        Some(cursor) => {
            let wrong = || StoreError::invalid("cursor", "is none of this list");
            let (key, number) = cursor.split_once('_').ok_or_else(wrong)?;
            let number_of = |text: &str| text.parse::<i64>().map_err(|_not_a_number| wrong());
            format!(" AND ({column}, w.number) {beyond} ({}, {})", number_of(key)?, number_of(number)?)
        }
        None => String::new(),
    };
    let (whole, chosen) = conditions.whole();
    let sql = format!(
        "SELECT {COLUMNS}, {column} AS sort_key FROM work_orders w {JOINS} WHERE {whole}{after}
         ORDER BY {column} {order}, w.number {order} LIMIT {}",
        page.limit + 1
    );
    let mut select = conn.prepare(&sql)?;
    let mut rows = select.query(named(conditions.bound.iter().chain(&chosen)).as_slice())?;
    let mut work_orders = Vec::new();
    let mut next_cursor = None;
    let mut last_key = 0i64;
    while let Some(row) = rows.next()? {
        if work_orders.len() == page.limit {
            next_cursor = work_orders.last().map(|last: &WorkRow| format!("{last_key}_{}", last.number));
            break;
        }
        last_key = row.get("sort_key")?;
        work_orders.push(work_row(row, &limits, now)?);
    }
    let alike = alike(conn, &conditions, &limits, now)?;
    Ok(WorkPage { work_orders, facets: facets(&alike, &conditions), totals: totals(&alike, &conditions), next_cursor })
}

/// Work that is alike in everything the filters ask, counted together.
struct Alike {
    /// Values of the facets, in their order.
    values: [String; 5],
    totals: Totals,
}

impl Alike {
    /// Whether the chosen values let it through; those of one facet may be left aside.
    fn is_chosen(&self, conditions: &Conditions, but: Option<usize>) -> bool {
        let mut facets = conditions.facets.iter().zip(&self.values).enumerate();
        facets.all(|(place, ((_, chosen), value))| Some(place) == but || chosen.is_empty() || chosen.contains(value))
    }
}

/// All work under the conditions that are no facet's, in one pass: there are few kinds of alike work, however much of it.
fn alike(conn: &Connection, conditions: &Conditions, limits: &[StateLimit], now: Instant) -> Result<Vec<Alike>> {
    // Only a search for letters asks the asset.
    let joins = if conditions.searches { "JOIN assets a ON a.id = w.asset_id" } else { "" };
    let sql = format!(
        "SELECT g.state, g.kind, CAST(g.risk_rank AS TEXT), ifnull(c.code, ''), g.source, g.count, g.estimated_hours,
             g.spent_ms, g.cost, g.past_window, g.over_limit
         FROM (SELECT w.state, w.kind, w.risk_rank, w.crew_id, w.source, count(*) AS count,
                 ifnull(sum(w.estimated_hours), 0.0) AS estimated_hours, sum(w.spent_ms) AS spent_ms,
                 sum(w.cost) AS cost, sum(w.window_end < {} AND w.state IN ({})) AS past_window,
                 sum({}) AS over_limit
             FROM work_orders w {joins} WHERE {} GROUP BY w.state, w.kind, w.risk_rank, w.crew_id, w.source) g
         LEFT JOIN crews c ON c.id = g.crew_id",
        now.ms(),
        open_states(),
        over_limit(limits, now),
        conditions.base
    );
    let mut select = conn.prepare(&sql)?;
    let mut rows = select.query(named(&conditions.bound).as_slice())?;
    let mut found = Vec::new();
    while let Some(row) = rows.next()? {
        found.push(Alike {
            values: [row.get(0)?, row.get(1)?, row.get(2)?, row.get(3)?, row.get(4)?],
            totals: Totals {
                count: row.get(5)?,
                estimated_hours: row.get(6)?,
                spent_hours: row.get::<_, i64>(7)? as f64 / HOUR as f64,
                cost: row.get(8)?,
                past_window: row.get(9)?,
                over_limit: row.get(10)?,
            },
        });
    }
    Ok(found)
}

fn facets(alike: &[Alike], conditions: &Conditions) -> Facets {
    let of = |place: usize| -> Vec<FacetValue> {
        let mut counts: BTreeMap<&str, i64> = BTreeMap::new();
        for one in alike.iter().filter(|one| one.is_chosen(conditions, Some(place))) {
            *counts.entry(&one.values[place]).or_default() += one.totals.count;
        }
        counts.into_iter().map(|(value, count)| FacetValue { value: value.into(), count }).collect()
    };
    let mut state = of(0);
    let place = |value: &FacetValue| WorkState::ALL.iter().position(|s| word(s) == value.value);
    state.sort_by_key(place);
    let open = WorkState::ALL.into_iter().filter(|state| state.is_open()).collect();
    Facets { open, state, kind: of(1), rank: of(2), crew: of(3), source: of(4) }
}

fn totals(alike: &[Alike], conditions: &Conditions) -> Totals {
    let chosen = alike.iter().filter(|one| one.is_chosen(conditions, None)).map(|one| one.totals);
    chosen.fold(Totals::default(), |sum, one| Totals {
        count: sum.count + one.count,
        estimated_hours: sum.estimated_hours + one.estimated_hours,
        spent_hours: sum.spent_hours + one.spent_hours,
        cost: sum.cost + one.cost,
        past_window: sum.past_window + one.past_window,
        over_limit: sum.over_limit + one.over_limit,
    })
}

/// The states before done, as a list in SQL.
fn open_states() -> String {
    let open: Vec<String> = WorkState::ALL.iter().filter(|s| s.is_open()).map(|s| format!("'{}'", word(s))).collect();
    open.join(", ")
}

//! The list of work, filtered, sorted and in parts, with facets and totals.

use crate::{
    ground::{
        error::{Result, StoreError},
        rows::{list_of, word},
        view::View,
    },
    lists::{answer::answer, facet::FacetValue},
    plant::assets::NamedAsset,
};
use rusqlite::Row;
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use tally_core::{
    access::roles::{Action, may, raises_briefly},
    facts::Snapshot,
    ground::{
        ids::WorkOrderId,
        severity::Severity,
        time::{HOUR, Instant},
    },
    lists::{Answer, Asked, Cell, FilterAsked, SortAsked, SubjectId, Summary, SummaryAsked},
    work::{SourceWord, WaitingFor, WorkKind, WorkState},
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
    /// Until when it waits, as far as is known.
    pub expected_until: Option<Instant>,
    /// It waits, and that date is past.
    pub late_waiting: bool,
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
    /// Code of an asset, with all below it; `None` for all.
    pub scope: Option<String>,
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
    /// Only work that waits past the date that was expected.
    pub late_waiting: bool,
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
            Self::WindowEnd => "window_end",
            Self::Raised => "raised_at",
            Self::Rank => "rank",
            Self::Number => "number",
            Self::Cost => "cost",
            Self::Spent => "spent",
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
    pub late_waiting: i64,
}

/// A part of the list, with facets and totals of all of it.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct WorkPage {
    pub work_orders: Vec<WorkRow>,
    pub facets: Facets,
    pub totals: Totals,
    /// Whoever looks may plan work: change several at once.
    pub may_plan: bool,
    /// Whoever looks may raise more work.
    pub may_raise: bool,
    /// They say what they see and no more.
    pub raises_briefly: bool,
    pub next_cursor: Option<String>,
}

pub(super) const COLUMNS: &str = "w.*, a.code AS asset, a.name AS asset_name, c.code AS crew, p.name AS assignee";
pub(super) const JOINS: &str = "JOIN assets a ON a.id = w.asset_id LEFT JOIN crews c ON c.id = w.crew_id
     LEFT JOIN people p ON p.id = w.assignee_id";

pub(super) fn work_row(row: &Row, facts: &Snapshot, now: Instant) -> Result<WorkRow> {
    let state: WorkState = row.get("state")?;
    let window_end = row.get("window_end")?;
    let (state_since, waiting_for) = (row.get("state_since")?, row.get("waiting_for")?);
    let expected_until: Option<Instant> = row.get("expected_until")?;
    let (risk_rank, crew): (u8, Option<String>) = (row.get("risk_rank")?, row.get("crew")?);
    let number = row.get("number")?;
    Ok(WorkRow {
        number,
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
        over_limit: facts.order_is_over_limit(number, now),
        expected_until,
        late_waiting: state == WorkState::Waiting && expected_until.is_some_and(|until| until < now),
        target_start: row.get("target_start")?,
        crew,
        assignee: row.get("assignee")?,
        estimated_hours: row.get("estimated_hours")?,
        spent_hours: row.get::<_, i64>("spent_ms")? as f64 / HOUR as f64,
        cost: row.get("cost")?,
    })
}

/// A filter as the engine of lists takes it.
fn asked(filter: &Filter, page: &Page) -> Asked {
    let words = |column: &str, is: Vec<String>| {
        (!is.is_empty()).then(|| FilterAsked { column: column.into(), is: Some(is), ..FilterAsked::default() })
    };
    let yes = |column: &str, wanted: bool| words(column, if wanted { vec!["yes".into()] } else { Vec::new() });
    let filters = [
        words("state", filter.states.iter().map(word).collect()),
        words("work_kind", filter.kinds.iter().map(word).collect()),
        words("rank", filter.ranks.iter().map(ToString::to_string).collect()),
        words("crew", filter.crews.clone()),
        words("source", filter.sources.clone()),
        yes("past_window", filter.past_window),
        yes("over_limit", filter.over_limit),
        yes("late_waiting", filter.late_waiting),
    ];
    let sort = |column: &str| SortAsked { column: column.into(), descending: page.descending };
    let sum = |column: &str| SummaryAsked { column: column.into(), of: Summary::Sum };
    Asked {
        scope: filter.scope.clone(),
        text: filter.text.clone(),
        filter: filters.into_iter().flatten().collect(),
        columns: vec!["number".into()],
        sort: match page.sort {
            SortBy::Number => vec![sort("number")],
            other => vec![sort(other.column()), sort("number")],
        },
        summaries: ["estimated", "spent", "cost"].into_iter().map(sum).collect(),
        facets: FACETS.into_iter().chain(["past_window", "over_limit", "late_waiting"]).map(String::from).collect(),
        cursor: page.cursor.clone(),
        limit: Some(page.limit),
        ..Asked::default()
    }
}

/// An error by the name of the filter in the list of work, not by its place in what the engine was asked.
fn in_words_of_work(error: StoreError, asked: &Asked) -> StoreError {
    match error {
        StoreError::Invalid { field, reason } => {
            let place = field.strip_prefix("filter[").and_then(|rest| rest.split(']').next()?.parse::<usize>().ok());
            let column = place.and_then(|place| Some(asked.filter.get(place)?.column.clone()));
            let field =
                column.map(|column| if column == "work_kind" { "kind".into() } else { column }).unwrap_or(field);
            StoreError::Invalid { field, reason }
        }
        other => other,
    }
}

const FACETS: [&str; 5] = ["state", "work_kind", "rank", "crew", "source"];

/// A part of the filtered, sorted list, with facets and totals of the whole of it.
///
/// # Errors
/// [`StoreError::Invalid`] for a cursor that is none, or a value that is none.
pub fn list(view: &View, filter: &Filter, page: &Page) -> Result<WorkPage> {
    let asked = asked(filter, page);
    let answer = answer(view, SubjectId::Work, &asked, None).map_err(|error| in_words_of_work(error, &asked))?;
    let numbers: Vec<i64> = answer.rows.iter().map(|row| row.id).collect();
    let facts = view.facts()?;
    let mut select = view
        .conn
        .prepare_cached(&format!("SELECT {COLUMNS} FROM work_orders w {JOINS} WHERE w.number IN rarray(?1)"))?;
    let mut rows = select.query([list_of(numbers.iter().copied())])?;
    let mut found: HashMap<i64, WorkRow> = HashMap::new();
    while let Some(row) = rows.next()? {
        let row = work_row(row, facts, view.now)?;
        found.insert(row.number.0, row);
    }
    let work_orders = numbers.iter().filter_map(|number| found.remove(number)).collect();
    let (facets, totals) = (facets(&answer), totals(&answer, filter));
    let is_allowed = |action| may(view.viewer.mover().0, action).is_ok();
    let (may_plan, may_raise) = (is_allowed(Action::PlanWork), is_allowed(Action::RaiseWork));
    let raises_briefly = raises_briefly(view.viewer.mover().0);
    Ok(WorkPage { raises_briefly, work_orders, facets, totals, may_plan, may_raise, next_cursor: answer.next_cursor })
}

fn facets(answer: &Answer) -> Facets {
    let of = |place: usize| -> Vec<FacetValue> {
        let values = answer.facets.get(place).map_or(&[][..], |facet| &facet.values);
        let count = |value: &tally_core::lists::ListFacetValue| FacetValue {
            value: value.value.clone(),
            count: value.count as i64,
        };
        values.iter().map(count).collect()
    };
    let open = WorkState::ALL.into_iter().filter(|state| state.is_open()).collect();
    Facets { open, state: of(0), kind: of(1), rank: of(2), crew: of(3), source: of(4) }
}

fn totals(answer: &Answer, filter: &Filter) -> Totals {
    let sum = |place: usize| match answer.summaries.get(place) {
        Some(Cell::Number(sum)) => *sum,
        _ => 0.0,
    };
    let count = answer.count as i64;
    // What is asked for is all there is; otherwise how many of it there are is told beside.
    let yes = |place: usize, is_asked: bool| match answer.facets.get(place) {
        Some(facet) if !is_asked => {
            facet.values.iter().find(|value| value.value == "yes").map_or(0, |value| value.count as i64)
        }
        _ => count,
    };
    Totals {
        count,
        estimated_hours: sum(0),
        spent_hours: sum(1),
        cost: sum(2) as i64,
        past_window: yes(FACETS.len(), filter.past_window),
        over_limit: yes(FACETS.len() + 1, filter.over_limit),
        late_waiting: yes(FACETS.len() + 2, filter.late_waiting),
    }
}

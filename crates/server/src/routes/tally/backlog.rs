use super::{
    asked::AskedParams,
    held::{HeldParams, filter, held_filters, values, words},
};
use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Params, Who},
    },
};
use axum::{Json, extract::State};
use jiff::ToSpan;
use serde::{Deserialize, Serialize};
use tally_core::{
    access::seen::Topic,
    facts::Snapshot,
    ground::{
        period::midnight,
        time::{Instant, Span},
        words::word,
    },
    lists::Asked,
    tally::{
        BacklogAt, BacklogCut, HeldBack, HeldTo, Places, Scope, Way, backlog, figures_of,
        indicators::{Figure, Indicator},
    },
    work::{StateLimit, WorkState},
};
use tally_store::{View, plant::settings};
use utoipa::{IntoParams, ToSchema};

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct BacklogParams {
    /// States with `|` between.
    state: Option<String>,
    /// Bands of age with `|` between, from 0 for the youngest.
    age: Option<String>,
    /// Ends of months looked back, at most 60; 12 without it.
    months: Option<u32>,
}

/// How a backlog is best listed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ComesAs {
    /// It is short enough to be read.
    Orders,
    /// By what is right below the scope.
    Children,
}

/// Open work.
#[derive(Debug, Serialize, ToSchema)]
pub struct BacklogBody {
    pub now: BacklogAt,
    /// As of the end of each month before, the earliest first.
    pub months: Vec<BacklogAt>,
    /// What its parts are cut by, in their order.
    pub cuts: [BacklogCut; 5],
    pub state_limits: Vec<StateLimit>,
    pub backlog_weeks: Figure,
    pub ready_weeks: Figure,
    pub age: Figure,
    pub comes_as: ComesAs,
    /// What is asked of the list of work for these orders.
    pub ask: Asked,
    /// The most rows of a list that comes as orders.
    pub longest_list: u32,
    pub change: i64,
}

/// Open work by state, crew, department, age and rank, now and as of the ends of months.
#[utoipa::path(get, path = "/tally/backlog", params(BacklogParams, AskedParams, HeldParams),
    responses((status = 200, body = BacklogBody)))]
pub async fn get(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<BacklogParams>,
    Params(asked): Params<AskedParams>,
    Params(held): Params<HeldParams>,
) -> Result<Json<BacklogBody>, ApiError> {
    state.look(who, Topic::Figures, move |view| open(view, &params, &asked, &held).map(Json)).await
}

/// The last instants of so many months before this one.
fn month_ends(facts: &Snapshot, now: Instant, months: u32) -> Vec<Instant> {
    let month = now.in_zone(&facts.zone).date().first_of_month();
    let begin = |back: u32| midnight(month.saturating_sub(i64::from(back).months()), &facts.zone);
    (0..months).rev().map(|back| begin(back).plus(-1)).collect()
}

fn open(view: &View, params: &BacklogParams, asked: &AskedParams, held: &HeldParams) -> Result<BacklogBody, ApiError> {
    let view = &asked.then(view)?;
    let facts = view.facts()?;
    let held_to = held.to()?;
    let held = held.held(facts)?;
    let age = |value: String| {
        let band = value.parse().ok().filter(|band| *band < 5);
        band.ok_or_else(|| ApiError::bad("age", "is a band, 0 to 4"))
    };
    let back = HeldBack {
        states: words("state", params.state.as_deref())?,
        ages: values(params.age.as_deref()).into_iter().map(age).collect::<Result<_, _>>()?,
    };
    let months = params.months.unwrap_or(12);
    if months > 60 {
        return Err(ApiError::bad("months", "at most 60"));
    }
    let asset = asked.asset(view)?;
    let mut instants = month_ends(facts, view.now, months);
    instants.push(view.now);
    let mut found = backlog(facts, asset, &instants, held.as_deref(), &back);
    let now = found.pop().ok_or_else(|| ApiError::bad("months", "there is nothing to look at"))?;
    view.go_on()?;
    let longest_list = settings::get(view)?.longest_list;
    let comes_as = if now.count > u64::from(longest_list) { ComesAs::Children } else { ComesAs::Orders };
    let [backlog_weeks, ready_weeks, age] = weeks(view, asked, held)?;
    Ok(BacklogBody {
        now,
        months: found,
        cuts: BacklogCut::ALL,
        state_limits: facts.state_limits.to_vec(),
        backlog_weeks,
        ready_weeks,
        age,
        comes_as,
        ask: list_of(asked, &held_to, &back),
        longest_list,
        change: facts.change,
    })
}

/// The orders as a list is asked for them.
fn list_of(asked: &AskedParams, held: &HeldTo, back: &HeldBack) -> Asked {
    let states = match back.states.is_empty() {
        true => WorkState::ALL.into_iter().filter(|state| state.is_open()).collect(),
        false => back.states.clone(),
    };
    let ages = back.ages.iter().map(ToString::to_string).collect();
    let own = [filter("state", states.iter().map(word).collect()), filter("age_band", ages)];
    Asked {
        scope: asked.scope.clone().filter(|scope| !scope.is_empty()),
        filter: own.into_iter().flatten().chain(held_filters(held)).collect(),
        ..Asked::default()
    }
}

/// Weeks of work, and its age, under what it is held to beside states and ages.
fn weeks(
    view: &View,
    asked: &AskedParams,
    held: Option<std::sync::Arc<tally_core::tally::Held>>,
) -> Result<[Figure; 3], ApiError> {
    let facts = view.facts()?;
    let moment = Span::new(view.now.plus(-1), view.now.plus(1)).map_err(|error| ApiError::bad("as_of", error))?;
    let question = asked.question(view, moment);
    // Without a scope the whole is what all roots come to; with one root that.
    let asset = asked.asset(view)?.or_else(|| {
        let mut roots = (0..facts.tree.len()).filter(|asset| facts.tree.parent_at(*asset, view.now).is_none());
        roots.next().filter(|_| roots.next().is_none()).map(|root| facts.tree.node(root).id)
    });
    let none = [Figure::default(); 3];
    let Some(asset) = asset else { return Ok(none) };
    let scope = Scope { asset: Some(asset), under: Way::default(), depth: 0 };
    let Some(places) = Places::new(facts, scope, question) else { return Ok(none) };
    let indicators = [Indicator::BacklogWeeks, Indicator::ReadyWeeks, Indicator::Age];
    let figures = figures_of(facts, &places.held_to(held), &indicators, question);
    Ok(figures.into_iter().next().and_then(|row| <[Figure; 3]>::try_from(row).ok()).unwrap_or(none))
}

use super::asked::AskedParams;
use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Params, Who},
        look,
    },
};
use axum::{Json, extract::State};
use serde::Serialize;
use tally_core::{
    access::seen::Topic,
    ground::time::Instant,
    lists::{Asked, of_headline},
    tally::{Headline, RunsOn, headlines},
};
use tally_store::{
    View,
    work::decisions::{self, RiskDecision},
};
use utoipa::ToSchema;

/// A sentence with the list of the orders that it is about.
#[derive(Debug, Serialize, ToSchema)]
pub struct HeadlineRow {
    #[serde(flatten)]
    pub headline: Headline,
    /// What is asked of the list of work for them; none where there is none.
    pub ask: Option<Asked>,
}

/// The current risk in a few sentences.
#[derive(Debug, Serialize, ToSchema)]
pub struct HeadlinesBody {
    pub at: Instant,
    /// The worst first.
    pub headlines: Vec<HeadlineRow>,
    pub change: i64,
}

/// Up to four sentences on the open corrective and condition-based work of a scope, the worst first; and one on what runs on by
/// decision, where something does.
#[utoipa::path(get, path = "/headlines", params(AskedParams), responses((status = 200, body = HeadlinesBody)))]
pub async fn get(
    State(state): State<AppState>,
    who: Who,
    Params(asked): Params<AskedParams>,
) -> Result<Json<HeadlinesBody>, ApiError> {
    state.look(who, Topic::Figures, move |view| sentences(view, &asked).map(Json)).await
}

fn sentences(view: &View, asked: &AskedParams) -> Result<HeadlinesBody, ApiError> {
    let view = &asked.then(view)?;
    let facts = view.facts()?;
    let scope = asked.asset(view)?;
    let below = look::scope(view, asked.scope.as_deref().filter(|scope| !scope.is_empty()))?;
    let decided = decisions::running(view, below.as_deref())?;
    let runs_on = |one: RiskDecision| Some(RunsOn { work: one.work_order, severity: one.severity, until: one.until? });
    let runs_on: Vec<RunsOn> = decided.into_iter().filter_map(runs_on).collect();
    let found = headlines(facts, scope, view.now, &runs_on);
    let row = |headline: Headline| {
        let ask = (headline.count > 0).then(|| Asked {
            scope: asked.scope.clone().filter(|scope| !scope.is_empty()),
            filter: of_headline(&headline, &runs_on, view.now),
            ..Asked::default()
        });
        HeadlineRow { headline, ask }
    };
    Ok(HeadlinesBody { at: view.now, headlines: found.into_iter().map(row).collect(), change: facts.change })
}

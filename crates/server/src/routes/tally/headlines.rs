use super::{asked::AskedParams, held::filter};
use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Params, Who},
    },
};
use axum::{Json, extract::State};
use serde::Serialize;
use tally_core::{
    access::seen::Topic,
    ground::{
        time::{DAY, Instant},
        words::word,
    },
    lists::{Asked, FilterAsked},
    tally::{Headline, HeadlineKind, headlines},
    work::{WorkKind, WorkState},
};
use tally_store::View;
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

/// Up to four sentences on the open corrective and condition-based work of a scope, the worst first.
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
    let found = headlines(facts, asked.asset(view)?, view.now);
    let row = |headline: Headline| {
        let ask = (headline.count > 0).then(|| list_of(&headline, asked, view.now));
        HeadlineRow { headline, ask }
    };
    Ok(HeadlinesBody { at: view.now, headlines: found.into_iter().map(row).collect(), change: facts.change })
}

/// The orders that a sentence is about, as a list is asked for them.
fn list_of(headline: &Headline, asked: &AskedParams, now: Instant) -> Asked {
    let is = |column: &str, values: &[&str]| FilterAsked {
        column: column.into(),
        is: Some(values.iter().map(|value| (*value).to_owned()).collect()),
        ..FilterAsked::default()
    };
    let own = match headline.kind {
        HeadlineKind::WorstRank => is("rank", &[&headline.rank.unwrap_or(5).to_string()]),
        HeadlineKind::NoDate => is("no_date_soon", &["yes"]),
        HeadlineKind::PastWindow => is("past_window", &["yes"]),
        HeadlineKind::SinceAWeek => FilterAsked {
            column: "raised_at".into(),
            from: Some(now.plus(-7 * DAY + 1).to_string()),
            ..FilterAsked::default()
        },
    };
    let open = WorkState::ALL.iter().filter(|state| state.is_open()).map(word).collect();
    let risks = WorkKind::ALL.iter().filter(|kind| kind.is_risk()).map(word).collect();
    Asked {
        scope: asked.scope.clone().filter(|scope| !scope.is_empty()),
        filter: [filter("state", open), filter("work_kind", risks), Some(own)].into_iter().flatten().collect(),
        ..Asked::default()
    }
}

use super::{asked::AskedParams, held::HeldParams};
use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Params, Who},
    },
};
use axum::{Json, extract::State};
use serde::{Deserialize, Serialize};
use tally_core::{
    access::seen::Topic,
    ground::time::Span,
    tally::{
        Change, Dimension, Scope, Way, changed,
        indicators::{Indicator, Unit},
    },
};
use tally_store::View;
use utoipa::{IntoParams, ToSchema};

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct ChangedParams {
    /// The id of one that adds up.
    indicator: String,
    /// What it is taken apart by, with commas between; everything its rows have without it.
    by: Option<String>,
}

/// A difference between two periods, taken apart.
#[derive(Debug, Serialize, ToSchema)]
pub struct ChangedBody {
    pub span: Span,
    /// What it is compared with.
    pub before_span: Span,
    pub name: &'static str,
    /// What the indicator is counted in; amounts of time are in milliseconds.
    pub figure_unit: Unit,
    #[serde(flatten)]
    pub change: Change,
}

/// What changed between two periods: by where, kind, kind of work, problem, item, supplier and crew, each adding up to the
/// difference.
#[utoipa::path(get, path = "/tally/changed", params(ChangedParams, AskedParams, HeldParams),
    responses((status = 200, body = ChangedBody)))]
pub async fn get(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<ChangedParams>,
    Params(asked): Params<AskedParams>,
    Params(held): Params<HeldParams>,
) -> Result<Json<ChangedBody>, ApiError> {
    state.look(who, Topic::Figures, move |view| taken_apart(view, &params, &asked, &held).map(Json)).await
}

fn taken_apart(
    view: &View,
    params: &ChangedParams,
    asked: &AskedParams,
    held: &HeldParams,
) -> Result<ChangedBody, ApiError> {
    let view = &asked.then(view)?;
    let unknown = || ApiError::bad("indicator", format!("there is no indicator {:?}", params.indicator));
    let indicator = Indicator::parse(&params.indicator).ok_or_else(unknown)?;
    let dimensions: Vec<Dimension> = match params.by.as_deref().filter(|by| !by.is_empty()) {
        None => Dimension::ALL.into(),
        Some(by) => super::held::words("by", Some(&by.replace(',', "|")))?,
    };
    let period = asked.period(view)?;
    let nothing = || ApiError::bad("against", "there is nothing to compare it with");
    let before = period.before.ok_or_else(nothing)?;
    let facts = view.facts()?;
    let held = held.held(facts)?;
    let scope = Scope { asset: asked.asset(view)?, under: Way::default(), depth: 1 };
    let questions = [period.span, before].map(|span| asked.question(view, span));
    let change = changed(facts, &scope, indicator, questions, held.as_ref(), &dimensions);
    let change = change.map_err(tally_store::StoreError::from)?;
    let definition = indicator.definition();
    Ok(ChangedBody {
        span: period.span,
        before_span: before,
        name: definition.name,
        figure_unit: definition.unit,
        change,
    })
}

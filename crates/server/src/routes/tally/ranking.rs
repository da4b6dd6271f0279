use super::{asked::AskedParams, figures, held::HeldParams};
use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Params, Who},
    },
};
use axum::{Json, extract::State};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use tally_core::{
    access::seen::Topic,
    ground::{ids::AssetId, time::Span},
    plant::assets::Level,
    tally::{
        figures_held,
        indicators::{Figure, Indicator},
        ranking,
    },
};
use tally_store::{View, plant::assets};
use utoipa::{IntoParams, ToSchema};

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct RankingParams {
    /// The id of the indicator by which assets are ranked.
    by: String,
    /// Ids of what is shown with it, with commas between.
    indicators: Option<String>,
    /// Of this level of the tree only.
    #[param(inline)]
    level: Option<Level>,
    /// Rows at the most: 100 without it, 500 in one answer.
    most: Option<usize>,
}

/// One asset in the order of a figure.
#[derive(Debug, Serialize, ToSchema)]
pub struct RankedRow {
    pub asset: String,
    pub name: String,
    pub level: Level,
    /// By indicator id.
    pub figures: BTreeMap<String, Figure>,
}

/// Assets in the order of a figure.
#[derive(Debug, Serialize, ToSchema)]
pub struct RankingBody {
    pub span: Span,
    pub rows: Vec<RankedRow>,
    /// Assets with a figure that is not nothing.
    pub count: usize,
    pub change: i64,
}

/// All assets of a scope by one figure, the greatest first, wherever in the tree they stand.
#[utoipa::path(get, path = "/tally/ranking", params(RankingParams, AskedParams, HeldParams),
    responses((status = 200, body = RankingBody)))]
pub async fn get(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<RankingParams>,
    Params(asked): Params<AskedParams>,
    Params(held): Params<HeldParams>,
) -> Result<Json<RankingBody>, ApiError> {
    state.look(who, Topic::Figures, move |view| ranked(view, &params, &asked, &held).map(Json)).await
}

fn ranked(
    view: &View,
    params: &RankingParams,
    asked: &AskedParams,
    held: &HeldParams,
) -> Result<RankingBody, ApiError> {
    let view = &asked.then(view)?;
    let facts = view.facts()?;
    let unknown = || ApiError::bad("by", format!("there is no indicator {:?}", params.by));
    let by = Indicator::parse(&params.by).ok_or_else(unknown)?;
    let indicators = match params.indicators.as_deref().filter(|list| !list.is_empty()) {
        None => vec![by],
        list => figures::asked_indicators(list)?,
    };
    let held = held.held(facts)?;
    let span = asked.period(view)?.span;
    let question = asked.question(view, span);
    let scope = asked.asset(view)?.and_then(|asset| facts.tree.index(asset));
    let mut found = ranking(facts, scope, by, question, held.as_deref());
    if let Some(level) = params.level {
        found.retain(|(asset, _)| facts.assets.get(*asset).is_some_and(|asset| asset.level == level));
    }
    view.go_on()?;
    let count = found.len();
    found.truncate(params.most.unwrap_or(100).clamp(1, 500));
    let ids: Vec<AssetId> = found.iter().map(|(asset, _)| facts.tree.node(*asset).id).collect();
    let named = assets::described(view, ids.iter().copied())?;
    let figures = figures_held(facts, &ids, &indicators, question, held.as_deref());
    let rows = ids.iter().zip(figures).filter_map(|(id, row)| {
        let node = named.get(id)?;
        let figures = figures::named(&indicators, row);
        Some(RankedRow { asset: node.code.clone(), name: node.name.clone(), level: node.level, figures })
    });
    Ok(RankingBody { span, rows: rows.collect(), count, change: facts.change })
}

use super::asked::AskedParams;
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
    tally::{Forecast, PlaceKind, Places, Scope, Way, forecast},
};
use tally_store::{View, plant::assets};
use utoipa::ToSchema;

/// What a fiscal year comes to at one asset.
#[derive(Debug, Serialize, ToSchema)]
pub struct ForecastRow {
    pub asset: String,
    pub name: String,
    /// The scope itself; what is right below it otherwise.
    pub is_scope: bool,
    #[serde(flatten)]
    pub forecast: Forecast,
}

/// What the fiscal year in which the period ends will have cost, against its budget: of the scope and what is right below it.
#[utoipa::path(get, path = "/tally/forecast", params(AskedParams), responses((status = 200, body = Vec<ForecastRow>)))]
pub async fn get(
    State(state): State<AppState>,
    who: Who,
    Params(asked): Params<AskedParams>,
) -> Result<Json<Vec<ForecastRow>>, ApiError> {
    state.look(who, Topic::Figures, move |view| rows(view, &asked).map(Json)).await
}

fn rows(view: &View, asked: &AskedParams) -> Result<Vec<ForecastRow>, ApiError> {
    let view = &asked.then(view)?;
    let facts = view.facts()?;
    let question = asked.question(view, asked.period(view)?.span);
    let scope = Scope { asset: asked.asset(view)?, under: Way::default(), depth: 1 };
    let unknown = || ApiError::bad("scope", "the asset is not in the tree");
    let places = Places::new(facts, scope, question).ok_or_else(unknown)?;
    let found = forecast(facts, &places, question);
    let rows = places.list().iter().zip(found).enumerate().filter(|(_, (row, _))| row.kind == PlaceKind::Asset);
    let rows: Vec<_> =
        rows.filter_map(|(place, (row, one))| Some((places.index(place)?, row.depth == 0, one))).collect();
    let ids = rows.iter().map(|(index, ..)| facts.tree.node(*index).id);
    let named = assets::described(view, ids)?;
    let told = rows.into_iter().filter_map(|(index, is_scope, forecast)| {
        let node = named.get(&facts.tree.node(index).id)?;
        Some(ForecastRow { asset: node.code.clone(), name: node.name.clone(), is_scope, forecast })
    });
    Ok(told.collect())
}

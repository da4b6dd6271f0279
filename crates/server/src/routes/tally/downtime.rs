use super::{asked::AskedParams, held::HeldParams};
use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Params, Who},
    },
};
use axum::{Json, extract::State};
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet};
use tally_core::{
    access::seen::Topic,
    ground::ids::AssetId,
    tally::{Timeline, timeline},
};
use tally_store::{View, plant::assets, tally::texts_of_downtime};
use utoipa::ToSchema;

/// What an asset is called.
#[derive(Debug, Serialize, ToSchema)]
pub struct CalledAsset {
    pub code: String,
    pub name: String,
}

/// Downtime of a scope on a line of time.
#[derive(Debug, Serialize, ToSchema)]
pub struct DowntimeBody {
    #[serde(flatten)]
    pub timeline: Timeline,
    /// By id.
    pub assets: BTreeMap<i64, CalledAsset>,
    /// What is said of its rows, by id: the note, or the title of the work; of those who see all work.
    pub texts: BTreeMap<i64, String>,
    pub change: i64,
}

/// Who stopped whom, and for how long.
#[utoipa::path(get, path = "/tally/downtime", params(AskedParams, HeldParams),
    responses((status = 200, body = DowntimeBody)))]
pub async fn get(
    State(state): State<AppState>,
    who: Who,
    Params(asked): Params<AskedParams>,
    Params(held): Params<HeldParams>,
) -> Result<Json<DowntimeBody>, ApiError> {
    state.look(who, Topic::Figures, move |view| line(view, &asked, &held).map(Json)).await
}

fn line(view: &View, asked: &AskedParams, held: &HeldParams) -> Result<DowntimeBody, ApiError> {
    let view = &asked.then(view)?;
    let facts = view.facts()?;
    let held = held.held(facts)?;
    let scope = asked.asset(view)?.ok_or_else(|| ApiError::bad("scope", "choose an asset: a line is of one"))?;
    let span = asked.period(view)?.span;
    let ahead = || ApiError::bad("period", "nothing of it has passed yet");
    let mut timeline = timeline(facts, scope, asked.question(view, span), held.as_deref()).ok_or_else(ahead)?;
    if !view.viewer.sees_all_work() {
        // Whose work it is is not for everybody.
        let stops = timeline.lanes.iter_mut().flat_map(|lane| &mut lane.stops);
        stops.for_each(|stop| stop.work = None);
        timeline.longest.iter_mut().for_each(|stop| stop.work = None);
    }
    let ids: BTreeSet<AssetId> = timeline
        .lanes
        .iter()
        .flat_map(|lane| lane.stops.iter().map(|stop| stop.of).chain([lane.asset]))
        .chain(timeline.by.iter().map(|one| one.asset))
        .chain(timeline.longest.iter().map(|stop| stop.of))
        .collect();
    let named = assets::described(view, ids)?.into_iter();
    let texts = match view.viewer.sees_all_work() {
        true => texts_of_downtime(view, timeline.longest.iter().map(|stop| stop.row.0))?,
        false => BTreeMap::new(),
    };
    Ok(DowntimeBody {
        assets: named.map(|(id, node)| (id.0, CalledAsset { code: node.code, name: node.name })).collect(),
        texts,
        timeline,
        change: facts.change,
    })
}

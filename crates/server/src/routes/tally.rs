use crate::{
    AppState,
    error::ApiError,
    extract::{Params, Who},
    look::{Asked, Look},
};
use axum::{Json, extract::State};
use jiff::ToSpan;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use tally_core::{
    assets::{Basis, Level},
    ids::AssetId,
    indicators::{CATALOGUE, Definition, Figure, Indicator},
    period::midnight,
    tally::{Question, figures, why},
    time::Span,
};
use tally_store::{
    assets::{self, AssetNode},
    tally::{WhyView, describe},
};
use utoipa::{IntoParams, ToSchema};

/// The catalogue of indicators.
#[utoipa::path(get, path = "/indicators", responses((status = 200, body = Vec<Definition>)))]
pub async fn indicators() -> Json<&'static [Definition]> {
    Json(CATALOGUE)
}

/// What the rows of a tally are.
#[derive(Debug, Clone, Copy, Default, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum By {
    /// The scope and what is below it.
    #[default]
    Children,
    /// The scope, month by month.
    Month,
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct TallyParams {
    /// Code of the asset; the roots without it.
    scope: Option<String>,
    from: Option<String>,
    to: Option<String>,
    period: Option<String>,
    #[serde(default)]
    #[param(inline)]
    basis: Basis,
    /// Ids with commas between; all without it.
    indicators: Option<String>,
    #[serde(default)]
    #[param(inline)]
    by: By,
    /// Levels below the scope; 1 without it.
    depth: Option<u32>,
    /// Adds the rows that make the scope's figures.
    #[serde(default)]
    why: bool,
    /// Rows of a why at the most.
    most: Option<usize>,
}

/// Figures of one asset, or of one month of the scope.
#[derive(Debug, Serialize, ToSchema)]
pub struct TallyRow {
    pub asset: String,
    pub name: String,
    pub level: Level,
    pub parent: Option<String>,
    pub has_children: bool,
    /// Levels below the scope.
    pub depth: usize,
    /// The month, such as `2026-03`, for rows by month.
    pub month: Option<String>,
    /// By indicator id.
    pub figures: BTreeMap<String, Figure>,
    /// The same in the period before.
    pub before: BTreeMap<String, Figure>,
}

/// A tally.
#[derive(Debug, Serialize, ToSchema)]
pub struct TallyBody {
    pub span: Span,
    pub before: Option<Span>,
    pub basis: Basis,
    pub rows: Vec<TallyRow>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub why: Vec<WhyView>,
    /// The change of the database that this is true for.
    pub change: i64,
}

/// Indicators for each asset of a scope, or for each month, in a period and the one before.
#[utoipa::path(get, path = "/tally", params(TallyParams), responses((status = 200, body = TallyBody)))]
pub async fn get(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<TallyParams>,
) -> Result<Json<TallyBody>, ApiError> {
    state.look(who, move |look| tally(look, &params).map(Json)).await
}

fn asked_indicators(list: Option<&str>) -> Result<Vec<Indicator>, ApiError> {
    let Some(list) = list.filter(|list| !list.is_empty()) else {
        return Ok(CATALOGUE.iter().map(|definition| definition.id).collect());
    };
    let unknown = |id: &str| ApiError::bad("indicators", format!("there is no indicator {id:?}"));
    list.split(',').map(|id| Indicator::parse(id.trim()).ok_or_else(|| unknown(id))).collect()
}

fn tally(look: &Look, params: &TallyParams) -> Result<TallyBody, ApiError> {
    let asked = look.period(params.period.as_deref(), params.from.as_deref(), params.to.as_deref())?;
    let indicators = asked_indicators(params.indicators.as_deref())?;
    let scope = params.scope.as_deref().filter(|code| !code.is_empty());
    let depth = match params.by {
        By::Children => params.depth.unwrap_or(1),
        By::Month => 0,
    };
    let nodes = assets::nodes(look.conn, look.snapshot, scope, depth, look.now)?;
    let ids: Vec<AssetId> = nodes.iter().map(|node| node.id).collect();
    let question = |period| Question { period, now: look.now, basis: params.basis };
    let rows = match params.by {
        By::Children => by_children(look, nodes, &ids, &indicators, asked, question),
        By::Month => by_month(look, &nodes, &ids, &indicators, asked, question),
    };
    let mut whys = Vec::new();
    if params.why
        && let Some(id) = ids.first()
    {
        for indicator in &indicators {
            if let Some(found) = why(look.snapshot, *id, *indicator, question(asked.span)) {
                let most = params.most.unwrap_or(200).clamp(1, 5_000);
                whys.push(describe(look.conn, found, *id, asked.span, look.snapshot.change, most)?);
            }
        }
    }
    let (span, before) = (asked.span, asked.before);
    Ok(TallyBody { span, before, basis: params.basis, rows, why: whys, change: look.snapshot.change })
}

fn named(indicators: &[Indicator], figures: Vec<Figure>) -> BTreeMap<String, Figure> {
    let id = |indicator: &Indicator| match serde_json::to_value(indicator) {
        Ok(serde_json::Value::String(id)) => id,
        other => unreachable!("an indicator is written as its id, not {other:?}"),
    };
    indicators.iter().map(id).zip(figures).collect()
}

fn row(node: &AssetNode, depth: usize) -> TallyRow {
    TallyRow {
        asset: node.code.clone(),
        name: node.name.clone(),
        level: node.level,
        parent: node.parent.clone(),
        has_children: node.has_children,
        depth,
        month: None,
        figures: BTreeMap::new(),
        before: BTreeMap::new(),
    }
}

fn by_children(
    look: &Look,
    nodes: Vec<AssetNode>,
    ids: &[AssetId],
    indicators: &[Indicator],
    asked: Asked,
    question: impl Fn(Span) -> Question,
) -> Vec<TallyRow> {
    let now = figures(look.snapshot, ids, indicators, question(asked.span));
    let before = match asked.before {
        Some(span) => figures(look.snapshot, ids, indicators, question(span)),
        None => vec![Vec::new(); ids.len()],
    };
    let mut depths: BTreeMap<String, usize> = BTreeMap::new();
    nodes
        .iter()
        .zip(now.into_iter().zip(before))
        .map(|(node, (now, before))| {
            let depth = node.parent.as_ref().and_then(|parent| depths.get(parent)).map_or(0, |depth| depth + 1);
            depths.insert(node.code.clone(), depth);
            TallyRow { figures: named(indicators, now), before: named(indicators, before), ..row(node, depth) }
        })
        .collect()
}

/// Months shown at the most: twenty years.
const MOST_MONTHS: usize = 240;

fn by_month(
    look: &Look,
    nodes: &[AssetNode],
    ids: &[AssetId],
    indicators: &[Indicator],
    asked: Asked,
    question: impl Fn(Span) -> Question,
) -> Vec<TallyRow> {
    let zone = &look.snapshot.zone;
    let mut rows = Vec::new();
    let (Some(node), Some(id)) = (nodes.first(), ids.first()) else { return rows };
    let mut month = asked.span.start().in_zone(zone).date().first_of_month();
    while rows.len() < MOST_MONTHS {
        let next = month.saturating_add(1.month());
        let (start, end) = (midnight(month, zone), midnight(next, zone));
        if start >= asked.span.end() {
            break;
        }
        if let Some(part) = Span::new(start, end).ok().and_then(|whole| whole.clip(asked.span)) {
            let mut found = figures(look.snapshot, &[*id], indicators, question(part));
            rows.push(TallyRow {
                month: Some(format!("{:04}-{:02}", month.year(), month.month())),
                figures: named(indicators, found.pop().unwrap_or_default()),
                ..row(node, 0)
            });
        }
        month = next;
    }
    rows
}

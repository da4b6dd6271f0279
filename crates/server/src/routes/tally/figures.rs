use super::{asked::AskedParams, held::HeldParams};
use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Params, Who},
        look::AskedPeriod,
    },
};
use axum::{Json, extract::State};
use jiff::ToSpan;
use serde::{Deserialize, Serialize};
use std::{
    collections::{BTreeMap, HashMap},
    sync::Arc,
};
use tally_core::{
    access::seen::Topic,
    facts::Snapshot,
    ground::{
        ids::AssetId,
        period::midnight,
        time::{Instant, Span},
        words::word,
    },
    lists::{Asked, Counted, FigureAsked, SubjectId},
    plant::assets::{Basis, Level},
    tally::{
        Held, PlaceKind, Places, Question, Scope, Way, figures_of_each,
        indicators::{CATALOGUE, Definition, Figure, Indicator, Moved, heat, moved},
        why_of,
    },
};
use tally_store::{
    View,
    plant::assets,
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

#[derive(Debug, Default, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct TallyParams {
    /// Codes of the rows it stands in, from the outermost, with `/` between: only what was while it stood there. Each stands
    /// right below the one before; with a `/` in front, the outermost only counts while it was a root.
    under: Option<String>,
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
    /// Of the scope's own, or of what was formerly below it, instead of all of it.
    #[param(inline)]
    part: Option<PlaceKind>,
    /// Rows of a why at the most.
    most: Option<usize>,
    /// Adds to each row the last twelve months of that indicator, by its id.
    months: Option<String>,
}

/// All that is asked of a tally.
struct AskedTally<'a> {
    params: &'a TallyParams,
    asked: &'a AskedParams,
    held: Option<Arc<Held>>,
}

/// Figures of one asset, or of one month of the scope.
#[derive(Debug, Serialize, ToSchema)]
pub struct TallyRow {
    pub kind: PlaceKind,
    /// Code of the asset; of the parent row's for its own and for what was formerly here, empty for the whole's.
    pub asset: String,
    pub name: String,
    pub level: Option<Level>,
    /// Code of the parent row's asset.
    pub parent: Option<String>,
    pub has_children: bool,
    /// Levels below the scope.
    pub depth: u32,
    /// When it came within the period, or left, where it did not stand there throughout.
    pub came_at: Option<Instant>,
    pub left_at: Option<Instant>,
    pub retired_at: Option<Instant>,
    /// When it is to go into service, where it is not yet.
    pub in_service_from: Option<Instant>,
    /// The month, such as `2026-03`, for rows by month.
    pub month: Option<String>,
    /// By indicator id.
    pub figures: BTreeMap<String, Figure>,
    /// The same in the period before.
    pub before: BTreeMap<String, Figure>,
    /// How far each moved against it, where it did.
    pub moved: BTreeMap<String, Moved>,
    /// How much each stands out among the rows of its parent, 0 to 1; only what does.
    pub heat: BTreeMap<String, f64>,
    /// The values of one indicator in the twelve months up to the period's end, the earliest first, where they were asked for.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub months: Vec<Option<f64>>,
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
#[utoipa::path(get, path = "/tally", params(TallyParams, AskedParams, HeldParams),
    responses((status = 200, body = TallyBody)))]
pub async fn get(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<TallyParams>,
    Params(asked): Params<AskedParams>,
    Params(held): Params<HeldParams>,
) -> Result<Json<TallyBody>, ApiError> {
    let look = move |view: &View| {
        let view = &asked.then(view)?;
        let held = held.held(view.facts()?)?;
        tally(view, &AskedTally { params: &params, asked: &asked, held }).map(Json)
    };
    state.look(who, Topic::Figures, look).await
}

/// Indicators by their ids with commas between; all of them without any.
pub fn asked_indicators(list: Option<&str>) -> Result<Vec<Indicator>, ApiError> {
    let Some(list) = list.filter(|list| !list.is_empty()) else {
        return Ok(CATALOGUE.iter().map(|definition| definition.id).collect());
    };
    let unknown = |id: &str| ApiError::bad("indicators", format!("there is no indicator {id:?}"));
    list.split(',').map(|id| Indicator::parse(id.trim()).ok_or_else(|| unknown(id))).collect()
}

/// The rows that a scope stands in.
fn way(view: &View, params: &TallyParams, has_scope: bool) -> Result<Way, ApiError> {
    let under = params.under.as_deref().unwrap_or_default();
    if !under.is_empty() && !has_scope {
        return Err(ApiError::bad("under", "says where the scope stands, and there is no scope"));
    }
    let codes = under.split('/').filter(|code| !code.is_empty());
    let through = codes.map(|code| assets::require_reached(view, code)).collect::<Result<_, _>>()?;
    Ok(Way { through, from_root: under.starts_with('/') })
}

/// The rows of a subject that a figure is made of.
pub fn counted(view: &View, subject: SubjectId, asked: &Asked) -> Result<Option<Counted>, ApiError> {
    let Some(figure) = &asked.figure else { return Ok(None) };
    view.viewer.require_topic(Topic::Figures)?;
    let view = &view.then(asked.as_of, asked.known_at)?;
    let FigureAsked { indicator, scope, under, part, period, from, to, basis, held } = figure.clone();
    let params = TallyParams { under, part, ..TallyParams::default() };
    let asked = AskedParams { scope, period, from, to, basis, ..AskedParams::default() };
    let held = held.held(view.facts()?).map_err(tally_store::StoreError::from)?.map(Arc::new);
    let span = asked.period(view)?.span;
    let places = places(view, &AskedTally { params: &params, asked: &asked, held }, span)?;
    let place = places.of_scope(part.unwrap_or(PlaceKind::Asset));
    let question = asked.question(view, span);
    let why = place.and_then(|place| why_of(view.facts().ok()?, &places, place, indicator, question));
    Ok(Some(Counted::of(subject, why.map(|why| why.parts).unwrap_or_default())))
}

/// The rows of a tally of a period.
fn places(view: &View, AskedTally { params, asked, held }: &AskedTally, period: Span) -> Result<Places, ApiError> {
    let asset = asked.asset(view)?;
    let depth = match params.by {
        By::Children => params.depth.unwrap_or(1),
        By::Month => 0,
    };
    // What has its own figures apart has rows below it.
    let depth = if params.part.is_some() { depth.max(1) } else { depth };
    let scope = Scope { asset, under: way(view, params, asset.is_some())?, depth };
    let places = Places::new(view.facts()?, scope, asked.question(view, period));
    let unknown = || ApiError::bad("scope", "the asset is not in the tree");
    Ok(places.ok_or_else(unknown)?.held_to(held.clone()))
}

fn tally(view: &View, all: &AskedTally) -> Result<TallyBody, ApiError> {
    let AskedTally { params, asked, .. } = all;
    let period = asked.period(view)?;
    let indicators = asked_indicators(params.indicators.as_deref())?;
    let question = |period| asked.question(view, period);
    let facts = view.facts()?;
    let places = places(view, all, period.span)?;
    let rows = match params.by {
        By::Children => by_children(view, &places, &indicators, period, params.months.as_deref(), question)?,
        By::Month => by_month(view, &places, &indicators, period, question)?,
    };
    let mut whys = Vec::new();
    if params.why {
        let kind = params.part.unwrap_or(PlaceKind::Asset);
        if let Some((place, id)) = places.of_scope(kind).and_then(|place| Some((place, id_of(facts, &places, place)?)))
        {
            // Whose work the rows are is not for everybody; what they come to is.
            let most = if view.viewer.sees_all_work() { params.most.unwrap_or(200).clamp(1, 5_000) } else { 0 };
            for indicator in &indicators {
                if let Some(found) = why_of(facts, &places, place, *indicator, question(period.span)) {
                    whys.push(describe(view, found, id, period.span, facts.change, most)?);
                }
            }
        }
    }
    let AskedPeriod { span, before, .. } = period;
    Ok(TallyBody { span, before, basis: asked.basis, rows, why: whys, change: facts.change })
}

/// The asset of a row; for its own and what was formerly here that of its parent.
fn id_of(facts: &Snapshot, places: &Places, place: usize) -> Option<AssetId> {
    let row = places.list().get(place)?;
    let index = match row.kind {
        PlaceKind::Asset => places.index(place),
        PlaceKind::Own | PlaceKind::FormerlyHere => places.index(row.parent?),
    };
    Some(facts.tree.node(index?).id)
}

/// Figures by the ids of their indicators.
pub fn named(indicators: &[Indicator], figures: Vec<Figure>) -> BTreeMap<String, Figure> {
    indicators.iter().map(word).zip(figures).collect()
}

/// The rows without their figures.
fn named_rows(view: &View, places: &Places, q: Question) -> Result<Vec<TallyRow>, ApiError> {
    let facts = view.facts()?;
    let ids: Vec<Option<AssetId>> = (0..places.list().len()).map(|place| id_of(facts, places, place)).collect();
    let named = assets::described(view, ids.iter().flatten().copied())?;
    let code = |place: Option<usize>| named.get(&ids[place?]?).map(|node| node.code.clone());
    let stood = places.stood(facts, q);
    let passed = q.period.end().min(view.now);
    let starts = |place| places.index(place).map(|index| facts.tree.node(index).life.start());
    let rows = places.list().iter().enumerate().map(|(place, row)| {
        let node = ids[place].and_then(|id| named.get(&id));
        let (first, last) = (stood[place].first(), stood[place].last());
        TallyRow {
            kind: row.kind,
            asset: node.map_or_else(String::new, |node| node.code.clone()),
            name: node.map_or_else(String::new, |node| node.name.clone()),
            level: node.map(|node| node.level),
            parent: code(row.parent),
            has_children: places.has_children(facts, place, q),
            depth: row.depth,
            came_at: first.map(|span| span.start()).filter(|start| *start > q.period.start()),
            left_at: last.map(|span| span.end()).filter(|end| *end < passed),
            retired_at: node.filter(|_| row.kind == PlaceKind::Asset).and_then(|node| node.retired_at),
            in_service_from: starts(place).filter(|start| *start > view.now),
            month: None,
            figures: BTreeMap::new(),
            before: BTreeMap::new(),
            moved: BTreeMap::new(),
            heat: BTreeMap::new(),
            months: Vec::new(),
        }
    });
    Ok(rows.collect())
}

fn by_children(
    view: &View,
    places: &Places,
    indicators: &[Indicator],
    asked: AskedPeriod,
    months: Option<&str>,
    question: impl Fn(Span) -> Question,
) -> Result<Vec<TallyRow>, ApiError> {
    let mut months = last_months(view, places, asked.span, months, &question)?;
    let questions: Vec<Question> = std::iter::once(asked.span).chain(asked.before).map(&question).collect();
    let mut found = figures_of_each(view.facts()?, places, indicators, &questions).into_iter();
    let now = found.next().unwrap_or_default();
    let before = found.next().unwrap_or_else(|| vec![Vec::new(); places.list().len()]);
    let rows = named_rows(view, places, question(asked.span))?;
    let says_something =
        |figures: &[Figure]| figures.iter().any(|figure| figure.value.is_some_and(|value| value != 0.0));
    let rows = rows.into_iter().enumerate().map(|(place, row)| {
        let months = months.get_mut(place).map(std::mem::take).unwrap_or_default();
        TallyRow { months, ..row }
    });
    let with_figures = rows.zip(now.into_iter().zip(before));
    // What is no asset has a row where it comes to something.
    let shown = with_figures
        .filter(|(row, (now, before))| row.kind == PlaceKind::Asset || says_something(now) || says_something(before));
    let rows = shown.map(|(row, (now, before))| TallyRow {
        moved: moves(indicators, &now, &before),
        figures: named(indicators, now),
        before: named(indicators, before),
        ..row
    });
    let mut rows: Vec<TallyRow> = rows.collect();
    stand_out(&mut rows, indicators);
    Ok(rows)
}

/// The values of an indicator in the twelve months up to the end of a period, row by row.
fn last_months(
    view: &View,
    places: &Places,
    span: Span,
    of: Option<&str>,
    question: &impl Fn(Span) -> Question,
) -> Result<Vec<Vec<Option<f64>>>, ApiError> {
    let Some(of) = of.filter(|of| !of.is_empty()) else { return Ok(Vec::new()) };
    let unknown = || ApiError::bad("months", format!("there is no indicator {of:?}"));
    let indicator = Indicator::parse(of).ok_or_else(unknown)?;
    let zone = &view.facts()?.zone;
    let last = span.end().min(view.now).plus(-1).in_zone(zone).date().first_of_month();
    let begin = |back: i64| midnight(last.saturating_sub(back.months()), zone);
    let months = (0..12i64).rev().filter_map(|back| Span::new(begin(back), begin(back - 1)).ok());
    let questions: Vec<Question> = months.map(question).collect();
    let found = figures_of_each(view.facts()?, places, &[indicator], &questions);
    let of_row = |row: usize| found.iter().map(|month| month[row][0].value).collect();
    Ok((0..places.list().len()).map(of_row).collect())
}

fn moves(indicators: &[Indicator], now: &[Figure], before: &[Figure]) -> BTreeMap<String, Moved> {
    let pairs = indicators.iter().zip(now.iter().zip(before));
    pairs.filter_map(|(one, (now, before))| Some((word(one), moved(one.definition(), now, before)?))).collect()
}

/// Says of each row how much it stands out among those of its parent.
fn stand_out(rows: &mut [TallyRow], indicators: &[Indicator]) {
    let mut siblings: HashMap<(u32, Option<String>), Vec<usize>> = HashMap::new();
    for (place, row) in rows.iter().enumerate() {
        siblings.entry((row.depth, row.parent.clone())).or_default().push(place);
    }
    for places in siblings.values() {
        for one in indicators {
            let key = word(one);
            let values: Vec<Option<f64>> = places.iter().map(|place| rows[*place].figures[&key].value).collect();
            for (place, heat) in places.iter().zip(heat(one.definition(), &values)).filter(|(_, heat)| *heat > 0.0) {
                rows[*place].heat.insert(key.clone(), heat);
            }
        }
    }
}

/// Months shown at the most: twenty years.
const MOST_MONTHS: usize = 240;

fn by_month(
    view: &View,
    places: &Places,
    indicators: &[Indicator],
    asked: AskedPeriod,
    question: impl Fn(Span) -> Question,
) -> Result<Vec<TallyRow>, ApiError> {
    let zone = &view.facts()?.zone;
    let mut parts = Vec::new();
    let mut month = asked.span.start().in_zone(zone).date().first_of_month();
    while parts.len() < MOST_MONTHS {
        let next = month.saturating_add(1.month());
        let (start, end) = (midnight(month, zone), midnight(next, zone));
        if start >= asked.span.end() {
            break;
        }
        parts.extend(Span::new(start, end).ok().and_then(|whole| Some((month, question(whole.clip(asked.span)?)))));
        month = next;
    }
    let mut rows = Vec::new();
    // As many at once as it takes to look up now and then whether it is still wanted.
    for parts in parts.chunks(12) {
        view.go_on()?;
        let questions: Vec<Question> = parts.iter().map(|(_, question)| *question).collect();
        let found = figures_of_each(view.facts()?, places, indicators, &questions);
        for ((month, question), figures) in parts.iter().zip(found) {
            let figures = figures.into_iter().next().unwrap_or_default();
            if let Some(scope) = named_rows(view, places, *question)?.into_iter().next() {
                let month = Some(format!("{:04}-{:02}", month.year(), month.month()));
                rows.push(TallyRow { month, figures: named(indicators, figures), ..scope });
            }
        }
    }
    Ok(rows)
}

//! Downtime on a line of time: what stood when, below a scope, which row each moment counts for, and what that put down.

use super::{Held, Question, required::RequiredTime, times::risen};
use crate::{
    facts::{DowntimeFact, Snapshot, packed::Packed},
    ground::{
        ids::{AssetId, DowntimeId, WorkOrderId},
        time::{Instant, Span},
    },
    plant::{
        assets::Shape,
        downtime::{DowntimeKind, Piece, counted, within},
    },
};
use serde::Serialize;
use std::collections::{HashMap, HashSet};

/// A stretch in which an asset stood, counted for one row.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Stop {
    pub span: Span,
    pub kind: DowntimeKind,
    pub row: DowntimeId,
    /// What was down: the asset itself, or what put it down.
    pub of: AssetId,
    pub work: Option<WorkOrderId>,
}

/// One asset's line.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Lane {
    pub asset: AssetId,
    /// Place of the nearest lane above; none of the first.
    pub above: Option<usize>,
    pub depth: u32,
    /// Counted milliseconds unplanned, planned and external: the union, in required time.
    pub ms: [i64; 3],
    pub stops: Vec<Stop>,
}

/// What a row comes to at the scope.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LongStop {
    pub row: DowntimeId,
    pub of: AssetId,
    pub kind: DowntimeKind,
    pub work: Option<WorkOrderId>,
    pub start: Instant,
    /// Still down.
    pub is_open: bool,
    /// Counted milliseconds.
    pub ms: i64,
}

/// What an asset, by its own downtime, put the scope down for.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StoppedBy {
    pub asset: AssetId,
    /// Counted milliseconds unplanned, planned and external.
    pub ms: [i64; 3],
    pub stops: u64,
}

/// Downtime of a scope in the passed part of a period.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Timeline {
    pub window: Span,
    /// When the scope was required to run, where that is not too many stretches to draw.
    pub required: Vec<Span>,
    pub required_ms: i64,
    /// The scope, then what stood below it, parents before children.
    pub lanes: Vec<Lane>,
    /// Assets that stood as well, for less.
    pub more: usize,
    /// Who put the scope down, the most first.
    pub by: Vec<StoppedBy>,
    /// The longest rows at the scope.
    pub longest: Vec<LongStop>,
}

/// Lanes, and rows of the longest, told at the most.
const MOST_LANES: usize = 60;
const MOST_LONGEST: usize = 12;
/// Stretches of required time that are told.
const MOST_REQUIRED: usize = 800;

/// The time line of a scope. `None` for an unknown asset, and where nothing of the period has passed.
#[must_use]
pub fn timeline(facts: &Snapshot, scope: AssetId, q: Question, held: Option<&Held>) -> Option<Timeline> {
    let scope = facts.tree.index(scope)? as u32;
    let window = q.passed()?;
    let shape = facts.tree.shape_at(q.tree_at(q.as_of()));
    let below = shape.below(scope);
    let counts = |fact: &DowntimeFact| held.is_none_or(|held| held.holds(fact.asset, fact.work.pack()));
    let risen = risen(facts, (q, window), (Some(&below), DowntimeKind::External), counts);
    let below: HashSet<u32> = below.into_iter().collect();
    let mut pieces: HashMap<u32, Vec<Piece>> = HashMap::from([(scope, Vec::new())]);
    risen.each(|asset, piece| {
        if below.contains(&asset) {
            pieces.entry(asset).or_default().push(*piece);
        }
    });
    let mut required = RequiredTime::new(&facts.tree, &facts.assignments, &facts.calendars, window, q.basis, q.now);
    let mut stood: Vec<(u32, Vec<Piece>)> = pieces
        .into_iter()
        .map(|(asset, pieces)| {
            let class = required.class(asset);
            (asset, within(&counted(&pieces), required.of(class).spans()))
        })
        .filter(|(asset, pieces)| *asset == scope || !pieces.is_empty())
        .collect();
    let all_ms = |pieces: &[Piece]| pieces.iter().map(|piece| piece.span.ms()).sum::<i64>();
    stood.sort_by_key(|(asset, pieces)| (*asset != scope, -all_ms(pieces), *asset));
    let more = stood.len().saturating_sub(MOST_LANES);
    stood.truncate(MOST_LANES);
    let of_scope: Vec<Piece> = stood.first().map(|(_, pieces)| pieces.clone()).unwrap_or_default();
    let mut stood: HashMap<u32, Vec<Piece>> = stood.into_iter().collect();
    let mut lanes = Vec::new();
    add_lanes(facts, &shape, scope, None, 0, &mut stood, &mut lanes);
    let class = required.class(scope);
    let spans = required.of(class).spans();
    Some(Timeline {
        window,
        required: if spans.len() <= MOST_REQUIRED { spans.to_vec() } else { Vec::new() },
        required_ms: required.of(class).total_ms(),
        lanes,
        more,
        by: stopped_by(facts, &of_scope),
        longest: longest(facts, q, &of_scope),
    })
}

/// The lanes of an asset and of what stood below it, in the order of names.
fn add_lanes(
    facts: &Snapshot,
    shape: &Shape,
    asset: u32,
    above: Option<usize>,
    depth: u32,
    stood: &mut HashMap<u32, Vec<Piece>>,
    lanes: &mut Vec<Lane>,
) {
    let (mut above, mut depth) = (above, depth);
    if let Some(pieces) = stood.remove(&asset) {
        lanes.push(Lane {
            asset: facts.tree.node(asset as usize).id,
            above,
            depth,
            ms: by_kind(&pieces),
            stops: pieces.iter().filter_map(|piece| stop(facts, piece)).collect(),
        });
        (above, depth) = (Some(lanes.len() - 1), depth + 1);
    }
    if stood.is_empty() {
        return;
    }
    let leads_to_some = |child: &u32| stood.keys().any(|one| shape.line(*one).any(|above| above == *child));
    let mut children: Vec<u32> = shape.children(asset).iter().copied().filter(leads_to_some).collect();
    children.sort_by_key(|child| facts.tree.rank(*child as usize));
    for child in children {
        add_lanes(facts, shape, child, above, depth, stood, lanes);
    }
}

fn by_kind(pieces: &[Piece]) -> [i64; 3] {
    let mut ms = [0; 3];
    pieces.iter().for_each(|piece| ms[piece.kind as usize] += piece.span.ms());
    ms
}

fn stop(facts: &Snapshot, piece: &Piece) -> Option<Stop> {
    let fact = facts.downtimes.get((piece.row_start, DowntimeId(piece.row)))?;
    let of = facts.tree.node(fact.asset as usize).id;
    Some(Stop { span: piece.span, kind: piece.kind, row: fact.id, of, work: fact.work })
}

fn stopped_by(facts: &Snapshot, pieces: &[Piece]) -> Vec<StoppedBy> {
    let mut by: HashMap<AssetId, (StoppedBy, HashSet<i64>)> = HashMap::new();
    for piece in pieces {
        let Some(stop) = stop(facts, piece) else { continue };
        let new = || (StoppedBy { asset: stop.of, ms: [0; 3], stops: 0 }, HashSet::new());
        let (kept, rows) = by.entry(stop.of).or_insert_with(new);
        kept.ms[piece.kind as usize] += piece.span.ms();
        rows.insert(piece.row);
        kept.stops = rows.len() as u64;
    }
    let mut by: Vec<StoppedBy> = by.into_values().map(|(kept, _)| kept).collect();
    by.sort_by_key(|one| (-one.ms.iter().sum::<i64>(), one.asset));
    by
}

fn longest(facts: &Snapshot, q: Question, pieces: &[Piece]) -> Vec<LongStop> {
    let mut ms: HashMap<(Instant, i64), i64> = HashMap::new();
    pieces.iter().for_each(|piece| *ms.entry((piece.row_start, piece.row)).or_default() += piece.span.ms());
    let told = ms.into_iter().filter_map(|((start, row), ms)| {
        let fact = facts.downtimes.get((start, DowntimeId(row)))?;
        let of = facts.tree.node(fact.asset as usize).id;
        Some(LongStop { row: fact.id, of, kind: fact.kind, work: fact.work, start, is_open: fact.end > q.now, ms })
    });
    let mut told: Vec<LongStop> = told.collect();
    told.sort_by_key(|stop| (-stop.ms, stop.start, stop.row));
    told.truncate(MOST_LONGEST);
    told
}

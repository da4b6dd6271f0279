//! What downtime costs, and what is lost where something ran slower.

use super::{Contribution, Measure};
use crate::{
    facts::{Downtimes, STOP, Snapshot, columns::Part},
    ground::{
        ids::DowntimeId,
        spans::union,
        time::{HOUR, Instant, Span},
    },
    plant::downtime::{DowntimeKind, Piece, Risen, counted, within},
    tally::{
        Question,
        dimension::Dimension,
        indicators::{RowKind, TraceRow},
        required::RequiredTime,
        times::{lasted, risen},
    },
};
use std::collections::HashMap;

fn required<'a>(facts: &'a Snapshot, q: Question, window: Span) -> RequiredTime<'a> {
    RequiredTime::new(&facts.tree, &facts.assignments, &facts.calendars, window, q.basis, q.now)
}

/// A row of downtime as a why shows it.
fn downtime_row(facts: &Snapshot, q: Question, part: &Downtimes, place: usize, amount: i64) -> TraceRow {
    let fact = part.row(place);
    let lasted = facts.lasted(&fact, q.now).map(|span| span.ms());
    TraceRow {
        kind: RowKind::Downtime,
        id: fact.id.0,
        asset: facts.tree.node(fact.asset as usize).id,
        work_order: fact.work,
        at: fact.start,
        amount,
        whole: lasted,
        settled: None,
    }
}

fn says(part: &Downtimes, place: usize, dimension: Dimension) -> Option<i64> {
    match dimension {
        Dimension::Kind => Some(i64::from(part.kind[place])),
        _ => None,
    }
}

/// By row of downtime the assets with a cost that its pieces reach, each with how deep it stands.
type Reached = HashMap<(Instant, i64), Vec<(usize, u32, Piece)>>;

/// Where a row's piece is counted: the highest asset with a cost that it puts down.
struct AtTop {
    asset: u32,
    piece: Piece,
}

/// What unplanned downtime costs: each counted interval by what an hour costs of the highest asset that it puts down (and for
/// which a cost is set), on the asset of the row that counts. Own rule (common practice).
///
/// Exact: minor units in one sum, and what is left in minor units times milliseconds of an hour in another.
pub(in crate::tally) struct DownCost;

impl DownCost {
    pub(in crate::tally) const WHOLE: usize = 0;
    pub(in crate::tally) const REST: usize = 1;

    /// The pieces of each row, each at the highest asset with a cost.
    fn tops(facts: &Snapshot, q: Question, risen: &Risen) -> Vec<AtTop> {
        let mut by_row = Reached::new();
        risen.each(|asset, piece| {
            if facts.worth.down_hour.contains_key(&asset) {
                let depth = facts.tree.line_at(asset as usize, q.tree_at(piece.span.start())).count();
                by_row.entry((piece.row_start, piece.row)).or_default().push((depth, asset, *piece));
            }
        });
        let mut tops = Vec::new();
        for mut reached in by_row.into_values() {
            reached.sort_unstable_by_key(|(depth, asset, piece)| (*depth, *asset, piece.span.start()));
            let mut taken: Vec<Span> = Vec::new();
            for (_, asset, piece) in reached {
                let Some(dated) = facts.worth.down_hour.get(&asset) else { continue };
                let priced = dated.pieces(piece.span).filter(|(_, cost)| cost.is_some()).map(|(span, _)| span);
                let free: Vec<Span> = priced.flat_map(|span| without(span, &taken)).collect();
                tops.extend(free.iter().map(|span| AtTop { asset, piece: Piece { span: *span, ..piece } }));
                taken = union([taken, free].concat());
            }
        }
        tops
    }
}

/// What of a span lies outside of disjoint ascending spans.
fn without(span: Span, taken: &[Span]) -> Vec<Span> {
    let mut free = Vec::new();
    let mut from = span.start();
    for one in taken.iter().filter(|one| one.clip(span).is_some()) {
        free.extend(Span::new(from, one.start().min(span.end())).ok());
        from = from.max(one.end());
    }
    free.extend(Span::new(from, span.end()).ok());
    free
}

impl Measure for DownCost {
    type Rows = Downtimes;
    const CELLS: usize = 2;

    fn window(&self, _: &Snapshot, q: Question) -> Span {
        q.passed().unwrap_or(q.period)
    }

    fn each(
        &self,
        facts: &Snapshot,
        q: Question,
        _counts: impl Fn(u32) -> bool,
        mut found: impl FnMut(&Downtimes, usize, Contribution),
    ) {
        let Some(window) = q.passed().filter(|_| !facts.worth.down_hour.is_empty()) else { return };
        let risen = risen(facts, (q, window), (None, DowntimeKind::Unplanned), |_| true);
        let mut required = required(facts, q, window);
        // What was moved counts piece by piece for where it stood.
        let moves = facts.tree.moves_in(window);
        let mut at_asset: HashMap<u32, Vec<Piece>> = HashMap::new();
        Self::tops(facts, q, &risen).into_iter().for_each(|top| at_asset.entry(top.asset).or_default().push(top.piece));
        let mut at_asset: Vec<(u32, Vec<Piece>)> = at_asset.into_iter().collect();
        at_asset.sort_unstable_by_key(|(asset, _)| *asset);
        for (asset, mut pieces) in at_asset {
            pieces.sort_unstable_by_key(|piece| (piece.span.start(), piece.row_start, piece.row));
            let class = required.class(asset);
            let Some(dated) = facts.worth.down_hour.get(&asset) else { continue };
            for piece in within(&counted(&pieces), required.of(class).spans()) {
                let Some((part, place)) = facts.downtimes.find((piece.row_start, DowntimeId(piece.row))) else {
                    continue;
                };
                for (span, cost) in dated.pieces(piece.span) {
                    for span in cut(span, &moves) {
                        let exact = i128::from(span.ms()) * i128::from(cost.unwrap_or(0));
                        let (whole, rest) = (exact / i128::from(HOUR), exact % i128::from(HOUR));
                        let (asset, work, at) = (part.asset[place], part.work[place], span.start());
                        let mut adds =
                            |cell, amount| found(part, place, Contribution { asset, at, cell, amount, work });
                        adds(Self::WHOLE, whole as i64);
                        adds(Self::REST, rest as i64);
                    }
                }
            }
        }
    }

    fn row(&self, facts: &Snapshot, q: Question, part: &Downtimes, place: usize, one: Contribution) -> TraceRow {
        TraceRow { whole: None, ..downtime_row(facts, q, part, place, one.amount) }
    }

    fn says(&self, part: &Downtimes, place: usize, dimension: Dimension) -> Option<i64> {
        says(part, place, dimension)
    }
}

/// A span cut at ascending instants.
fn cut(span: Span, at: &[Instant]) -> Vec<Span> {
    let inside = at.iter().copied().filter(|at| span.start() < *at && *at < span.end());
    let mut edges: Vec<Instant> = std::iter::once(span.start()).chain(inside).chain([span.end()]).collect();
    edges.dedup();
    edges.windows(2).filter_map(|pair| Span::new(pair[0], pair[1]).ok()).collect()
}

/// What was lost where something ran slower: in required time in which the asset itself did not stand, the hours by the share that
/// it could not do. Where two such rows overlap the earlier counts.
pub(in crate::tally) struct Slowed;

impl Measure for Slowed {
    type Rows = Downtimes;
    const CELLS: usize = 1;

    fn window(&self, _: &Snapshot, q: Question) -> Span {
        q.passed().unwrap_or(q.period)
    }

    fn each(
        &self,
        facts: &Snapshot,
        q: Question,
        counts: impl Fn(u32) -> bool,
        mut found: impl FnMut(&Downtimes, usize, Contribution),
    ) {
        let Some(window) = q.passed() else { return };
        let mut slowed: HashMap<u32, Vec<Piece>> = HashMap::new();
        for fact in lasted(facts, window, &counts).filter(|fact| !fact.is_stop()) {
            if let Some(span) = facts.lasted(&fact, window.end()).and_then(|span| span.clip(window)) {
                let piece = Piece { span, kind: fact.kind, row_start: fact.start, row: fact.id.0 };
                slowed.entry(fact.asset).or_default().push(piece);
            }
        }
        if slowed.is_empty() {
            return;
        }
        let assets: Vec<u32> = slowed.keys().copied().collect();
        let stops =
            risen(facts, (q, window), (Some(&assets), DowntimeKind::External), |_| true).of(assets.iter().copied());
        let mut required = required(facts, q, window);
        let moves = facts.tree.moves_in(window);
        let mut slowed: Vec<(u32, Vec<Piece>)> = slowed.into_iter().collect();
        slowed.sort_unstable_by_key(|(asset, _)| *asset);
        for (asset, pieces) in slowed {
            let stood =
                union(stops.get(&asset).map_or(&[][..], Vec::as_slice).iter().map(|piece| piece.span).collect());
            let class = required.class(asset);
            for piece in within(&counted(&pieces), required.of(class).spans()) {
                let Some((part, place)) = facts.downtimes.find((piece.row_start, DowntimeId(piece.row))) else {
                    continue;
                };
                for span in without(piece.span, &stood).into_iter().flat_map(|span| cut(span, &moves)) {
                    let amount = i128::from(span.ms()) * i128::from(part.share[place]) / i128::from(STOP);
                    let (work, at) = (part.work[place], span.start());
                    found(part, place, Contribution { asset, at, cell: 0, amount: amount as i64, work });
                }
            }
        }
    }

    fn row(&self, facts: &Snapshot, q: Question, part: &Downtimes, place: usize, one: Contribution) -> TraceRow {
        downtime_row(facts, q, part, place, one.amount)
    }

    fn says(&self, part: &Downtimes, place: usize, dimension: Dimension) -> Option<i64> {
        says(part, place, dimension)
    }
}

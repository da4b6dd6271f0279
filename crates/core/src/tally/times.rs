//! Required time and downtime of many assets in one period.

use super::{Question, required::RequiredTime, sums::TimeSums};
use crate::{
    facts::Snapshot,
    ground::{
        ids::{AssetId, DowntimeId},
        spans::{intersection, total_ms},
        time::Span,
    },
    plant::downtime::{DowntimeKind, Piece, chain, counted, within},
};
use std::collections::HashMap;

/// Downtime carried up the tree once, and required time, for the passed part of the period.
pub(super) struct Times<'a> {
    snapshot: &'a Snapshot,
    reached: HashMap<usize, Vec<Piece>>,
    required: Option<RequiredTime<'a>>,
}

/// Required time of one asset, and its downtime in it, shared out among rows.
pub(super) struct AssetTime {
    required_ms: i64,
    pub(super) down: Vec<Piece>,
}

impl<'a> Times<'a> {
    pub(super) fn new(snapshot: &'a Snapshot, q: Question) -> Self {
        let Some(window) = q.passed() else { return Self { snapshot, reached: HashMap::new(), required: None } };
        let tree = &snapshot.tree;
        let own: Vec<(usize, Piece)> = snapshot
            .downtimes
            .overlapping(window)
            .filter_map(|fact| {
                let span = snapshot.downtime_span(fact, window.end())?;
                let DowntimeId(row) = fact.id;
                Some((tree.index(fact.asset)?, Piece { span, kind: fact.kind, row_start: fact.start, row }))
            })
            .collect();
        let reached = chain::reach(tree, window, &own, q.basis, q.now);
        let required = RequiredTime::new(tree, &snapshot.assignments, &snapshot.calendars, window, q.basis, q.now);
        Self { snapshot, reached, required: Some(required) }
    }

    /// All of the period, or only what lies in some disjoint ascending spans of it.
    pub(super) fn of(&self, asset: AssetId, stood: Option<&[Span]>) -> Option<AssetTime> {
        let index = self.snapshot.tree.index(asset)?;
        let mut required = self.required.as_ref().map_or_else(Vec::new, |required| required.of(index));
        if let Some(stood) = stood {
            required = intersection(&required, stood);
        }
        let down = self.reached.get(&index).map_or_else(Vec::new, |pieces| within(&counted(pieces), &required));
        Some(AssetTime { required_ms: total_ms(&required), down })
    }
}

impl AssetTime {
    pub(super) fn sums(&self) -> TimeSums {
        let of = |kind| self.down.iter().filter(|piece| piece.kind == kind).map(|piece| piece.span.ms()).sum();
        TimeSums {
            required: self.required_ms,
            unplanned: of(DowntimeKind::Unplanned),
            planned: of(DowntimeKind::Planned),
            external: of(DowntimeKind::External),
        }
    }
}

//! Downtime arithmetic: which stretches of time an asset was down, and which row each second counts for.
//!
//! [`report`] says what may be entered, [`chain`] carries downtime up the tree, [`rise`] at less cost where it stands still; here it is joined, cut and shared out among its rows.

pub mod chain;
mod report;
mod rise;

pub use report::{DowntimeCorrection, NewDowntime, OddDowntime, check_interval, odd_downtime};
pub use rise::{Risen, Ways};

use crate::ground::{
    spans::union,
    time::{Instant, Span},
};
use serde::{Deserialize, Serialize};

/// Why an asset could not do its job. Where kinds overlap the first one wins. Source: EN 13306 (terms).
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, strum::IntoStaticStr)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum DowntimeKind {
    Unplanned,
    Planned,
    /// Weather, power, a third party.
    External,
}

crate::kept_as_words!(DowntimeKind);

impl DowntimeKind {
    /// The word for it.
    #[must_use]
    pub fn word(self) -> &'static str {
        self.into()
    }
}

/// Part of a recorded interval of downtime, still knowing its row.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Piece {
    pub span: Span,
    pub kind: DowntimeKind,
    /// When the whole recorded interval starts: the earlier one counts first.
    pub row_start: Instant,
    /// The row's id: the lower one counts first where kind and start are the same.
    pub row: i64,
}

impl Piece {
    fn rank(&self) -> (DowntimeKind, Instant, i64) {
        (self.kind, self.row_start, self.row)
    }
}

/// Shares overlapping pieces out: disjoint ascending pieces that cover the same time, each instant counted for one row:
/// the higher kind, then the earlier start, then the lower id.
///
/// The lengths of the answer therefore add up to the union exactly. `O(n log n)`.
#[must_use]
pub fn counted(pieces: &[Piece]) -> Vec<Piece> {
    use std::collections::BTreeSet;
    let mut edges: Vec<(Instant, bool, usize)> = Vec::with_capacity(pieces.len() * 2);
    for (index, piece) in pieces.iter().enumerate() {
        edges.push((piece.span.start(), true, index));
        edges.push((piece.span.end(), false, index));
    }
    edges.sort_unstable();
    let mut open: BTreeSet<((DowntimeKind, Instant, i64), usize)> = BTreeSet::new();
    let mut shared_out: Vec<Piece> = Vec::with_capacity(pieces.len());
    let mut since = Instant::EARLIEST;
    for (at, starts, index) in edges {
        if let (Some(&(_, first)), Ok(span)) = (open.first(), Span::new(since, at)) {
            let winner = pieces[first];
            match shared_out.last_mut() {
                Some(last) if last.rank() == winner.rank() && last.span.end() == since => {
                    last.span = Span::new(last.span.start(), at).unwrap_or(last.span);
                }
                _ => shared_out.push(Piece { span, ..winner }),
            }
        }
        since = at;
        let key = (pieces[index].rank(), index);
        if starts {
            open.insert(key);
        } else {
            open.remove(&key);
        }
    }
    shared_out
}

/// Disjoint ascending pieces cut to disjoint ascending spans, such as required time. `O(n + m)`.
#[must_use]
pub fn within(pieces: &[Piece], spans: &[Span]) -> Vec<Piece> {
    let (mut i, mut j) = (0, 0);
    let mut cut = Vec::new();
    while let (Some(piece), Some(span)) = (pieces.get(i), spans.get(j)) {
        cut.extend(piece.span.clip(*span).map(|span| Piece { span, ..*piece }));
        if piece.span.end() <= span.end() { i += 1 } else { j += 1 }
    }
    cut
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::ground::spans::{intersection, total_ms};
    use proptest::prelude::*;

    fn at(second: i64) -> Instant {
        Instant::from_ms(second * 1000)
    }

    fn pieces() -> impl Strategy<Value = Vec<Piece>> {
        let kind =
            prop_oneof![Just(DowntimeKind::Unplanned), Just(DowntimeKind::Planned), Just(DowntimeKind::External)];
        let piece = (0..40i64, 1..12i64, kind);
        prop::collection::vec(piece, 0..9).prop_map(|rows| {
            rows.into_iter()
                .enumerate()
                .map(|(row, (start, length, kind))| Piece {
                    span: Span::new(at(start), at(start + length)).unwrap(),
                    kind,
                    row_start: at(start),
                    row: row as i64,
                })
                .collect()
        })
    }

    proptest! {
        #[test]
        fn counted_seconds_add_up_to_the_union_and_go_to_the_right_row(pieces in pieces()) {
            let shared_out = counted(&pieces);
            let joined = union(pieces.iter().map(|p| p.span).collect());
            let total: i64 = shared_out.iter().map(|p| p.span.ms()).sum();
            prop_assert_eq!(total, total_ms(&joined));
            // The slow way: ask each second whose it is.
            for second in 0..60 {
                let winner = pieces.iter().filter(|p| p.span.contains(at(second))).min_by_key(|p| p.rank());
                let found = shared_out.iter().find(|p| p.span.contains(at(second)));
                prop_assert_eq!(winner.map(|p| p.row), found.map(|p| p.row), "second {}", second);
            }
        }

        #[test]
        fn cutting_to_required_time_is_the_same_second_by_second(pieces in pieces(), required in pieces()) {
            let shared_out = counted(&pieces);
            let required = union(required.iter().map(|p| p.span).collect());
            let cut = within(&shared_out, &required);
            let spans: Vec<Span> = union(shared_out.iter().map(|p| p.span).collect());
            prop_assert_eq!(cut.iter().map(|p| p.span.ms()).sum::<i64>(), total_ms(&intersection(&spans, &required)));
            let slow = (0..60).filter(|&s| {
                shared_out.iter().any(|p| p.span.contains(at(s))) && required.iter().any(|r| r.contains(at(s)))
            }).count() as i64;
            prop_assert_eq!(cut.iter().map(|p| p.span.ms()).sum::<i64>(), slow * 1000);
        }
    }
}

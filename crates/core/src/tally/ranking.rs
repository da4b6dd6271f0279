//! All assets of a scope by one figure, wherever in the tree they stand.

use super::{Held, Question, figures::values, indicators::Indicator};
use crate::facts::Snapshot;

/// The assets below a scope (all there are without one, by dense index) that have a figure which is not nothing, the greatest first.
#[must_use]
pub fn ranking(
    facts: &Snapshot,
    scope: Option<usize>,
    indicator: Indicator,
    q: Question,
    held: Option<&Held>,
) -> Vec<(usize, f64)> {
    let of_all = values(facts, &[indicator], q, held).pop().unwrap_or_default();
    let shape = facts.tree.shape_at(q.tree_at(q.as_of()));
    let within: Vec<usize> = match scope {
        Some(scope) => shape.below(scope as u32).into_iter().skip(1).map(|asset| asset as usize).collect(),
        None => (0..facts.tree.len()).collect(),
    };
    let figure = |asset: &usize| of_all.get(*asset).copied().flatten().filter(|value| *value != 0.0);
    let mut found: Vec<(usize, f64)> = within.iter().filter_map(|asset| Some((*asset, figure(asset)?))).collect();
    found.sort_by(|a, b| b.1.total_cmp(&a.1).then_with(|| facts.tree.rank(a.0).cmp(&facts.tree.rank(b.0))));
    found
}

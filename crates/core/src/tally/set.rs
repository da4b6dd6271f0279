//! What is set for assets: its own where one is set, else the sum of its children's.

use super::Question;
use crate::{
    facts::{Dated, Snapshot},
    ground::{
        period,
        time::{Instant, Span},
    },
    plant::assets::NOBODY,
};
use std::collections::HashMap;

/// By dense index what is set as of the end of a period.
pub(super) struct Set {
    replacement: Vec<Option<i64>>,
    budget: Vec<Option<i64>>,
}

/// The fiscal year in which a period ends.
pub(super) fn fiscal_year(facts: &Snapshot, q: Question) -> Span {
    let start = period::fiscal_year_start(q.period.end().plus(-1), &facts.zone, facts.fiscal_month);
    // A year and a month on lies in the next one, whatever the months are long.
    let end = period::fiscal_year_start(start.plus(380 * crate::ground::time::DAY), &facts.zone, facts.fiscal_month);
    Span::new(start, end).unwrap_or(q.period)
}

impl Set {
    pub(super) fn new(facts: &Snapshot, q: Question) -> Self {
        let year = fiscal_year(facts, q);
        let replacement = |dated: &Dated, at: Instant| dated.at(at);
        Self {
            replacement: rolled_up(facts, q, &facts.worth.replacement, |dated| replacement(dated, q.as_of())),
            budget: rolled_up(facts, q, &facts.worth.budget, |dated| dated.begun_in(year)),
        }
    }

    pub(super) fn replacement(&self, asset: u32) -> Option<i64> {
        self.replacement.get(asset as usize).copied().flatten()
    }

    pub(super) fn budget(&self, asset: u32) -> Option<i64> {
        self.budget.get(asset as usize).copied().flatten()
    }
}

fn rolled_up(
    facts: &Snapshot,
    q: Question,
    set: &HashMap<u32, Dated>,
    value: impl Fn(&Dated) -> Option<i64>,
) -> Vec<Option<i64>> {
    let mut values = vec![None; facts.tree.len()];
    if set.is_empty() {
        return values;
    }
    let shape = facts.tree.shape_at(q.tree_at(q.as_of()));
    for &asset in shape.order().iter().rev() {
        let own = set.get(&asset).and_then(&value);
        let all = own.or(values[asset as usize]);
        values[asset as usize] = all;
        let parent = shape.parent(asset);
        if parent != NOBODY
            && let Some(all) = all
        {
            let sum: &mut Option<i64> = &mut values[parent as usize];
            *sum = Some(sum.unwrap_or(0) + all);
        }
    }
    values
}

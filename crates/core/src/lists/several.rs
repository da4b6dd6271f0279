//! Columns with several values a row, such as tags: every set of values that there is has a number.

use crate::facts::{Snapshot, packed::NONE};
use rustc_hash::FxHashMap;

/// Sets of values by their numbers.
#[derive(Debug, Default)]
pub(super) struct Sets(Vec<Vec<i64>>);

impl Sets {
    /// The values of a set, ascending; nothing for none.
    pub(super) fn values(&self, set: i64) -> &[i64] {
        usize::try_from(set).ok().and_then(|set| self.0.get(set)).map_or(&[], Vec::as_slice)
    }

    /// By number of the set whether one of its values is wanted.
    pub(super) fn having(&self, is_wanted: impl Fn(i64) -> bool) -> Vec<bool> {
        self.0.iter().map(|values| values.iter().any(|value| is_wanted(*value))).collect()
    }
}

/// Tags: their names in order, the sets of them that there are, and by asset the number of its set.
pub(super) fn tags(facts: &Snapshot) -> (Vec<String>, Sets, Vec<i64>) {
    let mut names: Vec<String> = facts.assets.iter().flat_map(|asset| asset.tags.iter().cloned()).collect();
    names.sort_unstable();
    names.dedup();
    let mut numbers: FxHashMap<Vec<i64>, i64> = FxHashMap::default();
    let mut sets = Sets::default();
    let of_asset = facts.assets.iter().map(|asset| {
        let found = asset.tags.iter().filter_map(|tag| names.binary_search(tag).ok());
        let mut values: Vec<i64> = found.map(|place| place as i64).collect();
        values.sort_unstable();
        values.dedup();
        if values.is_empty() {
            return NONE;
        }
        *numbers.entry(values).or_insert_with_key(|values| {
            sets.0.push(values.clone());
            sets.0.len() as i64 - 1
        })
    });
    let of_asset = of_asset.collect();
    (names, sets, of_asset)
}

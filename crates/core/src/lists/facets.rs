//! How many rows have each value of a column, under the conditions on others.

use super::{joined::Column, subject::Fill};
use crate::facts::columns::{Columns, Part};
use std::sync::Arc;

/// A row that failed no condition.
pub(super) const PASSED: u32 = 0;
/// A row that is not to be seen, whatever the conditions.
pub(super) const UNSEEN: u32 = u32::MAX;

/// Rows of a part that fail nothing but some conditions.
pub(super) struct Passing<'a> {
    /// By row a bit for each condition that it fails.
    failed: &'a [u32],
    own: u32,
    /// Where they are, if that is known.
    places: Option<&'a [u32]>,
    len: usize,
}

impl<'a> Passing<'a> {
    /// Those that fail nothing, which is known of which.
    pub(super) fn all(failed: &'a [u32], places: &'a [u32]) -> Self {
        Self { failed, own: PASSED, places: Some(places), len: places.len() }
    }

    /// Those that fail nothing but `own`.
    pub(super) fn but_for(failed: &'a [u32], own: u32) -> Self {
        let len = failed.iter().filter(|failed| **failed & !own == PASSED).count();
        Self { failed, own, places: None, len }
    }

    fn has(&self, place: usize) -> bool {
        self.failed[place] & !self.own == PASSED
    }

    fn is_whole(&self) -> bool {
        self.len == self.failed.len()
    }

    /// Their places, where going from one to the next takes less than going over all.
    fn few(&self) -> Option<&[u32]> {
        self.places.filter(|places| places.len() * FEW_OF < self.failed.len())
    }
}

/// One row in so many is few.
const FEW_OF: usize = 4;

/// So few different numbers are counted in two halves.
const FEW: usize = 64;

/// So many different numbers of a part are counted once and noted, as long as its rows stay.
const MOST_NOTED: usize = 256;

/// Adds how many of the rows of a part have each value of a column: by number, the first for none.
pub(super) fn count<P: Part>(
    (all, number): (&Columns<P>, usize),
    column: &Column<P>,
    passing: &Passing,
    scratch: &mut Vec<i64>,
    counts: &mut Vec<u64>,
) {
    if passing.len == 0 {
        return;
    }
    let part = all.part(number);
    match &column.fill {
        // What stands in the part is counted where it stands.
        Fill::Words(of) => count_standing((all, number), column.def.id, passing, (of(part), place_of_word), counts),
        Fill::Ids(of) => count_standing((all, number), column.def.id, passing, (of(part), place_of_id), counts),
        Fill::Few(rest, find) => {
            let mut few = Vec::new();
            find(part, &mut few);
            few.retain(|(place, _)| passing.has(*place as usize));
            add(counts, place_of_number(*rest), (passing.len - few.len()) as u64);
            few.iter().for_each(|(_, value)| add(counts, place_of_number(*value), 1));
        }
        Fill::Written(write) => {
            scratch.clear();
            write(part, scratch);
            count_values(passing, scratch, place_of_number, counts);
        }
    }
}

fn add(counts: &mut Vec<u64>, place: usize, more: u64) {
    if place >= counts.len() {
        counts.resize(place + 1, 0);
    }
    counts[place] += more;
}

/// Counts what stands in the part: where all of its rows pass, that is known but for the first time.
fn count_standing<P: Part, T: Copy>(
    (all, number): (&Columns<P>, usize),
    id: &'static str,
    passing: &Passing,
    (values, place): (&[T], impl Fn(T) -> usize + Copy),
    counts: &mut Vec<u64>,
) {
    if !passing.is_whole() {
        return count_values(passing, values, place, counts);
    }
    let noted = all.noted(number, id).or_else(|| {
        let mut found = Vec::new();
        let highest = values.iter().map(|value| place(*value)).max()?;
        if highest >= MOST_NOTED {
            return None;
        }
        count_values(passing, values, place, &mut found);
        // A part has fewer rows than that.
        let found: Arc<[u32]> = found.into_iter().map(|count| count as u32).collect();
        all.note(number, id, found.clone());
        Some(found)
    });
    match noted {
        Some(found) => {
            counts.resize(counts.len().max(found.len()), 0);
            counts.iter_mut().zip(&*found).for_each(|(count, more)| *count += u64::from(*more));
        }
        None => count_values(passing, values, place, counts),
    }
}

/// Where a number is counted; none, the least that there is, comes first.
fn place_of_number(value: i64) -> usize {
    usize::try_from(value.wrapping_add(1)).unwrap_or(0)
}

/// The same of a word, and of an id: there none is the greatest.
fn place_of_word(word: u8) -> usize {
    usize::from(word.wrapping_add(1))
}

fn place_of_id(id: u32) -> usize {
    id.wrapping_add(1) as usize
}

/// Counts the values of rows that pass, each in its place.
fn count_values<T: Copy>(passing: &Passing, values: &[T], place: impl Fn(T) -> usize, counts: &mut Vec<u64>) {
    if let Some(places) = passing.few() {
        return places.iter().for_each(|at| add(counts, place(values[*at as usize]), 1));
    }
    let highest = values.iter().map(|value| place(*value)).max().unwrap_or(0);
    counts.resize(counts.len().max(highest + 1), 0);
    let passes = |failed: u32| u64::from(failed & !passing.own == PASSED);
    let mut in_one = |failed: &[u32], values: &[T]| {
        failed.iter().zip(values).for_each(|(failed, value)| counts[place(*value)] += passes(*failed));
    };
    if highest >= FEW {
        return in_one(passing.failed, values);
    }
    let ((failed, last_failed), (values, last)) = (passing.failed.as_chunks(), values.as_chunks());
    in_one(last_failed, last);
    // Most rows have the same few: a count that was just written is not waited for where every other row is counted apart.
    let mut apart = [[0; FEW]; 2];
    for ([one, other], [first, second]) in failed.iter().zip(values) {
        apart[0][place(*first) % FEW] += passes(*one);
        apart[1][place(*second) % FEW] += passes(*other);
    }
    apart.iter().for_each(|apart| counts.iter_mut().zip(apart).for_each(|(count, more)| *count += more));
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::facts::packed::NONE;
    use proptest::prelude::*;
    use std::collections::BTreeMap;

    proptest! {
        /// Part after part, of few numbers or of many, of all rows or of some, each has as many rows as a plain count finds.
        #[test]
        fn each_number_is_counted_as_often_as_it_passes(
            parts in prop::collection::vec(
                (0i64..FEW as i64 * 2).prop_flat_map(|most| prop::collection::vec(
                    (prop_oneof![9 => 0..=most, 1 => Just(NONE)], prop_oneof![Just(PASSED), Just(1), Just(2), Just(3), Just(UNSEEN)]),
                    0..40,
                )),
                0..5,
            ),
            own in 0u32..4,
        ) {
            let (mut counts, mut of_words, mut of_ids) = (Vec::new(), Vec::new(), Vec::new());
            let mut plain = BTreeMap::new();
            for part in &parts {
                let (values, failed): (Vec<i64>, Vec<u32>) = part.iter().copied().unzip();
                let places: Vec<u32> = (0..failed.len() as u32).filter(|place| failed[*place as usize] == PASSED).collect();
                let passing = if own == 0 { Passing::all(&failed, &places) } else { Passing::but_for(&failed, own) };
                count_values(&passing, &values, place_of_number, &mut counts);
                let words: Vec<u8> = values.iter().map(|value| if *value == NONE { u8::MAX } else { *value as u8 }).collect();
                count_values(&passing, &words, place_of_word, &mut of_words);
                let ids: Vec<u32> = values.iter().map(|value| if *value == NONE { u32::MAX } else { *value as u32 }).collect();
                count_values(&passing, &ids, place_of_id, &mut of_ids);
                for (value, _) in part.iter().filter(|(_, failed)| failed & !own == PASSED) {
                    *plain.entry(*value).or_insert(0u64) += 1;
                }
            }
            prop_assert_eq!(&of_words, &counts);
            prop_assert_eq!(&of_ids, &counts);
            let number = |place: usize| if place == 0 { NONE } else { place as i64 - 1 };
            let counted = counts.iter().enumerate().filter(|(_, count)| **count > 0);
            prop_assert_eq!(counted.map(|(place, count)| (number(place), *count)).collect::<BTreeMap<_, _>>(), plain);
        }
    }
}

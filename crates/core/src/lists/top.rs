//! The first rows of an order, of however many.

use super::asked::MOST_KEYS;
use crate::facts::packed::NONE;
use std::cmp::Ordering;

/// The place of a row in an order: its keys, then its id.
pub(super) type Keys = [i64; MOST_KEYS + 1];

/// A key so that rows without a value come last, whatever the direction.
#[inline]
pub(super) fn key(value: i64, descending: bool) -> i64 {
    match (value, descending) {
        (NONE, _) => i64::MAX,
        (value, false) => value,
        (value, true) => !value,
    }
}

/// A row that may be among the first.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Candidate {
    pub(super) keys: Keys,
    pub(super) part: u32,
    pub(super) place: u32,
}

impl Ord for Candidate {
    fn cmp(&self, other: &Self) -> Ordering {
        self.keys.cmp(&other.keys)
    }
}

impl PartialOrd for Candidate {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

/// The first so many.
#[derive(Debug)]
pub(super) struct Top {
    most: usize,
    /// Those, and some that may be among them: looked through when there are [`ROOM`] more, so that rows which come the wrong way
    /// round cost no more than others.
    some: Vec<Candidate>,
    /// The last of the first when they were looked through.
    last: Option<Candidate>,
}

/// How many more than the first are gathered.
const ROOM: usize = 512;

impl Top {
    pub(super) fn new(most: usize) -> Self {
        Self { most, some: Vec::new(), last: None }
    }

    #[inline]
    pub(super) fn take(&mut self, candidate: Candidate) {
        if self.last.is_some_and(|last| candidate > last) {
            return;
        }
        self.some.push(candidate);
        if self.some.len() >= self.most + ROOM {
            self.look_through();
        }
    }

    #[inline(never)]
    fn look_through(&mut self) {
        if let Some(last) = self.most.checked_sub(1).filter(|_| self.some.len() > self.most) {
            self.last = Some(*self.some.select_nth_unstable(last).1);
        }
        self.some.truncate(self.most);
    }

    /// Whether a row whose first key is this can't be among them any more.
    #[inline]
    pub(super) fn is_beyond(&self, first: i64) -> bool {
        self.last.is_some_and(|last| first > last.keys[0])
    }

    pub(super) fn join(mut self, other: Self) -> Self {
        other.some.into_iter().for_each(|candidate| self.take(candidate));
        self
    }

    pub(super) fn in_order(mut self) -> Vec<Candidate> {
        self.look_through();
        self.some.sort_unstable();
        self.some
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn candidate(first: i64, id: u32) -> Candidate {
        let mut keys = [0; MOST_KEYS + 1];
        (keys[0], keys[MOST_KEYS]) = (first, i64::from(id));
        Candidate { keys, part: 0, place: id }
    }

    proptest! {
        /// In any order, over any number of passes; beyond is only what is not among them.
        #[test]
        fn the_first_are_those_of_a_sort(
            firsts in prop::collection::vec(0i64..400, 0..3_000),
            way in 0..3,
            most in 1usize..700,
            passes in 1usize..4,
        ) {
            let mut rows: Vec<Candidate> =
                firsts.iter().zip(0u32..).map(|(first, id)| candidate(*first, id)).collect();
            match way {
                0 => {}
                1 => rows.sort_unstable(),
                _ => rows.sort_unstable_by(|one, other| other.cmp(one)),
            }
            let mut sorted = rows.clone();
            sorted.sort_unstable();
            sorted.truncate(most);
            let mut all = Top::new(most);
            for rows in rows.chunks(rows.len().div_ceil(passes).max(1)) {
                let mut top = Top::new(most);
                for row in rows {
                    if top.is_beyond(row.keys[0]) {
                        prop_assert!(!sorted.contains(row));
                    } else {
                        top.take(*row);
                    }
                }
                all = all.join(top);
            }
            prop_assert_eq!(all.in_order(), sorted);
        }
    }
}

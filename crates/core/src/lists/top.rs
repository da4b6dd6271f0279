//! The first rows of an order, of however many.

use super::asked::MOST_KEYS;
use crate::facts::packed::NONE;
use std::{cmp::Ordering, collections::BinaryHeap};

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
    // The last of them on top.
    heap: BinaryHeap<Candidate>,
}

impl Top {
    pub(super) fn new(most: usize) -> Self {
        Self { most, heap: BinaryHeap::with_capacity(most.min(512) + 1) }
    }

    #[inline]
    pub(super) fn take(&mut self, candidate: Candidate) {
        if self.heap.len() < self.most {
            self.heap.push(candidate);
        } else if let Some(mut last) = self.heap.peek_mut()
            && candidate < *last
        {
            *last = candidate;
        }
    }

    /// Whether a row whose first key is this can't be among them any more.
    #[inline]
    pub(super) fn is_beyond(&self, first: i64) -> bool {
        self.heap.len() == self.most && self.heap.peek().is_none_or(|last| first > last.keys[0])
    }

    pub(super) fn join(mut self, other: Self) -> Self {
        other.heap.into_iter().for_each(|candidate| self.take(candidate));
        self
    }

    pub(super) fn in_order(self) -> Vec<Candidate> {
        self.heap.into_sorted_vec()
    }
}

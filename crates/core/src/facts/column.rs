//! What values of the rows of a part stand in.

use serde::{Serialize, de::DeserializeOwned};
use std::fmt::Debug;

/// Rows of a part when it is made. It is cut in two when it has grown to twice as many.
pub const ROWS: usize = 4_096;

/// Values of the rows of a part, by place.
pub trait Column<K>: Clone + Default + Debug + Send + Sync + Serialize + DeserializeOwned {
    fn of(&self, place: usize) -> K;
    fn push(&mut self, value: K);
    fn insert(&mut self, place: usize, value: K);
    fn remove(&mut self, place: usize);
    fn split_off(&mut self, place: usize) -> Self;
    /// All are there, or have changed: it takes as little room as it can.
    fn settle(&mut self);
}

impl<K: Copy + Debug + Send + Sync + Serialize + DeserializeOwned> Column<K> for Vec<K> {
    #[inline(always)]
    fn of(&self, place: usize) -> K {
        self[place]
    }

    fn push(&mut self, value: K) {
        self.push(value);
    }

    fn insert(&mut self, place: usize, value: K) {
        self.insert(place, value);
    }

    fn remove(&mut self, place: usize) {
        self.remove(place);
    }

    fn split_off(&mut self, place: usize) -> Self {
        self.split_off(place)
    }

    fn settle(&mut self) {
        self.shrink_to_fit();
    }
}

/// A whole number that is not there.
pub const NONE: i64 = i64::MIN;

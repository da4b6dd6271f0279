//! Hours that crews spent, kept for the entries that were asked for last: who asks for a part of the plant needs those of all of it.

use quick_cache::sync::Cache;
use std::sync::Arc;

/// How many entries there are before a window and before its end, of what facts: the same entries, with the same crews.
pub(super) type Key = ([usize; 2], [u64; 4]);

/// Hours in milliseconds, by the number of the crew.
#[derive(Clone)]
pub struct CrewHours(Arc<Cache<Key, Arc<Vec<i64>>>>);

impl CrewHours {
    /// As many as a year by month asks for, with the year before.
    const KEPT: usize = 16;

    /// Those of some entries; they are counted where they are not known.
    pub(super) fn of(&self, key: Key, count: impl FnOnce() -> Vec<i64>) -> Arc<Vec<i64>> {
        self.0.get(&key).unwrap_or_else(|| {
            let counted = Arc::new(count());
            self.0.insert(key, counted.clone());
            counted
        })
    }
}

impl Default for CrewHours {
    fn default() -> Self {
        Self(Arc::new(Cache::new(Self::KEPT)))
    }
}

impl std::fmt::Debug for CrewHours {
    fn fmt(&self, f: &mut std::fmt::Formatter) -> std::fmt::Result {
        f.debug_struct("CrewHours").field("kept", &self.0.len()).finish()
    }
}

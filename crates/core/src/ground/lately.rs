//! What was worked out lately.

use quick_cache::sync::Cache;
use std::{
    fmt::{Debug, Formatter, Result},
    hash::Hash,
    sync::Arc,
};

/// Answers to the last questions, by what they hang on; clones share them.
#[derive(Clone)]
pub struct Lately<K, V>(Arc<Cache<K, Arc<V>>>);

/// As many as a year by month asks for, with the year before and today.
const KEPT: usize = 16;

impl<K: Hash + Eq + Clone, V> Lately<K, V> {
    /// The answer, worked out where it is not known. Nobody waits for it meanwhile.
    pub fn of(&self, key: K, work_out: impl FnOnce() -> V) -> Arc<V> {
        self.0.get(&key).unwrap_or_else(|| {
            let answer = Arc::new(work_out());
            self.0.insert(key, answer.clone());
            answer
        })
    }
}

impl<K: Hash + Eq + Clone, V> Default for Lately<K, V> {
    fn default() -> Self {
        Self(Arc::new(Cache::new(KEPT)))
    }
}

impl<K, V> Debug for Lately<K, V> {
    fn fmt(&self, f: &mut Formatter) -> Result {
        f.debug_struct("Lately").finish_non_exhaustive()
    }
}

//! Histories of readings that were looked at, held in memory: a replay while somebody drags a limit reads nothing.

use quick_cache::{Weighter, sync::Cache};
use std::sync::Arc;
use tally_core::{ground::ids::MeterId, watch::readings::Columns};

/// Readings held at the most: 16 bytes each.
const MOST_READINGS: u64 = 24_000_000;

/// Meters whose histories are held, about.
const USUAL_METERS: usize = 1_000;

/// How many readings are kept, and how often something other than a newer one was added.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Counts {
    pub readings: i64,
    pub revised: i64,
}

/// A whole history, true for its counts.
#[derive(Debug, Clone)]
pub(crate) struct Held {
    pub counts: Counts,
    pub columns: Arc<Columns>,
}

#[derive(Debug, Clone)]
struct Readings;

impl Weighter<MeterId, Held> for Readings {
    fn weight(&self, _: &MeterId, held: &Held) -> u64 {
        held.columns.len() as u64 + 1
    }
}

/// Whole histories by meter; those that nobody looks at go first.
#[derive(Debug)]
pub(crate) struct Histories(Cache<MeterId, Held, Readings>);

impl Default for Histories {
    fn default() -> Self {
        Self(Cache::with_weighter(USUAL_METERS, MOST_READINGS, Readings))
    }
}

impl Histories {
    pub(crate) fn get(&self, meter: MeterId) -> Option<Held> {
        self.0.get(&meter)
    }

    pub(crate) fn keep(&self, meter: MeterId, held: Held) {
        self.0.insert(meter, held);
    }
}

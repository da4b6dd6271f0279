//! What is held in memory: histories of readings that were looked at, so that a replay while somebody drags a limit reads nothing,
//! and the first setpoints of ladders.

use quick_cache::{
    DefaultHashBuilder, OptionsBuilder, Weighter,
    sync::{Cache, DefaultLifecycle},
};
use std::sync::Arc;
use tally_core::{
    ground::ids::{LadderVersionId, MeterId},
    watch::{limits::distance::FirstSetpoints, readings::Columns},
};

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

/// What looks hold in memory: each true for as long as it is found.
#[derive(Debug)]
pub(crate) struct InMemory {
    pub histories: Histories,
    /// Of versions of ladders, which never change.
    pub setpoints: Cache<LadderVersionId, FirstSetpoints>,
}

/// Ladders of which the first setpoints are held: all there are, in a plant as large as is hoped for.
const MOST_LADDERS: usize = 100_000;

impl Default for InMemory {
    fn default() -> Self {
        Self { histories: Histories::default(), setpoints: Cache::new(MOST_LADDERS) }
    }
}

/// Whole histories by meter; those that nobody looks at go first.
#[derive(Debug)]
pub(crate) struct Histories(Cache<MeterId, Held, Readings>);

impl Default for Histories {
    fn default() -> Self {
        Self::of(MOST_READINGS)
    }
}

impl Histories {
    /// At most so many readings, in one piece: parted, a long history would have to fit into a part, and push out all others
    /// that fell into it.
    fn of(most_readings: u64) -> Self {
        let options = OptionsBuilder::new()
            .estimated_items_capacity(USUAL_METERS)
            .weight_capacity(most_readings)
            .shards(1)
            .build();
        // Only a capacity left out is none.
        let options = options.unwrap_or_else(|error| unreachable!("{error:?}"));
        Self(Cache::with_options(options, Readings, DefaultHashBuilder::default(), DefaultLifecycle::default()))
    }

    pub(crate) fn get(&self, meter: MeterId) -> Option<Held> {
        self.0.get(&meter)
    }

    pub(crate) fn keep(&self, meter: MeterId, held: Held) {
        self.0.insert(meter, held);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use tally_core::{ground::time::Instant, watch::readings::Reading};

    fn held(readings: i64) -> Held {
        let columns = (0..readings).map(|n| Reading { at: Instant::from_ms(n), value: 1.0 }).collect();
        Held { counts: Counts { readings, revised: 0 }, columns: Arc::new(columns) }
    }

    /// A long history and many short ones that fit together are held together, whichever they are.
    #[test]
    fn what_fits_is_held() {
        let histories = Histories::of(2_000);
        histories.keep(MeterId(1), held(1_200));
        (2..62).for_each(|meter| histories.keep(MeterId(meter), held(10)));
        let gone: Vec<i64> = (1..62).filter(|meter| histories.get(MeterId(*meter)).is_none()).collect();
        assert!(gone.is_empty(), "{gone:?} are read again at every look");
    }
}

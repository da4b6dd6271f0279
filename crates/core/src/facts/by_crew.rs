//! Open hours by crew.

use super::{
    Snapshot,
    packed::{NONE, Packed},
};
use crate::{
    ground::{
        ids::CrewId,
        time::{Instant, Span},
    },
    work::WorkState,
};
use std::collections::HashMap;

/// Hours still to do of a crew's open work, in milliseconds: estimated and not spent. What nobody estimated has none.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct OpenHours {
    pub all_ms: i64,
    /// Of what is ready or scheduled.
    pub ready_ms: i64,
}

impl Snapshot {
    /// Open hours of each crew now, of work on assets that count.
    #[must_use]
    pub fn open_hours(&self, now: Instant, counts: impl Fn(u32) -> bool) -> HashMap<Option<CrewId>, OpenHours> {
        let mut hours: HashMap<Option<CrewId>, OpenHours> = HashMap::new();
        let Ok(window) = Span::new(now, now.plus(1)) else { return hours };
        for part in self.works.overlapping(window) {
            part.until.within(now.ms() + 1..i64::MAX, |place, _| {
                let state = WorkState::unpack(part.state[place]);
                if !counts(part.asset[place]) || !state.is_open() || part.estimated_ms.of(place) == NONE {
                    return;
                }
                let left = (part.estimated_ms.of(place) - part.spent_ms.of(place)).max(0);
                let of_crew = hours.entry(Option::unpack(part.crew[place])).or_default();
                of_crew.all_ms += left;
                if matches!(state, WorkState::Ready | WorkState::Scheduled) {
                    of_crew.ready_ms += left;
                }
            });
        }
        hours
    }
}

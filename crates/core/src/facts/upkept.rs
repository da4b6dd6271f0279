//! Whether upkeep was done in time.

use super::{Cycles, Snapshot};
use crate::{
    facts::packed::Packed,
    ground::{ids::WorkOrderId, time::Instant},
};

impl Snapshot {
    /// When the work of a settled cycle was done, by an instant.
    #[must_use]
    pub fn cycle_done_at(&self, part: &Cycles, place: usize, now: Instant) -> Option<Instant> {
        let (works, order) = self.works.order(part.work[place])?;
        Some(Instant::unpack(works.done_at.of(order))).filter(|at| *at <= now)
    }

    /// Whether a settled cycle was done in time; `None` while it still can be.
    #[must_use]
    pub fn cycle_in_time(&self, part: &Cycles, place: usize, now: Instant) -> Option<bool> {
        let in_time_until = Instant::unpack(part.in_time_until.of(place));
        match self.cycle_done_at(part, place, now) {
            Some(done_at) => Some(done_at < in_time_until),
            None if part.work[place] == Option::<WorkOrderId>::None.pack() || in_time_until <= now => Some(false),
            None => None,
        }
    }
}

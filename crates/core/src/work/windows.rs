//! By when work of a risk rank is to be done.

use crate::ground::time::{DAY, Instant};
use serde::{Deserialize, Serialize};

/// Days in which work of each rank must be done; settable.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub struct RankWindows(pub [u16; 5]);

impl Default for RankWindows {
    fn default() -> Self {
        Self([2, 7, 28, 90, 180])
    }
}

impl RankWindows {
    /// When the window of work of that rank (1 to 5), raised then, ends.
    #[must_use]
    pub fn window_end(&self, rank: u8, from: Instant) -> Instant {
        let place = usize::from(rank.clamp(1, 5)) - 1;
        from.plus(i64::from(self.0[place]) * DAY)
    }

    /// The window after the rank was tightened at `at`: from that instant, never later than before.
    #[must_use]
    pub fn tightened(&self, old_end: Instant, rank: u8, at: Instant) -> Instant {
        self.window_end(rank, at).min(old_end)
    }
}

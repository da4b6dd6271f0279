//! Chattering: the same rung entered again and again. Counted in one way, live and in replay.

use crate::ground::time::{Instant, SECOND};
use serde::Serialize;

/// What counts as chattering.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Chatter {
    /// So many entries of one rung …
    pub entries: u32,
    /// … within so many seconds.
    pub seconds: u32,
}

impl Default for Chatter {
    /// Three within a minute (IEC 62682, common practice).
    fn default() -> Self {
        Self { entries: 3, seconds: 60 }
    }
}

/// Counts the entries of one rung as they come.
#[derive(Debug, Clone, Default)]
pub struct ChatterCount {
    /// The last entries, one fewer than make chattering.
    last: std::collections::VecDeque<Instant>,
}

impl ChatterCount {
    /// The rung is entered; says whether that entry chatters: with the ones before it there are `entries` of them less than
    /// `seconds` apart.
    pub fn enters(&mut self, at: Instant, chatter: Chatter) -> bool {
        let others = chatter.entries.max(2) as usize - 1;
        let first = if self.last.len() == others { self.last.pop_front() } else { None };
        self.last.push_back(at);
        first.is_some_and(|first| at.since(first) < i64::from(chatter.seconds) * SECOND)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    // Own numbers: entries at 10, 30, 50 and 70 seconds.
    #[rstest]
    #[case::three_within_a_minute(3, 60, &[false, false, true, true])]
    #[case::three_within_forty_seconds(3, 40, &[false, false, false, false])]
    #[case::two_within_forty_seconds(2, 40, &[false, true, true, true])]
    fn the_entry_that_makes_it_too_many_chatters(
        #[case] entries: u32,
        #[case] seconds: u32,
        #[case] expected: &[bool],
    ) {
        let mut count = ChatterCount::default();
        let at = [10, 30, 50, 70].map(|second| Instant::from_ms(second * SECOND));
        assert_eq!(at.map(|at| count.enters(at, Chatter { entries, seconds })), expected);
    }
}

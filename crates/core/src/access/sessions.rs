//! How long a session lasts, and when it is too old for what counts most.

use crate::ground::time::{DAY, HOUR, Instant, MINUTE};

/// How long nothing may be asked in a session before it ends: a night, and no more than a shift changes.
pub const IDLE_MS: i64 = 16 * HOUR;

/// How long a session lasts at most (NIST SP 800-63B, 4.1.3: thirty days for the lowest level; recalled).
pub const LONGEST_MS: i64 = 30 * DAY;

/// How long after a password was given people, keys and approvals may be decided on.
pub const FRESH_MS: i64 = 15 * MINUTE;

/// When a session was last asked something is noted no more often than this.
const NOTED_EVERY_MS: i64 = MINUTE;

/// The instants of a session that decide about it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Lasting {
    pub begun_at: Instant,
    /// When the password was given last.
    pub fresh_at: Instant,
    /// When something was asked in it last.
    pub seen_at: Instant,
}

impl Lasting {
    /// One that begins now.
    #[must_use]
    pub fn begun(now: Instant) -> Self {
        Self { begun_at: now, fresh_at: now, seen_at: now }
    }

    /// Whether it has ended by its idle or its absolute limit.
    #[must_use]
    pub fn is_over(&self, now: Instant) -> bool {
        now.ms() - self.seen_at.ms() > IDLE_MS || now.ms() - self.begun_at.ms() > LONGEST_MS
    }

    /// Whether the password was given a short while ago.
    #[must_use]
    pub fn is_fresh(&self, now: Instant) -> bool {
        // A clock that was set back makes nothing fresh.
        (0..=FRESH_MS).contains(&(now.ms() - self.fresh_at.ms()))
    }

    /// Whether it is time to note that it is used.
    #[must_use]
    pub fn is_to_note(seen_at: Option<Instant>, now: Instant) -> bool {
        seen_at.is_none_or(|seen| now.ms() - seen.ms() >= NOTED_EVERY_MS)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::just_begun(0, 0, 0, false, true)]
    #[case::no_longer_fresh(FRESH_MS + 1, 0, FRESH_MS + 1, false, false)]
    #[case::given_again(FRESH_MS + 1, FRESH_MS, FRESH_MS + 1, false, true)]
    #[case::idle_to_the_end(IDLE_MS, 0, 0, false, false)]
    #[case::idle_beyond(IDLE_MS + 1, 0, 0, true, false)]
    #[case::used_every_day(LONGEST_MS, 0, LONGEST_MS - DAY / 2, false, false)]
    #[case::used_every_day_for_too_long(LONGEST_MS + 1, LONGEST_MS, LONGEST_MS, true, true)]
    #[case::the_clock_was_set_back(-HOUR, 0, 0, false, false)]
    fn a_session_lasts_so_long(
        #[case] now: i64,
        #[case] fresh: i64,
        #[case] seen: i64,
        #[case] over: bool,
        #[case] is_fresh: bool,
    ) {
        let at = |ms: i64| Instant::from_ms(1_000 * DAY + ms);
        let session = Lasting { begun_at: at(0), fresh_at: at(fresh), seen_at: at(seen) };
        assert_eq!((session.is_over(at(now)), session.is_fresh(at(now))), (over, is_fresh));
    }
}

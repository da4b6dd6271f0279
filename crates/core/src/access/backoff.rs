//! Who guesses passwords waits, longer with each wrong one; nobody is locked out for long.

use crate::ground::time::{HOUR, Instant, MINUTE};

/// What is counted together: the tries at one account, or those from one address.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Counted {
    /// Four wrong ones are free; the wait after later ones doubles from a second, to half a minute. An honest person whose
    /// account somebody else guesses at waits no longer than that.
    Account,
    /// An address may be that of many people: twenty are free, and then the wait doubles to five minutes.
    Address,
}

impl Counted {
    fn free(self) -> u32 {
        match self {
            Self::Account => 4,
            Self::Address => 20,
        }
    }

    fn longest_ms(self) -> i64 {
        match self {
            Self::Account => MINUTE / 2,
            Self::Address => 5 * MINUTE,
        }
    }
}

/// After so long without a try, what was wrong before counts no more.
const FORGOTTEN_MS: i64 = HOUR;

/// The wrong tries in a row.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Wrong {
    pub tries: u32,
    pub last: Instant,
}

impl Wrong {
    /// With one more.
    #[must_use]
    pub fn one_more(before: Option<Self>, now: Instant) -> Self {
        let tries = before.filter(|before| !before.is_forgotten(now)).map_or(0, |before| before.tries);
        Self { tries: tries.saturating_add(1), last: now }
    }

    /// Whether it counts no more.
    #[must_use]
    pub fn is_forgotten(&self, now: Instant) -> bool {
        now.ms() - self.last.ms() > FORGOTTEN_MS
    }

    /// Milliseconds until the next try is looked at; none where it may be now.
    #[must_use]
    pub fn wait(&self, counted: Counted, now: Instant) -> Option<i64> {
        if self.is_forgotten(now) {
            return None;
        }
        let beyond = self.tries.checked_sub(counted.free() + 1)?;
        let pause = (1_000_i64 << beyond.min(20)).min(counted.longest_ms());
        // A clock that was set back makes nobody wait longer than the pause.
        let waited = (now.ms() - self.last.ms()).max(0);
        (waited < pause).then_some(pause - waited)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::free(Counted::Account, 4, 0, None)]
    #[case::the_first_wait(Counted::Account, 5, 0, Some(1_000))]
    #[case::it_doubles(Counted::Account, 7, 0, Some(4_000))]
    #[case::part_of_it_is_over(Counted::Account, 7, 1_500, Some(2_500))]
    #[case::all_of_it_is_over(Counted::Account, 7, 4_000, None)]
    #[case::never_long(Counted::Account, u32::MAX, 0, Some(30_000))]
    #[case::an_address_has_more(Counted::Address, 20, 0, None)]
    #[case::an_address_waits_longer(Counted::Address, 100, 0, Some(300_000))]
    #[case::forgotten(Counted::Address, 100, FORGOTTEN_MS + 1, None)]
    #[case::the_clock_was_set_back(Counted::Account, 100, -DAY, Some(30_000))]
    fn guessing_waits(#[case] counted: Counted, #[case] tries: u32, #[case] later: i64, #[case] wait: Option<i64>) {
        let last = Instant::from_ms(1_000 * DAY);
        assert_eq!(Wrong { tries, last }.wait(counted, last.plus(later)), wait);
    }

    const DAY: i64 = 24 * HOUR;

    /// NIST SP 800-63B, 3.2.2 (recalled): no more than 100 wrong ones in a row go unhindered. A year of guessing at one account,
    /// each try as soon as it may be, is a million and a bit: nothing beside the passwords that are taken.
    #[test]
    fn a_year_of_guessing_comes_to_a_million() {
        let (mut now, mut wrong, mut tried) = (Instant::from_ms(0), None, 0_u64);
        while now.ms() < 365 * DAY {
            let after = Wrong::one_more(wrong, now);
            now = now.plus(after.wait(Counted::Account, now).unwrap_or(0));
            (wrong, tried) = (Some(after), tried + 1);
        }
        assert_eq!(tried, 1_051_208);
        assert_eq!(Wrong::one_more(wrong, now.plus(2 * HOUR)).tries, 1, "after an hour of quiet it begins anew");
    }
}

//! The one source of time. Tests and the demo set it.

use std::sync::atomic::{AtomicI64, Ordering};
use tally_core::ground::time::Instant;

/// A clock: the machine's, moved by an offset, or standing still where it was set.
#[derive(Debug)]
pub struct Clock {
    offset_ms: i64,
    /// [`TICKS`] while the clock runs.
    stands_at: AtomicI64,
    settable: bool,
}

const TICKS: i64 = i64::MIN;

fn machine() -> i64 {
    jiff::Timestamp::now().as_millisecond()
}

impl Clock {
    /// The machine's clock.
    #[must_use]
    pub fn system() -> Self {
        Self { offset_ms: 0, stands_at: AtomicI64::new(TICKS), settable: false }
    }

    /// A clock that shows `now` at this moment and goes on from there.
    #[must_use]
    pub fn starting_at(now: Instant) -> Self {
        Self { offset_ms: now.ms() - machine(), ..Self::system() }
    }

    /// A clock that stands at `now` until it is set.
    #[must_use]
    pub fn standing_at(now: Instant) -> Self {
        Self { stands_at: AtomicI64::new(now.ms()), settable: true, ..Self::system() }
    }

    /// The instant it is.
    #[must_use]
    pub fn now(&self) -> Instant {
        match self.stands_at.load(Ordering::Relaxed) {
            TICKS => Instant::from_ms(machine() + self.offset_ms),
            at => Instant::from_ms(at),
        }
    }

    /// Whether it goes on.
    #[must_use]
    pub fn runs(&self) -> bool {
        self.stands_at.load(Ordering::Relaxed) == TICKS
    }

    /// Sets a standing clock; says whether it is one.
    pub fn set(&self, now: Instant) -> bool {
        if self.settable {
            self.stands_at.store(now.ms(), Ordering::Relaxed);
        }
        self.settable
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_standing_clock_is_set_and_a_running_one_is_not() {
        let start = Instant::from_ms(1_000_000);
        let standing = Clock::standing_at(start);
        assert_eq!((standing.now(), standing.runs()), (start, false));
        assert!(standing.set(start.plus(5)));
        assert_eq!(standing.now(), start.plus(5));
        let running = Clock::starting_at(start);
        assert!(!running.set(start) && running.runs());
        assert!(running.now() >= start && running.now() < start.plus(60_000));
    }
}

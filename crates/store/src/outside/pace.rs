//! Long work beside which others wait for answers: it rests as long as it worked.

use crate::ground::error::Result;
use rusqlite::Connection;
use std::time::{Duration, Instant as Stopwatch};

/// At most so long in one go.
const LONGEST: Duration = Duration::from_millis(50);

/// Steps of SQLite's own machine between two rests: some thousand rows, or about a millisecond.
const STEPS: i32 = 20_000;

/// How fast something long is done.
#[derive(Debug, Clone, Copy)]
pub(super) enum Pace {
    /// Nobody waits.
    AtOnce,
    /// Others have half of the time of the processor, and of the disk; since when it has been working.
    WithRests(Stopwatch),
}

impl Pace {
    pub(super) fn with_rests() -> Self {
        Self::WithRests(Stopwatch::now())
    }

    /// Rests as long as it worked since it rested last.
    pub(super) fn rest(&mut self) {
        if let Self::WithRests(since) = self {
            std::thread::sleep(since.elapsed().min(LONGEST));
            *since = Stopwatch::now();
        }
    }

    /// Whatever that connection is asked for is done so.
    ///
    /// # Errors
    /// SQLite's own.
    pub(super) fn keep(mut self, conn: &Connection) -> Result<()> {
        let on = move || {
            self.rest();
            false
        };
        Ok(conn.progress_handler(STEPS, Some(on))?)
    }
}

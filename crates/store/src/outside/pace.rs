//! Long work beside which others wait for answers: it rests as long as it worked, and goes to the disk bit by bit.

use crate::ground::error::Result;
use rusqlite::Connection;
use std::{
    fs::File,
    io,
    path::Path,
    sync::mpsc::{self, RecvTimeoutError},
    time::{Duration, Instant as Stopwatch},
};

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

/// As much of a file goes at once.
const PIECE: u64 = 16 << 20;

/// Takes a large file away bit by bit: all of it at once would hold up whoever waits for the disk meanwhile.
pub(super) fn take_away(path: &Path, mut pace: Pace) -> io::Result<()> {
    let file = File::options().write(true).open(path)?;
    let mut left = file.metadata()?.len();
    while left > 0 {
        left = left.saturating_sub(PIECE);
        file.set_len(left)?;
        pace.rest();
    }
    std::fs::remove_file(path)
}

/// How often what was written meanwhile goes to the disk.
const THROUGH_EVERY: Duration = Duration::from_millis(20);

/// Does `work`, which writes much to that file, and sends it to the disk as it comes: all of it at once would hold up whoever
/// waits for the disk meanwhile, and that is every write of the server.
pub(super) fn written_through<T>(file: &Path, work: impl FnOnce() -> T) -> T {
    let (working, stopped) = mpsc::channel::<()>();
    std::thread::scope(|scope| {
        scope.spawn(move || {
            let Ok(file) = File::open(file) else { return };
            while stopped.recv_timeout(THROUGH_EVERY) == Err(RecvTimeoutError::Timeout) {
                // Whether all of it is there is asked at the end.
                file.sync_data().ok();
            }
        });
        let done = work();
        drop(working);
        done
    })
}

//! What a read has at hand: one state of the data, the facts as of it, the instant, and who looks.

use super::{
    error::Result,
    histories::Histories,
    pool::Stop,
    sql::{Rows, Sql},
    viewer::Viewer,
};
use rusqlite::Connection;
use std::{cell::OnceCell, sync::Arc};
use tally_core::{facts::Snapshot, ground::time::Instant};

/// Where a view gets what many looks share.
pub(crate) trait Shared {
    /// A handle to the facts, at least as new as what the connection sees.
    fn facts(&self, conn: &Connection) -> Result<Arc<Snapshot>>;
}

/// Who looks, at which instant, for how long.
#[derive(Debug, Clone)]
pub struct Looker {
    pub viewer: Viewer,
    pub now: Instant,
    /// Ends the look from outside.
    pub stop: Stop,
}

impl Looker {
    /// One that sees everything and takes its time: the clock's duties, the command line.
    #[must_use]
    pub fn all(now: Instant) -> Self {
        Self { viewer: Viewer::all(), now, stop: Stop::default() }
    }
}

/// One look.
pub struct View<'a> {
    pub(crate) conn: &'a Connection,
    pub(crate) histories: &'a Histories,
    shared: &'a dyn Shared,
    facts: OnceCell<Arc<Snapshot>>,
    pub viewer: Viewer,
    pub now: Instant,
    pub(crate) stop: Stop,
}

impl std::fmt::Debug for View<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("View").field("viewer", &self.viewer).field("now", &self.now).finish_non_exhaustive()
    }
}

impl Rows for View<'_> {
    fn sql(&self) -> Sql<'_> {
        Sql { conn: self.conn }
    }
}

impl<'a> View<'a> {
    pub(crate) fn new(
        conn: &'a Connection,
        histories: &'a Histories,
        shared: &'a dyn Shared,
        Looker { viewer, now, stop }: Looker,
    ) -> Self {
        Self { conn, histories, shared, facts: OnceCell::new(), viewer, now, stop }
    }

    /// The facts as of what is looked at. They are shared and stay as they are, however long the look takes.
    ///
    /// # Errors
    /// SQLite's own, and [`crate::StoreError::Stopped`].
    pub fn facts(&self) -> Result<&Snapshot> {
        if let Some(facts) = self.facts.get() {
            return Ok(facts);
        }
        let facts = self.shared.facts(self.conn)?;
        self.go_on()?;
        Ok(self.facts.get_or_init(|| facts))
    }

    /// Whether the look is still wanted.
    ///
    /// # Errors
    /// [`crate::StoreError::Stopped`] where it is not.
    pub fn go_on(&self) -> Result<()> {
        self.stop.check()
    }
}

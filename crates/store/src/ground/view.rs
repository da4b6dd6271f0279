//! What a read has at hand: one state of the data, the facts as of it, the instant, and who looks.

use super::{
    error::Result,
    in_memory::InMemory,
    pool::Stop,
    sql::{Rows, Sql},
    viewer::Viewer,
};
use rusqlite::Connection;
use std::{cell::OnceCell, sync::Arc};
use tally_core::{
    facts::{AsOf, Snapshot},
    ground::time::Instant,
};

/// Where a view gets what many looks share.
pub(crate) trait Shared {
    /// A handle to the facts, at least as new as what the connection sees.
    fn facts(&self, conn: &Connection) -> Result<Arc<Snapshot>>;

    /// The same as they were at a past instant.
    fn past(&self, conn: &Connection, facts: &Snapshot, then: AsOf) -> Result<Arc<Snapshot>>;
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
    pub(crate) in_memory: &'a InMemory,
    shared: &'a dyn Shared,
    facts: OnceCell<Arc<Snapshot>>,
    /// Of a look into the past: the facts of today, which say who may see what.
    today: Option<Arc<Snapshot>>,
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
        in_memory: &'a InMemory,
        shared: &'a dyn Shared,
        Looker { viewer, now, stop }: Looker,
    ) -> Self {
        Self { conn, in_memory, shared, facts: OnceCell::new(), today: None, viewer, now, stop }
    }

    /// The same look as of a past instant, by what was known then; none of both is now.
    ///
    /// # Errors
    /// [`crate::StoreError::Invalid`] for what lies ahead, SQLite's own, and [`crate::StoreError::Stopped`].
    pub fn then(&self, as_of: Option<Instant>, known_at: Option<Instant>) -> Result<View<'a>> {
        let mut then = Self {
            conn: self.conn,
            in_memory: self.in_memory,
            shared: self.shared,
            facts: self.facts.clone(),
            today: self.today.clone(),
            viewer: self.viewer.clone(),
            now: self.now,
            stop: self.stop.clone(),
        };
        if let Some(asked) = AsOf::asked(self.now, as_of, known_at)? {
            let today = self.shared_facts()?;
            then.facts = OnceCell::from(self.shared.past(self.conn, today, asked)?);
            then.today = Some(today.clone());
            then.now = asked.at;
            self.go_on()?;
        }
        Ok(then)
    }

    /// The facts as of what is looked at. They are shared and stay as they are, however long the look takes.
    ///
    /// # Errors
    /// SQLite's own, and [`crate::StoreError::Stopped`].
    pub fn facts(&self) -> Result<&Snapshot> {
        Ok(self.shared_facts()?)
    }

    /// The facts that say who may see what: today's, whatever is looked at.
    ///
    /// # Errors
    /// As [`Self::facts`].
    pub fn today(&self) -> Result<&Snapshot> {
        match &self.today {
            Some(today) => Ok(today),
            None => self.facts(),
        }
    }

    fn shared_facts(&self) -> Result<&Arc<Snapshot>> {
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

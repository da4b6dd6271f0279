//! Who does something, when, in one open transaction.

use crate::ground::{
    error::Result,
    memory::Memory,
    rows::to_json,
    sql::{Rows, Sql},
};
use rusqlite::{Connection, params};
use serde::Serialize;
use std::{cell::Cell, collections::BTreeSet};
use tally_core::{
    access::{
        accounts::Account,
        bounds::Bounds,
        roles::{Action, Role, may},
    },
    ground::{
        ids::{CrewId, PersonId},
        time::Instant,
    },
};

/// On whose behalf something is done.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Actor {
    pub id: PersonId,
    pub code: String,
    pub role: Role,
    pub crew: Option<CrewId>,
    pub account: Account,
    /// How far it reaches in the plant.
    pub bounds: Bounds,
}

/// What a transaction changed that people may be looking at.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize)]
pub struct News {
    /// Codes of meters with new readings; of the first thousand.
    pub meters: BTreeSet<String>,
    /// Alarms began, ended or answered again.
    pub alarms: bool,
    /// Work was raised or moved.
    pub work: bool,
    /// Something that is set up was changed: assets, meters, limits, people, codebooks, settings.
    pub setup: bool,
}

impl News {
    /// Whether there is nothing to tell.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        *self == Self::default()
    }

    /// Takes a meter with new readings down.
    pub(crate) fn read(&mut self, code: &str) {
        if self.meters.len() < 1_000 && !self.meters.contains(code) {
            self.meters.insert(code.into());
        }
    }
}

/// What was touched, by what the audit trail calls it: news, whatever else tells of it.
#[derive(Debug, Clone, Copy, Default)]
struct Touched {
    alarms: bool,
    work: bool,
    setup: bool,
}

impl Touched {
    /// By the kind of subject: the day's business, or something that is set up.
    fn with(self, kind: &str) -> Self {
        match kind {
            "alarm" | "late reading" => Self { alarms: true, ..self },
            "work order" | "downtime" | "delivery" => Self { work: true, ..self },
            // Nothing was changed.
            "request" | "file" => self,
            _ => Self { setup: true, ..self },
        }
    }
}

/// One open write transaction, with its person and its instant. Everything done through it is kept or none of it.
#[derive(Debug)]
pub struct Tx<'a> {
    pub(crate) conn: &'a Connection,
    pub(crate) memory: &'a mut Memory,
    pub(crate) news: News,
    /// By the audit trail.
    touched: Cell<Touched>,
    pub actor: Actor,
    pub now: Instant,
}

impl Rows for Tx<'_> {
    fn sql(&self) -> Sql<'_> {
        Sql { conn: self.conn }
    }
}

impl<'a> Tx<'a> {
    pub(crate) fn new(conn: &'a Connection, memory: &'a mut Memory, actor: Actor, now: Instant) -> Self {
        Self { conn, memory, news: News::default(), touched: Cell::default(), actor, now }
    }

    /// What it changed, as far as it has come.
    pub(crate) fn news(self) -> News {
        let touched = self.touched.get();
        let mut news = self.news;
        news.alarms |= touched.alarms;
        news.work |= touched.work;
        news.setup |= touched.setup;
        news
    }

    /// # Errors
    /// [`crate::StoreError::MayNot`] when the person's role does not reach so far.
    pub(crate) fn require(&self, action: Action) -> Result<()> {
        Ok(may(self.actor.role, action)?)
    }

    /// Tells that something of that kind was touched, for what has no line in the audit trail.
    pub(crate) fn touch(&self, kind: &str) {
        self.touched.set(self.touched.get().with(kind));
    }

    /// Writes a line into the audit trail.
    pub(crate) fn audit(&self, action: &str, kind: &str, subject: &str, detail: &impl Serialize) -> Result<()> {
        self.touch(kind);
        let mut insert = self.conn.prepare_cached(
            "INSERT INTO audit (at, person_id, action, subject_kind, subject, detail) VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
        )?;
        let detail = to_json(detail);
        insert.execute(params![self.now, self.actor.id, action, kind, subject, detail])?;
        Ok(())
    }
}

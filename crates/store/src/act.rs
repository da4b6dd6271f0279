//! Who does something, when, in one open transaction.

use crate::{error::Result, meter_states::MeterStates};
use rusqlite::{Connection, params};
use serde::Serialize;
use std::{cell::Cell, collections::BTreeSet};
use tally_core::{
    ids::{CrewId, PersonId},
    people::{Action, Role, may},
    time::Instant,
};

/// The person on whose behalf something is done.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Actor {
    pub id: PersonId,
    pub code: String,
    pub role: Role,
    pub crew: Option<CrewId>,
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

/// Kinds of subject that are the day's business, and not set up; other news tells of them.
const OF_THE_DAY: [&str; 5] = ["work order", "alarm", "late reading", "downtime", "delivery"];

/// One open write transaction, with its person and its instant. Everything done through it is kept or none of it.
#[derive(Debug)]
pub struct Act<'a> {
    pub(crate) conn: &'a Connection,
    pub(crate) meters: &'a mut MeterStates,
    pub(crate) news: News,
    /// Something that is set up was written into the audit trail.
    pub(crate) set_up: Cell<bool>,
    pub actor: Actor,
    pub now: Instant,
}

impl Act<'_> {
    /// The open transaction, to look at what it holds so far.
    #[must_use]
    pub fn conn(&self) -> &Connection {
        self.conn
    }

    /// # Errors
    /// [`crate::StoreError::MayNot`] when the person's role does not reach so far.
    pub(crate) fn require(&self, action: Action) -> Result<()> {
        Ok(may(self.actor.role, action)?)
    }

    /// Writes a line into the audit trail.
    pub(crate) fn audit(&self, action: &str, kind: &str, subject: &str, detail: &impl Serialize) -> Result<()> {
        if !OF_THE_DAY.contains(&kind) {
            self.set_up.set(true);
        }
        let mut insert = self.conn.prepare_cached(
            "INSERT INTO audit (at, person_id, action, subject_kind, subject, detail) VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
        )?;
        let detail = crate::rows::to_json(detail);
        insert.execute(params![self.now.ms(), self.actor.id.0, action, kind, subject, detail])?;
        Ok(())
    }
}

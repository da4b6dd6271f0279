//! Who sees which work: the one door to its rows. What a role sees is core's to say; here it becomes a condition in SQL.

use crate::ground::{
    error::{Result, StoreError},
    tx::{Actor, Tx},
};
use rusqlite::Connection;
use tally_core::{
    access::seen::{Whose, WorkSeen},
    ground::ids::{CrewId, PersonId, WorkOrderId},
};

/// The work that somebody sees; all of it by default.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Seen {
    work: WorkSeen,
    person: PersonId,
    crew: Option<CrewId>,
}

impl Default for Seen {
    fn default() -> Self {
        Self { work: WorkSeen::All, person: PersonId(0), crew: None }
    }
}

impl From<&Actor> for Seen {
    fn from(actor: &Actor) -> Self {
        Self { work: actor.role.sees_work(), person: actor.id, crew: actor.crew }
    }
}

impl Seen {
    /// As a condition on rows of `work_orders` by that name; what [`WorkSeen::includes`] says, for many at once.
    pub(crate) fn condition(&self, w: &str) -> String {
        let person = self.person.0;
        match self.work {
            WorkSeen::All => "1".into(),
            WorkSeen::None => "0".into(),
            WorkSeen::Own => format!("{w}.raised_by = {person}"),
            WorkSeen::OwnCrew => {
                let crew = self.crew.map_or_else(|| "0".into(), |crew| format!("{w}.crew_id = {}", crew.0));
                format!(
                    "({w}.crew_id IS NULL OR {crew} OR {w}.raised_by = {person} OR {w}.assignee_id IS {person}
                      OR {w}.asked_id IS {person})"
                )
            }
        }
    }

    /// Whether it is all there is.
    #[must_use]
    pub fn is_all(&self) -> bool {
        self.work == WorkSeen::All
    }

    /// Refuses a work order that is not to be seen.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] for one there is not, [`StoreError::NotTheirs`] for another's.
    pub(crate) fn require(&self, conn: &Connection, number: WorkOrderId) -> Result<()> {
        if self.is_all() || self.work.includes(whose(conn, number)?, self.person, self.crew) {
            return Ok(());
        }
        let whose = match self.work {
            WorkSeen::OwnCrew => "another crew's",
            _ => "not yours to see",
        };
        Err(StoreError::NotTheirs(format!("work order {number} is {whose}")))
    }
}

fn whose(conn: &Connection, number: WorkOrderId) -> Result<Whose> {
    let mut select =
        conn.prepare_cached("SELECT crew_id, assignee_id, raised_by, asked_id FROM work_orders WHERE number = ?1")?;
    let mut rows = select.query([number])?;
    let row = rows.next()?.ok_or_else(|| StoreError::not_found("work order", number))?;
    Ok(Whose { crew: row.get(0)?, assignee: row.get(1)?, raised_by: row.get(2)?, asked: row.get(3)? })
}

impl Tx<'_> {
    /// Nobody works on what they don't see.
    ///
    /// # Errors
    /// As [`Seen::require`].
    pub(crate) fn require_seen(&self, number: WorkOrderId) -> Result<()> {
        Seen::from(&self.actor).require(self.conn, number)
    }
}

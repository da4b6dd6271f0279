//! Who looks, and the one door to the work they see. What a role sees is core's to say; here it becomes a condition in SQL.

use crate::ground::{
    error::{Result, StoreError},
    reach,
    reach::Named,
    tx::{Actor, Tx},
};
use rusqlite::{Connection, params};
use tally_core::{
    access::{
        bounds::Bounds,
        roles::Role,
        seen::{Topic, Whose, WorkSeen, may_see},
    },
    ground::ids::{CrewId, PersonId, WorkOrderId},
    lists::Sees,
};

/// Who looks.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Viewer {
    role: Role,
    person: PersonId,
    crew: Option<CrewId>,
    bounds: Bounds,
}

impl From<&Actor> for Viewer {
    fn from(actor: &Actor) -> Self {
        Self { role: actor.role, person: actor.id, crew: actor.crew, bounds: actor.bounds.clone() }
    }
}

impl Viewer {
    /// One that sees everything, and is nobody.
    #[must_use]
    pub fn all() -> Self {
        Self { role: Role::Administrator, person: PersonId(0), crew: None, bounds: Bounds::None }
    }

    /// Whether the viewer sees that at all.
    #[must_use]
    pub fn sees(&self, topic: Topic) -> bool {
        self.role.sees(topic) && !(topic.is_of_whole() && self.bounds.is_bounded())
    }

    /// Who looks.
    pub(crate) fn person(&self) -> PersonId {
        self.person
    }

    /// The viewer's own crew.
    pub(crate) fn crew(&self) -> Option<CrewId> {
        self.crew
    }

    /// Whose work the viewer sees, in a list.
    pub(crate) fn sees_work(&self, conn: &Connection) -> Result<Sees> {
        let mut sees = Sees::of(self.role.sees_work(), self.person, self.crew, self.bounds.clone());
        if !self.sees_all_work() {
            let mut reported = conn.prepare_cached("SELECT work_order FROM work_occurrences WHERE recorded_by = ?1")?;
            sees.reported = reported.query_map([self.person], |row| row.get(0))?.collect::<rusqlite::Result<_>>()?;
        }
        Ok(sees)
    }

    /// How far the viewer reaches in the plant.
    #[must_use]
    pub fn bounds(&self) -> &Bounds {
        &self.bounds
    }

    /// As a condition on a column with the id of an asset: whether the viewer reaches it.
    pub(crate) fn reaches(&self, asset: &str) -> String {
        reach::condition(&self.bounds, asset)
    }

    /// As who the viewer may move a work order.
    pub(crate) fn mover(&self) -> (Role, PersonId) {
        (self.role, self.person)
    }

    /// Refuses what the viewer may not look at at all.
    ///
    /// # Errors
    /// [`StoreError::MayNotSee`], [`StoreError::NotTheirs`] for what is of the whole plant.
    pub fn require_topic(&self, topic: Topic) -> Result<()> {
        may_see(self.role, topic)?;
        if topic.is_of_whole() { Ok(self.bounds.require_whole()?) } else { Ok(()) }
    }

    /// As a condition on rows of `work_orders` by that name; what [`WorkSeen::includes`] says, for many at once.
    pub(crate) fn condition(&self, w: &str) -> String {
        match (self.whose(w), self.bounds.is_bounded()) {
            (whose, false) => whose,
            (whose, true) => format!("({whose} AND {})", self.reaches(&format!("{w}.asset_id"))),
        }
    }

    fn whose(&self, w: &str) -> String {
        let person = self.person.0;
        let reported = format!(
            "{w}.number IN (SELECT reported.work_order FROM work_occurrences reported WHERE reported.recorded_by = {person})"
        );
        match self.role.sees_work() {
            WorkSeen::All => "1".into(),
            WorkSeen::None => "0".into(),
            WorkSeen::Own => format!("({w}.raised_by = {person} OR {reported})"),
            WorkSeen::OwnCrew => {
                let crew = self.crew.map_or_else(|| "0".into(), |crew| format!("{w}.crew_id = {}", crew.0));
                format!(
                    "({w}.crew_id IS NULL OR {crew} OR {w}.raised_by = {person} OR {w}.assignee_id IS {person}
                      OR {w}.asked_id IS {person} OR {reported})"
                )
            }
        }
    }

    /// Whether the viewer sees all work, as far as they reach.
    #[must_use]
    pub fn sees_all_work(&self) -> bool {
        self.role.sees_work() == WorkSeen::All
    }

    /// Whether the viewer sees work of that crew whoever it is assigned to: what is only planned.
    #[must_use]
    pub(crate) fn sees_work_of(&self, crew: Option<CrewId>) -> bool {
        self.role.sees_work().includes_crew(crew, self.crew)
    }

    /// Refuses a work order that is not to be seen.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] for one there is not, [`StoreError::NotTheirs`] for another's.
    pub(crate) fn require(&self, conn: &Connection, number: WorkOrderId) -> Result<()> {
        reach::require(conn, &self.bounds, &Named::Order(number))?;
        if self.sees_all_work()
            || self.role.sees_work().includes(whose(conn, number, self.person)?, self.person, self.crew)
        {
            return Ok(());
        }
        let whose = match self.role.sees_work() {
            WorkSeen::OwnCrew => "another crew's",
            _ => "not yours to see",
        };
        Err(StoreError::NotTheirs(format!("work order {number} is {whose}")))
    }
}

fn whose(conn: &Connection, number: WorkOrderId, viewer: PersonId) -> Result<Whose> {
    let mut select = conn.prepare_cached(
        "SELECT crew_id, assignee_id, raised_by, asked_id,
             EXISTS (SELECT 1 FROM work_occurrences WHERE work_order = number AND recorded_by = ?2)
         FROM work_orders WHERE number = ?1",
    )?;
    let mut rows = select.query(params![number, viewer])?;
    let row = rows.next()?.ok_or_else(|| StoreError::not_found("work order", number))?;
    Ok(Whose {
        crew: row.get(0)?,
        assignee: row.get(1)?,
        raised_by: row.get(2)?,
        asked: row.get(3)?,
        reported: row.get(4)?,
    })
}

impl Tx<'_> {
    /// Nobody works on what they don't see.
    ///
    /// # Errors
    /// As [`Viewer::require`].
    pub(crate) fn require_seen(&self, number: WorkOrderId) -> Result<()> {
        Viewer::from(&self.actor).require(self.conn, number)
    }
}

//! Work as a calendar program reads it: under an address that nobody guesses, for a person or a crew, with the eyes of whoever made
//! the address.

use super::upkeep;
use crate::{
    access::people,
    ground::{
        error::{Result, StoreError},
        sql::Rows,
        tx::{Actor, Tx},
        view::View,
    },
};
use rusqlite::{OptionalExtension, params};
use serde::{Deserialize, Serialize};
use tally_core::{
    access::seen::{Topic, may_see},
    ground::{
        ids::{CrewId, PersonId, WorkOrderId},
        time::{DAY, HOUR, Instant},
    },
    work::WorkState,
};
use utoipa::ToSchema;

/// Whose work an address is for.
#[derive(Debug, Clone, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FeedOf {
    /// Code of a crew; without it one's own work.
    pub crew: Option<String>,
}

/// Whose work there can be an address for, and since when there is one.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct FeedRow {
    /// Code of the crew; none of one's own work.
    pub crew: Option<String>,
    pub name: String,
    pub made_at: Option<Instant>,
}

/// Something on a calendar.
#[derive(Debug, Clone, PartialEq)]
pub enum FeedEvent {
    /// An order with its day.
    Order {
        number: WorkOrderId,
        title: String,
        asset: String,
        state: WorkState,
        rank: u8,
        start: Instant,
        end: Instant,
    },
    Cycle(upkeep::CycleAhead),
}

/// One's own work, and that of the crews that one sees, each with its address if it has one.
///
/// # Errors
/// SQLite's own.
pub fn list(view: &View) -> Result<Vec<FeedRow>> {
    let (_, person) = view.viewer.mover();
    let mut select = view.conn.prepare_cached(
        "SELECT NULL, '', (SELECT made_at FROM work_feeds WHERE person_id = ?1 AND crew_id IS NULL), NULL
         UNION ALL SELECT * FROM (SELECT c.code, c.name, f.made_at, c.id FROM crews c
             LEFT JOIN work_feeds f ON f.crew_id = c.id AND f.person_id = ?1 ORDER BY c.name)",
    )?;
    let rows = select.query_map([person], |row| {
        Ok((row.get::<_, Option<CrewId>>(3)?, FeedRow { crew: row.get(0)?, name: row.get(1)?, made_at: row.get(2)? }))
    })?;
    let mut found = rows.collect::<rusqlite::Result<Vec<_>>>()?;
    found.retain(|(crew, _)| crew.is_none() || view.viewer.sees_all_work() || *crew == view.viewer.crew());
    Ok(found.into_iter().map(|(_, row)| row).collect())
}

fn crew_of(tx: &Tx, of: &FeedOf) -> Result<Option<CrewId>> {
    of.crew.as_deref().map(|crew| people::require_crew(tx.conn, crew, "crew")).transpose()
}

/// Makes the address of that hash; the one there was works no more.
///
/// # Errors
/// [`StoreError::MayNotSee`], and [`StoreError::Invalid`] for a crew whose work is not seen.
pub fn renew(tx: &mut Tx, of: &FeedOf, hash: &[u8]) -> Result<()> {
    may_see(tx.actor.role, Topic::Work)?;
    let crew = crew_of(tx, of)?;
    if let Some(crew) = crew
        && !tx.actor.role.sees_work().includes_crew(Some(crew), tx.actor.crew)
    {
        return Err(StoreError::invalid("crew", "its work is not yours to see"));
    }
    take(tx, crew)?;
    tx.conn.execute(
        "INSERT INTO work_feeds (person_id, crew_id, hash, made_at) VALUES (?1, ?2, ?3, ?4)",
        params![tx.actor.id, crew, hash, tx.now],
    )?;
    tx.audit("made", "calendar address", of.crew.as_deref().unwrap_or(&tx.actor.code.clone()), of)
}

/// Takes an address away.
///
/// # Errors
/// [`StoreError::NotFound`] where there is none.
pub fn take_away(tx: &mut Tx, of: &FeedOf) -> Result<()> {
    let crew = crew_of(tx, of)?;
    if take(tx, crew)? == 0 {
        return Err(StoreError::not_found("calendar address", of.crew.as_deref().unwrap_or("of your own work")));
    }
    tx.audit("taken away", "calendar address", of.crew.as_deref().unwrap_or(&tx.actor.code.clone()), of)
}

fn take(tx: &Tx, crew: Option<CrewId>) -> Result<usize> {
    let sql = "DELETE FROM work_feeds WHERE person_id = ?1 AND crew_id IS ?2";
    Ok(tx.conn.execute(sql, params![tx.actor.id, crew])?)
}

/// Who made the address of that hash, and for which crew; none where it does not work.
///
/// # Errors
/// SQLite's own.
pub fn of_hash(rows: &dyn Rows, hash: &[u8]) -> Result<Option<(Actor, Option<CrewId>)>> {
    let conn = rows.sql().conn;
    let mut select = conn.prepare_cached("SELECT person_id, crew_id FROM work_feeds WHERE hash = ?1")?;
    let found: Option<(PersonId, Option<CrewId>)> =
        select.query_row([hash], |row| Ok((row.get(0)?, row.get(1)?))).optional()?;
    let Some((person, crew)) = found else { return Ok(None) };
    Ok(people::active(rows, person)?.map(|actor| (actor, crew)))
}

/// Days back, and days of upkeep ahead, that an address shows.
const BACK_MS: i64 = 30 * DAY;

/// What stands on the calendar of a crew, or of whoever looks: open orders with their days; of a crew also the upkeep of the year
/// ahead.
///
/// # Errors
/// SQLite's own.
pub fn events(view: &View, crew: Option<CrewId>) -> Result<Vec<FeedEvent>> {
    let (_, person) = view.viewer.mover();
    let whose = if crew.is_some() { "w.crew_id IS ?1" } else { "w.assignee_id IS ?2" };
    let mut select = view.conn.prepare_cached(&format!(
        "SELECT w.number, w.title, a.name, w.state, w.risk_rank, w.scheduled_start, w.scheduled_end, w.estimated_hours
         FROM work_orders w JOIN assets a ON a.id = w.asset_id
         WHERE w.scheduled_start >= ?3 AND w.state IN ('raised', 'planning', 'waiting', 'ready', 'scheduled', 'under_way')
             AND {whose} AND (?1 IS NOT NULL OR ?2 IS NOT NULL) AND {} ORDER BY w.scheduled_start, w.number",
        view.viewer.condition("w")
    ))?;
    let rows = select.query_map(params![crew, person, view.now.plus(-BACK_MS)], |row| {
        let (start, end): (Instant, Option<Instant>) = (row.get(5)?, row.get(6)?);
        let hours = row.get::<_, Option<f64>>(7)?.unwrap_or(1.0).max(0.25);
        Ok(FeedEvent::Order {
            number: row.get(0)?,
            title: row.get(1)?,
            asset: row.get(2)?,
            state: row.get(3)?,
            rank: row.get(4)?,
            start,
            end: end.unwrap_or_else(|| start.plus((hours * HOUR as f64) as i64)),
        })
    })?;
    let mut events = rows.collect::<rusqlite::Result<Vec<_>>>()?;
    if let Some(crew) = crew {
        events.extend(upkeep::ahead_of_crew(view, crew)?.into_iter().map(FeedEvent::Cycle));
    }
    Ok(events)
}

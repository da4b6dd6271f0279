//! Operating calendars and the assets that have one of their own.

use crate::{
    ground::{
        error::{Result, StoreError},
        rows::{from_json, to_json},
        sql::Rows,
        tx::Tx,
    },
    plant::assets,
};
use jiff::civil::Date;
use rusqlite::{OptionalExtension, params};
use serde::{Deserialize, Serialize};
use tally_core::{
    access::roles::Action,
    ground::{
        calendar::{Calendar, Season, WeeklyHours},
        ids::{AssetId, CalendarId},
        time::Instant,
    },
    plant::assets::parse_code,
};
use utoipa::ToSchema;

/// A calendar to add.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
#[serde(from = "Flat")]
pub struct NewCalendar {
    pub code: String,
    pub name: String,
    #[serde(flatten)]
    pub calendar: Calendar,
}

/// A calendar as it is sent: read field by field, so that one at fault is named.
#[derive(Deserialize)]
struct Flat {
    code: String,
    name: String,
    time_zone: String,
    hours: Vec<WeeklyHours>,
    #[serde(default)]
    seasons: Vec<Season>,
    #[serde(default)]
    closed: Vec<Date>,
}

impl From<Flat> for NewCalendar {
    fn from(Flat { code, name, time_zone, hours, seasons, closed }: Flat) -> Self {
        Self { code, name, calendar: Calendar { time_zone, hours, seasons, closed } }
    }
}

fn check(new: &NewCalendar) -> Result<()> {
    new.calendar.check().map_err(|error| StoreError::invalid(error.field(), error))?;
    if new.name.trim().is_empty() {
        return Err(StoreError::invalid("name", "a calendar needs a name"));
    }
    Ok(())
}

/// Adds a calendar.
///
/// # Errors
/// [`StoreError::Invalid`] for a bad code or hours no week has, [`StoreError::Conflict`] for a code that is taken.
pub fn add(tx: &mut Tx, new: &NewCalendar) -> Result<CalendarId> {
    tx.require(Action::ChangeMasterData)?;
    let code = parse_code(&new.code).map_err(|error| StoreError::invalid("code", error))?;
    check(new)?;
    if tx.conn.prepare("SELECT 1 FROM calendars WHERE code = ?1")?.exists([&code])? {
        return Err(StoreError::Conflict(format!("there is a calendar {code} already")));
    }
    tx.conn.execute(
        "INSERT INTO calendars (code, name, definition) VALUES (?1, ?2, ?3)",
        params![code, new.name.trim(), to_json(&new.calendar)],
    )?;
    let id = CalendarId(tx.conn.last_insert_rowid());
    tx.audit("added", "calendar", &code, new)?;
    Ok(id)
}

/// A calendar as listed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct CalendarView {
    pub code: String,
    pub name: String,
    pub calendar: Calendar,
    /// Assets that have it now, not counting what is below them.
    pub assets: i64,
}

/// All calendars, by name.
///
/// # Errors
/// SQLite's own, and [`StoreError::Corrupt`].
pub fn list(rows: &dyn Rows) -> Result<Vec<CalendarView>> {
    let conn = rows.sql().conn;
    let mut select = conn.prepare_cached(
        "SELECT c.code, c.name, c.definition,
             (SELECT count(*) FROM asset_calendars s WHERE s.calendar_id = c.id AND s.to_at IS NULL) AS assets
         FROM calendars c ORDER BY c.name, c.code",
    )?;
    let mut rows = select.query([])?;
    let mut calendars = Vec::new();
    while let Some(row) = rows.next()? {
        calendars.push(CalendarView {
            code: row.get("code")?,
            name: row.get("name")?,
            calendar: from_json("calendars", &row.get::<_, String>("definition")?)?,
            assets: row.get("assets")?,
        });
    }
    Ok(calendars)
}

/// Writes a calendar's name and hours anew. They hold for all time, past figures included; for other hours from a date
/// on, give the calendar a season, or the assets another calendar.
///
/// # Errors
/// [`StoreError::NotFound`], or [`StoreError::Invalid`] for hours no week has.
pub fn change(tx: &mut Tx, code: &str, new: &NewCalendar) -> Result<()> {
    tx.require(Action::ChangeMasterData)?;
    check(new)?;
    let changed = tx.conn.execute(
        "UPDATE calendars SET name = ?2, definition = ?3 WHERE code = ?1",
        params![code, new.name.trim(), to_json(&new.calendar)],
    )?;
    if changed == 0 {
        return Err(StoreError::not_found("calendar", code));
    }
    tx.audit("changed", "calendar", code, new)
}

/// Gives an asset, and all below it without one of their own, a calendar from an instant on.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown asset or calendar.
pub fn assign(tx: &mut Tx, asset: &str, calendar: &str, from: Instant) -> Result<()> {
    let id = assets::require(tx.conn, asset)?;
    assign_id(tx, id, asset, calendar, from)
}

/// Ends what the asset's calendar is from an instant on.
fn end(tx: &Tx, asset: AssetId, from: Instant) -> Result<()> {
    tx.conn.execute("DELETE FROM asset_calendars WHERE asset_id = ?1 AND from_at >= ?2", params![asset, from])?;
    tx.conn.execute(
        "UPDATE asset_calendars SET to_at = ?2 WHERE asset_id = ?1 AND (to_at IS NULL OR to_at > ?2)",
        params![asset, from],
    )?;
    Ok(())
}

/// From an instant on, the asset has the calendar of its parent.
///
/// # Errors
/// SQLite's own.
pub(crate) fn unassign(tx: &mut Tx, asset: AssetId, code: &str, from: Instant) -> Result<()> {
    tx.require(Action::ChangeMasterData)?;
    end(tx, asset, from)?;
    tx.audit("calendar taken away", "asset", code, &serde_json::json!({ "from": from }))
}

/// As [`assign`], for an asset that is known.
pub(crate) fn assign_id(tx: &mut Tx, asset_id: AssetId, asset: &str, calendar: &str, from: Instant) -> Result<()> {
    tx.require(Action::ChangeMasterData)?;
    let found: Option<i64> =
        tx.conn.query_row("SELECT id FROM calendars WHERE code = ?1", [calendar], |row| row.get(0)).optional()?;
    let calendar_id = found.ok_or_else(|| StoreError::not_found("calendar", calendar))?;
    end(tx, asset_id, from)?;
    tx.conn.execute(
        "INSERT INTO asset_calendars (asset_id, calendar_id, from_at, recorded_at, recorded_by) VALUES (?1, ?2, ?3, ?4, ?5)",
        params![asset_id, calendar_id, from, tx.now, tx.actor.id],
    )?;
    tx.audit("calendar assigned", "asset", asset, &serde_json::json!({ "calendar": calendar, "from": from }))
}

//! Operating calendars and the assets that have one of their own.

use crate::{
    act::Act,
    assets,
    error::{Result, StoreError},
    rows::to_json,
};
use rusqlite::{OptionalExtension, params};
use serde::{Deserialize, Serialize};
use tally_core::{
    assets::parse_code,
    calendar::Calendar,
    ids::{AssetId, CalendarId},
    people::Action,
    time::Instant,
};
use utoipa::ToSchema;

/// A calendar to add.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct NewCalendar {
    pub code: String,
    pub name: String,
    #[serde(flatten)]
    pub calendar: Calendar,
}

/// Adds a calendar.
///
/// # Errors
/// [`StoreError::Invalid`] for a bad code or hours no week has, [`StoreError::Conflict`] for a code that is taken.
pub fn add(act: &mut Act, new: &NewCalendar) -> Result<CalendarId> {
    act.require(Action::ChangeMasterData)?;
    let code = parse_code(&new.code).map_err(|error| StoreError::invalid("code", error))?;
    new.calendar.check().map_err(|error| StoreError::invalid("hours", error))?;
    if act.conn.prepare("SELECT 1 FROM calendars WHERE code = ?1")?.exists([&code])? {
        return Err(StoreError::Conflict(format!("there is a calendar {code} already")));
    }
    act.conn.execute(
        "INSERT INTO calendars (code, name, definition) VALUES (?1, ?2, ?3)",
        params![code, new.name.trim(), to_json(&new.calendar)],
    )?;
    let id = CalendarId(act.conn.last_insert_rowid());
    act.audit("added", "calendar", &code, new)?;
    Ok(id)
}

/// Gives an asset, and all below it without one of their own, a calendar from an instant on.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown asset or calendar.
pub fn assign(act: &mut Act, asset: &str, calendar: &str, from: Instant) -> Result<()> {
    act.require(Action::ChangeMasterData)?;
    let AssetId(asset_id) = assets::require(act.conn, asset)?;
    let found: Option<i64> =
        act.conn.query_row("SELECT id FROM calendars WHERE code = ?1", [calendar], |row| row.get(0)).optional()?;
    let calendar_id = found.ok_or_else(|| StoreError::not_found("calendar", calendar))?;
    act.conn
        .execute("DELETE FROM asset_calendars WHERE asset_id = ?1 AND from_at >= ?2", params![asset_id, from.ms()])?;
    act.conn.execute(
        "UPDATE asset_calendars SET to_at = ?2 WHERE asset_id = ?1 AND (to_at IS NULL OR to_at > ?2)",
        params![asset_id, from.ms()],
    )?;
    act.conn.execute(
        "INSERT INTO asset_calendars (asset_id, calendar_id, from_at, recorded_at, recorded_by) VALUES (?1, ?2, ?3, ?4, ?5)",
        params![asset_id, calendar_id, from.ms(), act.now.ms(), act.actor.id.0],
    )?;
    act.audit("calendar assigned", "asset", asset, &serde_json::json!({ "calendar": calendar, "from": from }))
}

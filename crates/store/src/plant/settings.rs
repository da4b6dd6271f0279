//! What holds for the whole installation.

use crate::{
    access::people,
    ground::{
        base,
        base::SETTINGS,
        error::{Result, StoreError},
        rows::{from_json, to_json},
        sql::Rows,
        tx::Tx,
    },
    plant::master::FieldChange,
};
use jiff::tz::TimeZone;
use rusqlite::{OptionalExtension, params};
use serde::{Deserialize, Serialize};
use tally_core::{
    access::{approval::second, roles::Action},
    ground::{calendar, time::Instant},
    plant::settings::{LOCALES, Settings},
    work::{StateLimit, WorkState},
};
use utoipa::ToSchema;

/// That danger rungs shall need no second engineer any more, as proposed by one engineer: it takes another.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct ProposedOff {
    /// Code of who proposed it.
    pub by: String,
    pub by_name: String,
    pub at: Instant,
}

/// The settings with what waits for a second engineer.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct SettingsView {
    #[serde(flatten)]
    pub settings: Settings,
    pub second_approval_off: Option<ProposedOff>,
    /// States that a limit can be set on.
    pub limited_states: Vec<WorkState>,
    /// Ways to write numbers and dates that can be chosen.
    pub locales: Vec<&'static str>,
    /// The number of the last change, to be given back as what a write is based on.
    pub change: i64,
}

const PROPOSED_OFF: &str = "second_approval_off";

/// The settings in force, with what waits for a second engineer.
///
/// # Errors
/// [`StoreError::Corrupt`] for a row that can't be read.
pub fn view(rows: &dyn Rows) -> Result<SettingsView> {
    let conn = rows.sql().conn;
    let (second_approval_off, change) = (kept(conn, PROPOSED_OFF)?, base::version(conn, base::Edited::Settings)?);
    Ok(SettingsView {
        settings: get(conn)?,
        second_approval_off,
        limited_states: StateLimit::states(),
        locales: LOCALES.to_vec(),
        change,
    })
}

/// A second engineer's yes to that none is needed any more.
///
/// # Errors
/// [`StoreError::NotFound`] where nothing is proposed, [`StoreError::NotTheirs`] for whoever proposed it.
pub fn approve_off(tx: &mut Tx) -> Result<()> {
    tx.require(Action::SetLimits)?;
    let proposed = proposed_off(tx)?;
    second(&proposed.by, &tx.actor.code, tx.actor.account)?;
    forget(tx, PROPOSED_OFF)?;
    let before = get(tx.conn)?;
    let after = Settings { second_approval: false, ..before.clone() };
    put(tx, SETTINGS, &after)?;
    tx.audit("changed", "settings", SETTINGS, &changes(&before, &after))
}

/// Takes that proposal back, or turns it down.
///
/// # Errors
/// [`StoreError::NotFound`] where nothing is proposed.
pub fn turn_down_off(tx: &mut Tx) -> Result<()> {
    tx.require(Action::SetLimits)?;
    let proposed = proposed_off(tx)?;
    forget(tx, PROPOSED_OFF)?;
    tx.audit("turned down", "settings", PROPOSED_OFF, &proposed)
}

fn proposed_off(tx: &Tx) -> Result<ProposedOff> {
    kept(tx.conn, PROPOSED_OFF)?.ok_or_else(|| StoreError::not_found("proposal", PROPOSED_OFF))
}

fn forget(tx: &Tx, key: &str) -> Result<()> {
    tx.conn.execute("DELETE FROM settings WHERE key = ?1", [key])?;
    Ok(())
}

/// The settings in force.
///
/// # Errors
/// [`StoreError::Corrupt`] for a row that can't be read.
pub fn get(rows: &dyn Rows) -> Result<Settings> {
    let conn = rows.sql().conn;
    let text: Option<String> = conn
        .prepare_cached("SELECT value FROM settings WHERE key = ?1")?
        .query_row([SETTINGS], |row| row.get(0))
        .optional()?;
    text.map_or_else(|| Ok(Settings::default()), |text| from_json("settings", &text))
}

/// Replaces the settings. That danger rungs need no second engineer any more is only proposed: it takes another.
///
/// # Errors
/// [`StoreError::Invalid`] for a currency that is no ISO code, an unknown zone, a month beyond 12 or windows that fall.
pub fn set(tx: &mut Tx, settings: &Settings) -> Result<()> {
    tx.require(Action::ChangeMasterData)?;
    settings.check()?;
    for (place, limit) in settings.state_limits.iter().enumerate() {
        if let Some(crew) = &limit.crew {
            people::require_crew(tx.conn, crew, &format!("state_limits[{place}].crew"))?;
        }
    }
    let before = get(tx.conn)?;
    settings.check_after(&before, tx.conn.prepare("SELECT 1 FROM entries LIMIT 1")?.exists([])?)?;
    let ends = before.second_approval && !settings.second_approval;
    let after = Settings { second_approval: settings.second_approval || ends, ..settings.clone() };
    if ends {
        // Whoever may do without a second engineer is not to decide that alone.
        let by_name = tx.conn.query_row("SELECT name FROM people WHERE id = ?1", [tx.actor.id.0], |row| row.get(0))?;
        let proposed = ProposedOff { by: tx.actor.code.clone(), by_name, at: tx.now };
        put(tx, PROPOSED_OFF, &proposed)?;
        tx.audit("proposed", "settings", PROPOSED_OFF, &proposed)?;
    }
    put(tx, SETTINGS, &after)?;
    tx.audit("changed", "settings", SETTINGS, &changes(&before, &after))
}

/// The installation's time zone.
///
/// # Errors
/// SQLite's own, and [`StoreError::Corrupt`].
pub fn time_zone(rows: &dyn Rows) -> Result<TimeZone> {
    let conn = rows.sql().conn;
    calendar::zone(&get(conn)?.time_zone).map_err(|error| StoreError::corrupt("settings", error))
}

/// What differs, field by field.
fn changes(before: &Settings, after: &Settings) -> Vec<FieldChange> {
    let fields = |settings: &Settings| match serde_json::to_value(settings) {
        Ok(serde_json::Value::Object(fields)) => fields,
        other => unreachable!("settings are written as an object, not {other:?}"),
    };
    let text = |value: Option<&serde_json::Value>| match value {
        Some(serde_json::Value::String(text)) => text.clone(),
        Some(other) => other.to_string(),
        None => String::new(),
    };
    let before = fields(before);
    let differs = fields(after).into_iter().filter(|(field, value)| before.get(field) != Some(value));
    differs.map(|(field, to)| FieldChange { from: text(before.get(&field)), to: text(Some(&to)), field }).collect()
}

/// Keeps a value of the program's own, such as the demo's day.
///
/// # Errors
/// SQLite's own.
pub fn put(tx: &mut Tx, key: &str, value: &impl Serialize) -> Result<()> {
    tx.conn.execute(
        "INSERT INTO settings (key, value) VALUES (?1, ?2) ON CONFLICT (key) DO UPDATE SET value = excluded.value",
        params![key, to_json(value)],
    )?;
    Ok(())
}

/// A value of the program's own.
///
/// # Errors
/// SQLite's own, and [`StoreError::Corrupt`].
pub fn kept<T: serde::de::DeserializeOwned>(rows: &dyn Rows, key: &str) -> Result<Option<T>> {
    let conn = rows.sql().conn;
    let text: Option<String> =
        conn.query_row("SELECT value FROM settings WHERE key = ?1", [key], |row| row.get(0)).optional()?;
    text.map(|text| from_json("settings", &text)).transpose()
}

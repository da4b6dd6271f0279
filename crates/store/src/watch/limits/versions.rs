//! Versions of ladders as they were set, the newest with what waits for approval, and what differs between two.

use crate::{
    ground::{
        error::{Result, StoreError},
        rows::from_json,
        sql::Rows,
    },
    watch::meters,
};
use rusqlite::{Connection, OptionalExtension};
use serde::Serialize;
use tally_core::{
    ground::{ids::MeterId, time::Instant},
    watch::limits::{
        Ladder,
        changes::{LadderChange, changes},
    },
};
use utoipa::ToSchema;

/// A version as listed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct VersionRow {
    pub number: i64,
    pub starts_at: Instant,
    pub reason: String,
    pub author: String,
    /// The second engineer, where one was needed.
    pub approved_by: Option<String>,
}

/// A version that waits for a second engineer.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct ProposedLadder {
    #[serde(flatten)]
    pub ladder: Ladder,
    pub reason: String,
    pub at: Instant,
    /// Code and name of who proposed it.
    pub by: String,
    pub by_name: String,
    pub changes: Vec<LadderChange>,
}

/// The newest version with the versions before it. A meter without any has number 0 and no rungs.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct LadderView {
    pub number: i64,
    #[serde(flatten)]
    pub ladder: Ladder,
    /// Newest first.
    pub versions: Vec<VersionRow>,
    /// What waits for a second engineer.
    pub proposed: Option<Box<ProposedLadder>>,
}

/// What differs between two versions of a meter's ladder; version 0 has no rungs.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct LadderChanges {
    pub from: i64,
    pub to: i64,
    pub changes: Vec<LadderChange>,
}

/// What differs between two versions.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown meter or version.
pub fn changes_between(rows: &dyn Rows, code: &str, from: i64, to: i64) -> Result<LadderChanges> {
    let conn = rows.sql().conn;
    let meter = meters::require(conn, code)?;
    let of = |number| if number == 0 { Ok(Ladder::default()) } else { version(conn, meter, number) };
    let rules = meters::rules_of(conn, meter)?;
    Ok(LadderChanges { from, to, changes: changes(&of(from)?, &of(to)?, &rules) })
}

/// The version before that one; no rungs where there is none.
pub(super) fn newest_but(conn: &Connection, meter: MeterId, number: i64) -> Result<Ladder> {
    if number > 1 { version(conn, meter, number - 1) } else { Ok(Ladder::default()) }
}

/// When the newest version began.
pub(crate) fn newest_since(conn: &Connection, meter: MeterId) -> Result<Option<Instant>> {
    let mut select =
        conn.prepare_cached("SELECT starts_at FROM ladder_versions WHERE meter_id = ?1 ORDER BY number DESC LIMIT 1")?;
    Ok(select.query_row([meter], |row| row.get(0)).optional()?.map(Instant::from_ms))
}

/// The newest version; no rungs where there is none.
pub(crate) fn newest(conn: &Connection, meter: MeterId) -> Result<Ladder> {
    let mut select =
        conn.prepare_cached("SELECT definition FROM ladder_versions WHERE meter_id = ?1 ORDER BY number DESC LIMIT 1")?;
    let text: Option<String> = select.query_row([meter], |row| row.get(0)).optional()?;
    text.map_or_else(|| Ok(Ladder::default()), |text| from_json("ladder_versions", &text))
}

/// The newest version and the list of versions.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown meter.
pub fn view(rows: &dyn Rows, code: &str) -> Result<LadderView> {
    let conn = rows.sql().conn;
    let meter = meters::require(conn, code)?;
    let mut select = conn.prepare_cached(
        "SELECT v.number, v.starts_at, v.reason, p.name, s.name AS second FROM ladder_versions v
         JOIN people p ON p.id = v.recorded_by LEFT JOIN people s ON s.id = v.approved_by
         WHERE v.meter_id = ?1 ORDER BY v.number DESC",
    )?;
    let versions = select.query_map([meter], |row| {
        Ok(VersionRow {
            number: row.get(0)?,
            starts_at: row.get("starts_at")?,
            reason: row.get(2)?,
            author: row.get(3)?,
            approved_by: row.get("second")?,
        })
    })?;
    let versions: Vec<VersionRow> = versions.collect::<rusqlite::Result<_>>()?;
    let number = versions.first().map_or(0, |version| version.number);
    let ladder = if number == 0 { Ladder::default() } else { version(conn, meter, number)? };
    let proposed = proposed_view(conn, meter, &ladder)?.map(Box::new);
    Ok(LadderView { number, ladder, versions, proposed })
}

fn proposed_view(conn: &Connection, meter: MeterId, newest: &Ladder) -> Result<Option<ProposedLadder>> {
    let found = conn
        .prepare_cached(
            "SELECT l.definition, l.reason, l.recorded_at, p.code, p.name FROM proposed_ladders l
             JOIN people p ON p.id = l.recorded_by WHERE l.meter_id = ?1",
        )?
        .query_row([meter], |row| {
            Ok((row.get::<_, String>(0)?, row.get(1)?, row.get("recorded_at")?, row.get(3)?, row.get(4)?))
        })
        .optional()?;
    let Some((text, reason, at, by, by_name)) = found else { return Ok(None) };
    let ladder: Ladder = from_json("proposed_ladders", &text)?;
    let changes = changes(newest, &ladder, &meters::rules_of(conn, meter)?);
    Ok(Some(ProposedLadder { ladder, reason, at, by, by_name, changes }))
}

/// One version of a meter's ladder.
pub(crate) fn version(conn: &Connection, meter: MeterId, number: i64) -> Result<Ladder> {
    let text: Option<String> = conn
        .prepare_cached("SELECT definition FROM ladder_versions WHERE meter_id = ?1 AND number = ?2")?
        .query_row([meter.0, number], |row| row.get(0))
        .optional()?;
    from_json("ladder_versions", &text.ok_or_else(|| StoreError::not_found("ladder version", number))?)
}

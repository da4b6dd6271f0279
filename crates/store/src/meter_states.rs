//! What the writer remembers of meters between batches, so that a reading costs one insert.
//!
//! True for kept transactions only: [`crate::Store::write`] forgets it all when one goes back.

use crate::{
    error::{Result, StoreError},
    limits::{self, Running},
    meters,
    rows::maybe_instant,
};
use rusqlite::{Connection, OptionalExtension};
use std::collections::HashMap;
use tally_core::{
    ids::{AssetId, MeterId},
    meters::Meter,
    readings::Reading,
    time::Instant,
};

/// One meter ready for its next reading.
#[derive(Debug)]
pub(crate) struct MeterState {
    pub id: MeterId,
    pub code: String,
    pub name: String,
    pub asset: AssetId,
    pub rules: Meter,
    pub running_hours: bool,
    pub retired_at: Option<Instant>,
    /// The newest reading stored, quarantined ones too: at later instants nothing can be a duplicate.
    pub newest_stored: Option<Instant>,
    /// The newest reading that was evaluated.
    pub last: Option<Reading>,
    pub ladder: Option<Running>,
}

/// Meters by code.
#[derive(Debug, Default)]
pub(crate) struct MeterStates {
    by_code: HashMap<String, MeterState>,
}

impl MeterStates {
    /// The meter of that code, read from the database the first time.
    pub(crate) fn get(&mut self, conn: &Connection, code: &str) -> Result<&mut MeterState> {
        if !self.by_code.contains_key(code) {
            let state = load(conn, code)?;
            self.by_code.insert(code.into(), state);
        }
        self.by_code.get_mut(code).ok_or_else(|| StoreError::not_found("meter", code))
    }

    /// Reads the meter anew the next time, because its row or its ladder changed.
    pub(crate) fn forget(&mut self, code: &str) {
        self.by_code.remove(code);
    }
}

fn load(conn: &Connection, code: &str) -> Result<MeterState> {
    let mut select = conn.prepare_cached("SELECT * FROM meters WHERE code = ?1")?;
    let mut rows = select.query([code])?;
    let row = rows.next()?.ok_or_else(|| StoreError::not_found("meter", code))?;
    let id = MeterId(row.get("id")?);
    let rules = meters::rules(row)?;
    let ladder = limits::running(conn, id, &rules)?;
    let mut newest = conn.prepare_cached("SELECT at FROM readings WHERE meter_id = ?1 ORDER BY at DESC LIMIT 1")?;
    let newest_stored = newest.query_row([id.0], |row| maybe_instant(row, "at")).optional()?.flatten();
    let mut evaluated = conn.prepare_cached(
        "SELECT at, value FROM readings WHERE meter_id = ?1 AND flags & 2 = 0 ORDER BY at DESC LIMIT 1",
    )?;
    let last = evaluated
        .query_row([id.0], |row| Ok(Reading { at: Instant::from_ms(row.get(0)?), value: row.get(1)? }))
        .optional()?;
    Ok(MeterState {
        id,
        code: row.get("code")?,
        name: row.get("name")?,
        asset: AssetId(row.get("asset_id")?),
        rules,
        running_hours: row.get("running_hours")?,
        retired_at: maybe_instant(row, "retired_at")?,
        newest_stored,
        last,
        ladder,
    })
}

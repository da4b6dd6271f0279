//! What the writer remembers of meters between batches, so that a reading costs one insert.
//!
//! True for kept transactions only: [`crate::Store::write`] forgets it all when one goes back.

use crate::{
    alarms,
    error::{Result, StoreError},
    limits::{self, Running},
    meters,
    readings::{exchanges, history},
    rows::maybe_instant,
};
use rusqlite::Connection;
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
    /// What suspends the ladder, where something does.
    pub gate: Option<Gate>,
    /// The newest exchange of the device: its instant and starting value.
    pub exchanged: Option<Reading>,
    /// Its silence stands as an alarm.
    pub silent: bool,
}

/// Another meter that says whether anything runs.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Gate {
    meter: MeterId,
    below: f64,
}

impl Gate {
    /// Whether it ran by what was read last at that instant; it did where nothing had been read.
    pub(crate) fn runs(&self, conn: &Connection, at: Instant) -> Result<bool> {
        Ok(history::last_before(conn, self.meter, at.plus(1))?.is_none_or(|last| last.value >= self.below))
    }
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
    let gate = match ladder.as_ref().and_then(|running| running.ladder.suspended_while.as_ref()) {
        Some(other) => Some(Gate { meter: meters::require(conn, &other.meter)?, below: other.below }),
        None => None,
    };
    Ok(MeterState {
        id,
        code: row.get("code")?,
        name: row.get("name")?,
        asset: AssetId(row.get("asset_id")?),
        rules,
        running_hours: row.get("running_hours")?,
        retired_at: maybe_instant(row, "retired_at")?,
        newest_stored: history::newest_stored(conn, id)?,
        last: history::last_before(conn, id, Instant::LATEST)?,
        ladder,
        gate,
        exchanged: exchanges::newest(conn, id)?,
        silent: alarms::silence_stands(conn, id)?,
    })
}

//! The machine of a ladder's newest version, and where it stands.

use crate::ground::{
    error::{Result, StoreError},
    rows::{from_json, to_json},
};
use rusqlite::{Connection, OptionalExtension, params};
use tally_core::{
    ground::{
        ids::{LadderVersionId, MeterId},
        time::Instant,
    },
    watch::{
        limits::{Ladder, Machine, Rung, RungState, Transition},
        meters::Meter,
        readings::Reading,
    },
};

/// The newest version's machine, and where it stands.
#[derive(Debug)]
pub(crate) struct Running {
    pub version: LadderVersionId,
    /// Nothing is dated earlier under this version.
    pub starts_at: Instant,
    pub ladder: Ladder,
    pub machine: Machine,
    states: Vec<RungState>,
    kept: Vec<RungState>,
}

impl Running {
    /// The worst rung that a value lies beyond, delays aside.
    pub(crate) fn beyond(&self, value: f64) -> Option<&Rung> {
        self.machine.beyond(value).map(|rung| &self.ladder.rungs[rung])
    }

    /// `through` is a counter's value as it goes on across exchanges and rollovers.
    pub(crate) fn step(&mut self, reading: Reading, through: f64, changed: &mut Vec<Transition>) {
        self.machine.step_through(&mut self.states, reading, through, changed);
    }

    /// Whether a late reading may have changed where the machine stands.
    pub(crate) fn hangs_on_the_past(&self, newest: Reading) -> bool {
        !self.machine.is_decided_by(newest)
    }

    /// Puts the machine where it would stand after all its readings.
    pub(crate) fn stand(&mut self, states: Vec<RungState>) {
        self.states = states;
    }

    /// Writes where the machine stands, if that changed since it was last written.
    pub(crate) fn keep(&mut self, conn: &Connection, meter: MeterId) -> Result<()> {
        if self.states == self.kept {
            return Ok(());
        }
        if self.states == self.machine.at_rest() {
            conn.prepare_cached("DELETE FROM ladder_states WHERE meter_id = ?1")?.execute([meter])?;
        } else {
            let mut put = conn.prepare_cached(
                "INSERT INTO ladder_states (meter_id, version_id, states) VALUES (?1, ?2, ?3)
                 ON CONFLICT (meter_id) DO UPDATE SET version_id = excluded.version_id, states = excluded.states",
            )?;
            put.execute(params![meter, self.version.0, to_json(&self.states)])?;
        }
        self.kept.clone_from(&self.states);
        Ok(())
    }
}

/// The machine of the meter's newest version, where it has one.
pub(crate) fn running(conn: &Connection, meter: MeterId, rules: &Meter) -> Result<Option<Running>> {
    let mut select = conn.prepare_cached(
        "SELECT v.id, v.definition, s.states, v.starts_at FROM ladder_versions v
         LEFT JOIN ladder_states s ON s.meter_id = v.meter_id AND s.version_id = v.id
         WHERE v.meter_id = ?1 ORDER BY v.number DESC LIMIT 1",
    )?;
    let found = select
        .query_row([meter], |row| {
            let states = row.get::<_, Option<String>>(2)?;
            Ok((row.get::<_, i64>(0)?, row.get::<_, String>(1)?, states, row.get("starts_at")?))
        })
        .optional()?;
    let Some((version, definition, states, starts_at)) = found else { return Ok(None) };
    let ladder: Ladder = from_json("ladder_versions", &definition)?;
    let machine = Machine::new(&ladder, rules);
    let states = match states {
        Some(text) => from_json("ladder_states", &text)?,
        None => machine.at_rest(),
    };
    if states.len() != ladder.rungs.len() {
        return Err(StoreError::corrupt("ladder_states", "it does not fit its version's rungs"));
    }
    let kept = states.clone();
    Ok(Some(Running { version: LadderVersionId(version), starts_at, ladder, machine, states, kept }))
}

/// Codes of the meters whose newest ladder is suspended by a meter.
pub(crate) fn suspended_by(conn: &Connection, code: &str) -> Result<Vec<String>> {
    let mut select = conn.prepare_cached(
        "SELECT m.code FROM ladder_versions v JOIN meters m ON m.id = v.meter_id
         WHERE json_extract(v.definition, '$.suspended_while.meter') = ?1
           AND v.number = (SELECT max(number) FROM ladder_versions WHERE meter_id = v.meter_id) ORDER BY m.code",
    )?;
    Ok(select.query_map([code], |row| row.get(0))?.collect::<rusqlite::Result<_>>()?)
}

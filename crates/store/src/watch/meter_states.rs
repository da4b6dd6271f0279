//! What the writer remembers of meters between batches, so that a reading costs one insert.
//!
//! True for kept transactions only: those that an open one asked for are read anew when it is not kept.

use crate::{
    ground::{
        error::{Result, StoreError},
        memory::Remembered,
        tx::Tx,
    },
    watch::{
        limits::running::{Running, running, suspended_by},
        meters::find as meters,
        readings::{exchanges, history},
    },
};
use rusqlite::{Connection, params};
use std::collections::{HashMap, HashSet};
use tally_core::{
    ground::{
        ids::{AssetId, MeterId},
        time::{Instant, Span},
    },
    watch::{
        meters::Meter,
        readings::{Columns, Exchange, Reading, Series, ahead, risen, through},
    },
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
    /// Exchanges of the device, in order of time.
    pub exchanges: Vec<Exchange>,
    /// For a counter whose limits look at a rate or a change: by how much its value, as it goes on since the version of the
    /// ladder, is more than what the device reads.
    pub carried: f64,
    /// Its silence stands as an alarm.
    pub silent: bool,
    /// Some of its alarms waits for the first reading after a finished repair.
    pub awaits: bool,
    /// Codes of the meters whose limits it suspends.
    pub suspends: Vec<String>,
    /// Some of its readings were voided: what is sent again may be one of them.
    pub has_voided: bool,
}

impl MeterState {
    /// A newly evaluated reading's value as the series goes on.
    pub(crate) fn go_on(&mut self, reading: Reading) -> f64 {
        if let Some(ladder) = self.ladder.as_ref().filter(|ladder| ladder.machine.derives()) {
            self.carried = match self.last {
                Some(last) => {
                    let risen = risen(&self.rules, last, reading, &self.exchanges);
                    self.carried + risen - (reading.value - last.value)
                }
                None => ahead(&self.rules, reading, &self.exchanges, ladder.starts_at),
            };
        }
        reading.value + self.carried
    }

    /// When the device was last exchanged.
    pub(crate) fn exchanged_at(&self) -> Option<Instant> {
        self.exchanges.last().map(|exchange| exchange.at)
    }
}

/// What the newest version of a ladder looked at: readings from the last before an instant on, and a counter's as they go on.
#[derive(Debug)]
pub(crate) struct LookedAt {
    pub columns: Columns,
    through: Option<Vec<f64>>,
}

impl LookedAt {
    pub(crate) fn series(&self) -> Series<'_> {
        Series { columns: &self.columns, through: self.through.as_deref() }
    }
}

/// Readings that a meter's newest ladder looked at: the last before `from` and all from then on that were taken before
/// `before`, while the ladder was not suspended. A rate or a change takes all since the version began.
pub(crate) fn looked_at(
    conn: &Connection,
    meter: MeterId,
    rules: &Meter,
    running: &Running,
    gate: Option<Gate>,
    (from, before): (Instant, Instant),
) -> Result<LookedAt> {
    let from = if running.machine.derives() { from.min(running.starts_at) } else { from };
    let first = history::last_before(conn, meter, from)?.map_or(from, |last| last.at);
    let Ok(span) = Span::new(first, before) else {
        return Ok(LookedAt { columns: Columns::default(), through: None });
    };
    let all = history::columns(conn, meter, span)?;
    let through = match running.machine.derives() {
        true => through(rules, &all, &exchanges::of(conn, meter)?, running.starts_at),
        false => None,
    };
    let Some(gate) = gate else { return Ok(LookedAt { columns: all, through }) };
    let other = history::columns(conn, gate.meter, Span::new(Instant::EARLIEST, before).unwrap_or(span))?;
    let columns = all.while_running(&other, gate.below);
    let through = through.map(|through| {
        columns.at().iter().filter_map(|at| all.at().binary_search(at).ok().map(|place| through[place])).collect()
    });
    Ok(LookedAt { columns, through })
}

/// Another meter that says whether anything runs.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Gate {
    pub meter: MeterId,
    pub below: f64,
}

impl Gate {
    /// Whether it ran by what was read last at that instant; it did where nothing had been read.
    pub(crate) fn runs(&self, conn: &Connection, at: Instant) -> Result<bool> {
        Ok(history::last_before(conn, self.meter, at.plus(1))?.is_none_or(|last| last.value >= self.below))
    }

    /// The first instant from `at` on, and before `before`, at which it runs.
    pub(crate) fn runs_from(&self, conn: &Connection, at: Instant, before: Instant) -> Result<Option<Instant>> {
        if self.runs(conn, at)? {
            return Ok(Some(at));
        }
        let Ok(later) = Span::new(at.plus(1), before) else { return Ok(None) };
        let columns = history::columns(conn, self.meter, later)?;
        let runs = columns.iter().find(|reading| reading.value >= self.below);
        Ok(runs.map(|reading| reading.at))
    }
}

/// Meters by code.
#[derive(Debug, Default)]
pub(crate) struct MeterStates {
    by_code: HashMap<String, MeterState>,
    /// Codes of those that the open transaction asked for, and may have changed.
    touched: HashSet<String>,
}

impl MeterStates {
    /// The meter of that code, read from the database the first time.
    fn get(&mut self, conn: &Connection, code: &str) -> Result<&mut MeterState> {
        if !self.by_code.contains_key(code) {
            let state = load(conn, code)?;
            self.by_code.insert(code.into(), state);
        }
        if !self.touched.contains(code) {
            self.touched.insert(code.into());
        }
        self.by_code.get_mut(code).ok_or_else(|| StoreError::not_found("meter", code))
    }

    #[cfg(test)]
    pub(crate) fn knows(&self, code: &str) -> bool {
        self.by_code.contains_key(code)
    }
}

impl Remembered for MeterStates {
    fn begin(&mut self) {
        self.touched.clear();
    }

    fn take_back(&mut self) {
        for code in self.touched.drain() {
            self.by_code.remove(&code);
        }
    }
}

impl Tx<'_> {
    /// The meter of that code as it stands, ready for its next reading.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub(crate) fn meter(&mut self, code: &str) -> Result<&mut MeterState> {
        let conn = self.conn;
        self.memory.of::<MeterStates>().get(conn, code)
    }

    /// Reads the meter anew the next time, because its row, its ladder or its past changed.
    pub(crate) fn forget_meter(&mut self, code: &str) {
        self.memory.of::<MeterStates>().by_code.remove(code);
    }
}

/// Whether an alarm of the meter stands that meets a condition.
fn stands(conn: &Connection, meter: MeterId, condition: &str) -> Result<bool> {
    let sql = format!("SELECT 1 FROM alarms WHERE meter_id = ?1 AND left_at IS NULL AND {condition}");
    Ok(conn.prepare_cached(&sql)?.exists([meter])?)
}

fn load(conn: &Connection, code: &str) -> Result<MeterState> {
    let mut select = conn.prepare_cached("SELECT * FROM meters WHERE code = ?1")?;
    let mut rows = select.query([code])?;
    let row = rows.next()?.ok_or_else(|| StoreError::not_found("meter", code))?;
    let id = row.get("id")?;
    let rules = meters::rules(row)?;
    let ladder = running(conn, id, &rules)?;
    let gate = match ladder.as_ref().and_then(|running| running.ladder.suspended_while.as_ref()) {
        Some(other) => Some(Gate { meter: meters::require(conn, &other.meter)?, below: other.below }),
        None => None,
    };
    let last = history::last_before(conn, id, Instant::LATEST)?;
    let mut state = MeterState {
        id,
        code: row.get("code")?,
        name: row.get("name")?,
        asset: row.get("asset_id")?,
        rules,
        running_hours: row.get("running_hours")?,
        retired_at: row.get("retired_at")?,
        newest_stored: history::newest_stored(conn, id)?,
        last,
        ladder,
        gate,
        exchanges: exchanges::of(conn, id)?,
        carried: 0.0,
        silent: stands(conn, id, "kind = 'silent'")?,
        awaits: stands(conn, id, "finished_at IS NOT NULL")?,
        suspends: suspended_by(conn, code)?,
        has_voided: conn.prepare_cached("SELECT 1 FROM voided_readings WHERE meter_id = ?1")?.exists(params![id])?,
    };
    if let (Some(running), Some(last)) = (state.ladder.as_ref().filter(|running| running.machine.derives()), last) {
        let since = (running.starts_at, last.at.plus(1));
        // Gaps make no difference to how it goes on.
        let seen = looked_at(conn, id, &state.rules, running, None, since)?;
        let place = seen.columns.len().checked_sub(1);
        state.carried = place.map_or(0.0, |place| seen.series().through(place) - last.value);
    }
    Ok(state)
}

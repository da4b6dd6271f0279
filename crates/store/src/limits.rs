//! Ladders: versions as set, and the machine of the newest one as it stands.

use crate::{
    act::Act,
    alarms,
    error::{Result, StoreError},
    meters, people,
    readings::Receipt,
    rows::{from_json, instant, to_json},
};
use rusqlite::{Connection, OptionalExtension, params};
use serde::{Deserialize, Serialize};
use tally_core::{
    ids::{LadderVersionId, MeterId},
    limits::{Ladder, Machine, RaiseIntervalOf, Rung, RungState, Transition},
    meters::Meter,
    people::Action,
    readings::Reading,
    time::Instant,
};
use utoipa::ToSchema;

/// A ladder to write, with the reason for it.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
#[serde(from = "LadderFields")]
pub struct NewLadder {
    pub reason: String,
    #[serde(flatten)]
    pub ladder: Ladder,
}

/// The same, field by field: a flattened part would not say which of its fields is at fault.
#[derive(Deserialize)]
struct LadderFields {
    reason: String,
    #[serde(default)]
    raise_interval_seconds: u32,
    #[serde(default)]
    raise_interval_of: RaiseIntervalOf,
    #[serde(default)]
    separate_work: bool,
    rungs: Vec<Rung>,
}

impl From<LadderFields> for NewLadder {
    fn from(fields: LadderFields) -> Self {
        let LadderFields { reason, raise_interval_seconds, raise_interval_of, separate_work, rungs } = fields;
        Self { reason, ladder: Ladder { raise_interval_seconds, raise_interval_of, separate_work, rungs } }
    }
}

/// A version as listed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct VersionRow {
    pub number: i64,
    pub starts_at: Instant,
    pub reason: String,
    pub author: String,
}

/// The newest version with the versions before it. A meter without any has number 0 and no rungs.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct LadderView {
    pub number: i64,
    #[serde(flatten)]
    pub ladder: Ladder,
    /// Newest first.
    pub versions: Vec<VersionRow>,
}

/// What writing a version set off.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct LadderReceipt {
    pub number: i64,
    pub ended_alarms: usize,
    pub alarms: usize,
    pub work_orders: Vec<tally_core::ids::WorkOrderId>,
}

/// The newest version's machine, and where it stands.
#[derive(Debug)]
pub(crate) struct Running {
    pub version: LadderVersionId,
    pub ladder: Ladder,
    machine: Machine,
    states: Vec<RungState>,
    kept: Vec<RungState>,
}

impl Running {
    pub(crate) fn step(&mut self, reading: Reading, changed: &mut Vec<Transition>) {
        self.machine.step(&mut self.states, reading, changed);
    }

    /// Writes where the machine stands, if that changed since it was last written.
    pub(crate) fn keep(&mut self, conn: &Connection, meter: MeterId) -> Result<()> {
        if self.states == self.kept {
            return Ok(());
        }
        if self.states == self.machine.at_rest() {
            conn.prepare_cached("DELETE FROM ladder_states WHERE meter_id = ?1")?.execute([meter.0])?;
        } else {
            let mut put = conn.prepare_cached(
                "INSERT INTO ladder_states (meter_id, version_id, states) VALUES (?1, ?2, ?3)
                 ON CONFLICT (meter_id) DO UPDATE SET version_id = excluded.version_id, states = excluded.states",
            )?;
            put.execute(params![meter.0, self.version.0, to_json(&self.states)])?;
        }
        self.kept.clone_from(&self.states);
        Ok(())
    }
}

/// The machine of the meter's newest version, where it has one.
pub(crate) fn running(conn: &Connection, meter: MeterId, rules: &Meter) -> Result<Option<Running>> {
    let mut select = conn.prepare_cached(
        "SELECT v.id, v.definition, s.states FROM ladder_versions v
         LEFT JOIN ladder_states s ON s.meter_id = v.meter_id AND s.version_id = v.id
         WHERE v.meter_id = ?1 ORDER BY v.number DESC LIMIT 1",
    )?;
    let found = select
        .query_row([meter.0], |row| {
            Ok((row.get::<_, i64>(0)?, row.get::<_, String>(1)?, row.get::<_, Option<String>>(2)?))
        })
        .optional()?;
    let Some((version, definition, states)) = found else { return Ok(None) };
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
    Ok(Some(Running { version: LadderVersionId(version), ladder, machine, states, kept }))
}

/// Writes a new version: standing alarms end as *limits changed*, every rung is out, and the last reading is evaluated
/// at once.
///
/// # Errors
/// [`StoreError::Invalid`] by field for rungs that make no sense, an unknown crew or person, or an empty reason.
pub fn set(act: &mut Act, code: &str, new: &NewLadder) -> Result<LadderReceipt> {
    act.require(Action::SetLimits)?;
    let conn = act.conn;
    let meter_id = meters::require(conn, code)?;
    if new.reason.trim().is_empty() {
        return Err(StoreError::invalid("reason", "say why the limits are changed"));
    }
    let meter = act.meters.get(conn, code)?;
    new.ladder.check(&meter.rules).map_err(|error| StoreError::invalid(error.field(), error))?;
    for (index, rung) in new.ladder.rungs.iter().enumerate() {
        if let Some(crew) = &rung.response.crew {
            people::require_crew(conn, crew, &format!("rungs[{index}].response.crew"))?;
        }
        for person in &rung.response.tell {
            people::require_person(conn, person, &format!("rungs[{index}].response.tell"))?;
        }
    }
    let number: i64 = conn.query_row(
        "SELECT ifnull(max(number), 0) + 1 FROM ladder_versions WHERE meter_id = ?1",
        [meter_id.0],
        |row| row.get(0),
    )?;
    conn.execute(
        "INSERT INTO ladder_versions (meter_id, number, starts_at, reason, definition, recorded_at, recorded_by)
         VALUES (?1, ?2, ?3, ?4, ?5, ?3, ?6)",
        params![meter_id.0, number, act.now.ms(), new.reason.trim(), to_json(&new.ladder), act.actor.id.0],
    )?;
    let ended_alarms = conn.execute(
        "UPDATE alarms SET left_at = ?2, left_by = 'limits_changed' WHERE meter_id = ?1 AND left_at IS NULL",
        params![meter_id.0, act.now.ms()],
    )?;
    conn.execute("DELETE FROM ladder_states WHERE meter_id = ?1", [meter_id.0])?;
    act.audit("limits changed", "meter", code, new)?;
    act.meters.forget(code);
    let mut receipt = Receipt::default();
    let meter = act.meters.get(conn, code)?;
    let mut changed = Vec::new();
    if let (Some(last), Some(ladder)) = (meter.last, &mut meter.ladder) {
        ladder.step(last, &mut changed);
        ladder.keep(conn, meter_id)?;
        // Under this version the rung was entered when the version began.
        alarms::set_off(act, code, Reading { at: act.now, ..last }, &changed, &mut receipt)?;
    }
    Ok(LadderReceipt { number, ended_alarms, alarms: receipt.alarms.len(), work_orders: receipt.work_orders })
}

/// The newest version and the list of versions.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown meter.
pub fn view(conn: &Connection, code: &str) -> Result<LadderView> {
    let meter = meters::require(conn, code)?;
    let mut select = conn.prepare_cached(
        "SELECT v.number, v.starts_at, v.reason, p.name FROM ladder_versions v JOIN people p ON p.id = v.recorded_by
         WHERE v.meter_id = ?1 ORDER BY v.number DESC",
    )?;
    let versions = select.query_map([meter.0], |row| {
        Ok(VersionRow {
            number: row.get(0)?,
            starts_at: instant(row, "starts_at")?,
            reason: row.get(2)?,
            author: row.get(3)?,
        })
    })?;
    let versions: Vec<VersionRow> = versions.collect::<rusqlite::Result<_>>()?;
    let number = versions.first().map_or(0, |version| version.number);
    let ladder = if number == 0 { Ladder::default() } else { version(conn, meter, number)? };
    Ok(LadderView { number, ladder, versions })
}

/// One version of a meter's ladder.
pub(crate) fn version(conn: &Connection, meter: MeterId, number: i64) -> Result<Ladder> {
    let text: Option<String> = conn
        .prepare_cached("SELECT definition FROM ladder_versions WHERE meter_id = ?1 AND number = ?2")?
        .query_row([meter.0, number], |row| row.get(0))
        .optional()?;
    from_json("ladder_versions", &text.ok_or_else(|| StoreError::not_found("ladder version", number))?)
}

//! Ladders: versions as set, and the machine of the newest one as it stands; as a table in [`file`].

pub mod file;

use crate::{
    act::Act,
    alarms,
    error::{Result, StoreError},
    meters, people,
    readings::Receipt,
    rows::{from_json, to_json},
    settings,
};
use rusqlite::{Connection, OptionalExtension, params};
use serde::{Deserialize, Serialize};
use tally_core::{
    ids::{LadderVersionId, MeterId, PersonId},
    limits::{
        Ladder, Machine, RaiseIntervalOf, Rung, RungState, Suspension, Transition,
        changes::{LadderChange, changes, touches_danger},
    },
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
    #[serde(default)]
    suspended_while: Option<Suspension>,
    rungs: Vec<Rung>,
}

impl From<LadderFields> for NewLadder {
    fn from(fields: LadderFields) -> Self {
        let LadderFields { reason, raise_interval_seconds, raise_interval_of, separate_work, suspended_while, rungs } =
            fields;
        let ladder = Ladder { raise_interval_seconds, raise_interval_of, separate_work, suspended_while, rungs };
        Self { reason, ladder }
    }
}

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

/// What writing a version set off.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct LadderReceipt {
    pub number: i64,
    /// It waits for a second engineer; nothing else has changed.
    pub pending: bool,
    pub ended_alarms: usize,
    pub alarms: usize,
    pub work_orders: Vec<tally_core::ids::WorkOrderId>,
}

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

/// Whether a meter's ladder may be as it is, with the field at fault.
pub(crate) fn check(act: &mut Act, code: &str, ladder: &Ladder) -> Result<()> {
    let conn = act.conn;
    let meter = act.meters.get(conn, code)?;
    ladder.check(&meter.rules).map_err(|error| StoreError::invalid(error.field(), error))?;
    if let Some(other) = &ladder.suspended_while {
        if other.meter == code {
            return Err(StoreError::invalid("suspended_while.meter", "a meter can't suspend its own limits"));
        }
        meters::id_of(conn, &other.meter)?.ok_or_else(|| {
            StoreError::invalid("suspended_while.meter", format!("there is no meter {:?}", other.meter))
        })?;
    }
    for (index, rung) in ladder.rungs.iter().enumerate() {
        let field = |name: &str| format!("rungs[{index}].response.{name}");
        if let Some(crew) = &rung.response.crew {
            people::require_crew(conn, crew, &field("crew"))?;
        }
        for person in &rung.response.tell {
            people::require_person(conn, person, &field("tell"))?;
        }
        if let Some(person) = &rung.response.decides {
            people::require_person(conn, person, &field("decides"))?;
        }
    }
    Ok(())
}

/// Writes a new version: standing alarms end as *limits changed*, every rung is out, and the last reading is evaluated
/// at once. Where danger rungs need a second engineer and one is touched, it is proposed instead.
///
/// # Errors
/// [`StoreError::Invalid`] by field for rungs that make no sense, an unknown crew or person, or an empty reason.
pub fn set(act: &mut Act, code: &str, new: &NewLadder) -> Result<LadderReceipt> {
    act.require(Action::SetLimits)?;
    let meter = meters::require(act.conn, code)?;
    if new.reason.trim().is_empty() {
        return Err(StoreError::invalid("reason", "say why the limits are changed"));
    }
    check(act, code, &new.ladder)?;
    if settings::get(act.conn)?.second_approval && touches_danger(&newest(act.conn, meter)?, &new.ladder) {
        return propose(act, code, meter, new);
    }
    act.audit("limits changed", "meter", code, new)?;
    write(act, code, meter, new, act.actor.id, None)
}

fn propose(act: &Act, code: &str, meter: MeterId, new: &NewLadder) -> Result<LadderReceipt> {
    act.conn.execute(
        "INSERT INTO proposed_ladders (meter_id, reason, definition, recorded_at, recorded_by) VALUES (?1, ?2, ?3, ?4, ?5)
         ON CONFLICT (meter_id) DO UPDATE SET reason = excluded.reason, definition = excluded.definition,
             recorded_at = excluded.recorded_at, recorded_by = excluded.recorded_by",
        params![meter, new.reason.trim(), to_json(&new.ladder), act.now, act.actor.id],
    )?;
    act.audit("limits proposed", "meter", code, new)?;
    Ok(LadderReceipt { number: 0, pending: true, ended_alarms: 0, alarms: 0, work_orders: Vec::new() })
}

/// A second engineer's yes to what was proposed: it becomes the newest version, its author who proposed it.
///
/// # Errors
/// [`StoreError::NotFound`] where nothing is proposed, [`StoreError::NotTheirs`] for whoever proposed it.
pub fn approve(act: &mut Act, code: &str) -> Result<LadderReceipt> {
    act.require(Action::SetLimits)?;
    let meter = meters::require(act.conn, code)?;
    let (new, author) = proposed(act.conn, meter)?;
    if author == act.actor.id {
        return Err(StoreError::NotTheirs("a second engineer approves what you proposed".into()));
    }
    // The meter may have changed since.
    check(act, code, &new.ladder)?;
    act.conn.execute("DELETE FROM proposed_ladders WHERE meter_id = ?1", [meter.0])?;
    act.audit("limits approved", "meter", code, &new)?;
    write(act, code, meter, &new, author, Some(act.actor.id))
}

/// Takes back or turns down what was proposed.
///
/// # Errors
/// [`StoreError::NotFound`] where nothing is proposed.
pub fn turn_down(act: &mut Act, code: &str) -> Result<()> {
    act.require(Action::SetLimits)?;
    let meter = meters::require(act.conn, code)?;
    let (new, _) = proposed(act.conn, meter)?;
    act.conn.execute("DELETE FROM proposed_ladders WHERE meter_id = ?1", [meter.0])?;
    act.audit("proposed limits turned down", "meter", code, &new)
}

fn proposed(conn: &Connection, meter: MeterId) -> Result<(NewLadder, PersonId)> {
    let found = conn
        .prepare_cached("SELECT reason, definition, recorded_by FROM proposed_ladders WHERE meter_id = ?1")?
        .query_row([meter], |row| {
            Ok((row.get::<_, String>(0)?, row.get::<_, String>(1)?, PersonId(row.get::<_, i64>(2)?)))
        })
        .optional()?;
    let (reason, text, author) = found.ok_or_else(|| StoreError::not_found("proposed ladder of meter", meter))?;
    Ok((NewLadder { reason, ladder: from_json("proposed_ladders", &text)? }, author))
}

/// The one way a version is written.
pub(crate) fn write(
    act: &mut Act,
    code: &str,
    meter_id: MeterId,
    new: &NewLadder,
    author: PersonId,
    second: Option<PersonId>,
) -> Result<LadderReceipt> {
    let conn = act.conn;
    // What was due before answers under the version that it was due under.
    alarms::answer_before(act, code, act.now, &mut Receipt::default())?;
    let number: i64 = conn.query_row(
        "SELECT ifnull(max(number), 0) + 1 FROM ladder_versions WHERE meter_id = ?1",
        [meter_id.0],
        |row| row.get(0),
    )?;
    let second = second.map(|person| person.0);
    conn.execute(
        "INSERT INTO ladder_versions (meter_id, number, starts_at, reason, definition, recorded_at, recorded_by,
             approved_by) VALUES (?1, ?2, ?3, ?4, ?5, ?3, ?6, ?7)",
        params![meter_id, number, act.now, new.reason.trim(), to_json(&new.ladder), author.0, second],
    )?;
    let ended_alarms = conn.execute(
        "UPDATE alarms SET left_at = max(?2, entered_at), left_by = 'limits_changed', due_at = NULL, waits_work = NULL,
             finished_at = NULL
         WHERE meter_id = ?1 AND left_at IS NULL AND kind = 'limit'",
        params![meter_id, act.now],
    )?;
    conn.execute("DELETE FROM ladder_states WHERE meter_id = ?1", [meter_id.0])?;
    let suspending =
        newest_but(conn, meter_id, number)?.suspended_while.into_iter().chain(new.ladder.suspended_while.clone());
    suspending.for_each(|other| act.meters.forget(&other.meter));
    act.meters.forget(code);
    act.news.alarms = true;
    let mut receipt = Receipt::default();
    let meter = act.meters.get(conn, code)?;
    let mut changed = Vec::new();
    let runs = match (&meter.gate, meter.last) {
        (Some(gate), Some(last)) => gate.runs(conn, last.at)?,
        _ => true,
    };
    if let (Some(last), Some(ladder), true) = (meter.last, &mut meter.ladder, runs) {
        // A counter's change is counted from what its device reads now.
        ladder.step(last, last.value, &mut changed);
        ladder.keep(conn, meter_id)?;
        alarms::set_off(act, code, last, &changed, &mut receipt)?;
    }
    Ok(LadderReceipt {
        number,
        pending: false,
        ended_alarms,
        alarms: receipt.alarms.len(),
        work_orders: receipt.work_orders,
    })
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
pub fn changes_between(conn: &Connection, code: &str, from: i64, to: i64) -> Result<LadderChanges> {
    let meter = meters::require(conn, code)?;
    let of = |number| if number == 0 { Ok(Ladder::default()) } else { version(conn, meter, number) };
    let rules = meters::rules_of(conn, meter)?;
    Ok(LadderChanges { from, to, changes: changes(&of(from)?, &of(to)?, &rules) })
}

/// The version before that one; no rungs where there is none.
fn newest_but(conn: &Connection, meter: MeterId, number: i64) -> Result<Ladder> {
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
pub fn view(conn: &Connection, code: &str) -> Result<LadderView> {
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

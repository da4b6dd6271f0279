//! Writing a version of a ladder: at once, or proposed until a second engineer approves it.

use super::versions::{newest, newest_but};
use crate::{
    access::people,
    ground::{
        error::{Result, StoreError},
        rows::{from_json, to_json},
        tx::Tx,
    },
    plant::settings,
    watch::{alarms, meters},
    work::{job_sheets, upkeep},
};
use rusqlite::{Connection, OptionalExtension, params};
use serde::{Deserialize, Serialize};
use tally_core::{
    access::{approval::second, refusal::said, roles::Action},
    ground::ids::{MeterId, PersonId},
    watch::{
        batch::Receipt,
        limits::{Does, Ladder, RaiseIntervalOf, Rung, Suspension, changes::touches_danger},
    },
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

/// What writing a version set off.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct LadderReceipt {
    pub number: i64,
    /// It waits for a second engineer; nothing else has changed.
    pub pending: bool,
    pub ended_alarms: usize,
    pub alarms: usize,
    pub work_orders: Vec<tally_core::ground::ids::WorkOrderId>,
}

/// Whether a meter's ladder may be as it is, with the field at fault.
pub(crate) fn check(tx: &mut Tx, code: &str, ladder: &Ladder) -> Result<()> {
    let conn = tx.conn;
    let meter = tx.meter(code)?;
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
        if let Some(crew) = rung.response.work().and_then(|work| work.crew.as_ref()) {
            people::require_crew(conn, crew, &field("crew"))?;
        }
        if let Some(sheet) = rung.response.work().and_then(|work| work.job_sheet.as_ref()) {
            job_sheets::require_active(conn, sheet, &field("job_sheet"))?;
        }
        if let Does::BringForward { plan: Some(plan), .. } = &rung.response.does {
            upkeep::require_active(conn, plan, &field("plan"))?;
        }
        let Some(told) = rung.response.told() else { continue };
        for person in &told.tell {
            people::require_person(conn, person, &field("tell"))?;
        }
        if let Some(person) = &told.decides {
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
pub fn set(tx: &mut Tx, code: &str, new: &NewLadder) -> Result<LadderReceipt> {
    tx.require(Action::SetLimits)?;
    let meter = meters::require(tx.conn, code)?;
    said("reason", &new.reason, "say why the limits are changed")?;
    check(tx, code, &new.ladder)?;
    if settings::get(tx.conn)?.second_approval && touches_danger(&newest(tx.conn, meter)?, &new.ladder) {
        return propose(tx, code, meter, new);
    }
    tx.audit("limits changed", "meter", code, new)?;
    write(tx, code, meter, new, tx.actor.id, None)
}

fn propose(tx: &Tx, code: &str, meter: MeterId, new: &NewLadder) -> Result<LadderReceipt> {
    tx.conn.execute(
        "INSERT INTO proposed_ladders (meter_id, reason, definition, recorded_at, recorded_by) VALUES (?1, ?2, ?3, ?4, ?5)
         ON CONFLICT (meter_id) DO UPDATE SET reason = excluded.reason, definition = excluded.definition,
             recorded_at = excluded.recorded_at, recorded_by = excluded.recorded_by",
        params![meter, new.reason.trim(), to_json(&new.ladder), tx.now, tx.actor.id],
    )?;
    tx.audit("limits proposed", "meter", code, new)?;
    Ok(LadderReceipt { number: 0, pending: true, ended_alarms: 0, alarms: 0, work_orders: Vec::new() })
}

/// A second engineer's yes to what was proposed: it becomes the newest version, its author who proposed it.
///
/// # Errors
/// [`StoreError::NotFound`] where nothing is proposed, [`StoreError::NotTheirs`] for whoever proposed it.
pub fn approve(tx: &mut Tx, code: &str) -> Result<LadderReceipt> {
    tx.require(Action::SetLimits)?;
    let meter = meters::require(tx.conn, code)?;
    let (new, author) = proposed(tx.conn, meter)?;
    second(&author, &tx.actor.id, tx.actor.account)?;
    // The meter may have changed since.
    check(tx, code, &new.ladder)?;
    tx.conn.execute("DELETE FROM proposed_ladders WHERE meter_id = ?1", [meter.0])?;
    tx.audit("limits approved", "meter", code, &new)?;
    write(tx, code, meter, &new, author, Some(tx.actor.id))
}

/// Takes back or turns down what was proposed.
///
/// # Errors
/// [`StoreError::NotFound`] where nothing is proposed.
pub fn turn_down(tx: &mut Tx, code: &str) -> Result<()> {
    tx.require(Action::SetLimits)?;
    let meter = meters::require(tx.conn, code)?;
    let (new, _) = proposed(tx.conn, meter)?;
    tx.conn.execute("DELETE FROM proposed_ladders WHERE meter_id = ?1", [meter.0])?;
    tx.audit("proposed limits turned down", "meter", code, &new)
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
    tx: &mut Tx,
    code: &str,
    meter_id: MeterId,
    new: &NewLadder,
    author: PersonId,
    second: Option<PersonId>,
) -> Result<LadderReceipt> {
    let conn = tx.conn;
    // What was due before answers under the version that it was due under.
    alarms::answer_before(tx, code, tx.now, &mut Receipt::default())?;
    let number: i64 = conn.query_row(
        "SELECT ifnull(max(number), 0) + 1 FROM ladder_versions WHERE meter_id = ?1",
        [meter_id.0],
        |row| row.get(0),
    )?;
    let second = second.map(|person| person.0);
    conn.execute(
        "INSERT INTO ladder_versions (meter_id, number, starts_at, reason, definition, recorded_at, recorded_by,
             approved_by) VALUES (?1, ?2, ?3, ?4, ?5, ?3, ?6, ?7)",
        params![meter_id, number, tx.now, new.reason.trim(), to_json(&new.ladder), author.0, second],
    )?;
    let ended_alarms = conn.execute(
        "UPDATE alarms SET left_at = max(?2, entered_at), left_by = 'limits_changed', due_at = NULL, waits_work = NULL,
             finished_at = NULL
         WHERE meter_id = ?1 AND left_at IS NULL AND kind = 'limit'",
        params![meter_id, tx.now],
    )?;
    conn.execute("DELETE FROM ladder_states WHERE meter_id = ?1", [meter_id.0])?;
    let suspending =
        newest_but(conn, meter_id, number)?.suspended_while.into_iter().chain(new.ladder.suspended_while.clone());
    suspending.for_each(|other| tx.forget_meter(&other.meter));
    tx.forget_meter(code);
    tx.news.alarms = true;
    let mut receipt = Receipt::default();
    let meter = tx.meter(code)?;
    let mut changed = Vec::new();
    let runs = match (&meter.gate, meter.last) {
        (Some(gate), Some(last)) => gate.runs(conn, last.at)?,
        _ => true,
    };
    if let (Some(last), Some(ladder), true) = (meter.last, &mut meter.ladder, runs) {
        // A counter's change is counted from what its device reads now.
        ladder.step(last, last.value, &mut changed);
        ladder.keep(conn, meter_id)?;
        alarms::set_off(tx, code, last, &changed, &mut receipt)?;
    }
    Ok(LadderReceipt {
        number,
        pending: false,
        ended_alarms,
        alarms: receipt.alarms.len(),
        work_orders: receipt.work_orders,
    })
}

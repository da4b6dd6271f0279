//! The device of a counter is exchanged: the old one ends at one value, the new one begins at another.

use super::{
    exchanges::{after, based_on, first_of},
    history,
    lookup::Lookup,
};
use crate::{
    ground::{
        error::{Result, StoreError},
        tx::Tx,
    },
    watch::alarms,
};
use rusqlite::params;
use serde::{Deserialize, Serialize};
use tally_core::{
    access::roles::Action,
    ground::time::Instant,
    watch::{
        batch::Receipt,
        readings::{Neighbours, Reading, check},
    },
};
use utoipa::ToSchema;

/// An exchange as noted.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct NewExchange {
    pub at: Instant,
    /// Where the old device ended.
    pub final_value: f64,
    /// Where the new one began.
    pub start_value: f64,
}

/// Notes an exchange. What is read after it counts from the new device's start.
///
/// # Errors
/// [`StoreError::Invalid`] by field for a meter that is no counter, an instant with an exchange already, or values that
/// do not fit the readings around it.
pub fn exchange(tx: &mut Tx, code: &str, new: &NewExchange) -> Result<()> {
    tx.require(Action::CorrectReadings)?;
    let conn = tx.conn;
    let (now, person) = (tx.now, tx.actor.id);
    let meter = tx.meter(code)?;
    if meter.rules.counter().is_none() {
        return Err(StoreError::invalid("meter", "only a counter's device is exchanged"));
    }
    let id = meter.id;
    if conn
        .prepare_cached("SELECT 1 FROM meter_exchanges WHERE meter_id = ?1 AND at = ?2")?
        .exists(params![id, new.at])?
    {
        return Err(StoreError::invalid("at", "an exchange is noted at this instant already"));
    }
    let mut lookup = Lookup::new(conn, id);
    let before = based_on(conn, id, lookup.before(new.at)?, new.at)?;
    let around = Neighbours { before, ..Neighbours::default() };
    check(&meter.rules, Reading { at: new.at, value: new.final_value }, around, now)
        .map_err(|refused| StoreError::invalid("final_value", refused))?;
    // The reading at the very instant was taken on one of the two; it is taken for the new one's.
    let next = first_of(lookup.after(new.at.plus(-1))?, after(conn, id, new.at)?);
    let around = Neighbours { after: next, ..Neighbours::default() };
    check(&meter.rules, Reading { at: new.at, value: new.start_value }, around, now)
        .map_err(|refused| StoreError::invalid("start_value", refused))?;
    conn.execute(
        "INSERT INTO meter_exchanges (meter_id, at, final_value, start_value, recorded_at, recorded_by)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
        params![id, new.at, new.final_value, new.start_value, now, person],
    )?;
    history::revise(conn, id)?;
    conn.prepare_cached("INSERT INTO changes (kind, id) VALUES ('running', ?1)")?.execute([id])?;
    // What a rate or a change looked at since goes on otherwise.
    let derives = meter.ladder.as_ref().is_some_and(|ladder| ladder.machine.derives());
    let is_past = meter.last.is_some_and(|last| new.at <= last.at);
    tx.forget_meter(code);
    if derives && is_past {
        alarms::remake(tx, code, alarms::Cause::Came, &mut Receipt::default())?;
    }
    tx.audit("device exchanged", "meter", code, new)
}

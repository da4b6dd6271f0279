//! One reading of a batch: checked against its neighbours, and kept.

use super::{
    exchanges,
    kept::{LATE, QUARANTINED},
    lookup::Lookup,
};
use crate::{ground::error::Result, watch::meter_states::MeterState};
use rusqlite::{CachedStatement, Connection, params};
use tally_core::{
    ground::{time::Instant, units::Conversion, value::IncomingValue},
    watch::{
        batch::Incoming,
        readings::{Accepted, Neighbours, Reading, check},
    },
};

pub(super) enum RowOutcome {
    Kept(Reading, Accepted),
    Duplicate,
    Refused(String),
}

pub(super) struct Statements<'c> {
    conn: &'c Connection,
    insert: CachedStatement<'c>,
    around: Lookup<'c>,
}

impl<'c> Statements<'c> {
    pub(super) fn new(conn: &'c Connection, meter: &MeterState) -> Result<Self> {
        Ok(Self {
            conn,
            insert: conn.prepare_cached(
                "INSERT INTO readings (meter_id, at, value, batch_id, flags) VALUES (?1, ?2, ?3, ?4, ?5)",
            )?,
            around: Lookup::new(conn, meter.id),
        })
    }

    /// The nearest values on either side that a counter counts from, exchanges of the device among them.
    fn neighbours(&mut self, meter: &MeterState, at: Instant) -> Result<(Option<Reading>, Option<Reading>)> {
        let (before, after) = (self.around.before(at)?, self.around.after(at)?);
        if meter.exchanges.is_empty() {
            return Ok((before, after));
        }
        let before = exchanges::based_on(self.conn, meter.id, before, at)?;
        Ok((before, exchanges::first_of(after, exchanges::after(self.conn, meter.id, at)?)))
    }
}

pub(super) fn take_row(
    statements: &mut Statements,
    meter: &mut MeterState,
    incoming: &Incoming,
    conversion: Conversion,
    batch_id: i64,
    now: Instant,
) -> Result<RowOutcome> {
    let value = match value_of(meter, &incoming.value) {
        Ok(value) => conversion.apply(value),
        Err(reason) => return Ok(RowOutcome::Refused(reason)),
    };
    let reading = Reading { at: incoming.at, value };
    if meter.retired_at.is_some_and(|at| reading.at >= at) {
        return Ok(RowOutcome::Refused(format!("the meter {} is retired", meter.code)));
    }
    let id = meter.id.0;
    if meter.has_voided
        && statements
            .conn
            .prepare_cached("SELECT 1 FROM voided_readings WHERE meter_id = ?1 AND at = ?2 AND value = ?3")?
            .exists(params![id, reading.at, value])?
    {
        return Ok(RowOutcome::Duplicate);
    }
    let is_newest = meter.newest_stored.is_none_or(|newest| reading.at > newest);
    let newest_evaluated = meter.last.map(|last| last.at);
    let mut around = Neighbours { before: meter.last, after: None, newest_evaluated };
    let counts = meter.rules.counter().is_some();
    if !is_newest && let Some(kept) = statements.around.at(reading.at)? {
        return Ok(if kept.value == value {
            RowOutcome::Duplicate
        } else {
            RowOutcome::Refused(format!(
                "conflict: at {} the value {} is kept already, not {}",
                reading.at,
                meter.rules.shown(kept.value),
                meter.rules.shown(value)
            ))
        });
    }
    if counts && (!is_newest || meter.exchanged_at() > newest_evaluated) {
        (around.before, around.after) = statements.neighbours(meter, reading.at)?;
    }
    let accepted = match check(&meter.rules, reading, around, now) {
        Ok(accepted) => accepted,
        Err(refused) => return Ok(RowOutcome::Refused(refused.to_string())),
    };
    let flags = match accepted {
        Accepted::InOrder => 0,
        Accepted::Late => LATE,
        Accepted::Quarantined => QUARANTINED,
    };
    statements.insert.execute(params![id, reading.at, value, batch_id, flags])?;
    if is_newest {
        meter.newest_stored = Some(reading.at);
    }
    if accepted == Accepted::InOrder {
        meter.last = Some(reading);
    }
    Ok(RowOutcome::Kept(reading, accepted))
}

fn value_of(meter: &MeterState, value: &IncomingValue) -> std::result::Result<f64, String> {
    match value {
        IncomingValue::Number(value) if meter.rules.is_grade() => {
            // A place only where no name reads so.
            Ok(meter.rules.grade_of_number(*value).map_or(*value, |place| place as f64))
        }
        IncomingValue::Number(value) => Ok(*value),
        IncomingValue::Name(name) if meter.rules.is_grade() => {
            let place = meter.rules.grade_of(name);
            place
                .map(|place| place as f64)
                .ok_or_else(|| format!("{name:?} is none of the named values: {}", meter.rules.grades().join(", ")))
        }
        IncomingValue::Name(text) => Err(format!("{text:?} is not a number")),
    }
}

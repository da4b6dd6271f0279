//! Exchanges of a counter's device as they are noted, and how much it grew across them.

use super::lookup::Lookup;
use crate::{
    ground::{
        error::{Result, StoreError},
        sql::Rows,
    },
    watch::meters,
};
use rusqlite::{Connection, OptionalExtension, params};
use serde::Serialize;
use tally_core::{
    ground::{
        ids::MeterId,
        time::{Instant, Span},
    },
    watch::readings::{Exchange, Reading},
};
use utoipa::ToSchema;

/// An exchange as listed.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ExchangeRow {
    pub at: Instant,
    pub final_value: f64,
    pub start_value: f64,
    pub by: String,
    pub recorded_at: Instant,
}

/// The value a counter counts on from at `at`: the reading before, or the start of a newer device.
pub(crate) fn based_on(
    conn: &Connection,
    meter: MeterId,
    reading: Option<Reading>,
    at: Instant,
) -> Result<Option<Reading>> {
    let mut select = conn.prepare_cached(
        "SELECT at, start_value FROM meter_exchanges WHERE meter_id = ?1 AND at <= ?2 ORDER BY at DESC LIMIT 1",
    )?;
    let exchanged =
        select.query_row(params![meter, at], |row| Ok(Reading { at: row.get(0)?, value: row.get(1)? })).optional()?;
    Ok(match (reading, exchanged) {
        (Some(reading), Some(exchanged)) => Some(if exchanged.at > reading.at { exchanged } else { reading }),
        (reading, exchanged) => reading.or(exchanged),
    })
}

/// The end of the device at the first exchange after an instant.
pub(crate) fn after(conn: &Connection, meter: MeterId, at: Instant) -> Result<Option<Reading>> {
    let mut select = conn.prepare_cached(
        "SELECT at, final_value FROM meter_exchanges WHERE meter_id = ?1 AND at > ?2 ORDER BY at LIMIT 1",
    )?;
    Ok(select.query_row(params![meter, at], |row| Ok(Reading { at: row.get(0)?, value: row.get(1)? })).optional()?)
}

/// Whichever comes first.
pub(crate) fn first_of(one: Option<Reading>, other: Option<Reading>) -> Option<Reading> {
    [one, other].into_iter().flatten().min_by_key(|reading| reading.at)
}

/// Exchanges of a meter as the core counts with them, in order of time.
pub(crate) fn of(conn: &Connection, meter: MeterId) -> Result<Vec<Exchange>> {
    let mut select = conn
        .prepare_cached("SELECT at, final_value, start_value FROM meter_exchanges WHERE meter_id = ?1 ORDER BY at")?;
    let rows =
        select.query_map([meter], |row| Ok(Exchange { at: row.get(0)?, last: row.get(1)?, first: row.get(2)? }))?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

/// Exchanges of a meter, newest first.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown meter.
pub fn list(rows: &dyn Rows, code: &str) -> Result<Vec<ExchangeRow>> {
    let conn = rows.sql().conn;
    let meter = meters::require(conn, code)?;
    let mut select = conn.prepare_cached(
        "SELECT e.at, e.final_value, e.start_value, p.name, e.recorded_at FROM meter_exchanges e
         JOIN people p ON p.id = e.recorded_by WHERE e.meter_id = ?1 ORDER BY e.at DESC",
    )?;
    let rows = select.query_map([meter], |row| {
        Ok(ExchangeRow {
            at: row.get("at")?,
            final_value: row.get(1)?,
            start_value: row.get(2)?,
            by: row.get(3)?,
            recorded_at: row.get("recorded_at")?,
        })
    })?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

/// How much a counter grew in a span, across rollovers and exchanges.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown meter, [`StoreError::Invalid`] for one that is no counter.
pub fn usage(rows: &dyn Rows, code: &str, span: Span) -> Result<f64> {
    let conn = rows.sql().conn;
    let meter = meters::require(conn, code)?;
    let rules = meters::rules_of(conn, meter)?;
    let Some(counter) = rules.counter() else {
        return Err(StoreError::invalid("meter", "only a counter is used up"));
    };
    // With the nearest readings on either side, so that both ends can be taken on a line.
    let mut lookup = Lookup::new(conn, meter);
    let from = lookup.before(span.start())?.map_or(span.start(), |reading| reading.at);
    // One that was taken just at the end is the end.
    let to = lookup.after(span.end().plus(-1))?.map_or(span.end(), |reading| reading.at.plus(1));
    let wide = Span::new(from, to).unwrap_or(span);
    let columns = super::history::columns(conn, meter, wide)?;
    Ok(tally_core::watch::readings::usage(counter, &columns, &of(conn, meter)?, span))
}

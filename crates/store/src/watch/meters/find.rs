//! Meters by their code, and the rules of their readings.

use crate::ground::{
    error::{Result, StoreError},
    rows::from_json,
    sql::Rows,
};
use rusqlite::{Connection, OptionalExtension, Row};
use tally_core::{
    ground::ids::MeterId,
    watch::meters::{Meter, MeterFields},
};

pub(crate) fn id_of(conn: &Connection, code: &str) -> Result<Option<MeterId>> {
    let mut find = conn.prepare_cached("SELECT id FROM meters WHERE code = ?1")?;
    Ok(find.query_row([code], |row| row.get(0)).optional()?.map(MeterId))
}

/// The meter of that code.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn require(rows: &dyn Rows, code: &str) -> Result<MeterId> {
    let conn = rows.sql().conn;
    id_of(conn, code)?.ok_or_else(|| StoreError::not_found("meter", code))
}

/// The rules of a meter.
pub(crate) fn rules_of(conn: &Connection, meter: MeterId) -> Result<Meter> {
    let mut select = conn.prepare_cached("SELECT * FROM meters WHERE id = ?1")?;
    let mut rows = select.query([meter])?;
    rules(rows.next()?.ok_or_else(|| StoreError::not_found("meter", meter))?)
}

/// The rules of a meter from its row.
pub(crate) fn rules(row: &Row) -> Result<Meter> {
    let fields = MeterFields {
        kind: row.get("kind")?,
        unit: row.get("unit")?,
        resolution: row.get("resolution")?,
        rollover_at: row.get("rollover_at")?,
        greatest_rate: row.get("greatest_rate")?,
        plausible_low: row.get("plausible_low")?,
        plausible_high: row.get("plausible_high")?,
        grades: from_json("meters", &row.get::<_, String>("grades")?)?,
    };
    Meter::try_from(fields).map_err(|error| StoreError::corrupt("meters", error))
}

/// The code of a meter.
pub(crate) fn code_of(conn: &Connection, meter: MeterId) -> Result<String> {
    let mut find = conn.prepare_cached("SELECT code FROM meters WHERE id = ?1")?;
    Ok(find.query_row([meter], |row| row.get(0))?)
}

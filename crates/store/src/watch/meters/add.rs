//! Adding meters, and what they may be.

use super::find::id_of;
use crate::{
    ground::{
        error::{Result, StoreError},
        rows::to_json,
        tx::Tx,
    },
    plant::assets,
    watch::readings::history,
};
use rusqlite::{Connection, params};
use serde::{Deserialize, Serialize};
use tally_core::{
    access::roles::Action,
    ground::{
        ids::{AssetId, MeterId},
        time::Instant,
    },
    plant::assets::parse_code,
    watch::meters::{Meter, MeterFields, MeterWord},
};
use utoipa::ToSchema;

/// A meter to add.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct NewMeter {
    pub code: String,
    /// Code of the asset it is read on.
    pub asset: String,
    /// What it reads; the code where none is given.
    pub name: Option<String>,
    /// Where on the asset it is read, such as *drive end, horizontal*.
    pub measuring_point: Option<String>,
    pub kind: MeterWord,
    /// UCUM code; `1` for a grade.
    #[serde(default = "no_unit")]
    pub unit: String,
    #[serde(default)]
    pub resolution: f64,
    pub rollover_at: Option<f64>,
    /// Greatest rise per hour.
    pub greatest_rate: Option<f64>,
    pub plausible_low: Option<f64>,
    pub plausible_high: Option<f64>,
    #[serde(default)]
    pub grades: Vec<String>,
    pub longest_silence_seconds: Option<i64>,
    /// A counter whose hours are the asset's operating time.
    #[serde(default)]
    pub running_hours: bool,
    pub retired_at: Option<Instant>,
}

fn no_unit() -> String {
    "1".into()
}

/// Adds a meter.
///
/// # Errors
/// [`StoreError::Invalid`] by field, [`StoreError::Conflict`] for a code that is taken.
pub fn add(tx: &mut Tx, new: &NewMeter) -> Result<MeterId> {
    tx.require(Action::ChangeMasterData)?;
    let code = parse_code(&new.code).map_err(|error| StoreError::invalid("code", error))?;
    let asset = assets::require_in(tx.conn, &new.asset, "asset")?;
    if id_of(tx.conn, &code)?.is_some() {
        return Err(StoreError::Conflict(format!("there is a meter {code} already")));
    }
    let meter = parse(MeterFields {
        kind: new.kind,
        unit: new.unit.trim().into(),
        resolution: new.resolution,
        rollover_at: new.rollover_at,
        greatest_rate: new.greatest_rate,
        plausible_low: new.plausible_low,
        plausible_high: new.plausible_high,
        grades: new.grades.clone(),
    })?;
    if meter.unit.is_empty() {
        return Err(StoreError::invalid("unit", "give a UCUM code, such as mm/s, Cel or 1"));
    }
    if new.running_hours {
        check_running(tx.conn, asset, None, &meter, new.retired_at)?;
    }
    let name = new.name.as_deref().map(str::trim).filter(|name| !name.is_empty()).unwrap_or(&code);
    tx.conn.execute(
        "INSERT INTO meters (code, asset_id, name, kind, unit, resolution, rollover_at, greatest_rate, plausible_low,
             plausible_high, grades, longest_silence_s, running_hours, recorded_at, recorded_by, retired_at,
             measuring_point)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14, ?15, ?16, ?17)",
        params![
            code,
            asset,
            name,
            new.kind,
            meter.unit,
            new.resolution,
            new.rollover_at,
            new.greatest_rate,
            new.plausible_low,
            new.plausible_high,
            to_json(&new.grades),
            new.longest_silence_seconds,
            new.running_hours,
            tx.now,
            tx.actor.id,
            new.retired_at,
            new.measuring_point.as_deref().map(str::trim).filter(|point| !point.is_empty()),
        ],
    )?;
    let id = MeterId(tx.conn.last_insert_rowid());
    tx.audit("added", "meter", &code, new)?;
    Ok(id)
}

/// The meter that is described, or the field at fault.
pub(crate) fn parse(fields: MeterFields) -> Result<Meter> {
    Meter::try_from(fields).map_err(|error| StoreError::invalid(error.field(), error))
}

/// Whether anything was ever read on it.
pub(crate) fn has_readings(conn: &Connection, meter: MeterId) -> Result<bool> {
    Ok(history::counts(conn, meter)?.readings > 0)
}

/// Whether a meter's hours can be its asset's operating time: a counter of hours, the only one that is not retired.
///
/// # Errors
/// [`StoreError::Invalid`] by field.
pub(crate) fn check_running(
    conn: &Connection,
    asset: AssetId,
    meter: Option<MeterId>,
    rules: &Meter,
    retired_at: Option<Instant>,
) -> Result<()> {
    let taken = conn
        .prepare_cached(
            "SELECT 1 FROM meters WHERE asset_id = ?1 AND running_hours = 1 AND retired_at IS NULL AND id IS NOT ?2",
        )?
        .exists(params![asset, meter])?;
    Ok(rules.check_running_hours(retired_at.is_some(), taken)?)
}

//! An invented plant: Ombersett Ropeways. Every name, figure and event is made up.
//!
//! It is made through the store's own functions, so the rules hold in it as in real data: [`plan`] says what is to happen
//! when, [`plant`] what stands there, [`signals`] what its meters read from day to day, [`history`] plays the years.

mod codebooks;
pub mod gateway;
mod history;
mod jobs;
pub mod plan;
mod plant;
mod signals;

use jiff::civil::Date;
use plan::Size;
use tally_core::{calendar::zone, time::Instant};
use tally_store::{Result, Store, people, settings};

/// The day the demo takes for today, unless told otherwise: a Monday in the winter season.
pub const TODAY: Date = jiff::civil::date(2026, 2, 16);

/// The demo's local time. An IANA name without a place in it.
pub const TIME_ZONE: &str = "CET";

const KEY: &str = "demo_today";

/// The instant at which the demo begins on `today`: half past ten in the morning.
#[must_use]
pub fn opening(today: Date) -> Instant {
    let zone = zone(TIME_ZONE).unwrap_or(jiff::tz::TimeZone::UTC);
    zone.to_ambiguous_timestamp(today.at(10, 30, 0, 0)).compatible().map_or(Instant::EARLIEST, Instant::from)
}

/// Makes the plant with its history up to `today`, unless the folder holds it already. `progress` is told the share done.
///
/// # Errors
/// The store's own; a folder that holds other data is a conflict.
pub fn ensure(store: &Store, today: Date, size: Size, progress: impl FnMut(f64)) -> Result<()> {
    let kept: Option<String> = store.read(|conn| settings::kept(conn, KEY))?;
    if kept.is_some() {
        return Ok(());
    }
    let admin = store.read(people::first_administrator)?;
    history::play(store, admin.clone(), today, size, progress)?;
    store.write(admin, opening(today), |act| settings::put(act, KEY, &today.to_string()))
}

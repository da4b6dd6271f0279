//! What stands at Ombersett Ropeways: people, seasons, lifts with their meters and limits.

mod assets;
mod calendar;
pub mod check_sheets;
pub mod lifts;
mod limits;
mod meters;
pub mod people;
pub mod rounds;
pub mod sheets;
mod storeroom;
mod table;
pub mod upkeep;

pub use calendar::runs;
pub use limits::set_limits;

use crate::{codebooks, plan::TIME_ZONE};
use jiff::civil::Date;
use lifts::Lift;
use tally_core::{ground::time::Instant, plant::settings::Settings};
use tally_store::{
    Result, Tx,
    codes::codebooks as store_codebooks,
    ground::files::Files,
    plant::{assets as store_assets, calendars, settings},
};

const CLASSES: &[(&str, &str)] = &[
    ("motor", "Electric motors"),
    ("converter", "Drive converters"),
    ("controls", "Controls"),
    ("gearbox", "Gearboxes"),
    ("bullwheel", "Bullwheels"),
    ("brakes", "Brakes"),
    ("hydraulics", "Hydraulic units"),
    ("rope", "Ropes"),
    ("sheaves", "Sheave assemblies"),
    ("grip", "Grips"),
    ("vehicle", "Vehicles"),
    ("bearing", "Bearings"),
    ("engine", "Rescue engines"),
    ("track", "Track and rollers"),
    ("workshop", "Workshop machines"),
];

/// Everything but the history.
pub fn build(tx: &mut Tx, files: &Files, lifts: &[Lift], today: Date, since: Instant) -> Result<()> {
    settings::set(
        tx,
        &Settings { name: "Ombersett Ropeways".into(), time_zone: TIME_ZONE.into(), ..Settings::default() },
    )?;
    people::add(tx)?;
    for &(code, name) in CLASSES {
        store_assets::add_class(tx, code, name)?;
    }
    for (code, book) in codebooks::all() {
        store_codebooks::put(tx, &code, &book)?;
    }
    assets::add(tx, lifts, since)?;
    let seasons = calendar::seasons(today);
    let new = calendars::NewCalendar { code: "lift".into(), name: "Lift seasons".into(), calendar: seasons };
    calendars::add(tx, &new)?;
    calendars::assign(tx, "OMB", "lift", Instant::EARLIEST)?;
    assets::budgets(tx, lifts, today)?;
    meters::add(tx, lifts)?;
    assets::permits(tx, lifts)?;
    storeroom::add(tx, lifts)?;
    check_sheets::add(tx, files)?;
    sheets::add(tx)?;
    rounds::add(tx, lifts)
}

//! What stands at Ombersett Ropeways: people, seasons, lifts with their meters and limits.

mod assets;
mod calendar;
pub mod lifts;
mod limits;
mod meters;
pub mod people;

pub use calendar::runs;
pub use limits::set_limits;

use crate::{TIME_ZONE, codebooks};
use jiff::civil::Date;
use lifts::Lift;
use tally_core::time::Instant;
use tally_store::{Act, Result, assets as store_assets, calendars, codebooks as store_codebooks, settings};

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
pub fn build(act: &mut Act, lifts: &[Lift], today: Date, since: Instant) -> Result<()> {
    settings::set(
        act,
        &settings::Settings {
            name: "Ombersett Ropeways".into(),
            time_zone: TIME_ZONE.into(),
            ..settings::Settings::default()
        },
    )?;
    people::add(act)?;
    for &(code, name) in CLASSES {
        store_assets::add_class(act, code, name)?;
    }
    for (code, book) in codebooks::all() {
        store_codebooks::put(act, &code, &book)?;
    }
    assets::add(act, lifts, since)?;
    let seasons = calendar::seasons(today);
    let new = calendars::NewCalendar { code: "lift".into(), name: "Lift seasons".into(), calendar: seasons };
    calendars::add(act, &new)?;
    calendars::assign(act, "OMB", "lift", Instant::EARLIEST)?;
    meters::add(act, lifts)
}

//! An invented plant: Ombersett Ropeways. Every name, figure and event is made up.
//!
//! It is made through the store's own functions, so the rules hold in it as in real data: [`plan`] says what is to happen
//! when, [`plant`] what stands there, [`signals`] what its meters read from day to day, [`history`] plays the years.

mod codebooks;
mod drawings;
pub mod gateway;
mod history;
mod jobs;
pub mod plan;
mod plant;
mod signals;

pub use plan::{TODAY, opening};

use jiff::civil::Date;
use plan::Size;
use tally_store::{Result, Store, access::people, plant::settings};

const KEY: &str = "demo_today";

/// Makes the plant with its history up to `today`, unless the folder holds it already. `progress` is told the share done.
///
/// # Errors
/// The store's own; a folder that holds other data is a conflict.
pub fn ensure(store: &Store, today: Date, size: Size, progress: impl FnMut(f64)) -> Result<()> {
    let kept: Option<String> = store.read(opening(today), |view| settings::kept(view, KEY))?;
    if kept.is_some() {
        return Ok(());
    }
    let admin = store.read(opening(today), |view| people::first_administrator(view))?;
    history::play(store, admin.clone(), today, size, progress)?;
    store.write(admin, opening(today), |tx| settings::put(tx, KEY, &today.to_string()))
}

//! Meters: [`add`], [`find`] by code, and [`list`] with where they stand against their limits.

mod add;
pub(crate) mod find;
mod list;

pub use add::{NewMeter, add};
pub(crate) use add::{check_running, has_readings, parse};
pub use find::require;
pub(crate) use find::{code_of, id_of, rules, rules_of};
pub(crate) use list::sparks;
pub use list::{LastReading, MeterDetail, MeterPage, MeterRow, detail, list};

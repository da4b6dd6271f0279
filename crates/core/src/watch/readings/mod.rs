//! Readings: as [`columns`], checked on their way in ([`check`]), and how a counter goes on ([`counters`]).

mod check;
mod columns;
mod counters;
mod source;
#[cfg(test)]
mod tests;

pub use check::{Accepted, Neighbours, Refused, check};
pub use columns::{Columns, Reading, Series};
pub use counters::{Exchange, ahead, risen, through, usage};
pub use source::Source;

//! The tally: indicators for any asset in any period, over a snapshot of facts held in memory.
//!
//! A [`Snapshot`](crate::facts::Snapshot) holds tree, calendars and facts by time, and takes changes one at a time; [`figures`] computes them for
//! many assets at once, and [`why`] shows the rows behind one of them, found by the same code. [`Places`] are the rows of a
//! tally, of which [`figures_of`] and [`why_of`] give the same.

mod compute;
pub mod indicators;
mod places;
mod question;
mod required;
mod sums;
#[cfg(test)]
mod tests;
mod times;
mod trace;

pub use compute::{figures, figures_of, why, why_of};
pub use places::{Place, PlaceKind, Places, Scope, Way};
pub use question::Question;

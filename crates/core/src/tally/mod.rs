//! The tally: indicators for any asset in any period, over a snapshot of facts held in memory.
//!
//! A [`Snapshot`](crate::facts::Snapshot) holds tree, calendars and facts in columns. [`measures`] go over their rows once and say
//! of each what it adds where; [`slots`] know for which rows of an answer that counts; a [`formula`] says which of the sums an
//! indicator is. [`figures`] combines them for many assets at once, and [`why`] shows the rows behind one, by the same measures.
//! [`Places`] are the rows of a tally, of which [`figures_of`] and [`why_of`] give the same.
//!
//! To add an indicator: its name in [`indicators::Indicator`], its entry with formula and source in
//! [`indicators::CATALOGUE`]; what no term adds up yet is a new [measure](measures::Measure).

mod figures;
mod formula;
pub mod indicators;
mod measures;
mod places;
mod question;
mod required;
mod slots;
#[cfg(test)]
mod tests;
mod times;
mod why;

pub use figures::{figures, figures_of, figures_of_each, values};
pub use places::{Place, PlaceKind, Places, Scope, Way};
pub use question::Question;
pub use why::{why, why_of};

//! The tally: indicators for any asset in any period, over a snapshot of facts held in memory.
//!
//! [`Snapshot`] holds tree, calendars and facts by time, and takes changes one at a time; [`figures`] computes them for
//! many assets at once, and [`why`] shows the rows behind one of them, found by the same code. [`Places`] are the rows of a
//! tally, of which [`figures_of`] and [`why_of`] give the same.

mod compute;
mod facts;
mod places;
mod question;
mod required;
mod snapshot;
mod sums;
#[cfg(test)]
mod tests;
mod times;
mod trace;

pub use compute::{figures, figures_of, why, why_of};
pub use facts::{DowntimeFact, EntryFact, Fact, Facts, FailureFact, WorkFact};
pub use places::{Place, PlaceKind, Places, Scope, Way};
pub use question::Question;
pub use required::Assignment;
pub use snapshot::{RunningCounter, Snapshot};

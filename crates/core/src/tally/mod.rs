//! The tally: indicators for any asset in any period, over a snapshot of facts held in memory.
//!
//! [`Snapshot`] holds tree, calendars and facts by time, and takes changes one at a time; [`figures`] computes them for
//! many assets at once, and [`why`] shows the rows behind one of them, found by the same code.

mod compute;
mod facts;
mod required;
mod snapshot;
mod sums;
#[cfg(test)]
mod tests;
mod times;
mod trace;

pub use compute::{Question, figures, why};
pub use facts::{DowntimeFact, EntryFact, Fact, Facts, FailureFact, WorkFact};
pub use required::Assignment;
pub use snapshot::Snapshot;

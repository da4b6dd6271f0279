//! What happened, as figures need it: narrow [`rows`] by time, and the [`snapshot`] of all of them with tree and calendars.

mod assignment;
mod rows;
mod snapshot;

pub use assignment::Assignment;
pub use rows::{DowntimeFact, EntryFact, Fact, Facts, FailureFact, WorkFact};
pub use snapshot::{RunningCounter, Snapshot};

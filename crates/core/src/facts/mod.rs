//! What happened, in columns: [`rows`] by time, [packed](packed) into parts that clones share ([`columns`]), and the [`snapshot`]
//! of all of them with tree, calendars and [`names`], which takes [`changes`].

mod assignment;
mod changes;
pub mod columns;
mod names;
pub mod packed;
mod rows;
mod snapshot;

pub use assignment::Assignment;
pub use changes::{Changed, Happened};
pub use names::{AssetFact, Named, Names};
pub use rows::{
    DownFact, DownOfWork, DowntimeFact, Downtimes, Entries, EntryFact, FailureFact, Failures, MoveFact, Moves, Spent,
    SpentFact, WorkFact, Works,
};
pub use snapshot::{RunningCounter, Snapshot};

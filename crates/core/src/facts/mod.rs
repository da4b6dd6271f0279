//! What happened, in columns: [`rows`] by time, [packed](packed) into parts that clones share ([`columns`]), and the [`snapshot`]
//! of all of them with tree, calendars and [`names`], which takes [`changes`] and tells the [`past`].

mod assignment;
mod by_crew;
mod by_work;
mod changes;
mod column;
pub mod columns;
mod dated;
mod life;
mod names;
mod near;
mod noted;
mod numbers;
mod of_failures;
mod outcomes;
mod own_downtime;
pub mod packed;
mod past;
mod pile;
mod rows;
mod snapshot;
mod upkept;

pub use assignment::Assignment;
pub use by_crew::OpenHours;
pub use by_work::ByWork;
pub use changes::{Changed, Entered, Happened, OfWork};
pub use dated::{Dated, Worth};
pub use life::{Added, Ends, Life, cell};
pub use names::{AssetFact, Named, Names};
pub use near::NearWork;
pub use numbers::Numbers;
pub use outcomes::Outcomes;
pub use own_downtime::{OwnDowntime, SeveralReports};
pub use past::AsOf;
pub use pile::Pile;
pub use rows::{
    AlarmFact, Alarms, CycleFact, Cycles, DownFact, DownOfWork, DowntimeFact, Downtimes, Entries, EntryFact,
    FailureFact, Failures, Fields, FieldsFact, MoveFact, Moves, STOP, Spent, SpentFact, StepFact, Steps, WorkFact,
    Works, hours_ms,
};
pub use snapshot::{RunningCounter, Snapshot, Standing};

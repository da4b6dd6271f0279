//! The subjects: their columns, and what fills them.

mod alarms;
mod cycles;
mod downtime;
mod entries;
mod failures;
mod work;

pub(super) use alarms::AlarmsOf;
pub(super) use cycles::CyclesOf;
pub(super) use downtime::Downtime;
pub(super) use entries::EntriesOf;
pub(super) use failures::FailuresOf;
pub(super) use work::Work;

//! Methods that know nothing of the job: describing values, control charts, tolerance limits, trends of values and of events.

pub mod charts;
pub mod describe;
pub mod events;
mod normal;
pub mod tolerance;
pub mod trend;

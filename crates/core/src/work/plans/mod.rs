//! Upkeep plans, work that recurs: how often ([`recurrence`], [`season`]), which [`cycles`] that makes, the [`year`] ahead of them,
//! and [`levelling`] it.

mod cycles;
pub mod levelling;
mod recurrence;
mod season;

pub use cycles::{CounterUse, Cycle, DueBy, LastDone, Settled, Standing, ToSettle, is_in_time};
pub use recurrence::{CountsFrom, Recurrence};
pub use season::{NotASeason, Season};

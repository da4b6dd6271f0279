//! Upkeep plans, work that recurs: how often ([`recurrence`], [`season`]), which [`cycles`] that makes, the [`year`] ahead of them,
//! and [`levelling`] it; counters are
//! told by their use ([`use_per_day`]).

mod counter_use;
mod cycles;
pub mod levelling;
mod recurrence;
mod season;
pub mod year;

pub use counter_use::{UsePerDay, WEEKS_OF_USE, use_per_day};
pub use cycles::{CounterUse, Cycle, CycleOutcome, DueBy, LastDone, Settled, Standing, ToSettle, is_in_time};
pub use recurrence::{CountsFrom, Recurrence};
pub use season::{NotASeason, Season};

//! Time that runs while somebody works: it begins and ends by a press ([`change`](mod@change)), or with the work ([`timers`]), and becomes hours.

mod change;
mod timers;

pub use change::{add_hours, change};
pub use timers::{OwnTime, RunningTime};
pub(super) use timers::{of_work, own, stop_all};

//! Upkeep plans: where each stands on its assets ([`courses`]), what is due by the clock and by hand ([`settle`]), the counters they
//! go by ([`counters`]), cycles that are moved ([`moves`]), one plan with its cycles ([`detail`]) the [`year`] ahead, and how to [`level`] it.

mod counters;
mod courses;
mod detail;
mod forward;
mod level;
mod moves;
mod settle;
mod year;

pub use counters::{LookedAt, keep as keep_counters, look as look_at_counters, stale as stale_counters};
pub use detail::{CycleRow, NextCycle, PlanDetail, detail};
pub use forward::raise_now;
pub(crate) use forward::{Forwarded, bring_forward, require_active};
pub use level::{LevelledCrew, Levelling, LevellingMove, level};
pub use moves::{CycleMove, CyclesMoved, MoveRow, move_cycles};
pub use settle::{due, settle};
pub(super) use year::ahead_of_crew;
pub use year::{CycleAhead, YearAhead, YearAsked, YearCrew, YearCycle, YearPlan, year};

//! Job sheets and rounds: the [`sheets`] with their versions, the one that an order took ([`of_work`]), what became of its steps
//! ([`steps`]), what of it is ticked off ([`ticks`]), and where a round leads ([`map`]).

mod map;
mod of_work;
mod sheets;
mod steps;
mod ticks;

pub use map::round_map;
pub use of_work::{JobLine, VisitJob, WorkJob};
pub(super) use of_work::{asset_permits, of_work};
pub use sheets::{JobSheetRow, JobSheetView, list, put, view};
pub(crate) use sheets::{Taken, require_active};
pub(super) use steps::{forget_ticks, open_visit, require_turn, settle_visit, sheet_of};
pub use ticks::{TickChange, tick};

//! Families: meters of one name on assets of one class that share a ladder ([`members`]); as listed and one on its page
//! ([`view`]), setting its ladder ([`set`], [`write`]) with a second engineer's yes where one is needed ([`approval`]), and what it
//! would have done ([`judged`]).

mod approval;
mod judged;
mod members;
mod set;
mod view;
mod write;

pub use approval::{approve, turn_down};
pub use judged::{finder_of, forecast_of, proposals_of, replay_of};
pub use set::set;
pub use view::{FamilyMeter, FamilyRow, FamilyView, ProposedFamily, list, view};
pub use write::{FamilyReceipt, FamilyReceiptRow};

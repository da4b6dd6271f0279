//! Ladders: [`versions`] as set, the machine of the newest as it stands ([`running`]), writing one ([`set`]), and all of them
//! as a table ([`file`]).

pub mod file;
pub(crate) mod running;
mod set;
mod versions;

pub(crate) use running::Running;
pub use set::{LadderReceipt, NewLadder, approve, set, turn_down};
pub(crate) use set::{check, write};
pub use versions::{LadderChanges, LadderView, ProposedLadder, VersionRow, changes_between, view};
pub(crate) use versions::{newest, newest_since, version};

//! The facts that figures are made of: read whole at start, then kept current by what the table `changes` says.

mod load;

pub(crate) use load::load_tree;
pub use load::{load, newest_change, refresh};

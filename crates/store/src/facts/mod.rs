//! The facts that figures and lists are made of: [read](mod@read) whole at start ([`load`]), then kept current by what the table
//! `changes` says ([`mod@refresh`]); with them the [`plant`] and its [`running`] hours.

mod load;
mod plant;
mod read;
mod refresh;
mod running;

pub(crate) use load::load_by_two;
pub use load::{load, newest_change};
pub(crate) use plant::load_tree;
pub use refresh::refresh;

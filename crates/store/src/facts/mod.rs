//! The facts that figures and lists are made of: [read](mod@read) whole at start ([`load`]), then kept current by what the table
//! `changes` says ([`mod@refresh`]); with them the [`plant`], its [`running`] hours, and the [`mod@steps`] that take hours elsewhere.
//! A [`column_file`] makes the start quick ([`by_file`]).
//! As of a [`past`] instant they are made of those, and of what was [`known`].

mod by_file;
mod column_file;
mod known;
mod load;
mod past;
mod plant;
mod read;
mod refresh;
mod running;
mod steps;

pub(crate) use by_file::load_by_file;
pub(crate) use column_file::{ColumnFile, Written, is_worth_a_file};
pub(crate) use load::load_by_two;
pub use load::{load, newest_change};
pub use past::as_of;
pub(crate) use plant::load_tree;
pub use refresh::refresh;

//! Fair Tally's data in SQLite. All SQL stands here.
//!
//! [`Store::write`] gives one transaction with who acts and when ([`Tx`]); [`Store::read`] a [`View`] of one state of
//! the data. The way of a reading starts at [`watch::readings::ingest`]. What a write changes, the facts learn from the table
//! `changes` ([`facts`]). Master data goes in and out by [`plant::master`].

pub mod access;
pub mod codes;
pub mod facts;
pub mod ground;
pub mod lists;
pub mod outside;
pub mod plant;
mod store;
pub mod tally;
pub mod watch;
pub mod work;

pub use ground::{
    error::{Result, StoreError},
    pool::Stop,
    sql::Rows,
    tx::{Actor, News, Tx},
    view::{Looker, View},
    viewer::Viewer,
};
pub use store::{Aside, Store, bound, synchronous};

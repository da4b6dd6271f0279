//! Fair Tally's data in SQLite. All SQL stands here.
//!
//! [`Store::write`] gives one transaction with who acts and when ([`Tx`]); [`Store::read`] a connection that can only
//! look. The way of a reading starts at [`watch::readings::ingest`]. What a write changes, the facts learn from the table
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

pub use access::seen::Seen;
pub use ground::{
    error::{Result, StoreError},
    pool::Stop,
    tx::{Actor, News, Tx},
};
pub use rusqlite::Connection;
pub use store::{Aside, Store, synchronous};

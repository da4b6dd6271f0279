//! Fair Tally's data in SQLite. All SQL stands here.
//!
//! [`Store::write`] gives one transaction with who acts and when ([`Tx`]); [`Store::read`] a connection that can only
//! look. The way of a reading starts at [`readings::ingest`]. What a write changes, the tally's snapshot learns from the
//! table `changes` ([`tally`]). Master data
//! goes in and out by [`master`].

mod access;
pub mod alarms;
pub mod assets;
pub mod base;
pub mod calendars;
pub mod codebooks;
mod database;
pub mod downtime;
pub mod entries;
mod error;
mod facet;
pub mod failures;
pub mod families;
pub mod folder;
pub mod history;
pub mod limits;
pub mod master;
mod memory;
mod meter_states;
pub mod meters;
mod migrations;
pub mod outbox;
pub mod people;
pub mod pictures;
mod pool;
pub mod readings;
pub mod replay;
mod rows;
pub mod search;
pub mod settings;
pub mod start;
pub mod tags;
pub mod tally;
mod tx;
pub mod webhooks;
pub mod work;

pub use access::Seen;
pub use database::{Aside, Store, synchronous};
pub use error::{Result, StoreError};
pub use pool::Stop;
pub use rusqlite::Connection;
pub use tx::{Actor, News, Tx};

//! The rules of the job and the computation, without clock, file, socket or database.
//!
//! Where to start:
//! - a reading on its way in: [`watch::readings`] checks it, [`watch::limits`] evaluates it and decides what it sets off;
//! - the work that follows: [`work`] says which moves there are and whose they are, [`work::entries`], [`plant::downtime`]
//!   and [`codes::failures`] what comes back from it;
//! - what it adds up to: [`tally::indicators`] is the catalogue, [`tally`] computes it over a [`facts::Snapshot`], and every
//!   figure can give its [`tally::indicators::Why`];
//! - rows of it, filtered, grouped and summed up: [`lists`], over the same snapshot;
//! - what a plant already has in files: [`outside::files`].
//!
//! All stands on [`ground`] and [`stats`], which know nothing of the job. Time and data are passed in. Instants are UTC
//! milliseconds, spans are half-open.

pub mod access;
pub mod codes;
pub mod facts;
pub mod ground;
pub mod lists;
pub mod outside;
pub mod plant;
pub mod stats;
pub mod tally;
pub mod watch;
pub mod work;

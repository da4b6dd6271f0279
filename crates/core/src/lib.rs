//! The rules of the job and the computation, without clock, file, socket or database.
//!
//! Where to start:
//! - a reading on its way in: [`readings`] checks it, [`limits`] evaluates it and decides what it sets off;
//! - the work that follows: [`work`] says which moves there are and whose they are, [`entries`],
//!   [`downtime`] and [`failures`] what comes back from it;
//! - what it adds up to: [`indicators`] is the catalogue, [`tally`] computes it over a [`tally::Snapshot`],
//!   and every figure can give its [`indicators::Why`];
//! - what a plant already has in files: [`files`].
//!
//! Time and data are passed in. Instants are UTC milliseconds, spans are half-open.

pub mod assets;
pub mod batch;
pub mod calc;
pub mod calendar;
pub mod charts;
pub mod codebooks;
pub mod downtime;
pub mod entries;
pub mod failures;
pub mod files;
pub mod ids;
pub mod indicators;
pub mod limits;
pub mod meters;
pub mod money;
pub mod people;
pub mod period;
pub mod readings;
pub mod severity;
#[cfg(feature = "sql")]
pub mod sql;
pub mod tally;
pub mod texts;
pub mod time;
pub mod trend;
pub mod units;
pub mod work;

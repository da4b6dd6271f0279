//! What every handler stands on: the clock, what a [`look`] has at hand, what is taken from requests
//! ([`extract`]), what is answered when something is wrong ([`error`]), the web's files, what is counted ([`metrics`]), what blocks ([`threads`]), and serving
//! all of it, over [`tls`] too.

pub mod clock;
pub mod error;
pub mod extract;
pub mod look;
pub mod metrics;
pub mod serve;
pub mod threads;
pub mod tls;
pub mod web;

//! What everything stands on: the open transaction ([`tx`]) and what is remembered between two ([`memory`]), connections to
//! look through ([`pool`]), the [`folder`] with its schema ([`migrations`]), what can go wrong ([`error`]), what two people may
//! edit at once ([`base`]), and small helpers between SQL and the core's types ([`rows`]).

pub mod base;
pub(crate) mod error;
pub mod folder;
pub(crate) mod memory;
pub(crate) mod migrations;
pub(crate) mod pool;
pub(crate) mod rows;
pub(crate) mod tx;

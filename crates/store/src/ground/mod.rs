//! What everything stands on: the open transaction ([`tx`]) and what is remembered between two ([`memory`]), the [`view`] of a
//! [`viewer`] as far as they [`reach`], through a connection that only looks ([`pool`]) with what is held [`in_memory`], the [`folder`]
//! with its [`files`] and its schema ([`migrations`]), what can go wrong ([`error`]), what two people may edit at once ([`base`]), what was sent
//! already ([`keys`]), [`counts`] for whoever watches, and small helpers between SQL and the core's types ([`rows`]).

pub mod base;
pub mod counts;
pub(crate) mod error;
pub mod files;
pub mod folder;
pub mod in_memory;
pub mod keys;
pub(crate) mod memory;
pub(crate) mod migrations;
pub(crate) mod pool;
pub mod reach;
pub(crate) mod rows;
pub(crate) mod sql;
pub(crate) mod tx;
pub(crate) mod view;
pub(crate) mod viewer;

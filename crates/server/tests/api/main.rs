//! The router called in process: what each route answers, to whom, and what is said of bad input.

#![allow(clippy::unwrap_used, reason = "a test that fails by an unwrap says where")]

mod again;
mod attachments;
mod bad_input;
mod bounds;
mod busy;
mod caller;
mod contract;
mod counted;
mod editing;
mod everything;
mod feeds;
mod files;
mod fuzz;
mod keys;
mod lists;
mod live;
mod looks;
mod outside;
mod permissions;
mod planned;
mod scopes;
mod session;
mod signing;
mod sound;
mod told;

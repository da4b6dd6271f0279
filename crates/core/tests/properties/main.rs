//! Properties of the rules against slow, obvious ways of counting.

#![allow(clippy::unwrap_used, reason = "a test that fails by an unwrap says where")]

mod calendars;
mod limits;
mod money;
mod periods;
mod readings;
mod trees;

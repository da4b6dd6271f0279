//! Handlers by resource. All routes stand in [`crate::openapi`].
//!
//! To add one: a function here with its `utoipa::path`, its request and answer beside it, and a line there.

pub mod alarms;
pub mod assets;
pub mod calendars;
pub mod clock;
pub mod codebooks;
pub mod corrections;
pub mod downtime;
pub mod families;
pub mod files;
pub mod health;
pub mod limits;
pub mod master;
pub mod meters;
pub mod outside;
pub mod people;
pub mod period;
pub mod readings;
pub mod replay;
pub mod search;
pub mod settings;
pub mod start;
pub mod tally;
pub mod work_orders;

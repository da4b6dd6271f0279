//! What is watched: meters, their readings in [`batch`]es, the [`limits`] that look at them, and what
//! [`holds`] [`alarms`] back.

pub mod alarms;
pub mod batch;
pub mod holds;
pub mod limits;
pub mod meters;
pub mod readings;

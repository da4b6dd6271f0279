//! What is watched: meters, their readings in [`batch`]es, and the [`limits`] that look at them.

pub mod batch;
pub mod limits;
pub mod meters;
pub mod readings;

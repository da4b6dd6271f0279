//! What is watched: meters and where they stand, their readings, the limits that look at them and the alarms that come of it,
//! families of limits, and what limits would have done in the past.

pub mod alarms;
pub mod families;
pub mod limits;
pub(crate) mod meter_states;
pub mod meters;
pub mod readings;
pub mod replay;

//! The plant: assets, calendars, downtime, settings, values by date, pictures, and all of its tables as rows of text.

pub mod assets;
pub mod calendars;
pub mod downtime;
pub mod master;
pub mod pictures;
pub mod settings;
pub mod values;

//! The plant: assets and where they stand in the tree, downtime on its way up there, and what holds for all of it
//! ([`settings`]).

pub mod assets;
pub mod downtime;
pub mod settings;
pub mod values;

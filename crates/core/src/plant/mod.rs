//! The plant: assets and where they stand in the tree, and downtime on its way up there.

pub mod assets;
pub mod downtime;

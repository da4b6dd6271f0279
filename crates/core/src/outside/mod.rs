//! What comes from outside: [`files`] as a plant already has them, and cases to compute ([`calc`]); and what goes there to be
//! safe ([`backups`]), and where to it may ([`networks`]).

pub mod backups;
pub mod calc;
pub mod files;
pub mod networks;

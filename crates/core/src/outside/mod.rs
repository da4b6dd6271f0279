//! What comes from outside: [`files`] as a plant already has them, and cases to compute ([`calc`]).

pub mod calc;
pub mod files;

//! One rung tried at many [`setting`]s ([`find`]), all in one pass over the readings ([`together`]).

mod find;
mod setting;
#[cfg(test)]
mod tests;
mod together;

pub use find::{Best, Worth, best, best_of_each, find};
pub use setting::{FinderPoint, Setting, deadbands, grid};

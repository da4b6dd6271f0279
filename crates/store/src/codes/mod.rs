//! Codebooks, and failures coded by them.

pub mod codebooks;
pub mod failures;

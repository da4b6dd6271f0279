//! Codes: codebooks of problems, causes and remedies, and the failures that are coded by them.

pub mod codebooks;
pub mod failures;

//! People, and which work they see.

pub mod people;
pub mod seen;

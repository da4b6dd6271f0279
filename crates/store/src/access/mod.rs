//! People and crews.

pub mod people;

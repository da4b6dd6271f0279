//! People and crews, and how they sign in.

pub mod keys;
pub mod passwords;
pub mod people;
pub(crate) mod scope;
pub mod sessions;

//! People and crews, how they sign in, and how far they reach.

pub mod keys;
pub mod passkeys;
pub mod passwords;
pub mod people;
pub mod pins;
pub(crate) mod scopes;
pub mod sessions;
pub mod trail;

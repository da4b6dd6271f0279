//! Who may do what ([`roles`]) and see what ([`seen`]).

pub mod roles;
pub mod seen;
#[cfg(test)]
mod tests;

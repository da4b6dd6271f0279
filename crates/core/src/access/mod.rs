//! Who may do what ([`roles`]) and see what ([`seen`]), what takes two ([`approval`]), who must be left
//! ([`administrators`]), why something is refused ([`refusal`]); what acts ([`accounts`]) and how far it reaches in the plant
//! ([`bounds`]), and how it signs in: which passwords are taken ([`passwords`]) and which numbers at a shared device ([`pins`]), how guessing is slowed ([`backoff`]), how long a
//! session lasts ([`sessions`]).

pub mod accounts;
pub mod administrators;
pub mod approval;
pub mod backoff;
pub mod bounds;
pub mod passwords;
pub mod pins;
pub mod refusal;
pub mod roles;
pub mod seen;
pub mod sessions;
#[cfg(test)]
mod tests;

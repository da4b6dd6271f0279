//! Who may do what ([`roles`]) and see what ([`seen`]), what takes two ([`approval`]), who must be left
//! ([`administrators`]), and why something is refused
//! ([`refusal`]).

pub mod administrators;
pub mod approval;
pub mod refusal;
pub mod roles;
pub mod seen;
#[cfg(test)]
mod tests;

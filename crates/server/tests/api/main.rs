//! The router called in process: what each route answers, to whom, and what is said of bad input.

mod bad_input;
mod caller;
mod contract;
mod permissions;

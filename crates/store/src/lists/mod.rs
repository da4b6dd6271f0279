//! Lists across all of it: search, what the first page shows, and what lists can be filtered by.

pub(crate) mod facet;
pub mod search;
pub mod start;

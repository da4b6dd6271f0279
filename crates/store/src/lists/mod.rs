//! Lists across all of it: search by [`letters`], what the first page shows, and what lists can be filtered by.

pub(crate) mod facet;
pub(crate) mod letters;
pub mod search;
pub mod start;

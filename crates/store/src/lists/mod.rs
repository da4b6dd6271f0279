//! Lists across all of it: rows of any kind as they are asked for ([`mod@answer`]), kept as [`views`], search by [`letters`], what the first page shows, and what lists can be filtered by.

pub mod answer;
pub(crate) mod facet;
pub(crate) mod letters;
pub mod search;
pub mod start;
pub mod views;

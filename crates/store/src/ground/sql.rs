//! The way to the rows, which only this crate can go.

use rusqlite::Connection;

/// What rows are read through: a [view](super::view::View), or an open transaction that looks at what it holds so far.
pub trait Rows {
    /// A way to the rows that only this crate can go.
    fn sql(&self) -> Sql<'_>;
}

/// A way to the rows.
#[derive(Debug, Clone, Copy)]
pub struct Sql<'a> {
    pub(crate) conn: &'a Connection,
}

impl Rows for Connection {
    fn sql(&self) -> Sql<'_> {
        Sql { conn: self }
    }
}

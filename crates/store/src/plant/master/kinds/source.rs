//! Where the rows of a table come from: its own columns, and others that are joined where they are asked for.

/// A column that another table holds.
pub(crate) struct Joined {
    pub column: &'static str,
    /// As an expression.
    pub is: &'static str,
    pub join: &'static str,
}

/// Where the rows of a table come from.
pub(crate) struct Source {
    /// `id`, `asset_id` to filter by, and the columns of the table itself by their names.
    pub own: &'static str,
    pub from: &'static str,
    pub joined: &'static [Joined],
}

impl Source {
    /// A query of all rows, with those of the joined columns that are `wanted`.
    pub(crate) fn select(&self, wanted: impl Fn(&str) -> bool) -> String {
        let (mut columns, mut from) = (self.own.to_owned(), self.from.to_owned());
        for joined in self.joined.iter().filter(|joined| wanted(joined.column)) {
            columns.push_str(&format!(", {} AS {}", joined.is, joined.column));
            from.push_str(&format!(" {}", joined.join));
        }
        format!("SELECT {columns} FROM {from}")
    }
}

//! Rows of one kind, and how their own columns are filled.

use super::{column::ColumnDef, context::Context};
use crate::facts::{
    Snapshot,
    columns::{Columns, Part},
};

/// Writes the values of a column of a part, one a row.
pub(super) type Fill<'a, P> = Box<dyn Fn(&P, &mut Vec<i64>) + Send + Sync + 'a>;

/// Rows of one kind.
pub(super) trait Subject {
    type Rows: Part;
    /// Its own columns; those of its asset and its order come on top.
    const COLUMNS: &'static [ColumnDef];
    /// The column that rows are in order of, if one is.
    const TIME: Option<&'static str>;

    /// Whether a row is seen only as its order is; else what its order is stays hidden where that is not seen.
    const FOLLOWS_WORK: bool = true;

    fn rows(facts: &Snapshot) -> &Columns<Self::Rows>;
    fn assets(part: &Self::Rows) -> &[u32];
    /// Numbers of orders, one a row, where it is not work itself.
    fn orders(part: &Self::Rows) -> Option<&[u32]>;
    /// Whether a row of work itself is seen; what belongs to work is seen as that is.
    fn sees(_: &Context, _: &Self::Rows, _: usize) -> bool {
        true
    }
    fn fill<'a>(context: &'a Context<'a>, column: &str) -> Option<Fill<'a, Self::Rows>>;
}

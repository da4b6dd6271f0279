//! Rows of one kind, and how their own columns are filled.

use super::{column::ColumnDef, context::Context};
use crate::facts::{
    Snapshot,
    columns::{Columns, Part},
    packed::NONE,
};

/// Where values stand in a part. They hang on nothing else: how many rows have each is noted with the part.
pub(super) type Where<'a, P, T> = Box<dyn Fn(&P) -> &[T] + Send + Sync + 'a>;

/// Writes the values of a part.
pub(super) type Write<'a, P> = Box<dyn Fn(&P, &mut Vec<i64>) + Send + Sync + 'a>;

/// Finds the places in a part, in order, whose values may be other ones than the rest has, with these.
pub(super) type Find<'a, P> = Box<dyn Fn(&P, &mut Vec<(u32, i64)>) + Send + Sync + 'a>;

/// The values of a column of a part, one a row.
pub(super) enum Fill<'a, P> {
    /// Places of words as they stand in the part, the greatest for none.
    Words(Where<'a, P, u8>),
    /// Ids as they stand in the part, the greatest for none.
    Ids(Where<'a, P, u32>),
    /// The same value but for a few rows.
    Few(i64, Find<'a, P>),
    /// What writes them.
    Written(Write<'a, P>),
}

/// A word as it stands in a part, and an id.
pub(super) fn of_word(word: u8) -> i64 {
    if word == u8::MAX { NONE } else { i64::from(word) }
}

fn of_id(id: u32) -> i64 {
    if id == u32::MAX { NONE } else { i64::from(id) }
}

impl<P: Part> Fill<'_, P> {
    /// Writes them.
    pub(super) fn fill(&self, part: &P, out: &mut Vec<i64>) {
        match self {
            Self::Words(of) => out.extend(of(part).iter().map(|word| of_word(*word))),
            Self::Ids(of) => out.extend(of(part).iter().map(|id| of_id(*id))),
            Self::Few(rest, find) => {
                let (from, mut few) = (out.len(), Vec::new());
                find(part, &mut few);
                out.resize(from + part.len(), *rest);
                few.into_iter().for_each(|(place, value)| out[from + place as usize] = value);
            }
            Self::Written(write) => write(part, out),
        }
    }
}

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

//! How columns are filled.

use super::{column::RATIO, subject::Fill};
use crate::{
    facts::{Numbers, columns::Part, packed::NONE},
    ground::time::{HOUR, Instant},
};

/// A column that stands in the part as it is.
pub(super) fn copied<'a, P>(of: impl Fn(&P) -> &Numbers + Send + Sync + 'a) -> Fill<'a, P> {
    Fill::Written(Box::new(move |part, out| out.extend(of(part).iter())))
}

/// Ids, with the greatest for none.
pub(super) fn numbers<'a, P>(of: impl Fn(&P) -> &[u32] + Send + Sync + 'a) -> Fill<'a, P> {
    Fill::Ids(Box::new(of))
}

/// Places of words, with the greatest for none.
pub(super) fn words<'a, P>(of: impl Fn(&P) -> &[u8] + Send + Sync + 'a) -> Fill<'a, P> {
    Fill::Words(Box::new(of))
}

/// A value that is worked out row by row.
pub(super) fn worked_out<'a, P: Part>(of: impl Fn(&P, usize) -> Option<i64> + Send + Sync + 'a) -> Fill<'a, P> {
    Fill::Written(Box::new(move |part, out| out.extend((0..part.len()).map(|place| of(part, place).unwrap_or(NONE)))))
}

/// A value that all rows have but for few, which are found with theirs.
pub(super) fn few<'a, P>(rest: Option<i64>, find: impl Fn(&P, &mut Vec<(u32, i64)>) + Send + Sync + 'a) -> Fill<'a, P> {
    Fill::Few(rest.unwrap_or(NONE), Box::new(find))
}

pub(super) fn ratio(over: i64, by: i64) -> Option<i64> {
    (by != 0).then(|| (over as f64 / by as f64 * RATIO).round() as i64)
}

pub(super) fn some(value: i64) -> Option<i64> {
    (value != NONE).then_some(value)
}

/// Minor units for an hour.
pub(super) fn per_hour(cents: i64, ms: i64) -> Option<i64> {
    (ms > 0).then(|| (i128::from(cents) * i128::from(HOUR) / i128::from(ms)) as i64)
}

/// An instant that lies before all there is ahead.
pub(super) fn ended(at: i64) -> Option<i64> {
    Some(at).filter(|at| *at != Instant::LATEST.ms())
}

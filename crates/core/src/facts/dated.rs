//! What is set for assets and crews and may be set anew: each value holds from its instant on, until the next.

use crate::ground::{
    ids::CrewId,
    time::{Instant, Span},
};
use std::collections::HashMap;

/// A value by the instants from which it holds, ascending. `None` sets nothing any more.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Dated(Vec<(Instant, Option<i64>)>);

impl Dated {
    /// From values in any order; of two with the same instant the later one in the list counts.
    #[must_use]
    pub fn of(mut values: Vec<(Instant, Option<i64>)>) -> Self {
        values.sort_by_key(|(from, _)| *from);
        values.dedup_by(|later, kept| {
            let same = later.0 == kept.0;
            if same {
                *kept = *later;
            }
            same
        });
        Self(values)
    }

    /// What holds at an instant.
    #[must_use]
    pub fn at(&self, at: Instant) -> Option<i64> {
        let after = self.0.partition_point(|(from, _)| *from <= at);
        after.checked_sub(1).and_then(|place| self.0[place].1)
    }

    /// The last value that begins within a span.
    #[must_use]
    pub fn begun_in(&self, span: Span) -> Option<i64> {
        self.0.iter().rev().find(|(from, _)| span.contains(*from)).and_then(|(_, value)| *value)
    }

    /// A span cut where the value changes, each part with what holds in it.
    pub fn pieces(&self, span: Span) -> impl Iterator<Item = (Span, Option<i64>)> + '_ {
        let first = self.0.partition_point(|(from, _)| *from <= span.start());
        let inside = self.0[first..].iter().map(|(from, _)| *from).take_while(move |from| *from < span.end());
        let ends = inside.clone().chain([span.end()]);
        let starts = std::iter::once(span.start()).chain(inside);
        starts.zip(ends).filter_map(|(start, end)| Some((Span::new(start, end).ok()?, self.at(start))))
    }
}

/// All such values, money in minor units and hours in milliseconds; assets by dense index of the tree.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Worth {
    /// What an asset would cost anew.
    pub replacement: HashMap<u32, Dated>,
    /// What an hour of unplanned downtime of it costs.
    pub down_hour: HashMap<u32, Dated>,
    /// What may be spent on it in a fiscal year, each from the start of its year.
    pub budget: HashMap<u32, Dated>,
    /// Hours that a crew works in a week.
    pub weekly_ms: HashMap<CrewId, Dated>,
}

#[cfg(test)]
mod tests {
    use super::*;

    fn at(ms: i64) -> Instant {
        Instant::from_ms(ms)
    }

    #[test]
    fn a_value_holds_until_the_next() {
        let dated = Dated::of(vec![(at(50), Some(7)), (at(0), Some(5)), (at(80), None), (at(50), Some(8))]);
        let values: Vec<_> = [-1, 0, 49, 50, 79, 80, 999].map(|ms| dated.at(at(ms))).into();
        assert_eq!(values, [None, Some(5), Some(5), Some(8), Some(8), None, None]);
        let span = |from, to| Span::new(at(from), at(to)).unwrap();
        let pieces: Vec<_> = dated.pieces(span(40, 90)).collect();
        assert_eq!(pieces, [(span(40, 50), Some(5)), (span(50, 80), Some(8)), (span(80, 90), None)]);
        assert_eq!(dated.pieces(span(50, 80)).collect::<Vec<_>>(), [(span(50, 80), Some(8))]);
        assert_eq!((dated.begun_in(span(40, 80)), dated.begun_in(span(10, 40))), (Some(8), None));
    }
}

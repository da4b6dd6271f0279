//! A failure's own downtime: what of an order's unplanned downtime is its, where an order has several failures. Uncut: calendars and
//! periods say nothing here. Own rule (common practice).

use crate::{
    codes::failures::Effect,
    ground::{
        ids::FailureId,
        spans::{intersection, total_ms, union},
        time::{Instant, Span},
    },
};
use rustc_hash::FxHashMap;
use std::collections::BTreeMap;

/// A failure report of an order.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Report {
    pub id: FailureId,
    pub asset: u32,
    pub effect: Effect,
}

/// Downtime of one failure.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct OwnDowntime {
    /// Disjoint and ascending.
    spans: Vec<Span>,
    /// Of each it has an equal part, among so many; the first also what is left when it is divided.
    shared: Vec<(Span, i64, bool)>,
}

impl OwnDowntime {
    /// Of the only report of an order: all of it.
    pub(super) fn whole(spans: Vec<Span>) -> Self {
        Self { spans: union(spans), shared: Vec::new() }
    }

    /// Its length in milliseconds.
    #[must_use]
    pub fn ms(&self) -> i64 {
        total_ms(&self.spans) + self.of_shared(|span| span.ms())
    }

    /// How much of it lies in disjoint ascending spans, in milliseconds.
    #[must_use]
    pub fn ms_in(&self, spans: &[Span]) -> i64 {
        total_ms(&intersection(&self.spans, spans)) + self.of_shared(|span| total_ms(&intersection(&[span], spans)))
    }

    fn of_shared(&self, ms: impl Fn(Span) -> i64) -> i64 {
        let part = |&(span, among, first): &(Span, i64, bool)| {
            let ms = ms(span);
            ms / among + if first { ms % among } else { 0 }
        };
        self.shared.iter().map(part).sum()
    }
}

/// Shares out the unplanned downtime of an order (its assets and when they stood) among its reports, which come in order of time. An
/// interval goes to the report on its asset, else to that on the nearest asset above it, else to that on the nearest below; where
/// several are as near, or none stands on its line, in equal parts to all that are critical, else degraded, else incipient.
/// Overlaps on one asset count once. `line` tells an asset and all above it at an instant.
#[must_use]
pub fn share_out(
    reports: &[Report],
    intervals: &[(u32, Span)],
    line: impl Fn(u32, Instant) -> Vec<u32>,
) -> Vec<OwnDowntime> {
    let mut of_asset: BTreeMap<u32, Vec<Span>> = BTreeMap::new();
    intervals.iter().for_each(|(asset, span)| of_asset.entry(*asset).or_default().push(*span));
    let mut own = vec![OwnDowntime::default(); reports.len()];
    let worst = [Effect::Critical, Effect::Degraded, Effect::Incipient]
        .into_iter()
        .find(|effect| reports.iter().any(|report| report.effect == *effect));
    for (asset, spans) in of_asset {
        for span in union(spans) {
            match nearest(reports, asset, |asset| line(asset, span.start())) {
                Some(place) => own[place].spans.push(span),
                None => {
                    let among = || (0..reports.len()).filter(|place| Some(reports[*place].effect) == worst);
                    let count = among().count() as i64;
                    among().zip(0..).for_each(|(place, nth)| own[place].shared.push((span, count, nth == 0)));
                }
            }
        }
    }
    own.iter_mut().for_each(|own| own.spans = union(std::mem::take(&mut own.spans)));
    own
}

/// The one report that stands nearest to an asset on its line.
fn nearest(reports: &[Report], asset: u32, line: impl Fn(u32) -> Vec<u32>) -> Option<usize> {
    let above = line(asset);
    let steps_up = |report: &Report| above.iter().position(|above| *above == report.asset);
    let steps_down = |report: &Report| line(report.asset).iter().position(|above| *above == asset);
    let one = |steps: &dyn Fn(&Report) -> Option<usize>| -> Option<Option<usize>> {
        let found: Vec<(usize, usize)> =
            reports.iter().enumerate().filter_map(|(place, report)| Some((steps(report)?, place))).collect();
        let least = found.iter().map(|(steps, _)| *steps).min()?;
        let mut of_least = found.iter().filter(|(steps, _)| *steps == least);
        Some(of_least.next().filter(|_| of_least.next().is_none()).map(|(_, place)| *place))
    };
    one(&steps_up).or_else(|| one(&steps_down)).flatten()
}

/// Reports of orders that have several, by the order's number, in order of time.
pub type SeveralReports = FxHashMap<u32, Vec<Report>>;

#[cfg(test)]
mod tests {
    use super::*;
    use crate::ground::time::HOUR;
    use rstest::rstest;

    /// A unit 1 with machines 2 and 3; 4 and 5 are parts of 2, and 6 stands on no line with them.
    fn line(asset: u32, _: Instant) -> Vec<u32> {
        let above = [0, 0, 1, 1, 2, 2, 0];
        let up = |asset: &u32| Some(above[*asset as usize]).filter(|above| *above > 0);
        std::iter::successors(Some(asset), up).collect()
    }

    fn report(id: i64, asset: u32, effect: Effect) -> Report {
        Report { id: FailureId(id), asset, effect }
    }

    fn down(asset: u32, from: i64, to: i64) -> (u32, Span) {
        (asset, Span::new(Instant::from_ms(from * HOUR), Instant::from_ms(to * HOUR)).unwrap())
    }

    use Effect::{Critical, Degraded};

    // By hand, in hours.
    #[rstest]
    #[case::each_its_own_asset(&[(2, Critical), (3, Critical), (4, Critical)], &[(2, 0, 10), (3, 2, 4), (4, 5, 11)], &[10, 2, 6])]
    #[case::the_nearest_above(&[(1, Critical), (2, Critical)], &[(4, 0, 3)], &[0, 3])]
    #[case::the_nearest_below(&[(4, Critical), (6, Critical)], &[(1, 0, 3)], &[3, 0])]
    #[case::two_as_near(&[(4, Critical), (5, Critical)], &[(2, 0, 4)], &[2, 2])]
    #[case::none_on_the_line(&[(2, Critical), (3, Degraded)], &[(6, 0, 4)], &[4, 0])]
    #[case::none_is_critical(&[(2, Degraded), (3, Degraded)], &[(6, 0, 4)], &[2, 2])]
    #[case::an_overlap_counts_once(&[(2, Critical), (3, Critical)], &[(2, 0, 4), (2, 2, 6)], &[6, 0])]
    fn downtime_is_shared_out(
        #[case] reports: &[(u32, Effect)],
        #[case] intervals: &[(u32, i64, i64)],
        #[case] expected: &[i64],
    ) {
        let reports: Vec<Report> = (1..).zip(reports).map(|(id, &(asset, effect))| report(id, asset, effect)).collect();
        let intervals: Vec<_> = intervals.iter().map(|&(asset, from, to)| down(asset, from, to)).collect();
        let own: Vec<i64> = share_out(&reports, &intervals, line).iter().map(|own| own.ms() / HOUR).collect();
        assert_eq!(own, expected);
    }

    /// Eleven milliseconds among three: the first has what is left, and all add up.
    #[test]
    fn what_is_left_goes_to_the_first() {
        let reports: Vec<Report> = (1..=3).map(|id| report(id, 2 + u32::from(id == 2), Critical)).collect();
        let span = Span::new(Instant::from_ms(0), Instant::from_ms(11)).unwrap();
        let own = share_out(&reports, &[(6, span)], line);
        assert_eq!(own.iter().map(OwnDowntime::ms).collect::<Vec<_>>(), [5, 3, 3]);
        assert_eq!(own[0].ms_in(&[Span::new(Instant::from_ms(0), Instant::from_ms(4)).unwrap()]), 2);
    }
}

//! A figure against the period before, and against its siblings. Own rules (common practice).

use super::{Definition, Direction, Figure, Indicator, Unit};
use serde::Serialize;

/// How far a figure moved against the period before.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Moved {
    /// Percent of what it was; for a share, percentage points. Below 0 where it fell.
    pub by: f64,
    pub in_points: bool,
    /// How much that is, in the indicator's unit.
    pub units: f64,
    /// It was so little before that a percentage of it says nothing.
    pub from_little: bool,
    /// Whether that is for the better; none where neither way is.
    pub better: Option<bool>,
}

/// Percent below which a figure is as it was.
const LEAST_PERCENT: f64 = 0.5;

/// Percentage points below which a share is as it was.
const LEAST_POINTS: f64 = 0.05;

/// Percent beyond which it is said what a figure was instead.
const MOST_PERCENT: f64 = 400.0;

/// How far a figure moved; none where it is as it was, or there is nothing to compare.
#[must_use]
pub fn moved(definition: &Definition, now: &Figure, before: &Figure) -> Option<Moved> {
    // A sum from the beginning only ever grows.
    if definition.id == Indicator::CostLife {
        return None;
    }
    let (value, old) = (now.value?, before.value.filter(|old| *old != 0.0)?);
    let in_points = definition.unit == Unit::Share;
    let by = if in_points { (value - old) * 100.0 } else { (value - old) / old.abs() * 100.0 };
    let better = match definition.direction {
        Direction::Neither => None,
        Direction::Higher => Some(by > 0.0),
        Direction::Lower => Some(by < 0.0),
    };
    let least = if in_points { LEAST_POINTS } else { LEAST_PERCENT };
    let from_little = !in_points && by.abs() > MOST_PERCENT;
    (by.abs() >= least).then_some(Moved { by, in_points, units: value - old, from_little, better })
}

/// Siblings below which none stands out.
const LEAST_SIBLINGS: usize = 3;

/// Shares of the greatest sibling up to which a figure does not stand out.
const UNREMARKABLE: f64 = 0.35;

/// How much each of some siblings stands out, 0 to 1: its share of the greatest, for figures of which less is better.
#[must_use]
pub fn heat(definition: &Definition, siblings: &[Option<f64>]) -> Vec<f64> {
    let none = || vec![0.0; siblings.len()];
    if siblings.len() < LEAST_SIBLINGS || definition.direction != Direction::Lower {
        return none();
    }
    let most = siblings.iter().flatten().copied().fold(0.0, f64::max);
    if most <= 0.0 {
        return none();
    }
    let share = |value: &Option<f64>| value.map_or(0.0, |value| value / most);
    siblings.iter().map(share).map(|share| if share > UNREMARKABLE { share } else { 0.0 }).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::dearer(Indicator::CostTotal, 150.0, 100.0, Some((50.0, false, Some(false))))]
    #[case::cheaper(Indicator::CostTotal, 75.0, 100.0, Some((-25.0, false, Some(true))))]
    #[case::from_below_nothing(Indicator::CostTotal, 50.0, -100.0, Some((150.0, false, Some(false))))]
    #[case::hardly(Indicator::CostTotal, 100.4, 100.0, None)]
    #[case::from_nothing(Indicator::CostTotal, 100.0, 0.0, None)]
    #[case::longer_between_failures(Indicator::Mtbf, 200.0, 100.0, Some((100.0, false, Some(true))))]
    #[case::available(Indicator::Availability, 0.75, 0.5, Some((25.0, true, Some(true))))]
    #[case::hardly_available(Indicator::Availability, 0.9002, 0.9, None)]
    #[case::of_a_life(Indicator::CostLife, 200.0, 100.0, None)]
    fn a_move(
        #[case] indicator: Indicator,
        #[case] now: f64,
        #[case] before: f64,
        #[case] expected: Option<(f64, bool, Option<bool>)>,
    ) {
        let found = moved(indicator.definition(), &Figure::of(now), &Figure::of(before));
        assert_eq!(found.map(|moved| (moved.by, moved.in_points, moved.better)), expected);
        assert!(found.is_none_or(|moved| moved.units == now - before && !moved.from_little));
    }

    #[test]
    fn of_almost_nothing_a_percentage_says_nothing() {
        let downtime = Indicator::UnplannedDowntime.definition();
        let rose = moved(downtime, &Figure::of(31.0), &Figure::of(2.9)).unwrap();
        assert!(rose.from_little && (rose.units - 28.1).abs() < 1e-9, "{rose:?}");
    }

    #[test]
    fn what_has_no_base_is_not_compared() {
        let definition = Indicator::CostTotal.definition();
        assert_eq!(moved(definition, &Figure::of(1.0), &Figure::default()), None);
        assert_eq!(moved(definition, &Figure::default(), &Figure::of(1.0)), None);
    }

    #[test]
    fn what_stands_out_is_a_share_of_the_greatest() {
        let cost = Indicator::CostTotal.definition();
        assert_eq!(heat(cost, &[Some(100.0), Some(50.0), Some(30.0), None]), [1.0, 0.5, 0.0, 0.0]);
        assert_eq!(heat(cost, &[Some(100.0), Some(50.0)]), [0.0, 0.0], "of two none");
        assert_eq!(heat(cost, &[Some(0.0), None, Some(-5.0)]), [0.0; 3]);
        assert_eq!(heat(Indicator::Mtbf.definition(), &[Some(9.0), Some(5.0), Some(1.0)]), [0.0; 3]);
    }
}

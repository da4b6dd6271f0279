//! When a limit will be reached, as far as a straight line can tell.

use super::{Ladder, RungOn, RungSide, proposals::MOST_TESTED};
use crate::{
    ground::time::{DAY, Instant},
    stats::{
        describe::median,
        trend::{TheilSen, theil_sen},
    },
    watch::readings::Columns,
};
use serde::Serialize;

/// Farther ahead than this nothing is foretold.
pub const FARTHEST_MS: i64 = 20 * 365 * DAY;

/// The line through a recent window: a robust slope with its 95 % interval.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Line {
    /// In the meter's unit per day.
    pub slope: f64,
    pub slope_lower: f64,
    pub slope_upper: f64,
    /// The point in which the line and both its bounds meet: the medians of instants and values.
    pub through_at: Instant,
    pub through_value: f64,
    /// Points the slopes were taken between.
    pub points: usize,
}

impl Line {
    /// The line's value at an instant, with one of its slopes.
    #[must_use]
    pub fn value(&self, at: Instant, slope: f64) -> f64 {
        self.through_value + slope * (at.since(self.through_at) as f64 / DAY as f64)
    }

    /// When the line reaches a value with one of its slopes; none within the next twenty years of `now`.
    #[must_use]
    pub fn reaches(&self, value: f64, slope: f64, now: Instant) -> Option<Instant> {
        let days = (value - self.through_value) / slope;
        if !days.is_finite() || days.abs() > 1e6 {
            return None;
        }
        let at = self.through_at.plus((days * DAY as f64).round() as i64);
        (at > now && at.since(now) <= FARTHEST_MS).then_some(at)
    }
}

/// When a rung will be reached.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Reached {
    /// Place in the ladder.
    pub rung: usize,
    pub setpoint: f64,
    pub at: Instant,
    /// With the steeper bound of the slope.
    pub earliest: Option<Instant>,
    /// With the flatter bound; none where that never gets there.
    pub latest: Option<Instant>,
}

/// The line through readings: Theil–Sen, over medians of equal numbers of readings where there are many. `None` for fewer
/// than three.
#[must_use]
pub fn line(readings: &Columns) -> Option<Line> {
    let first = *readings.at().first()?;
    if readings.len() < 3 {
        return None;
    }
    let parts = readings.len().min(MOST_TESTED);
    let part = |n: usize| n * readings.len() / parts;
    let days = |at: i64| (at - first) as f64 / DAY as f64;
    let points: Vec<(f64, f64)> = (0..parts)
        .filter_map(|n| {
            let places = part(n)..part(n + 1);
            let at: Vec<f64> = readings.at()[places.clone()].iter().map(|at| days(*at)).collect();
            Some((median(&at)?, median(&readings.values()[places])?))
        })
        .collect();
    let TheilSen { slope, lower, upper, through, .. } = theil_sen(&points, None)?;
    Some(Line {
        slope,
        slope_lower: lower,
        slope_upper: upper,
        through_at: Instant::from_ms(first + (through.0 * DAY as f64).round() as i64),
        through_value: through.1,
        points: points.len(),
    })
}

/// The rungs that the line gets to after `now`, in the ladder's order.
#[must_use]
pub fn reached(line: &Line, ladder: &Ladder, now: Instant) -> Vec<Reached> {
    let level = line.value(now, line.slope);
    let rungs = ladder.rungs.iter().enumerate().filter(|(_, rung)| rung.on() == RungOn::Value);
    rungs
        .filter_map(|(place, rung)| {
            let setpoint = rung.setpoint?;
            let ahead = match rung.side {
                RungSide::High => level < setpoint && line.slope > 0.0,
                RungSide::Low => level > setpoint && line.slope < 0.0,
                RungSide::Grade => false,
            };
            let at = line.reaches(setpoint, line.slope, now).filter(|_| ahead)?;
            let (steep, flat) = match rung.side {
                RungSide::Low => (line.slope_lower, line.slope_upper),
                _ => (line.slope_upper, line.slope_lower),
            };
            let bound = |slope: f64| line.reaches(setpoint, slope, now).filter(|_| slope * line.slope > 0.0);
            Some(Reached { rung: place, setpoint, at, earliest: bound(steep), latest: bound(flat) })
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{
        ground::severity::Severity,
        watch::{limits::ladder::tests::rung, readings::Reading},
    };

    fn at(day: i64) -> Instant {
        Instant::from_ms(day * DAY)
    }

    fn wearing() -> Columns {
        // A pad that loses 0.05 mm a day from 20 mm on, read with an error of ±0.02 in turn.
        let error = [0.02, -0.02, 0.0];
        (0..90).map(|day| Reading { at: at(day), value: 20.0 - 0.05 * day as f64 + error[day as usize % 3] }).collect()
    }

    /// Own numbers: 20 − 0.05 · day is 12 on day 160 and 10 on day 200.
    #[test]
    fn a_wearing_pad_reaches_its_rungs_on_the_days_of_its_line() {
        let ladder = Ladder {
            rungs: vec![
                rung(RungSide::Low, Severity::Alert, 12.0, 0.5),
                rung(RungSide::Low, Severity::Danger, 10.0, 0.5),
                rung(RungSide::High, Severity::Alert, 25.0, 0.5),
            ],
            ..Ladder::default()
        };
        let line = line(&wearing()).unwrap();
        assert!((line.slope + 0.05).abs() < 2e-4, "{line:?}");
        let reached = reached(&line, &ladder, at(90));
        assert_eq!(reached.iter().map(|r| r.rung).collect::<Vec<_>>(), [0, 1], "it never gets to the high one");
        let days: Vec<f64> = reached.iter().map(|r| r.at.since(at(0)) as f64 / DAY as f64).collect();
        assert!((days[0] - 160.0).abs() < 1.0 && (days[1] - 200.0).abs() < 1.0, "{days:?}");
        for one in reached {
            let (earliest, latest) = (one.earliest.unwrap(), one.latest.unwrap());
            assert!(earliest <= one.at && one.at <= latest);
        }
    }

    #[test]
    fn a_steady_series_reaches_nothing() {
        let steady: Columns = (0..50).map(|day| Reading { at: at(day), value: 5.0 }).collect();
        let ladder = Ladder { rungs: vec![rung(RungSide::High, Severity::Alert, 6.0, 0.0)], ..Ladder::default() };
        assert!(reached(&line(&steady).unwrap(), &ladder, at(50)).is_empty());
        assert_eq!(line(&Columns::default()), None);
    }

    #[test]
    fn many_readings_are_looked_at_in_medians() {
        let minutes: Columns =
            (0..50_000).map(|n| Reading { at: Instant::from_ms(n * 60_000), value: n as f64 / 1_440.0 }).collect();
        let line = line(&minutes).unwrap();
        assert_eq!(line.points, MOST_TESTED);
        assert!((line.slope - 1.0).abs() < 1e-9, "one unit a day: {}", line.slope);
    }
}

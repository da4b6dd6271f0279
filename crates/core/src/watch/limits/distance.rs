//! How far a value is from the limits it has not reached.

use super::{Ladder, RungOn, RungSide};

/// The first setpoint on each side of a ladder, with the rung's place: all that a distance is measured by.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct FirstSetpoints {
    high: Option<(f64, usize)>,
    low: Option<(f64, usize)>,
    /// Whether the ladder has any rung, also of grades or of change.
    pub has_rungs: bool,
}

/// See [`FirstSetpoints::distance`].
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Distance {
    /// In the meter's unit; negative when past.
    pub in_unit: f64,
    pub share: f64,
    /// The rung it is measured to, by its place in the ladder.
    pub rung: usize,
}

impl FirstSetpoints {
    #[must_use]
    pub fn of(ladder: &Ladder) -> Self {
        let on = |side| {
            let rungs = ladder.rungs.iter().enumerate();
            let rungs = rungs.filter(move |(_, rung)| rung.side == side && rung.on() == RungOn::Value);
            rungs.filter_map(|(index, rung)| Some((rung.setpoint?, index)))
        };
        Self {
            high: on(RungSide::High).min_by(|a, b| a.0.total_cmp(&b.0)),
            low: on(RungSide::Low).max_by(|a, b| a.0.total_cmp(&b.0)),
            has_rungs: !ladder.rungs.is_empty(),
        }
    }

    /// How far a value is from the nearest setpoint it has not reached, as a share of the way from the opposite side or from
    /// zero: 0 at the setpoint, negative when past the nearest one. `None` for grades and for ladders without setpoints.
    ///
    /// Own measure, made to sort meters of different units by one scale: the distance in the meter's unit divided by the
    /// width between the nearest high and low setpoints, or by the setpoint's own size where there is one side only.
    #[must_use]
    pub fn distance(&self, value: f64) -> Option<Distance> {
        let scale = match (self.high, self.low) {
            (Some((high, _)), Some((low, _))) => (high - low).abs(),
            (Some((only, _)), None) | (None, Some((only, _))) => only.abs(),
            (None, None) => return None,
        };
        let scale = if scale > 0.0 { scale } else { 1.0 };
        let high = self.high.map(|(setpoint, rung)| (setpoint - value, rung));
        let low = self.low.map(|(setpoint, rung)| (value - setpoint, rung));
        high.into_iter().chain(low).min_by(|a, b| a.0.total_cmp(&b.0)).map(|(in_unit, rung)| Distance {
            in_unit,
            share: in_unit / scale,
            rung,
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{ground::severity::Severity, watch::limits::ladder::tests::rung};

    #[test]
    fn the_distance_is_measured_to_the_nearest_first_setpoint() {
        let band = Ladder {
            rungs: vec![
                rung(RungSide::High, Severity::Alert, 185.0, 5.0),
                rung(RungSide::High, Severity::Danger, 200.0, 5.0),
                rung(RungSide::Low, Severity::Alert, 110.0, 5.0),
            ],
            ..Ladder::default()
        };
        let near_low = FirstSetpoints::of(&band).distance(125.0).unwrap();
        assert_eq!((near_low.in_unit, near_low.share, near_low.rung), (15.0, 0.2, 2));
        assert_eq!(FirstSetpoints::of(&band).distance(96.0).unwrap().in_unit, -14.0);
        assert_eq!(FirstSetpoints::of(&Ladder::default()).distance(1.0), None);
    }
}

//! Meters: what is read on an asset, and what a value of it may be.

use crate::{access::refusal::Refusal, ground::units};
use serde::{Deserialize, Serialize};

/// How a meter's values behave.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum MeterKind {
    /// Only grows: hours, cycles.
    Counter,
    /// Any value.
    Measurement,
    /// One of an ordered list of named observations, kept as its place in the list from 0.
    Grade,
}

crate::kept_as_words!(MeterKind);

/// What the rules need to know of a meter.
#[derive(Debug, Clone, PartialEq)]
pub struct Meter {
    pub kind: MeterKind,
    /// UCUM code.
    pub unit: String,
    /// Smallest step of a counter; 0 where unknown.
    pub resolution: f64,
    /// The value after which a counter starts again at 0.
    pub rollover_at: Option<f64>,
    /// Greatest rise of a counter per hour. Hours rise by 1.
    pub greatest_rate: Option<f64>,
    pub plausible_low: Option<f64>,
    pub plausible_high: Option<f64>,
    /// Names of a grade's values, best first.
    pub grades: Vec<String>,
}

impl Meter {
    /// Whether its hours can be its asset's operating time: a counter of hours, the only one of those in use.
    ///
    /// # Errors
    /// [`Refusal::Field`].
    pub fn check_running_hours(&self, is_retired: bool, asset_has_one: bool) -> Result<(), Refusal> {
        if self.kind != MeterKind::Counter || self.unit != "h" {
            return Err(Refusal::field("running_hours", "only a counter of hours (h) can be operating time"));
        }
        if asset_has_one && !is_retired {
            return Err(Refusal::field("running_hours", "the asset has a running-hours counter already"));
        }
        Ok(())
    }

    /// A meter of which no more is known than its unit, a UCUM code: any value, no plausible range.
    #[must_use]
    pub fn measurement(unit: &str) -> Self {
        Self {
            kind: MeterKind::Measurement,
            unit: unit.into(),
            resolution: 0.0,
            rollover_at: None,
            greatest_rate: None,
            plausible_low: None,
            plausible_high: None,
            grades: Vec::new(),
        }
    }
}

/// What is wrong with a meter as described, by field.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum MeterError {
    #[error("a grade needs at least two named values")]
    Grades,
    #[error("the grade {0:?} stands twice in the list")]
    GradeTwice(String),
    #[error("the plausible range must run from lower to higher")]
    PlausibleRange,
    #[error("{field} must be a number greater than 0")]
    NotPositive { field: &'static str },
}

impl Meter {
    /// # Errors
    /// [`MeterError`] for a grade without names, a range upside down, or a rate or rollover that is not positive.
    pub fn check(&self) -> Result<(), MeterError> {
        if self.kind == MeterKind::Grade && self.grades.len() < 2 {
            return Err(MeterError::Grades);
        }
        if let Some(twice) = self.grades.iter().enumerate().find(|(i, g)| self.grades[..*i].contains(g)) {
            return Err(MeterError::GradeTwice(twice.1.clone()));
        }
        if let (Some(low), Some(high)) = (self.plausible_low, self.plausible_high)
            && low >= high
        {
            return Err(MeterError::PlausibleRange);
        }
        for (field, value) in [("rollover_at", self.rollover_at), ("greatest_rate", self.greatest_rate)] {
            if value.is_some_and(|v| v <= 0.0 || !v.is_finite()) {
                return Err(MeterError::NotPositive { field });
            }
        }
        if self.resolution < 0.0 || !self.resolution.is_finite() {
            return Err(MeterError::NotPositive { field: "resolution" });
        }
        Ok(())
    }

    /// The greatest rise per hour that is believed: as stated, or 1 for a counter of hours.
    #[must_use]
    pub fn believed_rate(&self) -> Option<f64> {
        self.greatest_rate.or_else(|| (self.kind == MeterKind::Counter && self.unit == "h").then_some(1.0))
    }

    /// The place of the grade of that name, whatever its capitals.
    #[must_use]
    pub fn grade_of(&self, name: &str) -> Option<usize> {
        self.grades.iter().position(|grade| grade.eq_ignore_ascii_case(name.trim()))
    }

    /// The place of the grade whose name is that number, with a point or a comma.
    #[must_use]
    pub fn grade_of_number(&self, number: f64) -> Option<usize> {
        self.grades.iter().position(|grade| grade.trim().replace(',', ".").parse::<f64>() == Ok(number))
    }

    /// A value as people read it: with its unit, or the grade's name.
    #[must_use]
    pub fn shown(&self, value: f64) -> String {
        if self.kind == MeterKind::Grade {
            let place = value as usize;
            return self.grades.get(place).cloned().unwrap_or_else(|| units::number(value));
        }
        units::quantity(value, &self.unit)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn one_counter_of_hours_in_use_is_the_assets_operating_time() {
        let hours = Meter { kind: MeterKind::Counter, ..Meter::measurement("h") };
        assert_eq!(hours.check_running_hours(false, false), Ok(()));
        assert_eq!(hours.check_running_hours(true, true), Ok(()), "a retired one is in nobody's way");
        assert!(hours.check_running_hours(false, true).is_err());
        for other in [Meter::measurement("h"), Meter { unit: "km".into(), ..hours }] {
            assert!(other.check_running_hours(false, false).is_err());
        }
    }
}

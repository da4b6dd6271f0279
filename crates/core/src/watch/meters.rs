//! Meters: what is read on an asset, and what a value of it may be.

use crate::{access::refusal::Refusal, ground::units};
use serde::{Deserialize, Serialize};

/// How a meter's values behave, as a word.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = MeterKind))]
#[serde(rename_all = "snake_case")]
pub enum MeterWord {
    /// Only grows: hours, cycles.
    Counter,
    /// Any value.
    Measurement,
    /// One of an ordered list of named observations, kept as its place in the list from 0.
    Grade,
}

crate::kept_as_words!(MeterWord);

/// How a counter goes on.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Counter {
    /// Its smallest step; 0 where unknown.
    pub resolution: f64,
    /// The value after which it starts again at 0.
    pub rollover_at: Option<f64>,
    /// Greatest rise per hour that is believed.
    pub greatest_rate: Option<f64>,
}

/// Within which values a measurement is believed.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Plausible {
    pub low: Option<f64>,
    pub high: Option<f64>,
}

/// How a meter's values behave, with what that needs.
#[derive(Debug, Clone, PartialEq)]
pub enum MeterKind {
    /// Only grows: hours, cycles.
    Counter(Counter),
    /// Any value.
    Measurement(Plausible),
    /// Names of its values, best first, at least two; a value is kept as its place in the list from 0.
    Grade(Vec<String>),
}

/// What the rules need to know of a meter.
#[derive(Debug, Clone, PartialEq)]
pub struct Meter {
    /// UCUM code.
    pub unit: String,
    pub kind: MeterKind,
}

/// A meter as it is described, field by field, whatever its kind needs of them.
#[derive(Debug, Clone, PartialEq)]
pub struct MeterFields {
    pub kind: MeterWord,
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

impl MeterError {
    /// The field at fault.
    #[must_use]
    pub fn field(&self) -> &'static str {
        match self {
            Self::Grades | Self::GradeTwice(_) => "grades",
            Self::PlausibleRange => "plausible_high",
            Self::NotPositive { field } => field,
        }
    }
}

/// Hours of a counter of hours in an hour, at most.
const HOURS_PER_HOUR: f64 = 1.0;

impl TryFrom<MeterFields> for Meter {
    type Error = MeterError;

    /// Fields that its kind does not need must make sense all the same: the kind may change while nothing was read.
    fn try_from(fields: MeterFields) -> Result<Self, MeterError> {
        let MeterFields { kind, unit, resolution, rollover_at, greatest_rate, grades, .. } = fields;
        let (low, high) = (fields.plausible_low, fields.plausible_high);
        if kind == MeterWord::Grade && grades.len() < 2 {
            return Err(MeterError::Grades);
        }
        if let Some(twice) = grades.iter().enumerate().find(|(i, g)| grades[..*i].contains(g)) {
            return Err(MeterError::GradeTwice(twice.1.clone()));
        }
        if low.zip(high).is_some_and(|(low, high)| low >= high) {
            return Err(MeterError::PlausibleRange);
        }
        for (field, value) in [("rollover_at", rollover_at), ("greatest_rate", greatest_rate)] {
            if value.is_some_and(|v| v <= 0.0 || !v.is_finite()) {
                return Err(MeterError::NotPositive { field });
            }
        }
        if resolution < 0.0 || !resolution.is_finite() {
            return Err(MeterError::NotPositive { field: "resolution" });
        }
        let hours = (unit == "h").then_some(HOURS_PER_HOUR);
        let kind = match kind {
            MeterWord::Counter => {
                MeterKind::Counter(Counter { resolution, rollover_at, greatest_rate: greatest_rate.or(hours) })
            }
            MeterWord::Measurement => MeterKind::Measurement(Plausible { low, high }),
            MeterWord::Grade => MeterKind::Grade(grades),
        };
        Ok(Self { unit, kind })
    }
}

impl Meter {
    /// A meter of which no more is known than its unit, a UCUM code: any value, no plausible range.
    #[must_use]
    pub fn measurement(unit: &str) -> Self {
        Self { unit: unit.into(), kind: MeterKind::Measurement(Plausible::default()) }
    }

    /// Its kind as a word.
    #[must_use]
    pub fn word(&self) -> MeterWord {
        match self.kind {
            MeterKind::Counter(_) => MeterWord::Counter,
            MeterKind::Measurement(_) => MeterWord::Measurement,
            MeterKind::Grade(_) => MeterWord::Grade,
        }
    }

    /// How it goes on, where it is a counter.
    #[must_use]
    pub fn counter(&self) -> Option<&Counter> {
        if let MeterKind::Counter(counter) = &self.kind { Some(counter) } else { None }
    }

    /// Names of its values, where it is a grade; none otherwise.
    #[must_use]
    pub fn grades(&self) -> &[String] {
        if let MeterKind::Grade(grades) = &self.kind { grades } else { &[] }
    }

    /// Whether it is a grade.
    #[must_use]
    pub fn is_grade(&self) -> bool {
        matches!(self.kind, MeterKind::Grade(_))
    }

    /// Whether its hours can be its asset's operating time: a counter of hours, the only one of those in use.
    ///
    /// # Errors
    /// [`Refusal::Field`].
    pub fn check_running_hours(&self, is_retired: bool, asset_has_one: bool) -> Result<(), Refusal> {
        if self.counter().is_none() || self.unit != "h" {
            return Err(Refusal::field("running_hours", "only a counter of hours (h) can be operating time"));
        }
        if asset_has_one && !is_retired {
            return Err(Refusal::field("running_hours", "the asset has a running-hours counter already"));
        }
        Ok(())
    }

    /// Whether it may become `after`, on the same asset or another one, where it was read already: what was read keeps its
    /// meaning, so that its asset, kind and unit stay, and grades only grow.
    ///
    /// # Errors
    /// [`Refusal::Field`].
    pub fn check_change(&self, after: &Self, to_another_asset: bool) -> Result<(), Refusal> {
        let changed =
            [("asset", to_another_asset), ("kind", self.word() != after.word()), ("unit", self.unit != after.unit)];
        if let Some((field, _)) = changed.into_iter().find(|(_, changed)| *changed) {
            return Err(Refusal::field(field, "stays as it is once there are readings; add another meter instead"));
        }
        if !after.grades().starts_with(self.grades()) {
            let kept = self.grades().join(" | ");
            return Err(Refusal::field("grades", format!("readings use {kept}; new grades can only follow them")));
        }
        Ok(())
    }

    /// The place of the grade of that name, whatever its capitals.
    #[must_use]
    pub fn grade_of(&self, name: &str) -> Option<usize> {
        self.grades().iter().position(|grade| grade.eq_ignore_ascii_case(name.trim()))
    }

    /// The place of the grade whose name is that number, with a point or a comma.
    #[must_use]
    pub fn grade_of_number(&self, number: f64) -> Option<usize> {
        self.grades().iter().position(|grade| grade.trim().replace(',', ".").parse::<f64>() == Ok(number))
    }

    /// A value as people read it: with its unit, or the grade's name.
    #[must_use]
    pub fn shown(&self, value: f64) -> String {
        match &self.kind {
            MeterKind::Grade(grades) => grades.get(value as usize).cloned().unwrap_or_else(|| units::number(value)),
            MeterKind::Counter(_) | MeterKind::Measurement(_) => units::quantity(value, &self.unit),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_was_read_keeps_its_meaning() {
        let grade = |names: &[&str]| Meter {
            unit: "1".into(),
            kind: MeterKind::Grade(names.iter().map(|n| (*n).into()).collect()),
        };
        let good = grade(&["good", "worn"]);
        assert_eq!(good.check_change(&grade(&["good", "worn", "broken"]), false), Ok(()));
        let refused = |after: &Meter, moves| good.check_change(after, moves).unwrap_err().to_string();
        assert_eq!(
            refused(&grade(&["fine", "worn"]), false),
            "grades: readings use good | worn; new grades can only follow them"
        );
        assert!(refused(&good, true).starts_with("asset: stays"));
        assert!(refused(&Meter::measurement("1"), false).starts_with("kind: stays"));
        let bar = Meter::measurement("bar");
        assert!(
            bar.check_change(&Meter::measurement("psi"), false).unwrap_err().to_string().starts_with("unit: stays")
        );
    }

    #[test]
    fn one_counter_of_hours_in_use_is_the_assets_operating_time() {
        let hours = Meter { unit: "h".into(), kind: MeterKind::Counter(Counter::default()) };
        assert_eq!(hours.check_running_hours(false, false), Ok(()));
        assert_eq!(hours.check_running_hours(true, true), Ok(()), "a retired one is in nobody's way");
        assert!(hours.check_running_hours(false, true).is_err());
        for other in [Meter::measurement("h"), Meter { unit: "km".into(), ..hours }] {
            assert!(other.check_running_hours(false, false).is_err());
        }
    }
}

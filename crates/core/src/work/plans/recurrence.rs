//! How often upkeep recurs, and what of that can't be.

use super::season::Season;
use crate::access::refusal::Refusal;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};

/// From what the next cycle is counted.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum CountsFrom {
    /// From the dates, or the counts, as they were planned, whenever the work was done.
    #[default]
    Planned,
    /// From when the work before was done.
    LastDone,
}

crate::kept_as_words!(CountsFrom);

/// How often work recurs: every so many days, every so many units of a counter, or whichever comes first.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Recurrence {
    pub every_days: Option<u32>,
    /// Of the counter's unit.
    pub every_units: Option<f64>,
    pub counts_from: CountsFrom,
    /// Where the days begin.
    pub first_due: Option<Date>,
    /// Where the counter's units begin.
    pub first_count: Option<f64>,
    pub season: Option<Season>,
    /// Its work is raised so many days before it is due.
    pub lead_days: u32,
    /// How far a cycle may be moved to level the year; a tenth of its interval without it.
    pub tolerance_days: Option<u32>,
}

/// Longer than any interval that anybody plans.
const MOST_DAYS: u32 = 36_500;

/// The share of its interval that a cycle may be moved or be late by.
const TENTH: f64 = 0.1;

impl Recurrence {
    /// Whether it makes sense.
    ///
    /// # Errors
    /// [`Refusal::Field`].
    pub fn check(&self) -> Result<(), Refusal> {
        let field = |field: &str, reason: &str| Err(Refusal::field(field, reason.to_owned()));
        let (days, units) = (self.every_days, self.every_units);
        if days.is_none() && units.is_none() {
            return field("every_days", "say how many days, or how many units of a counter, lie between");
        }
        if days.is_some_and(|days| !(1..=MOST_DAYS).contains(&days)) {
            return field("every_days", "must be 1 to 36500");
        }
        if units.is_some_and(|units| !(units.is_finite() && units > 0.0)) {
            return field("every_units", "must be more than 0");
        }
        if days.is_some() && units.is_some() && self.counts_from == CountsFrom::Planned {
            return field("counts_from", "days and units together are counted from when the work was last done");
        }
        if days.is_some() && self.first_due.is_none() {
            return field("first_due", "say when it is due for the first time");
        }
        if self.first_count.is_some_and(|count| !count.is_finite()) {
            return field("first_count", "must be a number");
        }
        let shortest = days.unwrap_or(MOST_DAYS);
        if self.lead_days >= shortest.max(2) {
            return field("lead_days", "must be fewer than the days between two cycles");
        }
        // Two cycles moved towards each other would change places.
        if self.tolerance_days.is_some_and(|tolerance| tolerance > (shortest - 1) / 2) {
            return field("tolerance_days", "must be less than half the days between two cycles");
        }
        Ok(())
    }

    /// Days between two cycles: as planned, or as a counter's use makes of its units, whichever are fewer.
    #[must_use]
    pub fn interval_days(&self, per_day: Option<f64>) -> Option<f64> {
        let by_units = self.every_units.zip(per_day.filter(|per_day| *per_day > 0.0)).map(|(units, use_)| units / use_);
        match (self.every_days.map(f64::from), by_units) {
            (Some(days), Some(units)) => Some(days.min(units)),
            (days, units) => days.or(units),
        }
    }

    /// Days by which a cycle may be moved: as set, or a tenth of its interval.
    #[must_use]
    pub fn tolerance(&self, per_day: Option<f64>) -> u32 {
        self.tolerance_days.unwrap_or_else(|| self.grace_days(per_day))
    }

    /// Days by which a cycle may be late and count as done in time: a tenth of its interval (SMRP 5.4.14, from memory).
    #[must_use]
    pub fn grace_days(&self, per_day: Option<f64>) -> u32 {
        self.interval_days(per_day).map_or(0, |days| (days * TENTH).floor() as u32)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn monthly() -> Recurrence {
        Recurrence { every_days: Some(30), first_due: Some("2026-03-01".parse().unwrap()), ..Recurrence::default() }
    }

    #[rstest]
    #[case::nothing(Recurrence::default(), "every_days")]
    #[case::no_days(Recurrence { every_days: Some(0), ..monthly() }, "every_days")]
    #[case::no_units(Recurrence { every_units: Some(0.0), ..Recurrence::default() }, "every_units")]
    #[case::both_as_planned(Recurrence { every_units: Some(500.0), ..monthly() }, "counts_from")]
    #[case::no_beginning(Recurrence { first_due: None, ..monthly() }, "first_due")]
    #[case::lead(Recurrence { lead_days: 30, ..monthly() }, "lead_days")]
    #[case::tolerance(Recurrence { tolerance_days: Some(15), ..monthly() }, "tolerance_days")]
    #[case::count(Recurrence { first_count: Some(f64::NAN), ..monthly() }, "first_count")]
    fn what_makes_no_sense_is_named(#[case] recurrence: Recurrence, #[case] at_fault: &str) {
        assert!(matches!(recurrence.check(), Err(Refusal::Field { field, .. }) if field == at_fault));
    }

    #[test]
    fn a_tenth_of_the_interval_is_let_pass() {
        assert_eq!(monthly().check(), Ok(()));
        assert_eq!((monthly().grace_days(None), monthly().tolerance(None)), (3, 3));
        let hours = Recurrence { every_units: Some(500.0), ..Recurrence::default() };
        assert_eq!(hours.check(), Ok(()));
        // 500 hours at 10 hours a day are 50 days.
        assert_eq!((hours.grace_days(Some(10.0)), hours.grace_days(None)), (5, 0));
    }
}

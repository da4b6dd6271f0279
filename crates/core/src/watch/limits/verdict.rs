//! What limits would have done, judged by the failures that came, in one sentence.

use super::warnings::FailureVerdict;
use crate::ground::{
    time::{DAY, HOUR},
    units::{counted, quantity},
};

/// Failures by their fate, and the price.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Judged {
    pub caught: usize,
    pub too_late: usize,
    pub missed: usize,
    pub nuisance: usize,
    pub work: usize,
    pub median_warning_ms: Option<i64>,
}

impl Judged {
    fn failures(self) -> usize {
        self.caught + self.too_late + self.missed
    }

    fn fate(self) -> String {
        let Self { caught, too_late, missed, .. } = self;
        let failures = self.failures();
        let all = if failures == 1 { "the failure".into() } else { format!("all {failures} failures") };
        match failures {
            0 => "No failure came in the period".into(),
            _ if too_late == failures => format!("Warns of {all} too late"),
            _ if caught == failures => format!("Catches {all}"),
            _ if missed == failures => format!("Misses {all}"),
            _ => format!("Catches {caught} of {failures} failures{}", late(too_late, "warns")),
        }
    }

    fn price(self) -> String {
        let nuisance = counted(self.nuisance, "nuisance warning", "nuisance warnings");
        format!("{nuisance}, {}", counted(self.work, "work order", "work orders"))
    }

    /// Of one meter, the failures first: `Catches 1 of 2 failures, 12 days before; 3 nuisance warnings, 4 work orders.`
    #[must_use]
    pub fn verdict(self) -> String {
        let before = self.median_warning_ms.map_or_else(String::new, |warning| {
            format!(", {}{}", before(warning), if self.caught > 1 { " in the middle" } else { "" })
        });
        format!("{}{before}; {}.", self.fate(), self.price())
    }

    /// Of several meters together.
    #[must_use]
    pub fn verdict_together(self) -> String {
        let caught = match self.failures() {
            0 => "No failure came in this period".into(),
            failures => format!(
                "In this period they would have caught {} of {}{}",
                self.caught,
                counted(failures, "failure", "failures"),
                late(self.too_late, "warned")
            ),
        };
        format!("{caught}; {}.", self.price())
    }

    /// Of one setpoint of a finder: `2 g: 1 of 1 caught, 20 days before, 8 nuisance, 4 work orders`. `unit` is a UCUM code.
    #[must_use]
    pub fn of_setpoint(self, setpoint: f64, unit: &str) -> String {
        let late = if self.too_late > 0 { format!(" and {} too late", self.too_late) } else { String::new() };
        let before = self.median_warning_ms.map_or_else(String::new, |warning| format!(", {}", before(warning)));
        format!(
            "{}: {} of {} caught{late}{before}, {} nuisance, {}",
            quantity(setpoint, unit),
            self.caught,
            self.failures(),
            counted(self.nuisance, "", "").trim_end(),
            counted(self.work, "work order", "work orders")
        )
    }
}

fn late(too_late: usize, verb: &str) -> String {
    if too_late > 0 { format!(", {verb} of {too_late} too late") } else { String::new() }
}

/// What became of one failure: `12 days before`, `too late: 3 hours before`, `missed`.
#[must_use]
pub fn fate(verdict: FailureVerdict, warning_ms: Option<i64>) -> String {
    let before = warning_ms.map_or_else(String::new, before);
    match verdict {
        FailureVerdict::Caught => before,
        FailureVerdict::TooLate => format!("too late: {before}"),
        FailureVerdict::Missed => "missed".into(),
    }
}

/// How long before a failure its warning came, in whole days, below one in hours: `12 days before`.
#[must_use]
pub fn before(warning_ms: i64) -> String {
    let whole = |unit: i64| usize::try_from(warning_ms / unit).unwrap_or(0);
    match whole(DAY) {
        0 => format!("{} before", counted(whole(HOUR), "hour", "hours")),
        days => format!("{} before", counted(days, "day", "days")),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn judged(caught: usize, missed: usize, too_late: usize, warning_hours: Option<i64>) -> Judged {
        Judged {
            caught,
            missed,
            too_late,
            nuisance: 0,
            work: 0,
            median_warning_ms: warning_hours.map(|hours| hours * HOUR),
        }
    }

    #[rstest]
    #[case(judged(0, 0, 0, None), 0, 0, "No failure came in the period; 0 nuisance warnings, 0 work orders.")]
    #[case(judged(1, 0, 0, Some(862)), 1, 1, "Catches the failure, 35 days before; 1 nuisance warning, 1 work order.")]
    #[case(
        judged(2, 0, 0, Some(24)),
        0,
        3,
        "Catches all 2 failures, 1 day before in the middle; 0 nuisance warnings, 3 work orders."
    )]
    #[case(judged(0, 1, 0, None), 0, 2, "Misses the failure; 0 nuisance warnings, 2 work orders.")]
    #[case(judged(0, 3, 0, None), 1_200, 0, "Misses all 3 failures; 1,200 nuisance warnings, 0 work orders.")]
    #[case(
        judged(0, 0, 1, Some(12)),
        0,
        1,
        "Warns of the failure too late, 12 hours before; 0 nuisance warnings, 1 work order."
    )]
    #[case(
        judged(1, 1, 2, Some(72)),
        0,
        0,
        "Catches 1 of 4 failures, warns of 2 too late, 3 days before; 0 nuisance warnings, 0 work orders."
    )]
    #[case(
        judged(1, 2, 0, Some(1)),
        0,
        0,
        "Catches 1 of 3 failures, 1 hour before; 0 nuisance warnings, 0 work orders."
    )]
    fn one_sentence(#[case] judged: Judged, #[case] nuisance: usize, #[case] work: usize, #[case] words: &str) {
        assert_eq!(Judged { nuisance, work, ..judged }.verdict(), words);
    }

    #[test]
    fn of_a_family_it_counts_what_its_meters_come_to_together() {
        let together = |judged: Judged, nuisance, work| Judged { nuisance, work, ..judged }.verdict_together();
        assert_eq!(
            together(judged(0, 1, 0, None), 2, 1),
            "In this period they would have caught 0 of 1 failure; 2 nuisance warnings, 1 work order."
        );
        assert_eq!(
            together(judged(2, 1, 1, None), 0, 0),
            "In this period they would have caught 2 of 4 failures, warned of 1 too late; 0 nuisance warnings, 0 work orders."
        );
        let none = "No failure came in this period; 0 nuisance warnings, 23 work orders.";
        assert_eq!(together(judged(0, 0, 0, None), 0, 23), none);
    }

    #[test]
    fn each_failure_has_its_fate() {
        assert_eq!(fate(FailureVerdict::Caught, Some(35 * DAY + HOUR)), "35 days before");
        assert_eq!(fate(FailureVerdict::Caught, Some(30 * HOUR)), "1 day before");
        assert_eq!(fate(FailureVerdict::TooLate, Some(90 * 60_000)), "too late: 1 hour before");
        assert_eq!(fate(FailureVerdict::Missed, None), "missed");
    }

    #[test]
    fn a_setpoint_says_what_it_would_have_come_to() {
        let says = |judged: Judged, nuisance, work, setpoint, unit| {
            Judged { nuisance, work, ..judged }.of_setpoint(setpoint, unit)
        };
        assert_eq!(
            says(judged(1, 0, 0, Some(480)), 8, 4, 2.0, "[g]"),
            "2 g: 1 of 1 caught, 20 days before, 8 nuisance, 4 work orders"
        );
        assert_eq!(
            says(judged(1, 0, 2, None), 0, 0, 5.0, "1"),
            "5: 1 of 3 caught and 2 too late, 0 nuisance, 0 work orders"
        );
        assert_eq!(
            says(judged(0, 1, 0, None), 1_500, 1, 0.1 + 0.2, "1"),
            "0.3: 0 of 1 caught, 1,500 nuisance, 1 work order"
        );
    }
}

//! When somebody is away.

use jiff::civil::Date;
use std::{fmt, str::FromStr};

/// Days on which somebody is away, the first and the last included. As text `2026-03-02..2026-03-06`, or one day alone.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Away {
    first: Date,
    last: Date,
}

/// A text that says no days.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{0:?} says no days such as 2026-03-02..2026-03-06")]
pub struct NoDays(String);

impl Away {
    /// Whether it holds on a date.
    #[must_use]
    pub fn holds(self, date: Date) -> bool {
        self.first <= date && date <= self.last
    }
}

impl FromStr for Away {
    type Err = NoDays;

    fn from_str(text: &str) -> Result<Self, NoDays> {
        let (first, last) = text.split_once("..").unwrap_or((text, text));
        let date = |text: &str| text.trim().parse::<Date>().map_err(|_unread| NoDays(text.to_owned()));
        let (first, last) = (date(first)?, date(last)?);
        if first <= last { Ok(Self { first, last }) } else { Err(NoDays(text.to_owned())) }
    }
}

impl fmt::Display for Away {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.first == self.last {
            true => self.first.fmt(f),
            false => write!(f, "{}..{}", self.first, self.last),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::civil::date;
    use rstest::rstest;

    #[rstest]
    #[case("2026-03-02..2026-03-06", "2026-03-02..2026-03-06")]
    #[case(" 2026-03-02 .. 2026-03-02", "2026-03-02")]
    #[case("2026-03-02", "2026-03-02")]
    fn days_are_read_and_told(#[case] text: &str, #[case] told: &str) {
        assert_eq!(text.parse::<Away>().unwrap().to_string(), told);
    }

    #[rstest]
    #[case("2026-03-06..2026-03-02")]
    #[case("2026-02-30")]
    #[case("March")]
    fn what_says_no_days_is_said(#[case] text: &str) {
        assert!(text.parse::<Away>().is_err());
    }

    #[test]
    fn the_first_and_the_last_day_are_in_it() {
        let away: Away = "2026-03-02..2026-03-06".parse().unwrap();
        let holds = [1, 2, 6, 7].map(|day| away.holds(date(2026, 3, day)));
        assert_eq!(holds, [false, true, true, false]);
    }
}

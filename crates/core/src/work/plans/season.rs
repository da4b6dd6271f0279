//! The part of a year in which upkeep is due.

use jiff::{ToSpan, civil::Date};
use serde::{Deserialize, Serialize};
use std::fmt;

/// Days of every year from one to another, both among them; over the new year where the first comes later.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub struct Season {
    from: MonthDay,
    to: MonthDay,
}

/// Month and day.
type MonthDay = (i8, i8);

/// A text that names no season.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{0:?} is no season such as 04-15..10-31")]
pub struct NotASeason(String);

impl Season {
    /// The season that a text such as `04-15..10-31` names.
    ///
    /// # Errors
    /// [`NotASeason`].
    pub fn parse(text: &str) -> Result<Self, NotASeason> {
        // A leap year, so that 29 February is a day.
        let day = |text: &str| format!("2024-{}", text.trim()).parse::<Date>().ok().map(|d| (d.month(), d.day()));
        let both = text.split_once("..").and_then(|(from, to)| Some((day(from)?, day(to)?)));
        both.map(|(from, to)| Self { from, to }).ok_or_else(|| NotASeason(text.into()))
    }

    /// Whether the date lies in it.
    #[must_use]
    pub fn contains(self, date: Date) -> bool {
        let day = (date.month(), date.day());
        if self.from <= self.to { self.from <= day && day <= self.to } else { self.from <= day || day <= self.to }
    }

    /// The date itself where it lies in the season, else the first day of the next one.
    #[must_use]
    pub fn at_or_after(self, date: Date) -> Date {
        let mut days = date.series(1.day()).take(367);
        days.find(|date| self.contains(*date)).unwrap_or(date)
    }
}

impl fmt::Display for Season {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let ((from_month, from), (to_month, to)) = (self.from, self.to);
        write!(f, "{from_month:02}-{from:02}..{to_month:02}-{to:02}")
    }
}

impl From<Season> for String {
    fn from(season: Season) -> Self {
        season.to_string()
    }
}

impl TryFrom<String> for Season {
    type Error = NotASeason;

    fn try_from(text: String) -> Result<Self, NotASeason> {
        Self::parse(&text)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("04-15..10-31", "2026-04-15", true)]
    #[case("04-15..10-31", "2026-10-31", true)]
    #[case("04-15..10-31", "2026-11-01", false)]
    #[case::over_the_new_year("11-01..02-29", "2027-01-15", true)]
    #[case::over_the_new_year("11-01..02-29", "2027-03-01", false)]
    fn a_date_lies_in_a_season_or_not(#[case] season: &str, #[case] date: &str, #[case] within: bool) {
        let season = Season::parse(season).unwrap();
        assert_eq!(season.contains(date.parse().unwrap()), within);
        assert_eq!(Season::parse(&season.to_string()), Ok(season));
    }

    #[test]
    fn what_is_out_of_season_waits_for_its_first_day() {
        let season = Season::parse("11-01..02-28").unwrap();
        let at = |date: &str| season.at_or_after(date.parse().unwrap()).to_string();
        assert_eq!(at("2027-03-05"), "2027-11-01");
        assert_eq!(at("2027-01-05"), "2027-01-05");
        assert_eq!(Season::parse("2027").unwrap_err().to_string(), "\"2027\" is no season such as 04-15..10-31");
    }
}

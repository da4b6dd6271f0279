//! What the text of a cell means.

use crate::ground::time::{DAY, HOUR, Instant, SECOND};
use jiff::{
    civil::{Date, DateTime},
    tz::{AmbiguousOffset, TimeZone},
};

/// Which signs may stand before the decimals of a number.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Decimal {
    Point,
    PointOrComma,
}

/// A cell that does not mean what its column holds.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum CellError {
    #[error("{0:?} is not a number")]
    NotANumber(String),
    #[error("{0:?} can be read in two ways; write it without a sign between the thousands")]
    TwoNumbers(String),
    #[error("{0:?} is no time; write it as 2026-03-01T08:00:00Z, 2026-03-01 08:00 or 01.03.2026 08:00")]
    NotATime(String),
    #[error("{0:?} has no offset; name the time zone of the file")]
    NoZone(String),
    #[error("{0:?} happened twice, when the clocks went back; write it with its offset")]
    Twice(String),
    #[error("{0:?} never was: the clocks went forward over it")]
    Never(String),
    #[error("{0:?} is no length of time; write it as 90 min, 36 h or 14 d")]
    NotADuration(String),
}

/// A number. Where a comma may stand before the decimals, points may part the thousands before it: `1.234,5`.
///
/// # Errors
/// [`CellError::NotANumber`], and [`CellError::TwoNumbers`] for `1,234` where a comma has no meaning.
pub fn number(text: &str, decimal: Decimal) -> Result<f64, CellError> {
    let text = text.trim();
    let not = || CellError::NotANumber(text.into());
    let plain = match (decimal, text.split_once(',')) {
        (_, None) => text.to_owned(),
        (Decimal::Point, Some(_)) if looks_grouped(text, ',') => return Err(CellError::TwoNumbers(text.into())),
        (Decimal::Point, Some(_)) => return Err(not()),
        (Decimal::PointOrComma, Some((whole, decimals))) => {
            if whole.contains('.') && !looks_grouped(whole, '.') {
                return Err(not());
            }
            format!("{}.{decimals}", whole.replace('.', ""))
        }
    };
    // The standard parser also reads "inf" and "nan", which no meter shows.
    let is_plain = plain.chars().all(|c| c.is_ascii_digit() || "+-.eE".contains(c));
    plain.parse().ok().filter(|value: &f64| is_plain && value.is_finite()).ok_or_else(not)
}

/// Whether the sign stands before every third digit.
fn looks_grouped(text: &str, sign: char) -> bool {
    let digits = |part: &str| part.chars().all(|c| c.is_ascii_digit());
    let mut parts = text.trim_start_matches(['+', '-']).split(sign);
    let first = parts.next().unwrap_or_default();
    (1..=3).contains(&first.len()) && digits(first) && parts.all(|part| part.len() == 3 && digits(part))
}

/// An instant: with its offset, or by the local clock of `zone`. A date alone is its first moment.
///
/// # Errors
/// [`CellError::NoZone`] for a local time without a zone, [`CellError::Twice`] and [`CellError::Never`] around a change of
/// the clocks, [`CellError::NotATime`] for anything else.
pub fn instant(text: &str, zone: Option<&TimeZone>) -> Result<Instant, CellError> {
    let text = text.trim();
    if let Ok(at) = Instant::parse(text) {
        return Ok(at);
    }
    let not = || CellError::NotATime(text.into());
    let (local, only_date) = local(text).ok_or_else(not)?;
    let zone = zone.ok_or_else(|| CellError::NoZone(text.into()))?;
    let ambiguous = zone.to_ambiguous_timestamp(local);
    match ambiguous.offset() {
        AmbiguousOffset::Fold { .. } if !only_date => return Err(CellError::Twice(text.into())),
        AmbiguousOffset::Gap { .. } if !only_date => return Err(CellError::Never(text.into())),
        _ => {}
    }
    ambiguous.compatible().map(Instant::from).map_err(|_out_of_range: jiff::Error| not())
}

/// A date and maybe a time of day; whether it was a date alone.
fn local(text: &str) -> Option<(DateTime, bool)> {
    if let Ok(date) = text.parse::<Date>()
        && text.len() <= 10
    {
        return Some((date.at(0, 0, 0, 0), true));
    }
    if let Ok(at) = text.replacen(' ', "T", 1).parse::<DateTime>() {
        return Some((at, false));
    }
    // Day, month and year with points between, as much of Europe writes.
    let (date, time) = text.split_once(' ').map_or((text, None), |(date, time)| (date, Some(time.trim())));
    let mut parts = date.split('.');
    let (day, month, year) = (parts.next()?, parts.next()?, parts.next()?);
    let four_digits = year.len() == 4 && parts.next().is_none();
    let date = Date::new(year.parse().ok()?, month.parse().ok()?, day.parse().ok()?).ok().filter(|_| four_digits)?;
    match time {
        None => Some((date.at(0, 0, 0, 0), true)),
        Some(time) => Some((date.to_datetime(time.parse().ok()?), false)),
    }
}

const UNITS: [(&str, i64); 4] = [("d", DAY / SECOND), ("h", HOUR / SECOND), ("min", 60), ("s", 1)];

/// A length of time in seconds: `14 d`, `36 h`, `90 min` or `45 s`.
///
/// # Errors
/// [`CellError::NotADuration`] without a unit, for nothing or less, or for part of a second.
pub fn duration(text: &str) -> Result<i64, CellError> {
    let text = text.trim();
    let not = || CellError::NotADuration(text.into());
    let split = text.find(|c: char| c.is_alphabetic()).ok_or_else(not)?;
    let (amount, unit) = text.split_at(split);
    let (_, seconds) = UNITS.iter().find(|(name, _)| *name == unit.trim()).ok_or_else(not)?;
    let total = number(amount, Decimal::PointOrComma).map_err(|_unreadable| not())? * *seconds as f64;
    let fits = (1.0..1e12).contains(&total) && total.fract() == 0.0;
    if fits { Ok(total as i64) } else { Err(not()) }
}

/// A length of time in the greatest unit that leaves no remainder: `1209600` is `14 d`.
#[must_use]
pub fn duration_text(seconds: i64) -> String {
    let unit = UNITS.iter().find(|(_, length)| seconds % length == 0);
    unit.map_or_else(String::new, |(name, length)| format!("{} {name}", seconds / length))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::ground::calendar::zone;
    use proptest::prelude::*;
    use rstest::rstest;

    #[rstest]
    #[case("1.5", Decimal::Point, Ok(1.5))]
    #[case("1.5", Decimal::PointOrComma, Ok(1.5))]
    #[case("-1,5", Decimal::PointOrComma, Ok(-1.5))]
    #[case("1.234,5", Decimal::PointOrComma, Ok(1234.5))]
    #[case("1.23,5", Decimal::PointOrComma, Err(CellError::NotANumber("1.23,5".into())))]
    #[case("1,234", Decimal::Point, Err(CellError::TwoNumbers("1,234".into())))]
    #[case("1,5", Decimal::Point, Err(CellError::NotANumber("1,5".into())))]
    #[case("2e3", Decimal::Point, Ok(2000.0))]
    #[case("inf", Decimal::Point, Err(CellError::NotANumber("inf".into())))]
    #[case("1e999", Decimal::Point, Err(CellError::NotANumber("1e999".into())))]
    fn numbers(#[case] text: &str, #[case] decimal: Decimal, #[case] expected: Result<f64, CellError>) {
        assert_eq!(number(text, decimal), expected);
    }

    // Vienna is an hour ahead of UTC in winter and two in summer; in 2026 the clocks change on 29 March and 25 October
    // (last Sundays, Directive 2000/84/EC).
    #[rstest]
    #[case("2026-03-01T08:00:00Z", "2026-03-01T08:00:00Z")]
    #[case("2026-03-01T08:00:00+05:30", "2026-03-01T02:30:00Z")]
    #[case("2026-03-01 08:00", "2026-03-01T07:00:00Z")]
    #[case("2026-07-01T08:00:30", "2026-07-01T06:00:30Z")]
    #[case("01.07.2026 08:00", "2026-07-01T06:00:00Z")]
    #[case("1.7.2026", "2026-06-30T22:00:00Z")]
    #[case("2026-07-01", "2026-06-30T22:00:00Z")]
    fn instants(#[case] text: &str, #[case] expected: &str) {
        let vienna = zone("Europe/Vienna").unwrap();
        assert_eq!(instant(text, Some(&vienna)), Ok(Instant::parse(expected).unwrap()));
    }

    #[test]
    fn times_that_mean_nothing_or_two_things_are_refused() {
        let vienna = zone("Europe/Vienna").unwrap();
        let refused = |text: &str| instant(text, Some(&vienna)).unwrap_err();
        assert_eq!(refused("2026-10-25 02:30"), CellError::Twice("2026-10-25 02:30".into()));
        assert_eq!(refused("2026-03-29 02:30"), CellError::Never("2026-03-29 02:30".into()));
        assert_eq!(refused("03/01/2026"), CellError::NotATime("03/01/2026".into()), "of two readings neither is taken");
        assert_eq!(refused("30.02.2026"), CellError::NotATime("30.02.2026".into()));
        assert_eq!(instant("2026-03-01 08:00", None), Err(CellError::NoZone("2026-03-01 08:00".into())));
    }

    #[rstest]
    #[case("14 d", Some(1_209_600))]
    #[case("36h", Some(129_600))]
    #[case("1,5 h", Some(5_400))]
    #[case("90 min", Some(5_400))]
    #[case("14", None)]
    #[case("0 s", None)]
    #[case("0.5 s", None)]
    #[case("2 weeks", None)]
    fn durations(#[case] text: &str, #[case] seconds: Option<i64>) {
        assert_eq!(duration(text).ok(), seconds);
    }

    proptest! {
        #[test]
        fn a_duration_reads_back_as_it_was_written(seconds in 1..10_000_000i64) {
            prop_assert_eq!(duration(&duration_text(seconds)), Ok(seconds));
        }

        #[test]
        fn a_number_reads_back_as_it_was_written(value in proptest::num::f64::NORMAL) {
            prop_assert_eq!(number(&value.to_string(), Decimal::Point), Ok(value));
        }
    }
}

//! Periods people ask for by name, cut in a time zone.

use crate::ground::time::{Instant, Span};
use jiff::{ToSpan, civil::Date, tz::TimeZone};
use std::fmt;

/// A period as it stands in a link: relative ones move with the clock.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Period {
    ThisMonth,
    LastMonth,
    /// From the same wall clock twelve months ago to now.
    Last12Months,
    /// From the start of the fiscal year to now.
    YearToDate,
    /// Local dates `[from, to)`.
    Dates {
        from: Date,
        to: Date,
    },
}

/// A text that names no period.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error(
    "{0:?} is no period: use this_month, last_month, last_12_months, year_to_date, a year (2026), a month (2026-03) or \
     two dates (2026-03-01..2026-06-01, the second not included)"
)]
pub struct NotAPeriod(String);

impl Period {
    /// The period a text names, written as [`fmt::Display`] writes it.
    ///
    /// # Errors
    /// [`NotAPeriod`], listing what there is.
    pub fn parse(text: &str) -> Result<Self, NotAPeriod> {
        let wrong = || NotAPeriod(text.into());
        let date = |text: &str| text.parse::<Date>().map_err(|_unparsed: jiff::Error| wrong());
        match text {
            "this_month" => return Ok(Self::ThisMonth),
            "last_month" => return Ok(Self::LastMonth),
            "last_12_months" => return Ok(Self::Last12Months),
            "year_to_date" => return Ok(Self::YearToDate),
            _ => {}
        }
        let (from, to) = match text.split_once("..") {
            Some((from, to)) => (date(from)?, date(to)?),
            None if text.len() == 7 => {
                let first = date(&format!("{text}-01"))?;
                (first, first.checked_add(1.month()).map_err(|_beyond| wrong())?)
            }
            None if text.len() == 4 => {
                let first = date(&format!("{text}-01-01"))?;
                (first, first.checked_add(1.year()).map_err(|_beyond| wrong())?)
            }
            None => return Err(wrong()),
        };
        if from < to { Ok(Self::Dates { from, to }) } else { Err(wrong()) }
    }

    /// What the period covers as of `now`, including what has not happened yet.
    ///
    /// `fiscal_month` (1 to 12) is the month the fiscal year starts in.
    #[must_use]
    pub fn span(&self, now: Instant, zone: &TimeZone, fiscal_month: i8) -> Span {
        let local = now.in_zone(zone);
        let month = local.date().first_of_month();
        let midnights = |from: Date, to: Date| between(midnight(from, zone), midnight(to, zone));
        match *self {
            Self::ThisMonth => midnights(month, month.saturating_add(1.month())),
            Self::LastMonth => midnights(month.saturating_sub(1.month()), month),
            Self::Last12Months => {
                let start = local.checked_sub(12.months()).map_or(Instant::EARLIEST, |z| z.timestamp().into());
                between(start, now)
            }
            Self::YearToDate => between(fiscal_year_start(now, zone, fiscal_month), now),
            Self::Dates { from, to } => midnights(from, to),
        }
    }

    /// Whether some of it is to come, or it always goes on to now from the start of a year.
    #[must_use]
    pub fn is_running(&self, now: Instant, zone: &TimeZone, fiscal_month: i8) -> bool {
        *self == Self::YearToDate || self.span(now, zone, fiscal_month).end() > now
    }

    /// The period of local dates that a span covers from midnight to midnight, where it does.
    #[must_use]
    pub fn of_dates(span: Span, zone: &TimeZone) -> Option<Self> {
        let (from, to) = (span.start().in_zone(zone).date(), span.end().in_zone(zone).date());
        let is_whole = midnight(from, zone) == span.start() && midnight(to, zone) == span.end();
        (is_whole && from < to).then_some(Self::Dates { from, to })
    }

    /// The period one step earlier (-1) or later (+1), as fixed dates where this one is fixed or a whole month. From the year
    /// to date it is the fiscal year before or after.
    #[must_use]
    pub fn step(&self, direction: i32, now: Instant, zone: &TimeZone, fiscal_month: i8) -> Self {
        let today = now.in_zone(zone).date();
        let month = today.first_of_month();
        let (from, to) = match *self {
            Self::ThisMonth => (month, month.saturating_add(1.month())),
            Self::LastMonth => (month.saturating_sub(1.month()), month),
            Self::Last12Months => (today.saturating_sub(12.months()), today),
            Self::YearToDate => {
                let start = fiscal_year_start(now, zone, fiscal_month).in_zone(zone).date();
                (start, start.saturating_add(1.year()))
            }
            Self::Dates { from, to } => (from, to),
        };
        let whole_months = months_between(from, to);
        let (from, to) = match whole_months {
            Some(months) => {
                let by = (months * direction).months();
                (from.saturating_add(by), to.saturating_add(by))
            }
            None => {
                let days = from.until(to).map_or(1, |span| span.get_days()) * direction;
                (from.saturating_add(days.days()), to.saturating_add(days.days()))
            }
        };
        Self::Dates { from, to }
    }
}

impl fmt::Display for Period {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::ThisMonth => f.write_str("this_month"),
            Self::LastMonth => f.write_str("last_month"),
            Self::Last12Months => f.write_str("last_12_months"),
            Self::YearToDate => f.write_str("year_to_date"),
            Self::Dates { from, to } => match months_between(*from, *to) {
                Some(1) if from.day() == 1 => write!(f, "{:04}-{:02}", from.year(), from.month()),
                Some(12) if from.day() == 1 && from.month() == 1 => write!(f, "{:04}", from.year()),
                _ => write!(f, "{from}..{to}"),
            },
        }
    }
}

/// How many whole months lie between two dates, when it is just whole ones.
fn months_between(from: Date, to: Date) -> Option<i32> {
    let months = (i32::from(to.year()) - i32::from(from.year())) * 12 + i32::from(to.month()) - i32::from(from.month());
    (months > 0 && from.day() == to.day()).then_some(months)
}

/// The first instant of a local date.
#[must_use]
pub fn midnight(date: Date, zone: &TimeZone) -> Instant {
    zone.to_ambiguous_timestamp(date.to_datetime(jiff::civil::Time::midnight()))
        .compatible()
        .map_or(Instant::LATEST, Instant::from)
}

/// The local dates of a span, each with the part of it that lies on it, ascending: 23 or 25 hours where clocks change.
pub fn days(span: Span, zone: &TimeZone) -> impl Iterator<Item = (Date, Span)> {
    let first = span.start().in_zone(zone).date();
    let dates = std::iter::successors(Some(first), |date| date.tomorrow().ok());
    let parts = dates.map(move |date| {
        let end = date.tomorrow().map_or(Instant::LATEST, |next| midnight(next, zone));
        (date, Span::new(midnight(date, zone), end).ok().and_then(|day| day.clip(span)))
    });
    parts.take_while(move |(date, _)| midnight(*date, zone) < span.end()).filter_map(|(date, part)| Some((date, part?)))
}

/// The start of the fiscal year that `at` lies in.
#[must_use]
pub fn fiscal_year_start(at: Instant, zone: &TimeZone, fiscal_month: i8) -> Instant {
    let date = at.in_zone(zone).date();
    let year = if date.month() >= fiscal_month { date.year() } else { date.year() - 1 };
    midnight(Date::new(year, fiscal_month.clamp(1, 12), 1).unwrap_or(date), zone)
}

/// The period before, to compare with: the whole of it where `period` is over by `now`, else the same part of it (see
/// [`same_part`]). None where `period` has not begun.
#[must_use]
pub fn before(period: Period, now: Instant, zone: &TimeZone, fiscal_month: i8) -> Option<Span> {
    let span = period.span(now, zone, fiscal_month);
    if span.start() >= now {
        return None;
    }
    let earlier = match period {
        Period::YearToDate | Period::Last12Months => back_a_year(span.start(), zone),
        _ => period.step(-1, now, zone, fiscal_month).span(now, zone, fiscal_month).start(),
    };
    let whole = Span::new(earlier, span.start()).ok()?;
    if period.is_running(now, zone, fiscal_month) { same_part(span, whole, now, zone) } else { Some(whole) }
}

/// Of another period as much as has passed of `span`, in local calendar days and to the same time of day, at most all of it.
/// Whatever clocks did in either, 31 January at noon is compared with 30 days and a half of the other month.
#[must_use]
pub fn same_part(span: Span, other: Span, now: Instant, zone: &TimeZone) -> Option<Span> {
    let (start, local) = (span.start().in_zone(zone), now.in_zone(zone));
    let days = start.date().until(local.date()).ok()?.get_days();
    let until = other.start().in_zone(zone).date().saturating_add(i64::from(days).days()).to_datetime(local.time());
    let until = zone.to_ambiguous_timestamp(until).compatible().map_or(other.end(), Instant::from);
    Span::new(other.start(), until.min(other.end())).ok()
}

/// The same a year before: as long as what has passed of `span` by `now`.
#[must_use]
pub fn a_year_before(span: Span, now: Instant, zone: &TimeZone) -> Option<Span> {
    let end = span.end().min(now);
    Span::new(back_a_year(span.start(), zone), back_a_year(end, zone)).ok()
}

fn back_a_year(at: Instant, zone: &TimeZone) -> Instant {
    at.in_zone(zone).checked_sub(1.year()).map_or(Instant::EARLIEST, |z| z.timestamp().into())
}

/// Spans of clock arithmetic never end first; where a zone's rules would make one empty it lasts a millisecond.
fn between(start: Instant, end: Instant) -> Span {
    Span::new(start, end.max(start.plus(1))).unwrap_or(Span::ALWAYS)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::ground::calendar::zone;
    use rstest::rstest;

    // Clocks go back by an hour on 25 October 2026, and forward on 28 March (IANA time zone database).
    #[test]
    fn local_days_have_23_or_25_hours_where_clocks_change() {
        let zone = zone("Europe/Berlin").unwrap();
        let at = |text: &str| Instant::parse(text).unwrap();
        let hours = |from: &str, to: &str| -> Vec<(String, i64)> {
            let span = Span::new(at(from), at(to)).unwrap();
            days(span, &zone).map(|(date, part)| (date.to_string(), part.ms() / crate::ground::time::HOUR)).collect()
        };
        let named =
            |all: &[(&str, i64)]| all.iter().map(|(date, hours)| ((*date).to_owned(), *hours)).collect::<Vec<_>>();
        assert_eq!(
            hours("2026-10-24T10:00:00Z", "2026-10-26T11:00:00Z"),
            named(&[("2026-10-24", 12), ("2026-10-25", 25), ("2026-10-26", 12)])
        );
        assert_eq!(hours("2027-03-27T23:00:00Z", "2027-03-28T22:00:00Z"), named(&[("2027-03-28", 23)]));
    }

    // Reference values: shared reference set 11_calendar, kind `windows` (pandas and dateutil, time zones 2025b).
    #[test]
    fn windows_match_the_reference() {
        let file: serde_json::Value =
            serde_json::from_str(include_str!("../../tests/reference/11_calendar.json")).unwrap();
        let mut compared = 0;
        for case in file["cases"].as_array().unwrap().iter().filter(|c| c["kind"] == "windows") {
            let now = Instant::parse(case["input"]["now"].as_str().unwrap()).unwrap();
            let zone = zone(case["input"]["time_zone"].as_str().unwrap()).unwrap();
            for (name, period) in [
                ("current_month", Period::ThisMonth),
                ("previous_month", Period::LastMonth),
                ("rolling_12_months_back_from_now", Period::Last12Months),
                ("year_to_date", Period::YearToDate),
            ] {
                let expected = &case["expected"][name];
                let span = period.span(now, &zone, 1);
                let instant = |key: &str| Instant::parse(expected[key].as_str().unwrap()).unwrap();
                // A span is never empty: at the first instant of the year, the year to date lasts a millisecond.
                let end = instant("end").max(instant("start").plus(1));
                assert_eq!((span.start(), span.end()), (instant("start"), end), "{} {name}", case["id"]);
                compared += 1;
            }
        }
        assert!(compared >= 8, "only {compared} windows compared");
    }

    #[rstest]
    #[case("this_month", "2026-10", "2026-12")]
    #[case("2026-03", "2026-02", "2026-04")]
    #[case("2026", "2025", "2027")]
    #[case("2026-03-01..2026-03-11", "2026-02-19..2026-03-01", "2026-03-11..2026-03-21")]
    #[case("2026-01-15..2026-04-15", "2025-10-15..2026-01-15", "2026-04-15..2026-07-15")]
    fn stepping(#[case] period: &str, #[case] earlier: &str, #[case] later: &str) {
        let now = Instant::parse("2026-11-23T10:00:00Z").unwrap();
        let period = Period::parse(period).unwrap();
        let step = |n| period.step(n, now, &TimeZone::UTC, 1).to_string();
        assert_eq!((step(-1).as_str(), step(1).as_str()), (earlier, later));
    }

    #[test]
    fn the_year_to_date_steps_by_fiscal_years() {
        let now = Instant::parse("2026-11-23T10:00:00Z").unwrap();
        let step = |n, month| Period::YearToDate.step(n, now, &TimeZone::UTC, month).to_string();
        assert_eq!((step(-1, 1).as_str(), step(1, 1).as_str()), ("2025", "2027"));
        assert_eq!(step(-1, 10), "2025-10-01..2026-10-01", "it runs from October 2026");
        assert_eq!(step(-1, 12), "2024-12-01..2025-12-01", "it runs from December 2025");
    }

    #[test]
    fn the_period_before_is_as_long_as_what_has_passed() {
        let now = Instant::parse("2026-11-23T00:00:00Z").unwrap();
        let before = before(Period::ThisMonth, now, &TimeZone::UTC, 1).unwrap();
        assert_eq!(before.start().to_string(), "2026-10-01T00:00:00Z");
        assert_eq!(before.end().to_string(), "2026-10-23T00:00:00Z");
    }

    /// indicators.md: two finished periods are compared whole; a running one with the same span of the other in calendar days, to the
    /// same time of day. 2024 has 366 days; clocks go forward on 29 March 2026 (IANA time zone database).
    #[rstest]
    #[case::a_leap_year_whole("2025", "2026-11-23T10:00:00Z", "2023-12-31T23:00:00Z", "2024-12-31T23:00:00Z")]
    #[case::a_month_with_a_change_of_clocks(
        "2026-04",
        "2026-05-10T10:00:00Z",
        "2026-02-28T23:00:00Z",
        "2026-03-31T22:00:00Z"
    )]
    #[case::running_to_the_same_time_of_day(
        "2026-04",
        "2026-04-10T10:00:00Z",
        "2026-02-28T23:00:00Z",
        "2026-03-10T11:00:00Z"
    )]
    #[case::running_longer_than_the_other(
        "this_month",
        "2026-03-30T10:00:00Z",
        "2026-01-31T23:00:00Z",
        "2026-02-28T23:00:00Z"
    )]
    #[case::the_year_to_date("year_to_date", "2026-04-10T10:00:00Z", "2024-12-31T23:00:00Z", "2025-04-10T10:00:00Z")]
    #[case::twelve_months("last_12_months", "2025-02-16T10:00:00Z", "2023-02-16T10:00:00Z", "2024-02-16T10:00:00Z")]
    fn what_a_period_is_compared_with(#[case] period: &str, #[case] now: &str, #[case] from: &str, #[case] to: &str) {
        let zone = zone("Europe/Berlin").unwrap();
        let now = Instant::parse(now).unwrap();
        let before = before(Period::parse(period).unwrap(), now, &zone, 1).unwrap();
        assert_eq!((before.start().to_string().as_str(), before.end().to_string().as_str()), (from, to));
    }

    #[test]
    fn a_span_from_midnight_to_midnight_is_a_period_of_dates() {
        let zone = zone("Europe/Berlin").unwrap();
        let span =
            |from: &str, to: &str| Span::new(Instant::parse(from).unwrap(), Instant::parse(to).unwrap()).unwrap();
        let march = Period::of_dates(span("2026-02-28T23:00:00Z", "2026-03-31T22:00:00Z"), &zone);
        assert_eq!(march.map(|period| period.to_string()), Some("2026-03".into()));
        assert_eq!(Period::of_dates(span("2026-03-01T00:00:00Z", "2026-04-01T00:00:00Z"), &zone), None);
    }

    #[test]
    fn a_fiscal_year_may_start_in_october() {
        let at = Instant::parse("2026-03-05T00:00:00Z").unwrap();
        assert_eq!(fiscal_year_start(at, &TimeZone::UTC, 10).to_string(), "2025-10-01T00:00:00Z");
    }

    #[test]
    fn what_is_no_period_says_what_is() {
        for text in ["soon", "2026-13", "2026-03-01..2026-03-01", "20260301", ""] {
            assert!(Period::parse(text).is_err(), "{text}");
        }
    }
}

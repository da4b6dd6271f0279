//! Named periods: written and read, stepped there and back.

use jiff::{civil::Date, tz::TimeZone};
use proptest::prelude::*;
use tally_core::ground::{
    period::{Period, before},
    time::Instant,
};

fn date() -> impl Strategy<Value = Date> {
    (2015i16..2035, 1i8..=12, 1i8..=28).prop_map(|(year, month, day)| jiff::civil::date(year, month, day))
}

fn zone() -> impl Strategy<Value = TimeZone> {
    prop::sample::select(vec!["UTC", "CET", "America/New_York", "Australia/Lord_Howe", "Asia/Kathmandu"])
        .prop_map(|name| TimeZone::get(name).unwrap())
}

fn noon(day: Date) -> Instant {
    day.at(12, 0, 0, 0).to_zoned(TimeZone::UTC).unwrap().timestamp().into()
}

fn periods() -> impl Strategy<Value = Period> {
    prop_oneof![
        Just(Period::ThisMonth),
        Just(Period::LastMonth),
        Just(Period::Last12Months),
        Just(Period::YearToDate),
        (date(), 1i64..400)
            .prop_map(|(from, days)| Period::Dates { from, to: from.saturating_add(jiff::Span::new().days(days)) }),
    ]
}

proptest! {
    #[test]
    fn a_period_is_the_same_after_writing_and_reading(period in periods()) {
        prop_assert_eq!(Period::parse(&period.to_string()), Ok(period));
    }

    #[test]
    fn whole_months_step_there_and_back(year in 2015i16..2035, month in 1i8..=12, months in 1i32..25, zone in zone(), today in date()) {
        let from = jiff::civil::date(year, month, 1);
        let to = from.saturating_add(jiff::Span::new().months(months));
        let period = Period::Dates { from, to };
        let now = noon(today);
        let on = period.step(1, now, &zone, 1);
        prop_assert_eq!(on.step(-1, now, &zone, 1), period);
        prop_assert_eq!(on.span(now, &zone, 1).start(), period.span(now, &zone, 1).end(), "one begins where the other ends");
    }

    #[test]
    fn the_period_before_is_whole_where_this_one_is_over_and_else_goes_no_further_in_days(
        period in periods(), today in date(), zone in zone(), fiscal in 1i8..=12,
    ) {
        let now = noon(today);
        let span = period.span(now, &zone, fiscal);
        match before(period, now, &zone, fiscal) {
            Some(earlier) => {
                prop_assert!(earlier.end() <= span.start());
                if period.is_running(now, &zone, fiscal) {
                    let days = |from: Instant, to: Instant| {
                        from.in_zone(&zone).date().until(to.in_zone(&zone).date()).unwrap().get_days()
                    };
                    prop_assert!(days(earlier.start(), earlier.end()) <= days(span.start(), now));
                } else {
                    prop_assert_eq!(earlier.end(), span.start(), "all of it up to this one");
                }
            }
            None => prop_assert!(span.start() >= now, "nothing has passed of what lies ahead"),
        }
    }

    #[test]
    fn the_year_to_date_begins_on_the_first_of_the_fiscal_month(today in date(), zone in zone(), fiscal in 1i8..=12) {
        let now = noon(today);
        let span = Period::YearToDate.span(now, &zone, fiscal);
        let start = span.start().in_zone(&zone);
        prop_assert_eq!((start.month(), start.day()), (fiscal, 1));
        prop_assert!(span.start() <= now && now.since(span.start()) <= 367 * 86_400_000);
    }
}

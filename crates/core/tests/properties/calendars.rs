//! Operating time against asking every minute for its local wall clock.

use jiff::{civil::date, tz::TimeZone};
use proptest::prelude::*;
use tally_core::ground::{
    calendar::{Calendar, Season, WeeklyHours},
    time::{Instant, Span},
};

const MINUTE: i64 = 60_000;

fn hours() -> impl Strategy<Value = Vec<WeeklyHours>> {
    // Windows begin and end on whole hours outside the hours that clock changes touch.
    let window = (0u8..7, 4u16..20, 1u16..5).prop_map(|(weekday, from, length)| WeeklyHours {
        weekday,
        from_minute: from * 60,
        to_minute: (from + length) * 60,
    });
    prop::collection::vec(window, 0..10)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn operating_time_is_what_the_wall_clock_says_minute_by_minute(
        ordinary in hours(),
        seasonal in hours(),
        first_day in 0i64..360,
        length in 1i64..9,
        closed in 0i64..9,
        zone in prop::sample::select(vec!["UTC", "CET", "America/New_York"]),
    ) {
        let tz = TimeZone::get(zone).unwrap();
        let first = date(2026, 1, 1).saturating_add(jiff::Span::new().days(first_day));
        let season_end = first.saturating_add(jiff::Span::new().days(3));
        let closed_day = first.saturating_add(jiff::Span::new().days(closed));
        let calendar = Calendar {
            time_zone: zone.into(),
            hours: ordinary.clone(),
            seasons: vec![Season { name: "s".into(), from: first, to: season_end, hours: seasonal.clone() }],
            closed: vec![closed_day],
        };
        prop_assert_eq!(calendar.check(), Ok(()));
        let start: Instant = first.at(0, 0, 0, 0).to_zoned(TimeZone::UTC).unwrap().timestamp().into();
        let window = Span::new(start, start.plus(length * 1440 * MINUTE)).unwrap();
        let operating = calendar.operating(window).unwrap();
        let found: i64 = operating.iter().map(Span::ms).sum::<i64>() / MINUTE;
        let asked = (0..length * 1440).filter(|minute| {
            let local = start.plus(minute * MINUTE).in_zone(&tz);
            let day = local.date();
            let hours = if first <= day && day < season_end { &seasonal } else { &ordinary };
            let weekday = local.weekday().to_monday_zero_offset() as u8;
            let clock = local.hour() as u16 * 60 + local.minute() as u16;
            day != closed_day && hours.iter().any(|h| h.weekday == weekday && h.from_minute <= clock && clock < h.to_minute)
        }).count() as i64;
        prop_assert_eq!(found, asked);
        prop_assert!(operating.windows(2).all(|pair| pair[0].end() < pair[1].start()), "disjoint and ascending");
    }
}

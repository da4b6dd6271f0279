//! When the lifts run.

use crate::plan::TIME_ZONE;
use jiff::civil::{Date, date};
use tally_core::ground::calendar::{Calendar, Season, WeeklyHours};

/// Winter 1 December to 14 April daily 08:00 to 17:00, summer 15 June to 14 October daily 09:00 to 18:00, closed between.
pub fn seasons(today: Date) -> Calendar {
    let daily = |from: u16, to: u16| -> Vec<WeeklyHours> {
        (0..7).map(|weekday| WeeklyHours { weekday, from_minute: from * 60, to_minute: to * 60 }).collect()
    };
    let years = today.year() - 6..=today.year() + 1;
    let seasons = years.flat_map(|year| {
        [
            Season {
                name: format!("winter {year}"),
                from: date(year, 12, 1),
                to: date(year + 1, 4, 15),
                hours: daily(8, 17),
            },
            Season {
                name: format!("summer {year}"),
                from: date(year, 6, 15),
                to: date(year, 10, 15),
                hours: daily(9, 18),
            },
        ]
    });
    Calendar { time_zone: TIME_ZONE.into(), hours: vec![], seasons: seasons.collect(), closed: vec![] }
}

/// Whether the lifts run on that day.
pub fn runs(day: Date) -> bool {
    let (month, dom) = (day.month(), day.day());
    matches!((month, dom), (12 | 1..=3, _) | (4, 1..=14) | (6, 15..) | (7..=9, _) | (10, 1..=14))
}

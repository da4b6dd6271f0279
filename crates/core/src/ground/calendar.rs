//! Operating calendars: when an asset is required to run.

use crate::ground::{
    spans::union,
    time::{Instant, Span},
};
use jiff::{
    ToSpan,
    civil::{Date, Time, Weekday},
    tz::TimeZone,
};
use serde::{Deserialize, Serialize};

/// One weekly window of local wall clock, half-open. Windows may overlap.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WeeklyHours {
    /// 0 is Monday.
    pub weekday: u8,
    /// Minutes after local midnight.
    pub from_minute: u16,
    /// Minutes after local midnight, up to 1440 for the end of the day.
    pub to_minute: u16,
}

/// A stretch of local dates with its own weekly hours, `[from, to)`.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Season {
    pub name: String,
    #[cfg_attr(feature = "schema", schema(value_type = String, format = "date"))]
    pub from: Date,
    #[cfg_attr(feature = "schema", schema(value_type = String, format = "date"))]
    pub to: Date,
    pub hours: Vec<WeeklyHours>,
}

/// Weekly hours, replaced on the dates of a season, and nothing at all on closed days.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Calendar {
    /// IANA name, such as `Europe/Vienna`.
    pub time_zone: String,
    pub hours: Vec<WeeklyHours>,
    #[serde(default)]
    pub seasons: Vec<Season>,
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(value_type = Vec<String>))]
    pub closed: Vec<Date>,
}

/// What is wrong with a calendar, and where.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum CalendarError {
    #[error("{0:?} is no time zone of the IANA list")]
    TimeZone(String),
    #[error("weekday {weekday} is not 0 (Monday) to 6")]
    Weekday { field: &'static str, weekday: u8 },
    #[error("hours from minute {from} to minute {to} are not within one day")]
    Hours { field: &'static str, from: u16, to: u16 },
    #[error("season {0:?} ends before it starts")]
    Season(String),
}

impl CalendarError {
    /// The field at fault.
    #[must_use]
    pub fn field(&self) -> &'static str {
        match self {
            Self::TimeZone(_) => "time_zone",
            Self::Weekday { field, .. } | Self::Hours { field, .. } => field,
            Self::Season(_) => "seasons",
        }
    }
}

/// The time zone of that IANA name.
///
/// # Errors
/// [`CalendarError::TimeZone`] when there is none.
pub fn zone(name: &str) -> Result<TimeZone, CalendarError> {
    TimeZone::get(name).map_err(|_unknown: jiff::Error| CalendarError::TimeZone(name.into()))
}

impl Calendar {
    /// # Errors
    /// [`CalendarError`] for an unknown zone, a weekday or minute that no week has, or a season that ends first.
    pub fn check(&self) -> Result<(), CalendarError> {
        zone(&self.time_zone)?;
        let of_seasons = self.seasons.iter().flat_map(|season| &season.hours).map(|hours| ("seasons", hours));
        for (field, hours) in self.hours.iter().map(|hours| ("hours", hours)).chain(of_seasons) {
            let WeeklyHours { weekday, from_minute: from, to_minute: to } = *hours;
            if weekday > 6 {
                return Err(CalendarError::Weekday { field, weekday });
            }
            if from >= to || to > 1440 {
                return Err(CalendarError::Hours { field, from, to });
            }
        }
        match self.seasons.iter().find(|season| season.from >= season.to) {
            Some(season) => Err(CalendarError::Season(season.name.clone())),
            None => Ok(()),
        }
    }

    /// The operating time in `window`, disjoint and ascending, in real elapsed time: a local day may have 23 or 25 hours.
    ///
    /// Cost grows with the days of the window.
    ///
    /// # Errors
    /// [`CalendarError::TimeZone`] when the zone is unknown.
    pub fn operating(&self, window: Span) -> Result<Vec<Span>, CalendarError> {
        let zone = zone(&self.time_zone)?;
        let mut spans = Vec::new();
        let mut date = window.start().in_zone(&zone).date();
        let last = window.end().in_zone(&zone).date();
        while date <= last {
            for hours in self.hours_on(date) {
                let start = local(date, hours.from_minute, &zone);
                let end = local(date, hours.to_minute, &zone);
                spans.extend(Span::new(start, end).ok().and_then(|span| span.clip(window)));
            }
            date = date.saturating_add(1.day());
        }
        Ok(union(spans))
    }

    fn hours_on(&self, date: Date) -> impl Iterator<Item = &WeeklyHours> {
        let season = self.seasons.iter().find(|season| season.from <= date && date < season.to);
        let hours = season.map_or(&self.hours, |season| &season.hours);
        let weekday = monday_zero(date.weekday());
        let closed = self.closed.contains(&date);
        hours.iter().filter(move |hours| !closed && hours.weekday == weekday)
    }
}

fn monday_zero(weekday: Weekday) -> u8 {
    weekday.to_monday_zero_offset().unsigned_abs()
}

/// The instant of that local minute of the day; 1440 is the next day's midnight. A minute that a clock change skips is
/// the instant just as far behind the last one that exists, so that no day gains or loses hours.
fn local(date: Date, minute: u16, zone: &TimeZone) -> Instant {
    let (date, minute) = if minute >= 1440 { (date.saturating_add(1.day()), 0) } else { (date, minute) };
    let clock = Time::midnight() + i64::from(minute).minutes();
    zone.to_ambiguous_timestamp(date.to_datetime(clock)).compatible().map_or(Instant::LATEST, Instant::from)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn daily(from_minute: u16, to_minute: u16) -> Vec<WeeklyHours> {
        (0..7).map(|weekday| WeeklyHours { weekday, from_minute, to_minute }).collect()
    }

    fn span(from: &str, to: &str) -> Span {
        Span::new(Instant::parse(from).unwrap(), Instant::parse(to).unwrap()).unwrap()
    }

    fn hours(spans: &[Span]) -> f64 {
        spans.iter().map(Span::ms).sum::<i64>() as f64 / 3_600_000.0
    }

    #[test]
    fn a_season_replaces_the_hours_and_a_closed_day_has_none() {
        let calendar = Calendar {
            time_zone: "UTC".into(),
            hours: daily(8 * 60, 17 * 60),
            seasons: vec![Season {
                name: "summer".into(),
                from: "2026-06-01".parse().unwrap(),
                to: "2026-06-03".parse().unwrap(),
                hours: daily(9 * 60, 19 * 60),
            }],
            closed: vec!["2026-06-04".parse().unwrap()],
        };
        let week = calendar.operating(span("2026-05-31T00:00:00Z", "2026-06-05T00:00:00Z")).unwrap();
        // 9 on 31 May, 10 and 10 in the season, 9 on 3 June, none on 4 June.
        assert_eq!(week.len(), 4);
        assert_eq!(hours(&week), 9.0 + 10.0 + 10.0 + 9.0);
    }

    #[test]
    fn a_day_of_the_clock_change_has_23_or_25_hours() {
        let calendar =
            Calendar { time_zone: "Europe/Berlin".into(), hours: daily(0, 1440), seasons: vec![], closed: vec![] };
        let day = |from, to| hours(&calendar.operating(span(from, to)).unwrap());
        assert_eq!(day("2026-03-28T23:00:00Z", "2026-03-29T22:00:00Z"), 23.0);
        assert_eq!(day("2026-10-24T22:00:00Z", "2026-10-25T23:00:00Z"), 25.0);
    }

    #[test]
    fn what_no_week_has_is_refused() {
        let with = |hours| Calendar { time_zone: "UTC".into(), hours: vec![hours], seasons: vec![], closed: vec![] };
        let hours = WeeklyHours { weekday: 7, from_minute: 0, to_minute: 60 };
        assert_eq!(with(hours).check(), Err(CalendarError::Weekday { field: "hours", weekday: 7 }));
        let hours = WeeklyHours { weekday: 1, from_minute: 60, to_minute: 60 };
        assert_eq!(with(hours).check(), Err(CalendarError::Hours { field: "hours", from: 60, to: 60 }));
        let nowhere = Calendar { time_zone: "Ombersett/Summit".into(), hours: vec![], seasons: vec![], closed: vec![] };
        assert_eq!(nowhere.check(), Err(CalendarError::TimeZone("Ombersett/Summit".into())));
    }
}

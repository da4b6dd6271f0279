//! Instants in UTC milliseconds and half-open spans of them.

use jiff::{Timestamp, tz::TimeZone};
use serde::{Deserialize, Deserializer, Serialize, Serializer};
use std::fmt;

/// Milliseconds in a second.
pub const SECOND: i64 = 1_000;
/// Milliseconds in a minute.
pub const MINUTE: i64 = 60 * SECOND;
/// Milliseconds in an hour.
pub const HOUR: i64 = 60 * MINUTE;
/// Milliseconds in a day of 24 hours (not a local day, which may have 23 or 25).
pub const DAY: i64 = 24 * HOUR;

/// How far the clock of a device or a phone may be ahead, in milliseconds. Common practice, no published source.
pub const CLOCK_OFF_MS: i64 = 5 * MINUTE;

/// A point in time: milliseconds since 1970-01-01T00:00:00Z. RFC 3339 outside.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Instant(i64);

/// A text that is no RFC 3339 time with an offset.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{text:?} is no time with an offset, such as 2026-03-01T08:00:00Z")]
pub struct NotAnInstant {
    text: String,
}

impl Instant {
    /// Before every instant a database holds: the year 0001.
    pub const EARLIEST: Self = Self(-62_135_596_800_000);
    /// After every instant a database holds: the end of the year 9998.
    pub const LATEST: Self = Self(253_370_764_799_000);

    /// Before everything that a plant reports of itself: 1950. What is dated earlier is a slip of the pen.
    pub const EARLIEST_EVENT: Self = Self(-631_152_000_000);

    /// From milliseconds since the epoch, held within the years 1 to 9998.
    #[must_use]
    pub fn from_ms(ms: i64) -> Self {
        Self(ms.clamp(Self::EARLIEST.0, Self::LATEST.0))
    }

    /// The instant whose milliseconds these were; nothing is checked.
    #[must_use]
    pub(crate) fn again(ms: i64) -> Self {
        Self(ms)
    }

    /// Milliseconds since the epoch.
    #[must_use]
    pub const fn ms(self) -> i64 {
        self.0
    }

    /// This instant moved by `ms` milliseconds.
    #[must_use]
    pub fn plus(self, ms: i64) -> Self {
        Self::from_ms(self.0.saturating_add(ms))
    }

    /// Milliseconds from `earlier` to this instant; negative when it is later.
    #[must_use]
    pub fn since(self, earlier: Self) -> i64 {
        self.0 - earlier.0
    }

    /// The instant a text names.
    ///
    /// # Errors
    /// [`NotAnInstant`] when it is not RFC 3339, has no offset, or lies outside the years 1 to 9998.
    pub fn parse(text: &str) -> Result<Self, NotAnInstant> {
        let wrong = || NotAnInstant { text: text.into() };
        let at: Timestamp = text.trim().parse().map_err(|_unparsed: jiff::Error| wrong())?;
        let ms = at.as_millisecond();
        if (Self::EARLIEST.0..=Self::LATEST.0).contains(&ms) { Ok(Self(ms)) } else { Err(wrong()) }
    }

    /// As the calendar library's timestamp.
    #[must_use]
    pub fn timestamp(self) -> Timestamp {
        Timestamp::from_millisecond(self.0).expect("instants are held within the library's range")
    }

    /// This instant's local date and time.
    #[must_use]
    pub fn in_zone(self, zone: &TimeZone) -> jiff::Zoned {
        self.timestamp().to_zoned(zone.clone())
    }
}

impl From<Timestamp> for Instant {
    fn from(at: Timestamp) -> Self {
        Self::from_ms(at.as_millisecond())
    }
}

impl fmt::Display for Instant {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.timestamp().fmt(f)
    }
}

impl fmt::Debug for Instant {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        fmt::Display::fmt(self, f)
    }
}

impl Serialize for Instant {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_str(self)
    }
}

impl<'de> Deserialize<'de> for Instant {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        let text = String::deserialize(deserializer)?;
        Self::parse(&text).map_err(serde::de::Error::custom)
    }
}

#[cfg(feature = "schema")]
mod schema {
    use super::Instant;
    use utoipa::{
        PartialSchema, ToSchema,
        openapi::{ObjectBuilder, RefOr, Schema, SchemaFormat, schema::Type},
    };

    impl PartialSchema for Instant {
        fn schema() -> RefOr<Schema> {
            ObjectBuilder::new().schema_type(Type::String).format(Some(SchemaFormat::Custom("date-time".into()))).into()
        }
    }

    impl ToSchema for Instant {}
}

/// A stretch of time, `[start, end)`.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Span {
    // Invariant: start < end.
    start: Instant,
    end: Instant,
}

/// A span that would end before or when it starts.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
#[error("the end {end} is not after the start {start}")]
pub struct EndsBeforeStart {
    start: Instant,
    end: Instant,
}

impl Span {
    /// All of time.
    pub const ALWAYS: Self = Self { start: Instant::EARLIEST, end: Instant::LATEST };

    /// # Errors
    /// [`EndsBeforeStart`] unless `start < end`.
    pub fn new(start: Instant, end: Instant) -> Result<Self, EndsBeforeStart> {
        if start < end { Ok(Self { start, end }) } else { Err(EndsBeforeStart { start, end }) }
    }

    /// The first instant in the span.
    #[must_use]
    pub fn start(&self) -> Instant {
        self.start
    }

    /// The first instant after the span.
    #[must_use]
    pub fn end(&self) -> Instant {
        self.end
    }

    /// Length in milliseconds.
    #[must_use]
    pub fn ms(&self) -> i64 {
        self.end.since(self.start)
    }

    /// Whether `at` lies in the span.
    #[must_use]
    pub fn contains(&self, at: Instant) -> bool {
        self.start <= at && at < self.end
    }

    /// What both spans share, if anything.
    #[must_use]
    pub fn clip(&self, window: Self) -> Option<Self> {
        Self::new(self.start.max(window.start), self.end.min(window.end)).ok()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_instant_is_the_same_after_writing_and_reading() {
        let at = Instant::parse("2026-03-01T09:30:00.25+01:00").unwrap();
        assert_eq!(at.to_string(), "2026-03-01T08:30:00.25Z");
        assert_eq!(Instant::parse(&at.to_string()).unwrap(), at);
    }

    #[test]
    fn a_time_without_offset_is_refused_by_name() {
        let error = Instant::parse("2026-03-01 08:00").unwrap_err();
        assert_eq!(error.to_string(), "\"2026-03-01 08:00\" is no time with an offset, such as 2026-03-01T08:00:00Z");
    }

    #[test]
    fn spans_that_touch_share_nothing() {
        let span = |a, b| Span::new(Instant::from_ms(a), Instant::from_ms(b)).unwrap();
        assert_eq!(span(0, 10).clip(span(10, 20)), None);
        assert_eq!(span(0, 10).clip(span(5, 20)), Some(span(5, 10)));
        assert!(Span::new(Instant::from_ms(5), Instant::from_ms(5)).is_err());
    }
}

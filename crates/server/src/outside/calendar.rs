//! Work as a calendar program reads it (RFC 5545).

use icalendar::{Calendar, Component, Event, Property};
use jiff::{ToSpan, civil::Date, tz::TimeZone};
use tally_core::ground::time::Instant;
use tally_store::work::{feeds::FeedEvent, upkeep::CycleAhead};

/// What stands behind names that are not given twice.
const OF_HERE: &str = "fair-tally";

fn utc(at: Instant) -> String {
    at.in_zone(&TimeZone::UTC).strftime("%Y%m%dT%H%M%SZ").to_string()
}

fn day(date: Date) -> String {
    date.strftime("%Y%m%d").to_string()
}

/// A property that says a day and not an instant.
fn on_day(name: &str, date: Date) -> Property {
    let mut property = Property::new(name, day(date));
    property.add_parameter("VALUE", "DATE");
    property
}

fn event(told: &FeedEvent, now: Instant) -> Event {
    let mut event = Event::new();
    event.add_property("DTSTAMP", utc(now));
    match told {
        FeedEvent::Order { number, title, asset, state, rank, start, end } => {
            event.uid(&format!("work-{number}@{OF_HERE}"));
            event.summary(&format!("{title} – {asset}"));
            event.description(&format!("Work {number}, {}, rank {rank}", state.word().replace('_', " ")));
            event.add_property("DTSTART", utc(*start));
            event.add_property("DTEND", utc(*end));
        }
        FeedEvent::Cycle(CycleAhead { plan, number, title, asset, on }) => {
            event.uid(&format!("upkeep-{plan}-{number}@{OF_HERE}"));
            event.summary(&format!("{title} – {asset}"));
            event.description(&format!("Upkeep ahead, cycle {number}"));
            event.append_property(on_day("DTSTART", *on));
            event.append_property(on_day("DTEND", on.saturating_add(1.day())));
            // It takes nobody's day yet.
            event.add_property("TRANSP", "TRANSPARENT");
        }
    }
    event.done()
}

/// A calendar of that name, as of an instant.
#[must_use]
pub fn text(name: &str, events: &[FeedEvent], now: Instant) -> String {
    let mut calendar = Calendar::new();
    calendar.name(name);
    calendar.append_property(Property::new("REFRESH-INTERVAL", "PT1H").add_parameter("VALUE", "DURATION").done());
    for told in events {
        calendar.push(event(told, now));
    }
    calendar.done().to_string()
}

//! Month arithmetic and calendars: cases of named windows, years month by month, months added, working days and ISO weeks.

use crate::ground::{
    calendar::zone,
    period::{Period, midnight},
    time::{HOUR, Instant, Span},
};
use jiff::{ToSpan, civil::Date, tz::TimeZone};
use serde::Deserialize;
use serde_json::{Value, json};
use std::collections::{BTreeMap, BTreeSet};

/// What is asked is told by the fields that are there.
#[derive(Deserialize)]
#[serde(untagged)]
enum CalendarInput {
    Windows {
        now: Instant,
        time_zone: String,
    },
    Pivot {
        events: Vec<Instant>,
        time_zone: String,
    },
    /// With the days that are no working days.
    WorkingDays {
        holidays: BTreeSet<Date>,
        items: Vec<(Date, Date)>,
    },
    /// Each with the months to add.
    AddMonths {
        items: Vec<(Date, i32)>,
    },
    IsoWeeks {
        dates: Vec<Date>,
    },
}

/// Calendar arithmetic: `{now, time_zone}`, `{events, time_zone}`, `{holidays, items}`, `{items}` or `{dates}` in; the named windows,
/// the counts by local year and month with their change, the working days, the dates, or the ISO weeks out.
///
/// # Errors
/// What is wrong with the input, in words.
pub fn calendar(input: Value) -> Result<Value, String> {
    let input = serde_json::from_value(input).map_err(|error| error.to_string())?;
    let named = |name: &str| zone(name).map_err(|error| error.to_string());
    match input {
        CalendarInput::Windows { now, time_zone } => Ok(windows(now, &named(&time_zone)?)),
        CalendarInput::Pivot { events, time_zone } => Ok(pivot(&events, &named(&time_zone)?)),
        CalendarInput::AddMonths { items } => {
            let added = items.into_iter().map(|(date, months)| date.checked_add(months.months()));
            let dates = added.collect::<Result<Vec<Date>, _>>().map_err(|error| error.to_string())?;
            Ok(json!({ "dates": dates }))
        }
        CalendarInput::WorkingDays { holidays, items } => {
            let results: Vec<Value> = items.iter().map(|(start, end)| working_days(*start, *end, &holidays)).collect();
            Ok(json!({ "results": results }))
        }
        CalendarInput::IsoWeeks { dates } => {
            Ok(json!({ "results": dates.into_iter().map(iso_week).collect::<Vec<Value>>() }))
        }
    }
}

fn told(start: Instant, end: Instant) -> Value {
    json!({ "start": start, "end": end, "hours": end.since(start) as f64 / HOUR as f64 })
}

/// The named windows, as UTC instants of local midnights; what goes on ends now. Those that the program offers are its own.
fn windows(now: Instant, zone: &TimeZone) -> Value {
    let today = now.in_zone(zone).date();
    let (month, year) = (today.first_of_month(), today.first_of_year());
    let monday = crate::work::week::monday(today);
    let days = |from: Date, to: Date| told(midnight(from, zone), midnight(to, zone));
    let asked = |period: Period| {
        let span: Span = period.span(now, zone, 1);
        // At the first instant of a year nothing of it has passed.
        told(span.start(), span.end().min(now.max(span.start())))
    };
    let whole = |period: Period| {
        let span = period.span(now, zone, 1);
        told(span.start(), span.end())
    };
    json!({
        "current_month": whole(Period::ThisMonth),
        "previous_month": whole(Period::LastMonth),
        "same_month_last_year": days(month.saturating_sub(1.year()), month.saturating_sub(11.months())),
        "rolling_12_full_months": days(month.saturating_sub(12.months()), month),
        "rolling_12_months_back_from_now": asked(Period::Last12Months),
        "year_to_date": asked(Period::YearToDate),
        "previous_year": days(year.saturating_sub(1.year()), year),
        "iso_week": days(monday, monday.saturating_add(1.week())),
        "previous_iso_week": days(monday.saturating_sub(1.week()), monday),
        "today": days(today, today.saturating_add(1.day())),
    })
}

/// Events counted by local year and month, each year with its change from the year before; years without events are left out.
fn pivot(events: &[Instant], zone: &TimeZone) -> Value {
    let mut counts: BTreeMap<i16, [i64; 12]> = BTreeMap::new();
    for event in events {
        let date = event.in_zone(zone).date();
        counts.entry(date.year()).or_default()[usize::from(date.month().unsigned_abs()) - 1] += 1;
    }
    let changes: BTreeMap<i16, Vec<i64>> = counts
        .iter()
        .skip(1)
        .map(|(year, months)| {
            let before = counts.get(&(year - 1)).copied().unwrap_or_default();
            (*year, months.iter().zip(before).map(|(now, before)| now - before).collect())
        })
        .collect();
    let totals: BTreeMap<i16, i64> = counts.iter().map(|(year, months)| (*year, months.iter().sum())).collect();
    json!({ "counts": counts, "change_from_year_before": changes, "totals": totals })
}

/// Days from Monday to Friday in `[start, end)`, and those of them that are no holidays, also with the last day.
fn working_days(start: Date, end: Date, holidays: &BTreeSet<Date>) -> Value {
    let works = |date: &Date| date.weekday().to_monday_zero_offset() < 5;
    let all: Vec<Date> = start.series(1.day()).take_while(|date| *date <= end).filter(works).collect();
    let open = |date: &&Date| **date < end;
    let not_closed = |date: &&Date| !holidays.contains(*date);
    json!({
        "start": start,
        "end": end,
        "weekdays": all.iter().filter(open).count(),
        "working_days": all.iter().filter(open).filter(not_closed).count(),
        "working_days_including_end": all.iter().filter(not_closed).count(),
    })
}

fn iso_week(date: Date) -> Value {
    let week = date.iso_week_date();
    // 28 December always lies in the last week of its year (ISO 8601).
    let last = Date::new(week.year(), 12, 28).map_or(52, |date| date.iso_week_date().week());
    json!({
        "date": date,
        "iso_year": week.year(),
        "iso_week": week.week(),
        "iso_weekday": date.weekday().to_monday_one_offset(),
        "weeks_in_iso_year": last,
        "monday": crate::work::week::monday(date),
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    // Source: reference set 11_calendar, all kinds (zoneinfo, pandas, dateutil, numpy's business days, the Thursday rule).
    #[test]
    fn every_kind_is_as_the_reference_says() {
        let file: Value = serde_json::from_str(include_str!("../../../tests/reference/11_calendar.json")).unwrap();
        let cases = file["cases"].as_array().unwrap();
        for case in cases {
            assert_eq!(calendar(case["input"].clone()).as_ref(), Ok(&case["expected"]), "{}", case["id"]);
        }
        assert_eq!(cases.len(), 22);
    }

    #[test]
    fn what_is_no_zone_is_said() {
        let asked = json!({ "now": "2026-01-01T00:00:00Z", "time_zone": "Ombersett/Summit" });
        assert_eq!(calendar(asked), Err("\"Ombersett/Summit\" is no time zone of the IANA list".into()));
    }
}

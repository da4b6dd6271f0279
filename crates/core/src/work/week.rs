//! A week's work by crew and day: what is scheduled when, how much of it falls on a day, and how much a crew can do on it.

use super::{
    away::Away,
    parts::There,
    raising::{Clearable, WorkChange},
    states::WorkState,
};
use crate::{
    access::refusal::Refusal,
    ground::{
        period::midnight,
        time::{HOUR, Instant},
    },
};
use jiff::{ToSpan, civil::Date, tz::TimeZone};
use serde::{Deserialize, Serialize};

/// Days of a crew's week: its hours are shared out among Monday to Friday. Common practice.
const WORKING_DAYS: i64 = 5;

/// When a day's work begins where nothing else is said. Common practice.
const BEGINS_MS: i64 = 7 * HOUR;

/// Days that one order is spread over at the most.
const LONGEST_DAYS: usize = 3_660;

/// The Monday of the week a date lies in (ISO 8601).
#[must_use]
pub fn monday(date: Date) -> Date {
    date.saturating_sub(i64::from(date.weekday().to_monday_zero_offset()).days())
}

/// The seven days from a Monday on.
#[must_use]
pub fn days_of_week(monday: Date) -> [Date; 7] {
    std::array::from_fn(|day| monday.saturating_add((day as i64).days()))
}

fn is_working(date: Date) -> bool {
    i64::from(date.weekday().to_monday_zero_offset()) < WORKING_DAYS
}

/// What a crew can do on a day of the week, of what it can do in that week, in milliseconds: the days add up to it.
#[must_use]
pub fn capacity_on(date: Date, weekly_ms: i64) -> i64 {
    let day = i64::from(date.weekday().to_monday_zero_offset());
    if is_working(date) { weekly_ms * (day + 1) / WORKING_DAYS - weekly_ms * day / WORKING_DAYS } else { 0 }
}

/// The dates that scheduled work lies on, first and last. An end at midnight is of the day before.
#[must_use]
pub fn dates_of(start: Instant, end: Option<Instant>, zone: &TimeZone) -> (Date, Date) {
    let date = |at: Instant| at.in_zone(zone).date();
    let first = date(start);
    let last = end.filter(|end| *end > start).map_or(first, |end| date(end.plus(-1)));
    (first, last)
}

/// Hours shared out evenly among the working days from one date to another, among all of them where none is a working day. In
/// milliseconds; they add up to what is shared out.
#[must_use]
pub fn spread(ms: i64, first: Date, last: Date) -> Vec<(Date, i64)> {
    let all = || first.series(1.day()).take_while(|date| *date <= last.max(first)).take(LONGEST_DAYS);
    let working: Vec<Date> = all().filter(|date| is_working(*date)).collect();
    let days = if working.is_empty() { all().collect() } else { working };
    let n = days.len().max(1) as i64;
    let share = |(place, date): (i64, Date)| (date, ms * (place + 1) / n - ms * place / n);
    (0..).zip(days).map(share).collect()
}

/// What speaks against work on the day that it is scheduled on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Conflict {
    /// It still waits for something.
    Waits,
    /// It is not planned to the end yet.
    NotReady,
    /// Its window will be over.
    PastWindow,
    /// Parts of its job sheet will not be there.
    PartsMissing,
    /// Whoever it is given to is away.
    PersonAway,
    /// Its asset has to stand still for it, and is required to run.
    AssetRuns,
}

/// What is known of work and a day that it is scheduled on.
#[derive(Debug, Clone, Copy)]
pub struct OnDay<'a> {
    pub state: WorkState,
    pub window_end: Instant,
    pub date: Date,
    pub parts: &'a [There],
    /// When whoever it is given to is away.
    pub away: &'a [Away],
    /// Its asset has to stand still for it, and is required to run on that day.
    pub asset_runs: bool,
}

/// What speaks against work on a day that it is scheduled on.
#[must_use]
pub fn conflicts(work: OnDay, zone: &TimeZone) -> Vec<Conflict> {
    let mut found = Vec::new();
    match work.state {
        WorkState::Waiting => found.push(Conflict::Waits),
        WorkState::Raised | WorkState::Planning => found.push(Conflict::NotReady),
        _ => {}
    }
    if work.window_end <= midnight(work.date, zone) {
        found.push(Conflict::PastWindow);
    }
    if work.parts.iter().any(|part| part.is_missing_on(work.date)) {
        found.push(Conflict::PartsMissing);
    }
    if work.away.iter().any(|away| away.holds(work.date)) {
        found.push(Conflict::PersonAway);
    }
    if work.asset_runs {
        found.push(Conflict::AssetRuns);
    }
    found
}

/// Where on the board somebody puts an order.
#[derive(Debug, Clone, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Placing {
    /// Code of the crew; it stays with its own without it.
    pub crew: Option<String>,
    /// The day, as `2026-03-02`; without it the order goes off the board.
    pub date: Option<String>,
}

/// How an order that is put on the board is scheduled by now.
#[derive(Debug, Clone, Copy)]
pub struct Scheduled {
    pub state: WorkState,
    pub start: Option<Instant>,
    pub end: Option<Instant>,
}

impl Placing {
    /// What is to change of an order, and the state it goes to: what is ready is scheduled with its date, and ready again without
    /// one. It keeps its time of day and its length.
    ///
    /// # Errors
    /// [`Refusal::Field`] for a date that is none.
    pub fn change(&self, now: Scheduled, zone: &TimeZone) -> Result<(WorkChange, Option<WorkState>), Refusal> {
        let mut change = WorkChange { crew: self.crew.clone(), ..WorkChange::default() };
        let Some(date) = &self.date else {
            change.clear.push(Clearable::Schedule);
            return Ok((change, (now.state == WorkState::Scheduled).then_some(WorkState::Ready)));
        };
        let no_date = |error: jiff::Error| Refusal::field("date", format!("is no date such as 2026-03-02: {error}"));
        let date: Date = date.parse().map_err(no_date)?;
        let day = midnight(date, zone);
        let start = match now.start {
            Some(start) => {
                let clock = start.in_zone(zone).time();
                let ambiguous = zone.to_ambiguous_timestamp(date.to_datetime(clock));
                ambiguous.compatible().map_or(day, |at| Instant::from_ms(at.as_millisecond()))
            }
            None => day.plus(BEGINS_MS),
        };
        change.scheduled_start = Some(start);
        if let (Some(was), Some(end)) = (now.start, now.end) {
            change.scheduled_end = Some(start.plus(end.since(was)));
        }
        Ok((change, (now.state == WorkState::Ready).then_some(WorkState::Scheduled)))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::civil::date;
    use proptest::prelude::*;

    fn oslo() -> TimeZone {
        TimeZone::get("Europe/Oslo").unwrap()
    }

    fn at(text: &str) -> Instant {
        Instant::parse(text).unwrap()
    }

    /// By the calendar: 1 January 2027 is a Friday, in the week that began on 28 December 2026 (ISO 8601: week 53).
    #[test]
    fn weeks_begin_on_mondays() {
        assert_eq!(monday(date(2027, 1, 1)), date(2026, 12, 28));
        assert_eq!(date(2027, 1, 1).iso_week_date().week(), 53);
        assert_eq!(monday(date(2026, 12, 28)), date(2026, 12, 28));
        assert_eq!(days_of_week(date(2026, 12, 28))[6], date(2027, 1, 3));
    }

    /// By hand: ten hours from Friday to Tuesday are three working days, and the weekend has none.
    #[test]
    fn hours_fall_on_working_days_and_on_a_weekend_only_where_there_is_nothing_else() {
        let friday = date(2026, 2, 20);
        let hours: Vec<(Date, i64)> = spread(9 * HOUR, friday, date(2026, 2, 24));
        let expected = [(friday, 3 * HOUR), (date(2026, 2, 23), 3 * HOUR), (date(2026, 2, 24), 3 * HOUR)];
        assert_eq!(hours, expected);
        assert_eq!(spread(HOUR, date(2026, 2, 21), date(2026, 2, 21)), [(date(2026, 2, 21), HOUR)]);
        assert_eq!(capacity_on(date(2026, 2, 21), 40 * HOUR), 0);
        assert_eq!(capacity_on(friday, 40 * HOUR), 8 * HOUR);
    }

    /// In Oslo clocks go forward on 29 March 2026: the day has 23 hours, and seven o'clock stays seven o'clock.
    #[test]
    fn what_is_moved_keeps_its_time_of_day_and_its_length() {
        let now = Scheduled {
            state: WorkState::Ready,
            start: Some(at("2026-03-27T06:30:00Z")),
            end: Some(at("2026-03-27T10:30:00Z")),
        };
        let to = Placing { crew: None, date: Some("2026-03-30".into()) };
        let (change, state) = to.change(now, &oslo()).unwrap();
        assert_eq!(
            (change.scheduled_start, change.scheduled_end),
            (Some(at("2026-03-30T05:30:00Z")), Some(at("2026-03-30T09:30:00Z")))
        );
        assert_eq!(state, Some(WorkState::Scheduled));
        let new = Scheduled { start: None, end: None, ..now };
        assert_eq!(to.change(new, &oslo()).unwrap().0.scheduled_start, Some(at("2026-03-30T05:00:00Z")));
        let off = Placing::default();
        let (change, state) = off.change(Scheduled { state: WorkState::Scheduled, ..now }, &oslo()).unwrap();
        assert_eq!((change.clear, state), (vec![Clearable::Schedule], Some(WorkState::Ready)));
        let under_way = Scheduled { state: WorkState::UnderWay, ..now };
        assert_eq!(to.change(under_way, &oslo()).unwrap().1, None);
        let said = Placing { date: Some("soon".into()), crew: None }.change(now, &oslo()).unwrap_err().to_string();
        assert!(said.starts_with("date: is no date"), "{said}");
    }

    #[test]
    fn what_speaks_against_a_day_is_said() {
        let day = date(2026, 3, 30);
        let late = at("2027-01-01T00:00:00Z");
        let ready = OnDay {
            state: WorkState::Ready,
            window_end: late,
            date: day,
            parts: &[There::Now, There::NotKept],
            away: &[],
            asset_runs: false,
        };
        let conflicts = |work: OnDay| super::conflicts(work, &oslo());
        let ends = |text| conflicts(OnDay { window_end: at(text), ..ready });
        assert_eq!(ends("2026-03-29T22:00:00Z"), [Conflict::PastWindow], "midnight in Oslo");
        assert_eq!(ends("2026-03-29T22:00:01Z"), []);
        assert_eq!(conflicts(OnDay { state: WorkState::Waiting, ..ready }), [Conflict::Waits]);
        assert_eq!(conflicts(OnDay { state: WorkState::Planning, ..ready }), [Conflict::NotReady]);
        let parts = [There::On(date(2026, 3, 31))];
        assert_eq!(conflicts(OnDay { parts: &parts, ..ready }), [Conflict::PartsMissing], "a day late");
        assert_eq!(conflicts(OnDay { parts: &parts, date: date(2026, 3, 31), ..ready }), []);
        let away = ["2026-03-28..2026-03-30".parse().unwrap()];
        assert_eq!(conflicts(OnDay { away: &away, ..ready }), [Conflict::PersonAway]);
        assert_eq!(conflicts(OnDay { asset_runs: true, ..ready }), [Conflict::AssetRuns]);
        let end = dates_of(at("2026-03-27T06:30:00Z"), Some(at("2026-03-29T22:00:00Z")), &oslo());
        assert_eq!(end, (date(2026, 3, 27), date(2026, 3, 29)), "until midnight is not the next day");
    }

    proptest! {
        #[test]
        fn what_is_shared_out_adds_up(ms in 0i64..1_000_000_000, from in 0i64..3_000, days in 0i64..40, weekly in 0i64..400_000_000) {
            let first = date(2024, 1, 1).saturating_add(from.days());
            let shares = spread(ms, first, first.saturating_add(days.days()));
            prop_assert_eq!(shares.iter().map(|(_, ms)| ms).sum::<i64>(), ms);
            prop_assert!(shares.iter().all(|(date, _)| *date >= first));
            let week: i64 = days_of_week(monday(first)).iter().map(|day| capacity_on(*day, weekly)).sum();
            prop_assert_eq!(week, weekly);
        }
    }
}

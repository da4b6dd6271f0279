//! Instants that fall together: into local days, weeks, months, years.

use crate::ground::{
    period::midnight,
    time::{DAY, Instant},
};
use jiff::{ToSpan, civil::Date, tz::TimeZone};
use serde::{Deserialize, Serialize};

/// How finely instants are grouped.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Step {
    Day,
    Week,
    Month,
    Year,
}

impl Step {
    /// All there are.
    pub(super) const ALL: [Self; 4] = [Self::Day, Self::Week, Self::Month, Self::Year];
}

/// Days that are looked up at the most: a hundred years.
const MOST_DAYS: usize = 36_525;

/// Local days from one to another, each with the beginning of what it falls into.
#[derive(Debug)]
pub(super) struct Buckets {
    /// Midnights, ascending, about a day apart.
    days: Vec<i64>,
    /// By day the beginning of its week, month or year.
    begins: Vec<i64>,
    step: Step,
    zone: TimeZone,
}

impl Buckets {
    /// What lies between two instants is looked up; the rest is asked of the calendar.
    pub(super) fn new(step: Step, zone: &TimeZone, from: Instant, until: Instant) -> Self {
        let (mut days, mut begins) = (Vec::new(), Vec::new());
        let first_day = first(from.max(Instant::EARLIEST_EVENT).in_zone(zone).date(), step);
        let last_day = until.in_zone(zone).date();
        let mut date = first_day;
        let mut begin = 0;
        while date <= last_day && days.len() < MOST_DAYS {
            let at = midnight(date, zone).ms();
            if date == first(date, step) {
                begin = at;
            }
            days.push(at);
            begins.push(begin);
            date = date.saturating_add(1.day());
        }
        Self { days, begins, step, zone: zone.clone() }
    }

    /// The beginning of what an instant falls into.
    pub(super) fn of(&self, ms: i64) -> i64 {
        let first_day = match (self.days.first(), self.days.last()) {
            (Some(first_day), Some(last_day)) if *first_day <= ms && ms < *last_day => first_day,
            _ => {
                let date = first(Instant::from_ms(ms).in_zone(&self.zone).date(), self.step);
                return midnight(date, &self.zone).ms();
            }
        };
        // A local day is nearly 24 hours: the guess is off by one at most, at first and after clock changes.
        let mut place = (usize::try_from((ms - first_day) / DAY).unwrap_or(0)).min(self.days.len() - 1);
        while place > 0 && self.days[place] > ms {
            place -= 1;
        }
        while self.days.get(place + 1).is_some_and(|next| *next <= ms) {
            place += 1;
        }
        self.begins[place]
    }

    /// When what begins then is over.
    pub(super) fn next(&self, begins: i64) -> Instant {
        let date = Instant::from_ms(begins).in_zone(&self.zone).date();
        let next = match self.step {
            Step::Day => date.saturating_add(1.day()),
            Step::Week => date.saturating_add(1.week()),
            Step::Month => date.saturating_add(1.month()),
            Step::Year => date.saturating_add(1.year()),
        };
        midnight(next, &self.zone)
    }
}

/// The first day of the week (a Monday, ISO 8601), month or year of a day.
fn first(date: Date, step: Step) -> Date {
    match step {
        Step::Day => date,
        Step::Week => date.saturating_sub(i64::from(date.weekday().to_monday_zero_offset()).days()),
        Step::Month => date.first_of_month(),
        Step::Year => date.first_of_year(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(32))]

        /// In a zone with clock changes every instant falls into the day that the calendar says, looked up or not.
        #[test]
        fn an_instant_falls_into_its_local_day(ms in 1_600_000_000_000i64..1_760_000_000_000, before in 0i64..400) {
            let zone = TimeZone::get("Europe/Berlin").unwrap();
            let from = Instant::from_ms(ms - (before - 100) * DAY);
            for step in [Step::Day, Step::Week, Step::Month, Step::Year] {
                let date = first(Instant::from_ms(ms).in_zone(&zone).date(), step);
                let buckets = Buckets::new(step, &zone, from, from.plus(200 * DAY));
                prop_assert_eq!(buckets.of(ms), midnight(date, &zone).ms(), "{:?}", step);
                prop_assert!(buckets.of(ms) <= ms && buckets.next(buckets.of(ms)).ms() > ms);
            }
        }
    }
}

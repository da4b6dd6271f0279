//! A shift: where work stands on one line of time, for whoever does it.

use super::{states::WorkState, week::dates_of};
use crate::ground::{period::midnight, time::Instant};
use jiff::{ToSpan, civil::Date, tz::TimeZone};
use serde::Serialize;

/// Where work stands on the line of time, from what is late to what is finished.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum OnLine {
    /// Not begun, and it was to be done by now.
    Late,
    /// Under way.
    Now,
    /// To be done today.
    Today,
    /// To be done on a day that lies ahead.
    Ahead,
    /// It may be done, and has no day.
    NoDay,
    /// Finished today.
    Finished,
}

/// What of an order says when it is to be done.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ToDo {
    pub state: WorkState,
    pub state_since: Instant,
    pub scheduled_start: Option<Instant>,
    pub scheduled_end: Option<Instant>,
    pub target_start: Option<Instant>,
    pub target_finish: Option<Instant>,
    pub window_end: Instant,
}

impl ToDo {
    /// By when it is to be done: by the end of the last day that it is scheduled on, else by what was asked for; by the end of its
    /// window in any case.
    #[must_use]
    pub fn due(&self, zone: &TimeZone) -> Instant {
        let planned = match self.scheduled_start {
            Some(start) => {
                let (_, last) = dates_of(start, self.scheduled_end, zone);
                Some(midnight(last.saturating_add(1.day()), zone))
            }
            None => self.target_finish,
        };
        planned.map_or(self.window_end, |planned| planned.min(self.window_end))
    }

    /// The day that it is to be done on: as scheduled, else as it was asked for.
    #[must_use]
    pub fn day(&self, zone: &TimeZone) -> Option<Date> {
        self.scheduled_start.or(self.target_start).map(|at| at.in_zone(zone).date())
    }

    /// Where it stands; nowhere, where it is not to be done yet, or was finished before today.
    #[must_use]
    pub fn on_line(&self, now: Instant, zone: &TimeZone) -> Option<OnLine> {
        let today = now.in_zone(zone).date();
        match self.state {
            WorkState::UnderWay => Some(OnLine::Now),
            WorkState::Ready | WorkState::Scheduled if self.due(zone) < now => Some(OnLine::Late),
            WorkState::Ready | WorkState::Scheduled => Some(match self.day(zone) {
                None => OnLine::NoDay,
                Some(day) if day <= today => OnLine::Today,
                Some(_) => OnLine::Ahead,
            }),
            WorkState::Done | WorkState::Returned | WorkState::Closed => {
                (self.state_since.in_zone(zone).date() == today).then_some(OnLine::Finished)
            }
            _ => None,
        }
    }
}

/// Days ahead for which work is taken along to where there is no network.
const TAKEN_ALONG_DAYS: i64 = 7;

/// Whether what stands at a place of the line, on a day where it has one, is taken along.
#[must_use]
pub fn is_taken_along(at: OnLine, day: Option<Date>, today: Date) -> bool {
    match at {
        OnLine::Late | OnLine::Now | OnLine::Today | OnLine::NoDay => true,
        OnLine::Ahead => day.is_some_and(|day| day <= today.saturating_add(TAKEN_ALONG_DAYS.days())),
        OnLine::Finished => false,
    }
}

/// Whether work in that state is to be done, or is being done.
#[must_use]
pub fn is_to_do(state: WorkState) -> bool {
    matches!(state, WorkState::Ready | WorkState::Scheduled | WorkState::UnderWay)
}

/// Whether nothing is to be done any more of work in that state, as far as whoever does the work is concerned.
#[must_use]
pub fn is_finished(state: WorkState) -> bool {
    matches!(state, WorkState::Done | WorkState::Returned | WorkState::Closed)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::ground::time::{DAY, HOUR};
    use jiff::civil::date;
    use rstest::rstest;

    /// 2026-03-02 07:00 in a zone an hour east of UTC.
    fn now() -> Instant {
        Instant::parse("2026-03-02T06:00:00Z").unwrap()
    }

    fn zone() -> TimeZone {
        TimeZone::get("Europe/Berlin").unwrap()
    }

    fn ready() -> ToDo {
        ToDo {
            state: WorkState::Ready,
            state_since: now().plus(-9 * DAY),
            scheduled_start: None,
            scheduled_end: None,
            target_start: None,
            target_finish: None,
            window_end: now().plus(9 * DAY),
        }
    }

    fn scheduled(hours: i64) -> ToDo {
        ToDo { state: WorkState::Scheduled, scheduled_start: Some(now().plus(hours * HOUR)), ..ready() }
    }

    #[rstest]
    #[case::no_day(ready(), Some(OnLine::NoDay))]
    #[case::this_morning_already_begun(scheduled(-3), Some(OnLine::Today))]
    #[case::tonight(scheduled(16), Some(OnLine::Today))]
    #[case::after_midnight_here(scheduled(17), Some(OnLine::Ahead))]
    #[case::yesterday(scheduled(-8), Some(OnLine::Late))]
    #[case::from_yesterday_until_noon(ToDo { scheduled_end: Some(now().plus(5 * HOUR)), ..scheduled(-24) }, Some(OnLine::Today))]
    #[case::asked_for_today(ToDo { target_start: Some(now().plus(-DAY)), target_finish: Some(now().plus(HOUR)), ..ready() },
        Some(OnLine::Today))]
    #[case::asked_for_by_yesterday(ToDo { target_finish: Some(now().plus(-DAY)), ..ready() }, Some(OnLine::Late))]
    #[case::its_window_is_over_whatever_the_day(ToDo { window_end: now().plus(-1), ..scheduled(48) }, Some(OnLine::Late))]
    #[case::begun_however_late(ToDo { state: WorkState::UnderWay, window_end: now().plus(-DAY), ..ready() }, Some(OnLine::Now))]
    #[case::finished_after_midnight(ToDo { state: WorkState::Done, state_since: now().plus(-6 * HOUR), ..ready() },
        Some(OnLine::Finished))]
    #[case::finished_last_night(ToDo { state: WorkState::Closed, state_since: now().plus(-8 * HOUR), ..ready() }, None)]
    #[case::not_to_be_done_yet(ToDo { state: WorkState::Waiting, ..scheduled(0) }, None)]
    fn work_stands_where_it_is_to_be_done(#[case] work: ToDo, #[case] at: Option<OnLine>) {
        assert_eq!(work.on_line(now(), &zone()), at);
    }

    #[test]
    fn what_is_not_of_a_shift_stands_nowhere() {
        for state in WorkState::ALL {
            let work = ToDo { state, state_since: now(), ..ready() };
            let at = work.on_line(now(), &zone());
            assert_eq!(at.is_some(), is_to_do(state) || is_finished(state), "{state:?}");
            assert_eq!(at == Some(OnLine::Finished), is_finished(state), "{state:?}");
        }
    }

    /// Seven days, today not counted: the 9th is the last after the 2nd.
    #[rstest]
    #[case::late(OnLine::Late, None, true)]
    #[case::no_day(OnLine::NoDay, None, true)]
    #[case::within_a_week(OnLine::Ahead, Some(date(2026, 3, 9)), true)]
    #[case::beyond_it(OnLine::Ahead, Some(date(2026, 3, 10)), false)]
    #[case::finished(OnLine::Finished, None, false)]
    fn the_coming_days_are_taken_along(#[case] at: OnLine, #[case] day: Option<Date>, #[case] taken: bool) {
        assert_eq!(is_taken_along(at, day, date(2026, 3, 2)), taken);
    }
}

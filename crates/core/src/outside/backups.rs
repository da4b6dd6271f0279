//! Backups: when one is due, and which are kept.

use crate::ground::{period::midnight, time::Instant};
use jiff::{ToSpan, tz::TimeZone};

/// Hour of the night, in the installation's zone, after which a backup is due.
pub const HOUR: i32 = 2;

/// Milliseconds after which the last good backup is too old to be calm about: a night and half a day.
pub const OLD_AFTER_MS: i64 = 36 * crate::ground::time::HOUR;

/// The last instant by `now` at which a night's backup fell due.
#[must_use]
pub fn last_night(now: Instant, zone: &TimeZone) -> Instant {
    let today = now.in_zone(zone).date();
    let of = |date| midnight(date, zone).plus(i64::from(HOUR) * crate::ground::time::HOUR);
    let tonight = of(today);
    if tonight <= now { tonight } else { of(today.saturating_sub(1.day())) }
}

/// Whether a backup is due: a night has passed since the last good one; without any, since there is something to keep.
#[must_use]
pub fn is_due(last: Option<Instant>, began: Instant, now: Instant, zone: &TimeZone) -> bool {
    last.unwrap_or(began) < last_night(now, zone)
}

/// Milliseconds after one that failed before the clock tries again: on a full disk every try takes what room is left for a while.
const AGAIN_AFTER_MS: i64 = crate::ground::time::HOUR;

/// Whether the clock waits after one that failed.
#[must_use]
pub fn waits(failed: Option<Instant>, now: Instant) -> bool {
    failed.is_some_and(|failed| now.since(failed) < AGAIN_AFTER_MS)
}

/// Whether the last good backup is so old that somebody should look.
#[must_use]
pub fn is_old(last: Option<Instant>, began: Instant, now: Instant) -> bool {
    now.since(last.unwrap_or(began)) > OLD_AFTER_MS
}

/// Of backups by when they were made those that go, so that the newest `keep` stay. None goes where none shall be kept: then
/// nobody makes them either.
#[must_use]
pub fn to_let_go<T>(mut made: Vec<(Instant, T)>, keep: usize) -> Vec<T> {
    made.sort_by_key(|(at, _)| std::cmp::Reverse(*at));
    let kept = if keep == 0 { made.len() } else { keep.min(made.len()) };
    made.drain(kept..).map(|(_, one)| one).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::ground::calendar::zone;
    use rstest::rstest;

    fn at(text: &str) -> Instant {
        Instant::parse(text).unwrap()
    }

    #[rstest]
    #[case::never_and_new(None, "2026-03-05T09:00:00Z", false)]
    #[case::never_and_a_night_on(None, "2026-03-06T01:00:00Z", true)]
    #[case::not_yet_this_night(Some("2026-03-05T01:00:00Z"), "2026-03-06T00:59:00Z", false)]
    #[case::this_night(Some("2026-03-05T01:00:00Z"), "2026-03-06T01:00:00Z", true)]
    #[case::by_hand_in_the_day(Some("2026-03-05T12:00:00Z"), "2026-03-06T08:00:00Z", true)]
    #[case::off_for_a_week(Some("2026-02-26T01:00:00Z"), "2026-03-05T12:00:00Z", true)]
    fn a_night_is_that_of_the_installation(#[case] last: Option<&str>, #[case] now: &str, #[case] due: bool) {
        // Two in the morning there is one in Greenwich.
        let zone = zone("Europe/Vienna").unwrap();
        assert_eq!(is_due(last.map(at), at("2026-03-05T08:00:00Z"), at(now), &zone), due);
    }

    #[test]
    fn it_is_old_after_a_night_and_half_a_day() {
        let began = at("2026-03-05T08:00:00Z");
        assert!(!is_old(None, began, at("2026-03-06T20:00:00Z")));
        assert!(is_old(None, began, at("2026-03-06T20:00:01Z")));
        assert!(!is_old(Some(at("2026-03-06T02:00:00Z")), began, at("2026-03-07T13:00:00Z")));
    }

    #[test]
    fn after_a_failure_it_waits_an_hour() {
        let failed = at("2026-03-05T02:00:00Z");
        assert!(waits(Some(failed), at("2026-03-05T02:59:59Z")));
        assert!(!waits(Some(failed), at("2026-03-05T03:00:00Z")) && !waits(None, failed));
    }

    #[test]
    fn the_newest_stay() {
        let made = || [3, 1, 2].map(|day| (Instant::from_ms(day), day)).to_vec();
        assert_eq!(to_let_go(made(), 2), [1]);
        assert_eq!(to_let_go(made(), 9), [0i64; 0]);
        assert_eq!(to_let_go(made(), 0), [0i64; 0]);
    }
}

//! The year ahead: in which weeks the cycles of plans fall, and how that could be levelled.

use super::{
    cycles::{Cycle, Standing},
    levelling::{Movable, Place},
    recurrence::{CountsFrom, Recurrence},
};
use jiff::{ToSpan, civil::Date};

/// Weeks looked ahead.
pub const WEEKS: usize = 52;

/// The week of the year ahead that a date lies in, counted from its first Monday.
#[must_use]
pub fn week_of(date: Date, monday: Date) -> Option<usize> {
    let days = i64::from(monday.until(date).ok()?.get_days());
    usize::try_from(days.div_euclid(7)).ok().filter(|week| *week < WEEKS)
}

/// The last day of the year ahead.
#[must_use]
pub fn last_day(monday: Date) -> Date {
    monday.saturating_add((WEEKS as i64 * 7 - 1).days())
}

/// Cycles of one plan on one asset that can be done in other weeks: one, or a chain whose later ones follow the first.
#[derive(Debug, Clone, PartialEq)]
pub struct MovableCycles {
    /// The cycle that is moved.
    pub number: i64,
    pub on: Date,
    pub movable: Movable,
}

impl Recurrence {
    /// What of the cycles ahead can be moved by whole weeks, within the tolerance around the date that each is due and within its
    /// season, and not before tomorrow. Each takes `work_ms`. A chain moves with its first cycle; where that one's work is open already, nothing moves.
    #[must_use]
    pub fn movable(
        &self,
        standing: &Standing,
        ahead: &[Cycle],
        work_ms: i64,
        today: Date,
        monday: Date,
    ) -> Vec<MovableCycles> {
        let tolerance = i64::from(self.tolerance(standing.counter.map(|counter| counter.per_day)));
        let places = |first: &Cycle, chain: &[Cycle]| {
            let moved_by = i64::from(first.due.until(first.on).map_or(0, |span| span.get_days()));
            let allowed = |shift: &i64| {
                let on = first.on.saturating_add((shift * 7).days());
                let in_season = self.season.is_none_or(|season| season.contains(on));
                let near = (shift * 7 + moved_by).abs() <= tolerance && on > today && week_of(on, monday).is_some();
                // Where it stands it may stay, whether or not it is within its tolerance there.
                *shift == 0 || near && in_season
            };
            // The nearest come first: of places that are as good it goes to the nearest.
            let weeks = (tolerance + moved_by.abs()) / 7;
            let shifts = std::iter::once(0).chain((1..=weeks).flat_map(|week| [-week, week])).filter(allowed);
            let place = |shift: i64| {
                let weeks = chain.iter().filter_map(|c| week_of(c.on.saturating_add((shift * 7).days()), monday));
                Place { shift, load: weeks.map(|week| (week, work_ms)).collect() }
            };
            shifts.map(place).collect::<Vec<_>>()
        };
        let movable = |first: &Cycle, chain: &[Cycle]| MovableCycles {
            number: first.number,
            on: first.on,
            movable: Movable { stands: 0, places: places(first, chain) },
        };
        match (self.counts_from, ahead.first()) {
            (CountsFrom::Planned, _) => ahead.iter().map(|cycle| movable(cycle, std::slice::from_ref(cycle))).collect(),
            (CountsFrom::LastDone, Some(_)) if standing.open.is_some() => {
                let fixed = |cycle: &Cycle| {
                    let load = week_of(cycle.on, monday).map(|week| (week, work_ms)).into_iter().collect();
                    let movable = Movable { stands: 0, places: vec![Place { shift: 0, load }] };
                    MovableCycles { number: cycle.number, on: cycle.on, movable }
                };
                ahead.iter().map(fixed).collect()
            }
            (CountsFrom::LastDone, Some(first)) => vec![movable(first, ahead)],
            (CountsFrom::LastDone, None) => Vec::new(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::{super::season::Season, *};
    use std::collections::BTreeMap;

    fn date(text: &str) -> Date {
        text.parse().unwrap()
    }

    fn standing() -> Standing {
        Standing {
            since: date("2026-01-01"),
            settled: None,
            open: None,
            done: None,
            moved: BTreeMap::new(),
            counter: None,
        }
    }

    fn shifts(one: &MovableCycles) -> Vec<i64> {
        one.movable.places.iter().map(|place| place.shift).collect()
    }

    #[test]
    fn weeks_are_counted_from_monday() {
        let monday = date("2026-03-02");
        let at = |text| week_of(date(text), monday);
        assert_eq!((at("2026-03-02"), at("2026-03-08"), at("2026-03-09")), (Some(0), Some(0), Some(1)));
        assert_eq!((at("2026-03-01"), at("2027-02-28"), at("2027-03-01")), (None, Some(51), None));
        assert_eq!(last_day(monday), date("2027-02-28"));
    }

    #[test]
    fn a_cycle_moves_by_whole_weeks_within_a_tenth_of_its_interval() {
        let plan = Recurrence { every_days: Some(180), first_due: Some(date("2026-05-11")), ..Recurrence::default() };
        let (today, monday) = (date("2026-03-04"), date("2026-03-02"));
        let ahead = plan.ahead(&standing(), today, last_day(monday));
        let found = plan.movable(&standing(), &ahead, 100, today, monday);
        // 18 days: two weeks either way. 11 May lies in the eleventh week.
        assert_eq!(found.iter().map(shifts).collect::<Vec<_>>(), [[0, -1, 1, -2, 2], [0, -1, 1, -2, 2]]);
        assert_eq!(found[0].movable.places[3].load, [(8, 100)]);
        // Moved a week later already, it goes three weeks back at the most, and one further.
        let moved = Standing { moved: BTreeMap::from([(1, date("2026-05-18"))]), ..standing() };
        let ahead = plan.ahead(&moved, today, last_day(monday));
        assert_eq!(shifts(&plan.movable(&moved, &ahead, 100, today, monday)[0]), [0, -1, 1, -2, -3]);
        // Nor out of its season.
        let autumn = Recurrence { season: Season::parse("05-01..05-20").ok(), ..plan.clone() };
        let ahead = autumn.ahead(&standing(), today, last_day(monday));
        assert_eq!(shifts(&autumn.movable(&standing(), &ahead, 100, today, monday)[0]), [0, -1, 1]);
        // Nothing is moved into the past.
        let late = date("2026-05-05");
        let ahead = plan.ahead(&standing(), late, last_day(monday));
        assert_eq!(shifts(&plan.movable(&standing(), &ahead, 100, late, date("2026-05-04"))[0]), [0, 1, 2]);
    }

    #[test]
    fn what_counts_from_the_last_time_moves_as_a_chain() {
        let plan = Recurrence {
            every_days: Some(140),
            first_due: Some(date("2026-03-23")),
            counts_from: CountsFrom::LastDone,
            ..Recurrence::default()
        };
        let (today, monday) = (date("2026-03-04"), date("2026-03-02"));
        let ahead = plan.ahead(&standing(), today, last_day(monday));
        let chain = plan.movable(&standing(), &ahead, 7, today, monday);
        assert_eq!(chain.len(), 1);
        assert_eq!(chain[0].movable.places[0].load, [(3, 7), (23, 7), (43, 7)]);
        assert_eq!(shifts(&chain[0]), [0, -1, 1, -2, 2]);
        assert_eq!(chain[0].movable.places[2].load, [(4, 7), (24, 7), (44, 7)]);
        let open = Standing { open: Some(date("2026-03-10")), ..standing() };
        let ahead = plan.ahead(&open, today, last_day(monday));
        let fixed = plan.movable(&open, &ahead, 7, today, monday);
        assert!(!fixed.is_empty() && fixed.iter().all(|one| shifts(one) == [0]));
    }
}

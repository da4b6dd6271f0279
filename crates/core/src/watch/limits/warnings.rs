//! Spells taken together as people take them, and judged by the failures that came: what a limit warned of, and how often it
//! cried for nothing.
//!
//! People are bothered by warnings, not by spells. Spells of one side make one warning while the next begins within the
//! *calm* after the last was left, or while the work raised by it is still open; a failure ends the warning. Own rules
//! (common practice in parts), judged as it happens, so that a replay and a finder with many settings ask the same code.

use crate::ground::time::{Instant, Span};
use serde::Serialize;

/// The past that a ladder is judged by.
#[derive(Debug, Clone, Default)]
pub struct Past {
    /// When what the meter can see failed, ascending.
    pub failures: Vec<Instant>,
    /// Real alarms whose work found something: a warning that meets one of them averted a failure.
    pub found: Vec<Span>,
}

/// How warnings are made and judged.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Terms {
    /// How long before a failure a warning may come, and how long after a warning a failure may.
    pub horizon_ms: i64,
    /// A spell that begins within this after the last was left belongs to the same warning.
    pub calm_ms: i64,
    /// What it takes to act: a shorter warning is too late.
    pub lead_ms: i64,
    /// The end of history.
    pub until: Instant,
}

/// What a warning came to.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum WarningVerdict {
    /// A failure came within the horizon, in time to act.
    Caught,
    /// A failure came sooner than anybody could have acted.
    TooLate,
    /// What went on, or came back, after a failure that an earlier warning was for.
    AfterFailure,
    /// None came, because somebody found it in time.
    Averted,
    /// None came, and nothing was found; or it stood for full horizons without a failure.
    Nuisance,
    /// History ends before it could be told.
    Open,
}

/// Spells that people would take for one.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct JudgedWarning {
    pub from: Instant,
    /// None while it stands at the end of history.
    pub to: Option<Instant>,
    pub spells: usize,
    pub verdict: WarningVerdict,
    /// How often it counts as nuisance: once when it ended for nothing, once for each full horizon it stood without a
    /// failure.
    pub nuisance: usize,
}

/// What became of a failure.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum FailureVerdict {
    Caught,
    TooLate,
    Missed,
}

/// A failure, and the warning before it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct JudgedFailure {
    pub at: Instant,
    /// From the start of its warning; none where it was missed.
    pub warning_ms: Option<i64>,
    pub verdict: FailureVerdict,
}

/// Starts of the warnings that a failure had.
#[derive(Debug, Clone, Copy, Default)]
struct Warned {
    /// The earliest that began after the failure before.
    fresh: Option<Instant>,
    /// The earliest of all.
    any: Option<Instant>,
}

/// A warning that is not over yet.
#[derive(Debug, Clone, Copy)]
struct Current {
    from: Instant,
    /// When its last spell was left; none while that stands.
    left: Option<Instant>,
    spells: usize,
    /// Until when the work that it raised is open.
    open_until: Instant,
}

/// Judges the spells of one side, or of one rung, as they come.
#[derive(Debug, Clone)]
pub struct Judge<'a> {
    past: &'a Past,
    terms: Terms,
    current: Option<Current>,
    /// The first failure after the start of the current warning.
    next: usize,
    warned: Vec<Warned>,
    /// Kept where they are asked for.
    warnings: Option<Vec<JudgedWarning>>,
    count: usize,
    nuisance: usize,
    averted: usize,
}

/// How a warning ended.
#[derive(Clone, Copy, PartialEq)]
enum Ended {
    Left,
    Failed,
    /// It stands at the end of history.
    Stands,
}

impl<'a> Judge<'a> {
    /// With no spell yet. The warnings themselves are kept where `keep` says so.
    #[must_use]
    pub fn new(past: &'a Past, terms: Terms, keep: bool) -> Self {
        Self {
            past,
            terms,
            current: None,
            next: 0,
            warned: vec![Warned::default(); past.failures.len()],
            warnings: keep.then(Vec::new),
            count: 0,
            nuisance: 0,
            averted: 0,
        }
    }

    /// A spell begins.
    pub fn begin(&mut self, at: Instant) {
        if let Some(current) = &mut self.current {
            let left = current.left.unwrap_or(at);
            let is_near = at.since(left) <= self.terms.calm_ms || at < current.open_until;
            let failed = self.past.failures.get(self.next).is_some_and(|failure| *failure <= at);
            if is_near && !failed {
                (current.left, current.spells) = (None, current.spells + 1);
                return;
            }
            self.close();
        }
        self.open(at, at);
    }

    fn open(&mut self, from: Instant, open_until: Instant) {
        while self.past.failures.get(self.next).is_some_and(|failure| *failure <= from) {
            self.next += 1;
        }
        self.current = Some(Current { from, left: None, spells: 1, open_until });
    }

    /// Work was raised by the spell that stands; it is done then.
    pub fn raised(&mut self, done_at: Instant) {
        if let Some(current) = &mut self.current {
            current.open_until = current.open_until.max(done_at);
        }
    }

    /// The spell is left.
    pub fn end(&mut self, at: Instant) {
        self.through_failures(at);
        if let Some(current) = &mut self.current {
            current.left = Some(at);
        }
    }

    /// Failures while a spell stands end its warning; the spell goes on as another.
    fn through_failures(&mut self, until: Instant) {
        while let (Some(current), Some(&failure)) = (self.current, self.past.failures.get(self.next)) {
            if current.left.is_some() || failure >= until {
                return;
            }
            self.judge(current, failure, Ended::Failed);
            self.open(failure, current.open_until);
        }
    }

    fn close(&mut self) {
        if let Some((current, left)) = self.current.take().and_then(|current| Some((current, current.left?))) {
            self.judge(current, left, Ended::Left);
        }
    }

    /// What a warning from its start to `to` came to.
    fn judge(&mut self, current: Current, to: Instant, ended: Ended) {
        let Terms { horizon_ms, lead_ms, until, .. } = self.terms;
        let failures = &self.past.failures;
        let from = current.from;
        // Failures lie at its start, or at or after its end: one in between would have ended it.
        let first = failures.partition_point(|failure| *failure < from);
        let begins_in_failure = failures.get(first) == Some(&from);
        let mut warned_of = None;
        for place in first..failures.len() {
            let failure = failures[place];
            if failure.plus(-horizon_ms) >= to {
                break;
            }
            if failure > from {
                warned_of = warned_of.or(Some(failure));
                let warned = &mut self.warned[place];
                warned.any = warned.any.or(Some(from));
                let before = failures[..place].iter().rev().find(|before| **before < failure);
                if before.is_none_or(|before| *before <= from) {
                    warned.fresh = warned.fresh.or(Some(from));
                }
            }
        }
        let last = to.plus(horizon_ms);
        let failed = failures.get(first).is_some_and(|failure| *failure <= last);
        let found = self.past.found.iter().any(|found| found.start() < to && found.end() > from);
        let stood = usize::try_from(to.since(from) / horizon_ms.max(1)).unwrap_or(0);
        let stood = stood.saturating_sub(usize::from(begins_in_failure));
        let (verdict, nuisance) = match (warned_of, ended) {
            (Some(failure), _) if failure.since(from) < lead_ms => (WarningVerdict::TooLate, stood),
            (Some(_), _) => (WarningVerdict::Caught, stood),
            (None, _) if failed && stood == 0 => (WarningVerdict::AfterFailure, 0),
            (None, Ended::Left) if found => (WarningVerdict::Averted, 0),
            (None, Ended::Stands) if found => (WarningVerdict::Open, 0),
            // What may still come within the horizon can't be called nuisance yet.
            (None, Ended::Left) if last < until && !failed => (WarningVerdict::Nuisance, stood.max(1)),
            (None, _) if stood > 0 => (WarningVerdict::Nuisance, stood),
            (None, _) => (WarningVerdict::Open, 0),
        };
        self.count += 1;
        self.nuisance += nuisance;
        self.averted += usize::from(verdict == WarningVerdict::Averted);
        if let Some(warnings) = &mut self.warnings {
            let to = (ended != Ended::Stands).then_some(to);
            warnings.push(JudgedWarning { from, to, spells: current.spells, verdict, nuisance });
        }
    }

    /// History ends: what still stands is judged as far as it can be.
    #[must_use]
    pub fn finish(mut self) -> Judged {
        let until = self.terms.until;
        self.through_failures(until);
        if let Some(current) = self.current.take() {
            match current.left {
                Some(left) => self.judge(current, left, Ended::Left),
                None => self.judge(current, until, Ended::Stands),
            }
        }
        Judged {
            terms: self.terms,
            warned: self.warned,
            warnings: self.warnings.unwrap_or_default(),
            count: self.count,
            nuisance: self.nuisance,
            averted: self.averted,
        }
    }
}

/// What the spells of one side, or of several taken together, came to.
#[derive(Debug, Clone)]
pub struct Judged {
    terms: Terms,
    warned: Vec<Warned>,
    /// In order of time, where they were kept.
    pub warnings: Vec<JudgedWarning>,
    /// How many warnings there were.
    pub count: usize,
    /// How often they were nuisance.
    pub nuisance: usize,
    /// How many averted a failure.
    pub averted: usize,
}

impl Judged {
    /// Both together: a failure is warned of by either.
    #[must_use]
    pub fn and(mut self, other: Self) -> Self {
        let earliest = |a: Option<Instant>, b: Option<Instant>| a.into_iter().chain(b).min();
        for (warned, more) in self.warned.iter_mut().zip(other.warned) {
            *warned = Warned { fresh: earliest(warned.fresh, more.fresh), any: earliest(warned.any, more.any) };
        }
        self.warnings.extend(other.warnings);
        self.warnings.sort_by_key(|warning| warning.from);
        self.count += other.count;
        self.nuisance += other.nuisance;
        self.averted += other.averted;
        self
    }

    /// What became of each failure. Its warning is the earliest that overlaps the horizon before it; one that began before
    /// another failure only where there is no other.
    pub fn failures<'a>(&'a self, past: &'a Past) -> impl Iterator<Item = JudgedFailure> + 'a {
        past.failures.iter().zip(&self.warned).map(|(&at, warned)| {
            let warning_ms = warned.fresh.or(warned.any).map(|from| at.since(from));
            let verdict = match warning_ms {
                None => FailureVerdict::Missed,
                Some(ms) if ms < self.terms.lead_ms => FailureVerdict::TooLate,
                Some(_) => FailureVerdict::Caught,
            };
            JudgedFailure { at, warning_ms, verdict }
        })
    }
}

/// The middle of ascending times; the mean of the two middle ones where their number is even.
#[must_use]
pub fn middle(times: &[i64]) -> Option<i64> {
    let middle = times.len() / 2;
    match times.len() {
        0 => None,
        n if n % 2 == 1 => Some(times[middle]),
        _ => Some(i64::midpoint(times[middle - 1], times[middle])),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::ground::time::DAY;
    use WarningVerdict::{AfterFailure, Averted, Caught, Nuisance, Open, TooLate};
    use proptest::prelude::*;
    use rstest::rstest;

    fn at(day: i64) -> Instant {
        Instant::from_ms(day * DAY)
    }

    fn terms() -> Terms {
        Terms { horizon_ms: 30 * DAY, calm_ms: 7 * DAY, lead_ms: DAY, until: at(400) }
    }

    fn judged(spells: &[(i64, i64)], failures: &[i64], found: &[(i64, i64)]) -> (Judged, Past) {
        let past = Past {
            failures: failures.iter().map(|day| at(*day)).collect(),
            found: found.iter().map(|(from, to)| Span::new(at(*from), at(*to)).unwrap()).collect(),
        };
        let mut judge = Judge::new(&past, terms(), true);
        for &(from, to) in spells {
            judge.begin(at(from));
            if to < 400 {
                judge.end(at(to));
            }
        }
        let judged = judge.finish();
        (judged, past)
    }

    // Days. Horizon 30, calm 7, lead 1; history ends on day 400. By hand after rules.md §3.
    #[rstest]
    #[case::one_spell_for_nothing(&[(10, 12)], &[], &[], &[(10, Some(12), 1, Nuisance, 1)])]
    #[case::within_the_calm_it_is_one_warning(&[(10, 12), (19, 20)], &[], &[], &[(10, Some(20), 2, Nuisance, 1)])]
    #[case::beyond_the_calm_it_is_another(
        &[(10, 12), (20, 21)], &[], &[], &[(10, Some(12), 1, Nuisance, 1), (20, Some(21), 1, Nuisance, 1)])]
    #[case::a_failure_within_the_horizon_is_caught(&[(10, 12)], &[41], &[], &[(10, Some(12), 1, Caught, 0)])]
    #[case::a_failure_after_it_is_not(&[(10, 12)], &[43], &[], &[(10, Some(12), 1, Nuisance, 1)])]
    #[case::a_failure_at_its_very_start_was_not_warned_of(&[(10, 30)], &[10], &[], &[(10, Some(30), 1, AfterFailure, 0)])]
    #[case::what_was_found_averted_it(&[(10, 12)], &[], &[(11, 14)], &[(10, Some(12), 1, Averted, 0)])]
    #[case::a_failure_ends_the_warning_and_the_rest_is_no_nuisance(
        &[(10, 25)], &[20], &[], &[(10, Some(20), 1, Caught, 0), (20, Some(25), 1, AfterFailure, 0)])]
    #[case::a_spell_after_a_failure_is_another_even_within_the_calm(
        &[(10, 12), (16, 17)], &[15], &[], &[(10, Some(12), 1, Caught, 0), (16, Some(17), 1, Nuisance, 1)])]
    #[case::it_may_end_too_near_to_the_end_of_history(&[(380, 381)], &[], &[], &[(380, Some(381), 1, Open, 0)])]
    #[case::what_stands_on_counts_once_for_each_full_horizon(
        &[(100, 400)], &[], &[], &[(100, None, 1, Nuisance, 10)])]
    #[case::so_it_does_before_it_catches(
        &[(100, 400)], &[195], &[], &[(100, Some(195), 1, Caught, 3), (195, None, 1, Nuisance, 5)])]
    #[case::and_where_it_was_left(&[(100, 170)], &[], &[], &[(100, Some(170), 1, Nuisance, 2)])]
    fn warnings_of_spells(
        #[case] spells: &[(i64, i64)],
        #[case] failures: &[i64],
        #[case] found: &[(i64, i64)],
        #[case] expected: &[(i64, Option<i64>, usize, WarningVerdict, usize)],
    ) {
        let (judged, _) = judged(spells, failures, found);
        let days = |at: Instant| at.ms() / DAY;
        let told: Vec<_> =
            judged.warnings.iter().map(|w| (days(w.from), w.to.map(days), w.spells, w.verdict, w.nuisance)).collect();
        assert_eq!(told, expected);
        assert_eq!(judged.nuisance, expected.iter().map(|w| w.4).sum::<usize>());
        assert_eq!(judged.count, expected.len());
    }

    #[test]
    fn a_warning_shorter_than_the_lead_is_too_late_and_counted_apart() {
        let past = Past { failures: vec![at(10).plus(DAY / 2)], found: vec![] };
        let mut judge = Judge::new(&past, terms(), true);
        judge.begin(at(10));
        judge.end(at(12));
        let judged = judge.finish();
        assert_eq!(judged.warnings[0].verdict, TooLate);
        let failure = judged.failures(&past).next().unwrap();
        assert_eq!((failure.verdict, failure.warning_ms), (FailureVerdict::TooLate, Some(DAY / 2)));
    }

    #[test]
    fn work_that_is_open_keeps_spells_together() {
        let past = Past::default();
        let spells = |done: i64| {
            let mut judge = Judge::new(&past, terms(), true);
            judge.begin(at(10));
            judge.raised(at(done));
            judge.end(at(11));
            judge.begin(at(25));
            judge.end(at(26));
            judge.finish().warnings.iter().map(|warning| warning.spells).collect::<Vec<_>>()
        };
        assert_eq!(spells(26), [2]);
        assert_eq!(spells(25), [1, 1], "done when the second begins");
    }

    #[test]
    fn the_warning_of_a_failure_is_the_earliest_since_the_one_before() {
        let verdicts = |spells: &[(i64, i64)], failures: &[i64]| {
            let (judged, past) = judged(spells, failures, &[]);
            judged.failures(&past).map(|f| (f.verdict, f.warning_ms.map(|ms| ms / DAY))).collect::<Vec<_>>()
        };
        use FailureVerdict as F;
        assert_eq!(verdicts(&[(10, 11), (30, 31)], &[35]), [(F::Caught, Some(25))]);
        assert_eq!(verdicts(&[(10, 11), (22, 23)], &[20, 35]), [(F::Caught, Some(10)), (F::Caught, Some(13))]);
        assert_eq!(verdicts(&[(10, 11)], &[20, 35]), [(F::Caught, Some(10)), (F::Caught, Some(25))]);
        assert_eq!(verdicts(&[(10, 11)], &[5, 50]), [(F::Missed, None), (F::Missed, None)]);
    }

    #[test]
    fn the_middle_of_an_even_number_is_between_the_two_in_the_middle() {
        assert_eq!(middle(&[]), None);
        assert_eq!(middle(&[3]), Some(3));
        assert_eq!(middle(&[1, 2, 10, 20]), Some(6));
    }

    proptest! {
        /// Caught the slow way: whether on some day the failure's horizon meets a warning. And whatever the spells are,
        /// every one of them is in one warning.
        #[test]
        fn a_failure_is_caught_when_its_horizon_meets_a_warning(
            gaps in prop::collection::vec((1i64..20, 1i64..15), 0..15),
            failures in prop::collection::btree_set(0i64..390, 0..5),
        ) {
            let mut day = 0;
            let spells: Vec<(i64, i64)> = gaps
                .iter()
                .map(|(gap, lasts)| { day += gap; let from = day; day += lasts; (from, day) })
                .filter(|(_, to)| *to < 400)
                .collect();
            let failures: Vec<i64> = failures.into_iter().collect();
            let (judged, past) = judged(&spells, &failures, &[]);
            let of_failures = judged.warnings.iter().filter(|w| failures.contains(&(w.from.ms() / DAY))).count();
            let continued = spells.iter().filter(|(from, to)| failures.iter().any(|f| from < f && f < to)).count();
            let in_warnings = judged.warnings.iter().map(|w| w.spells).sum::<usize>();
            // A spell that a failure cuts stands in two warnings or more.
            prop_assert!(in_warnings >= spells.len() && in_warnings <= spells.len() + of_failures.max(continued));
            for (failure, verdict) in failures.iter().zip(judged.failures(&past)) {
                let warns = judged.warnings.iter().any(|w| {
                    let to = w.to.map_or(400, |to| to.ms() / DAY);
                    (w.from.ms() / DAY..to).any(|day| day >= failure - 30 && day < *failure)
                });
                prop_assert_eq!(verdict.verdict == FailureVerdict::Missed, !warns, "failure on day {}", failure);
            }
        }
    }
}

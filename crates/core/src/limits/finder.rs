//! One rung tried at many settings, all in one pass over the readings.
//!
//! Settings of one deadband stand in order of their setpoints, so a value is beyond the first so many of them and behind
//! the last so many. As bits of a word, where all of them stand follows from the word before in two operations; only what
//! changes is looked at. What each comes to is judged as it happens, as [`super::replay`] would judge it.

use super::{
    Ladder, ResponseKind, Rung, RungOn, RungSide,
    replay::{Assumptions, History, SpellVerdict, replay},
};
use crate::time::{HOUR, Instant, SECOND};
use serde::Serialize;

/// What one setting would have come to.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FinderPoint {
    pub setpoint: f64,
    pub deadband: Option<f64>,
    pub caught: usize,
    pub missed: usize,
    pub nuisance: usize,
    pub averted: usize,
    pub median_warning_ms: Option<i64>,
    /// Work orders raised.
    pub work: usize,
}

/// One setting of the rung that a finder moves; the rung's own deadband where none is given.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Setting {
    pub setpoint: f64,
    pub deadband: Option<f64>,
}

/// The grid that a finder sweeps: `steps` setpoints between the least and the greatest value, both ends left out.
#[must_use]
pub fn grid(values: &[f64], steps: usize) -> Vec<f64> {
    let (low, high) =
        values.iter().fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), v| (low.min(*v), high.max(*v)));
    if low >= high {
        return Vec::new();
    }
    (1..=steps).map(|step| low + (high - low) * step as f64 / (steps + 1) as f64).collect()
}

/// Replays one rung alone at each setting, its delays as they are. The other rungs are left out: what is chosen here is
/// where this one stands.
#[must_use]
pub fn find(
    ladder: &Ladder,
    rung: usize,
    tried: &[Setting],
    history: &History,
    assumptions: &Assumptions,
) -> Vec<FinderPoint> {
    let Some(chosen) = ladder.rungs.get(rung) else { return Vec::new() };
    let assumptions = Assumptions { least: chosen.severity.min(assumptions.least), ..assumptions.clone() };
    let own = chosen.setpoint.zip(chosen.clears_at()).map(|(setpoint, clears)| (setpoint - clears).abs());
    let tried: Vec<Setting> = tried.iter().map(|one| Setting { deadband: one.deadband.or(own), ..*one }).collect();
    if chosen.on == RungOn::Rate || chosen.side == RungSide::Grade {
        return tried.iter().map(|one| alone(ladder, chosen, *one, history, &assumptions)).collect();
    }
    let mut points: Vec<Option<FinderPoint>> = vec![None; tried.len()];
    let mut order: Vec<usize> = (0..tried.len()).collect();
    let mirror = if chosen.side == RungSide::Low { -1.0 } else { 1.0 };
    let key = |place: &usize| (tried[*place].deadband.unwrap_or(0.0), mirror * tried[*place].setpoint);
    order.sort_by(|a, b| key(a).0.total_cmp(&key(b).0).then(key(a).1.total_cmp(&key(b).1)));
    for group in order.chunk_by(|a, b| key(a).0 == key(b).0) {
        for places in group.chunks(u64::BITS as usize) {
            let settings: Vec<Setting> = places.iter().map(|place| tried[*place]).collect();
            let together = Together::new(ladder, chosen, &settings, &assumptions);
            for (place, point) in places.iter().zip(together.run(history)) {
                points[*place] = Some(point);
            }
        }
    }
    points.into_iter().flatten().collect()
}

/// One setting by itself, through the whole replay.
fn alone(ladder: &Ladder, chosen: &Rung, one: Setting, history: &History, assumptions: &Assumptions) -> FinderPoint {
    let mut rung = chosen.clone();
    (rung.setpoint, rung.deadband, rung.reset) = (Some(one.setpoint), one.deadband, None);
    let played = replay(&Ladder { rungs: vec![rung], ..ladder.clone() }, history, assumptions);
    FinderPoint {
        setpoint: one.setpoint,
        deadband: one.deadband,
        caught: played.caught(),
        missed: played.missed(),
        nuisance: played.spells_of(SpellVerdict::Nuisance),
        averted: played.spells_of(SpellVerdict::Averted),
        median_warning_ms: played.median_warning_ms(),
        work: played.work.len(),
    }
}

/// How many of some ascending thresholds are at or below a value.
struct Thresholds {
    ascending: Vec<f64>,
    first: f64,
    /// Thresholds in a unit of value, where they are as far apart as in a grid.
    per_unit: f64,
}

impl Thresholds {
    fn new(ascending: Vec<f64>) -> Self {
        let (first, last) = (ascending[0], ascending[ascending.len() - 1]);
        let per_unit = if last > first { (ascending.len() - 1) as f64 / (last - first) } else { 0.0 };
        Self { ascending, first, per_unit }
    }

    fn at_or_below(&self, value: f64) -> usize {
        // Where a grid would have it, then step by step to where it is: no step or one for a grid.
        let guess = ((value - self.first) * self.per_unit + 1.0).clamp(0.0, self.ascending.len() as f64);
        let mut place = guess as usize;
        while place > 0 && self.ascending[place - 1] > value {
            place -= 1;
        }
        while place < self.ascending.len() && self.ascending[place] <= value {
            place += 1;
        }
        place
    }
}

/// The lowest `count` bits.
fn lowest(count: usize) -> u64 {
    if count >= 64 { u64::MAX } else { (1 << count) - 1 }
}

/// Calls `each` with the place of every bit that is set.
fn each_bit(mut bits: u64, mut each: impl FnMut(usize)) {
    while bits != 0 {
        each(bits.trailing_zeros() as usize);
        bits &= bits - 1;
    }
}

/// Up to 64 settings of one deadband, high side up.
struct Together<'a> {
    chosen: &'a Rung,
    settings: &'a [Setting],
    rules: Rules<'a>,
    mirror: f64,
    enter: Thresholds,
    leave: Thresholds,
}

/// What holds for every setting.
struct Rules<'a> {
    raises: bool,
    separate: bool,
    interval_ms: i64,
    lasts_ms: i64,
    completions: &'a [Instant],
    horizon_ms: i64,
}

impl<'a> Together<'a> {
    fn new(ladder: &Ladder, chosen: &'a Rung, settings: &'a [Setting], assumptions: &'a Assumptions) -> Self {
        let mirror = if chosen.side == RungSide::Low { -1.0 } else { 1.0 };
        let deadband = |one: &Setting| one.deadband.unwrap_or(0.0);
        let enter = settings.iter().map(|one| mirror * one.setpoint).collect();
        // As the machine has it: setpoint − deadband above, setpoint + deadband below.
        let leave = settings.iter().map(|one| mirror * (one.setpoint - mirror * deadband(one))).collect();
        let rules = Rules {
            raises: matches!(chosen.response.kind, ResponseKind::Raise | ResponseKind::BringForward),
            separate: ladder.separate_work,
            interval_ms: i64::from(ladder.raise_interval_seconds) * SECOND,
            lasts_ms: assumptions.work_lasts_ms.max(HOUR),
            completions: &assumptions.completions,
            horizon_ms: assumptions.horizon_ms,
        };
        Self { chosen, settings, rules, mirror, enter: Thresholds::new(enter), leave: Thresholds::new(leave) }
    }

    fn run(&self, history: &History) -> Vec<FinderPoint> {
        let count = self.settings.len();
        let mut spells = Spells::new(count, &self.rules, history);
        let (on_ms, off_ms) =
            (i64::from(self.chosen.on_delay_seconds) * SECOND, i64::from(self.chosen.off_delay_seconds) * SECOND);
        let base = if self.chosen.on == RungOn::Change { self.chosen.baseline.unwrap_or_default() } else { 0.0 };
        let every = lowest(count);
        let (mut entered, mut timing) = (0_u64, 0_u64);
        let mut since = [0_i64; 64];
        // Not before this does any timer run out.
        let mut earliest = i64::MAX;
        let delayed = on_ms > 0 || off_ms > 0;
        let part = history.part.clone();
        let (ats, values) = (&history.readings.at()[part.clone()], &history.readings.values()[part]);
        for (&at, &value) in ats.iter().zip(values) {
            let value = self.mirror * (value - base);
            let beyond = lowest(self.enter.at_or_below(value));
            // Strictly behind: those whose leaving value lies above.
            let behind = every & !lowest(self.leave.at_or_below(value));
            let turned = if delayed {
                let towards = (!entered & beyond) | (entered & behind);
                let rising = towards & !timing;
                timing = towards;
                each_bit(rising, |setting| {
                    since[setting] = at;
                    let delay = if entered >> setting & 1 == 0 { on_ms } else { off_ms };
                    earliest = earliest.min(at.saturating_add(delay));
                });
                if timing == 0 {
                    earliest = i64::MAX;
                }
                if at < earliest {
                    continue;
                }
                let mut turned = 0;
                earliest = i64::MAX;
                each_bit(timing, |setting| {
                    let delay = if entered >> setting & 1 == 0 { on_ms } else { off_ms };
                    let due = since[setting].saturating_add(delay);
                    if at >= due {
                        turned |= 1 << setting;
                    } else {
                        earliest = earliest.min(due);
                    }
                });
                timing &= !turned;
                turned
            } else {
                (!entered & beyond) | (entered & behind)
            };
            if turned != 0 {
                let left = entered & turned;
                entered ^= turned;
                spells.begin(turned & !left, at);
                spells.end(left, at);
            }
        }
        spells.points(entered, self.settings)
    }
}

/// The spells of up to 64 settings. What every spell asks for stands side by side; the rest is asked for seldom.
struct Spells<'a> {
    rules: &'a Rules<'a>,
    history: &'a History<'a>,
    /// Since when each setting is entered.
    from: [i64; 64],
    /// Spells that end by then raise no work.
    idle: [i64; 64],
    nuisance: [usize; 64],
    plain: Plain,
    courses: Vec<Course>,
}

impl<'a> Spells<'a> {
    fn new(count: usize, rules: &'a Rules<'a>, history: &'a History<'a>) -> Self {
        Self {
            rules,
            history,
            from: [0; 64],
            idle: [if rules.raises { i64::MIN } else { i64::MAX }; 64],
            nuisance: [0; 64],
            plain: Plain { from: i64::MAX, until: i64::MIN },
            courses: (0..count).map(|_| Course::new(history.past.failures.len())).collect(),
        }
    }

    fn begin(&mut self, entered: u64, at: i64) {
        each_bit(entered, |setting| self.from[setting] = at);
    }

    fn end(&mut self, left: u64, at: i64) {
        if at >= self.plain.until {
            self.plain = Plain::after(at, self.history, self.rules.horizon_ms);
        }
        each_bit(left, |setting| {
            let from = self.from[setting];
            if at > self.idle[setting] {
                self.idle[setting] = self.courses[setting].answer_through(from, at, self.rules);
            }
            if from >= self.plain.from || self.courses[setting].is_nuisance(from, at, self.history, self.rules) {
                self.nuisance[setting] += 1;
            }
        });
    }

    /// What each setting came to. Those still entered when history ends are neither nuisance nor averted.
    fn points(mut self, entered: u64, settings: &[Setting]) -> Vec<FinderPoint> {
        let until = self.history.until.ms();
        each_bit(entered, |setting| {
            let (from, course) = (self.from[setting], &mut self.courses[setting]);
            if until > self.idle[setting] {
                course.answer_through(from, until, self.rules);
            }
            course.warn(from, until, self.history, self.rules);
        });
        let ends = self.courses.into_iter().zip(settings).zip(self.nuisance);
        ends.map(|((course, setting), nuisance)| course.point(*setting, nuisance)).collect()
    }
}

/// A stretch of time with neither failure nor finding in reach: a spell that begins at `from` or later and ends before
/// `until` is a nuisance and nothing else.
struct Plain {
    from: i64,
    until: i64,
}

impl Plain {
    /// The stretch that a spell ending at `at`, or the next ones, may lie in.
    fn after(at: i64, history: &History, horizon_ms: i64) -> Self {
        let last = history.until.ms() - horizon_ms;
        if at >= last {
            return Self { from: i64::MAX, until: i64::MAX };
        }
        let failures = &history.past.failures;
        let next = failures.partition_point(|failure| failure.ms() - horizon_ms <= at);
        let mut plain = Self {
            from: next.checked_sub(1).map_or(i64::MIN, |before| failures[before].ms() + 1),
            until: failures.get(next).map_or(last, |failure| last.min(failure.ms() - horizon_ms)),
        };
        for found in &history.past.found {
            if found.start().ms() < at {
                plain.from = plain.from.max(found.end().ms());
            } else {
                plain.until = plain.until.min(found.start().ms() + 1);
            }
        }
        plain
    }
}

/// What one setting has come to so far.
struct Course {
    /// The last work: raised and done.
    raised: i64,
    done: i64,
    work: usize,
    averted: usize,
    /// By failure.
    warnings: Vec<Option<i64>>,
    /// The first failure that a spell from now on could warn of, and that could follow it.
    next: usize,
}

const NEVER: i64 = i64::MAX;

impl Course {
    fn new(failures: usize) -> Self {
        Self { raised: i64::MIN, done: i64::MIN, work: 0, averted: 0, warnings: vec![None; failures], next: 0 }
    }

    /// All answers of a spell: when it begins, and whenever what an answer waited for comes before `to`. Returns until
    /// when spells raise no more work.
    fn answer_through(&mut self, from: i64, to: i64, rules: &Rules) -> i64 {
        let mut due = self.answer(from, rules);
        while due < to {
            due = self.answer(due, rules);
        }
        let joins_until = if rules.separate { i64::MIN } else { self.done };
        let held_until = if self.work > 0 { self.raised + rules.interval_ms } else { i64::MIN };
        joins_until.max(held_until)
    }

    /// What [`super::respond`] decides where there is one rung. Returns when it answers again.
    fn answer(&mut self, at: i64, rules: &Rules) -> i64 {
        if !rules.raises {
            NEVER
        } else if !rules.separate && self.done > at {
            self.done
        } else if self.work > 0 && at < self.raised + rules.interval_ms {
            self.raised + rules.interval_ms
        } else {
            let known = rules.completions.get(self.work).map(|done| done.ms());
            self.work += 1;
            (self.raised, self.done) = (at, known.unwrap_or(at + rules.lasts_ms));
            self.done.max(at)
        }
    }

    /// Judges a spell that has ended; counts what it caught and averted.
    fn is_nuisance(&mut self, from: i64, to: i64, history: &History, rules: &Rules) -> bool {
        self.warn(from, to, history, rules);
        let failures = &history.past.failures;
        let first = failures[self.next..].iter().find(|failure| failure.ms() >= from);
        let last = to + rules.horizon_ms;
        if first.is_some_and(|failure| failure.ms() <= last) {
            return false;
        }
        let met = |found: &crate::time::Span| found.start().ms() < to && found.end().ms() > from;
        let averted = history.past.found.iter().any(met);
        self.averted += usize::from(averted);
        !averted && last < history.until.ms()
    }

    /// Failures within the horizon after a spell's end, or in it, are warned of by it unless an earlier one did.
    fn warn(&mut self, from: i64, to: i64, history: &History, rules: &Rules) {
        let failures = &history.past.failures;
        // Spells ascend: what failed before this one began is settled.
        while failures.get(self.next).is_some_and(|failure| failure.ms() < from) {
            self.next += 1;
        }
        for (place, failure) in failures.iter().enumerate().skip(self.next) {
            if failure.ms() - rules.horizon_ms >= to {
                break;
            }
            if failure.ms() > from && self.warnings[place].is_none() {
                self.warnings[place] = Some(failure.ms() - from);
            }
        }
    }

    fn point(self, setting: Setting, nuisance: usize) -> FinderPoint {
        let mut times: Vec<i64> = self.warnings.iter().flatten().copied().collect();
        times.sort_unstable();
        FinderPoint {
            setpoint: setting.setpoint,
            deadband: setting.deadband,
            caught: times.len(),
            missed: self.warnings.len() - times.len(),
            nuisance,
            averted: self.averted,
            median_warning_ms: super::replay::middle(&times),
            work: self.work,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{
        limits::{Response, ladder::tests::rung, replay::Past},
        meters::Meter,
        readings::{Columns, Reading},
        severity::Severity,
        time::{DAY, Span},
    };
    use proptest::prelude::*;

    fn at(days: i64) -> Instant {
        Instant::from_ms(days * DAY)
    }

    fn tried(setpoints: &[f64]) -> Vec<Setting> {
        setpoints.iter().map(|&setpoint| Setting { setpoint, deadband: None }).collect()
    }

    #[test]
    fn the_finder_says_for_each_setpoint_what_it_would_have_come_to() {
        let past = Past { failures: vec![at(8)], found: vec![] };
        let values = [1.0, 1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 7.0, 1.0, 1.0];
        let readings: Columns = (0..).zip(values).map(|(day, value)| Reading { at: at(day), value }).collect();
        let meter = Meter::measurement("[g]");
        let history = History { meter: &meter, readings: &readings, part: 0..10, until: at(60), past: &past };
        assert_eq!(grid(readings.values(), 5), [2.0, 3.0, 4.0, 5.0, 6.0]);
        let ladder = Ladder {
            rungs: vec![rung(RungSide::High, Severity::Alert, 4.0, 1.0)],
            raise_interval_seconds: 20 * 86_400,
            ..Ladder::default()
        };
        let points = find(&ladder, 0, &tried(&[1.5, 4.0, 6.5, 8.0]), &history, &Assumptions::default());
        let warnings: Vec<Option<i64>> = points.iter().map(|p| p.median_warning_ms.map(|ms| ms / DAY)).collect();
        assert_eq!(warnings, [Some(6), Some(4), Some(1), None]);
        assert_eq!(
            points.iter().map(|p| (p.caught, p.missed, p.work)).collect::<Vec<_>>(),
            [(1, 0, 3), (1, 0, 1), (1, 0, 1), (0, 1, 0)],
            "1.5 with a deadband of 1 is never left: raised again after each interval of 20 days"
        );
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(200))]

        /// All settings together come to what each comes to by itself, through the whole replay.
        #[test]
        fn together_is_one_by_one(
            values in prop::collection::vec(0u8..30, 1..120),
            low in any::<bool>(), change in any::<bool>(), separate in any::<bool>(), records in any::<bool>(),
            (on, off) in (0u32..5, 0u32..5),
            (interval, lasts, horizon) in (0u32..20, 1i64..10, 1i64..20),
            failures in prop::collection::btree_set(0i64..500, 0..4),
            found in prop::collection::vec((0i64..400, 1i64..30), 0..3),
            completions in prop::collection::vec(1i64..40, 0..3),
            setpoints in prop::collection::vec(0u8..35, 1..90),
            deadbands in prop::collection::vec(0u8..6, 1..4),
        ) {
            let hour = |n: i64| Instant::from_ms(n * HOUR);
            let readings: Columns =
                (0..).zip(&values).map(|(n, v)| Reading { at: hour(n * 4), value: f64::from(*v) }).collect();
            let side = if low { RungSide::Low } else { RungSide::High };
            let mut chosen = rung(side, Severity::Alert, 10.0, 1.0);
            (chosen.on_delay_seconds, chosen.off_delay_seconds) = (on * 3 * 3_600, off * 3 * 3_600);
            if change {
                (chosen.on, chosen.baseline) = (RungOn::Change, Some(2.0));
            }
            if records {
                chosen.response = Response::of(ResponseKind::Record);
            }
            let ladder = Ladder {
                rungs: vec![chosen.clone()],
                raise_interval_seconds: interval * 3 * 3_600,
                separate_work: separate,
                ..Ladder::default()
            };
            let past = Past {
                failures: failures.into_iter().map(hour).collect(),
                found: found.into_iter().map(|(from, ms)| Span::new(hour(from), hour(from + ms)).unwrap()).collect(),
            };
            let assumptions = Assumptions {
                work_lasts_ms: lasts * 5 * HOUR,
                // In order, as work is raised after the one before is done.
                completions: completions.iter().scan(0, |sum, more| { *sum += more; Some(hour(*sum * 4)) }).collect(),
                least: Severity::Notice,
                horizon_ms: horizon * 4 * HOUR,
                ..Assumptions::default()
            };
            let meter = Meter::measurement("bar");
            let until = hour(values.len() as i64 * 4 + 40);
            let history = History { meter: &meter, readings: &readings, part: 0..readings.len(), until, past: &past };
            let settings: Vec<Setting> = setpoints
                .iter()
                .flat_map(|s| deadbands.iter().map(move |d| (s, d)))
                .map(|(s, d)| Setting { setpoint: f64::from(*s), deadband: Some(f64::from(*d)) })
                .collect();
            let together = find(&ladder, 0, &settings, &history, &assumptions);
            let apart: Vec<FinderPoint> =
                settings.iter().map(|one| alone(&ladder, &chosen, *one, &history, &assumptions)).collect();
            prop_assert_eq!(together, apart);
        }
    }
}

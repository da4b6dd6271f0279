//! One rung tried at many settings, all in one pass over the readings.
//!
//! Settings of one deadband stand in order of their setpoints, so a value is beyond the first so many of them and behind
//! the last so many. As bits of a word, where all of them stand follows from the word before in two operations; only what
//! changes is looked at. What each comes to is judged as it happens, as [`super::replay`] would judge it.

use super::{
    Ladder, Rung, RungOn, RungSide,
    replay::{Assumptions, Completed, History, median_warning_ms, replay},
    waits_for_a_reading,
    warnings::{FailureVerdict, Judge, JudgedFailure},
};
use crate::{
    ground::{
        time::{HOUR, Instant, SECOND},
        units::{rounded, significant},
    },
    work::Verdict,
};
use serde::Serialize;

/// What one setting would have come to.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FinderPoint {
    pub setpoint: f64,
    pub deadband: Option<f64>,
    pub caught: usize,
    pub too_late: usize,
    pub missed: usize,
    pub nuisance: usize,
    pub averted: usize,
    pub warnings: usize,
    pub median_warning_ms: Option<i64>,
    /// Work orders raised.
    pub work: usize,
}

impl FinderPoint {
    fn new(setting: Setting, failures: &[JudgedFailure], work: usize) -> Self {
        let of = |verdict| failures.iter().filter(|failure| failure.verdict == verdict).count();
        Self {
            setpoint: setting.setpoint,
            deadband: setting.deadband,
            caught: of(FailureVerdict::Caught),
            too_late: of(FailureVerdict::TooLate),
            missed: of(FailureVerdict::Missed),
            nuisance: 0,
            averted: 0,
            warnings: 0,
            median_warning_ms: median_warning_ms(failures),
            work,
        }
    }
}

/// What work and failures came to, in minor units, to weigh settings by.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Worth {
    /// Mean cost of such work.
    pub work: f64,
    /// Mean cost of such a failure, its downtime among it.
    pub failure: f64,
}

/// The setting that is worth most.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Best {
    /// Its place in the list.
    pub point: usize,
    /// Cost of the failures it caught less cost of the work it raised, in minor units; none where costs are not known.
    pub gain: Option<f64>,
}

/// The best of some settings: by money, where it is known what work and failures come to; otherwise most caught, then least
/// work, then least nuisance. The first of equals. `None` where nothing was caught. Own rule (common practice).
#[must_use]
pub fn best(points: &[FinderPoint], worth: Option<Worth>) -> Option<Best> {
    let gain =
        |point: &FinderPoint| worth.map(|worth| point.caught as f64 * worth.failure - point.work as f64 * worth.work);
    let caught = points.iter().enumerate().filter(|(_, point)| point.caught > 0);
    let better = caught.reduce(|best, other| {
        let order = match (gain(other.1), gain(best.1)) {
            (Some(other), Some(best)) => other.total_cmp(&best),
            _ => std::cmp::Ordering::Equal,
        };
        let order = order
            .then(other.1.caught.cmp(&best.1.caught))
            .then(best.1.work.cmp(&other.1.work))
            .then(best.1.nuisance.cmp(&other.1.nuisance));
        if order.is_gt() { other } else { best }
    })?;
    Some(Best { point: better.0, gain: gain(better.1) })
}

/// The best of each deadband, in the order in which they were tried first.
#[must_use]
pub fn best_of_each(points: &[FinderPoint], worth: Option<Worth>) -> Vec<Best> {
    let mut deadbands: Vec<Option<f64>> = Vec::new();
    for point in points {
        if !deadbands.contains(&point.deadband) {
            deadbands.push(point.deadband);
        }
    }
    let of = |deadband: Option<f64>| {
        let its: Vec<usize> = (0..points.len()).filter(|place| points[*place].deadband == deadband).collect();
        let alone: Vec<FinderPoint> = its.iter().map(|place| points[*place]).collect();
        best(&alone, worth).map(|best| Best { point: its[best.point], ..best })
    };
    deadbands.into_iter().filter_map(of).collect()
}

/// One setting of the rung that a finder moves; the rung's own deadband where none is given.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Setting {
    pub setpoint: f64,
    pub deadband: Option<f64>,
}

/// The grid that a finder sweeps: `steps` setpoints between the least and the greatest value, both ends left out, rounded
/// to a tenth of the power of ten of a step, as a person would set them.
#[must_use]
pub fn grid(values: &[f64], steps: usize) -> Vec<f64> {
    let (low, high) =
        values.iter().fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), v| (low.min(*v), high.max(*v)));
    if low >= high {
        return Vec::new();
    }
    let width = (high - low) / (steps + 1) as f64;
    let power = width.log10().floor() as i32 - 1;
    let mut tried: Vec<f64> = (1..=steps).map(|step| rounded(low + width * step as f64, power)).collect();
    tried.dedup();
    tried
}

/// Deadbands to compare on a grid: none, and shares of its range.
#[must_use]
pub fn deadbands(grid: &[f64]) -> Vec<f64> {
    let range = grid.last().zip(grid.first()).map_or(0.0, |(last, first)| last - first);
    [0.0, 0.02, 0.05, 0.1].iter().map(|share| significant(share * range, 3)).collect()
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
    let goes_on = chosen.on == RungOn::Change && history.through.is_some();
    if chosen.on == RungOn::Rate || chosen.side == RungSide::Grade || goes_on {
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
        nuisance: played.nuisance,
        averted: played.averted,
        warnings: played.warnings.len(),
        ..FinderPoint::new(one, &played.failures, played.work.len())
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
    assumptions: &'a Assumptions,
}

impl<'a> Together<'a> {
    fn new(ladder: &Ladder, chosen: &'a Rung, settings: &'a [Setting], assumptions: &'a Assumptions) -> Self {
        let mirror = if chosen.side == RungSide::Low { -1.0 } else { 1.0 };
        let deadband = |one: &Setting| one.deadband.unwrap_or(0.0);
        let enter = settings.iter().map(|one| mirror * one.setpoint).collect();
        // As the machine has it: setpoint − deadband above, setpoint + deadband below.
        let leave = settings.iter().map(|one| mirror * (one.setpoint - mirror * deadband(one))).collect();
        let rules = Rules {
            raises: chosen.response.kind.makes_work(),
            separate: ladder.separate_work,
            interval_ms: i64::from(ladder.raise_interval_seconds) * SECOND,
            lasts_ms: assumptions.work_lasts_ms.max(HOUR),
            assumptions,
        };
        Self { chosen, settings, rules, mirror, enter: Thresholds::new(enter), leave: Thresholds::new(leave) }
    }

    fn base(&self) -> f64 {
        if self.chosen.on == RungOn::Change { self.chosen.baseline.unwrap_or_default() } else { 0.0 }
    }

    fn run(&self, history: &History) -> Vec<FinderPoint> {
        let count = self.settings.len();
        let mut spells = Spells::new(self, history);
        let (on_ms, off_ms) =
            (i64::from(self.chosen.on_delay_seconds) * SECOND, i64::from(self.chosen.off_delay_seconds) * SECOND);
        let base = self.base();
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
    together: &'a Together<'a>,
    history: &'a History<'a>,
    /// Since when each setting is entered.
    from: [i64; 64],
    courses: Vec<Course<'a>>,
}

impl<'a> Spells<'a> {
    fn new(together: &'a Together<'a>, history: &'a History<'a>) -> Self {
        let terms = together.rules.assumptions.terms(history.until);
        let course = |_| Course {
            works: Vec::new(),
            raised: i64::MIN,
            done: i64::MIN,
            judge: Judge::new(history.past, terms, false),
        };
        Self { together, history, from: [0; 64], courses: (0..together.settings.len()).map(course).collect() }
    }

    fn begin(&mut self, entered: u64, at: i64) {
        each_bit(entered, |setting| self.from[setting] = at);
    }

    fn end(&mut self, left: u64, at: i64) {
        each_bit(left, |setting| {
            self.spell(setting, at);
            self.courses[setting].judge.end(Instant::from_ms(at));
        });
    }

    /// A spell of a setting that lasts until `to`, with the answers it gave.
    fn spell(&mut self, setting: usize, to: i64) {
        let (from, course) = (self.from[setting], &mut self.courses[setting]);
        course.judge.begin(Instant::from_ms(from));
        if !course.is_quiet(from, to, &self.together.rules) {
            let leave = self.together.leave.ascending[setting];
            course.answer_through(from, to, &Seen { together: self.together, history: self.history, leave });
        }
    }

    /// What each setting came to, those that are still entered among them.
    fn points(mut self, entered: u64, settings: &[Setting]) -> Vec<FinderPoint> {
        each_bit(entered, |setting| self.spell(setting, self.history.until.ms()));
        let past = self.history.past;
        let ends = self.courses.into_iter().zip(settings);
        ends.map(|(course, setting)| {
            let judged = course.judge.finish();
            let failures: Vec<JudgedFailure> = judged.failures(past).collect();
            FinderPoint {
                nuisance: judged.nuisance,
                averted: judged.averted,
                warnings: judged.count,
                ..FinderPoint::new(*setting, &failures, course.works.len())
            }
        })
        .collect()
    }
}

/// What the answers of one setting look at.
struct Seen<'a> {
    together: &'a Together<'a>,
    history: &'a History<'a>,
    /// Strictly behind it a value clears, high side up.
    leave: f64,
}

impl Seen<'_> {
    /// The first reading after `after` and before `before` that does not clear the rung.
    fn first_beyond(&self, after: i64, before: i64) -> Option<i64> {
        let History { readings, part, .. } = self.history;
        let (at, values) = (&readings.at()[part.clone()], &readings.values()[part.clone()]);
        let first = at.partition_point(|one| *one <= after);
        let (mirror, base) = (self.together.mirror, self.together.base());
        let later = at[first..].iter().zip(&values[first..]).take_while(|(at, _)| **at < before);
        later.into_iter().find(|(_, value)| mirror * (**value - base) >= self.leave).map(|(at, _)| *at)
    }

    fn newest_reading(&self, at: i64) -> Option<Instant> {
        let History { readings, part, .. } = self.history;
        let ats = &readings.at()[part.clone()];
        ats.partition_point(|one| *one <= at).checked_sub(1).map(|place| Instant::from_ms(ats[place]))
    }
}

/// What one setting has come to so far.
struct Course<'a> {
    /// When and how each work order ended.
    works: Vec<(i64, Completed)>,
    /// Of the last: when it was raised and done.
    raised: i64,
    done: i64,
    judge: Judge<'a>,
}

/// What an answer waits for.
#[derive(Clone, Copy)]
enum Waits {
    Never,
    Until(i64),
    /// For work, by its place, and the first reading after it.
    Work(usize),
    /// For the first reading after an instant, because that work was finished.
    Reading(i64, usize),
}

impl Course<'_> {
    /// Whether a spell raises no work, as can be told at once: it is joined to open work until it is left, or held by the
    /// raise interval.
    fn is_quiet(&self, from: i64, to: i64, rules: &Rules) -> bool {
        if !rules.raises {
            return true;
        }
        let joins_until = if rules.separate { i64::MIN } else { self.done };
        if from < joins_until {
            to <= joins_until
        } else {
            !self.works.is_empty() && to <= self.raised + rules.interval_ms
        }
    }

    /// All answers of a spell: when it begins, and whenever what an answer waited for comes before `to`.
    fn answer_through(&mut self, from: i64, to: i64, seen: &Seen) {
        let rules = &seen.together.rules;
        let mut waits = self.answer(from, None, rules);
        loop {
            waits = match waits {
                Waits::Never => return,
                Waits::Until(until) if until >= to => return,
                Waits::Until(until) => match self.finished_by(until) {
                    Some((finished, work))
                        if waits_for_a_reading(Some(Instant::from_ms(finished)), seen.newest_reading(until)) =>
                    {
                        Waits::Reading(finished, work)
                    }
                    _ => self.answer(until, None, rules),
                },
                Waits::Work(work) if self.works[work].1 == Completed::Dropped => return,
                Waits::Work(work) => Waits::Reading(self.works[work].0, work),
                Waits::Reading(after, work) => match seen.first_beyond(after, to) {
                    Some(at) => self.answer(at, Some(work), rules),
                    None => return,
                },
            };
        }
    }

    /// The last work that was finished by then.
    fn finished_by(&self, at: i64) -> Option<(i64, usize)> {
        let finished = self.works.iter().enumerate().filter(|(_, (_, how))| *how != Completed::Dropped);
        finished.map(|(place, (done, _))| (*done, place)).filter(|(done, _)| *done <= at).max()
    }

    /// What [`super::respond`] decides where there is one rung, maybe after finished work.
    fn answer(&mut self, at: i64, after: Option<usize>, rules: &Rules) -> Waits {
        let nothing_wrong = |work: usize| self.works[work].1 == Completed::Done(Some(Verdict::NothingWrong));
        let interval_holds = after.is_none_or(nothing_wrong);
        if !rules.raises {
            return Waits::Never;
        }
        if !rules.separate && self.done > at {
            return Waits::Work(self.works.len() - 1);
        }
        if interval_holds && !self.works.is_empty() && at < self.raised + rules.interval_ms {
            return Waits::Until(self.raised + rules.interval_ms);
        }
        let known = rules.assumptions.completions.get(self.works.len());
        let (done, how) =
            known.map_or((at + rules.lasts_ms, Completed::Done(None)), |known| (known.at.ms(), known.how));
        self.works.push((done, how));
        (self.raised, self.done) = (at, done);
        self.judge.raised(Instant::from_ms(done));
        Waits::Work(self.works.len() - 1)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{
        ground::{
            severity::Severity,
            time::{DAY, Span},
        },
        watch::{
            limits::{Response, ResponseKind, ladder::tests::rung, replay::Completion, warnings::Past},
            meters::Meter,
            readings::{Columns, Reading},
        },
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
        let history = History::of(&meter, &readings, at(60), &past);
        assert_eq!(grid(readings.values(), 5), [2.0, 3.0, 4.0, 5.0, 6.0]);
        assert_eq!(grid(&[0.0, 1.0], 6), [0.14, 0.29, 0.43, 0.57, 0.71, 0.86], "as a person would set them");
        assert_eq!(grid(&[1_500.0, 1_510.0], 4), [1_502.0, 1_504.0, 1_506.0, 1_508.0], "by the range, not by the size");
        assert_eq!(deadbands(&[2.0, 3.0, 6.0]), [0.0, 0.08, 0.2, 0.4]);
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
            [(1, 0, 1), (1, 0, 1), (1, 0, 1), (0, 1, 0)],
            "1.5 with a deadband of 1 is never left, but after its work was done nothing was read any more"
        );
    }

    /// By hand: a failure comes to 1,000 and an order to 100. Catching both with 12 orders gains 800, catching both with 25
    /// loses 500, catching one with 1 gains 900.
    #[test]
    fn the_best_weighs_work_against_failures_in_money_where_it_is_known() {
        let point = |caught, work, nuisance| FinderPoint {
            nuisance,
            ..FinderPoint {
                caught,
                missed: 2 - caught,
                ..FinderPoint::new(Setting { setpoint: 1.0, deadband: None }, &[], work)
            }
        };
        let points = [point(2, 25, 0), point(2, 12, 9), point(1, 1, 3), point(0, 0, 0)];
        let worth = Worth { work: 100.0, failure: 1_000.0 };
        assert_eq!(best(&points, Some(worth)), Some(Best { point: 2, gain: Some(900.0) }));
        assert_eq!(best(&points, None), Some(Best { point: 1, gain: None }), "most caught, then least work");
        assert_eq!(best(&points[3..], Some(worth)), None, "it catches nothing");
        let two: Vec<FinderPoint> = points
            .iter()
            .flat_map(|point| [0.5, 2.0].map(|deadband| FinderPoint { deadband: Some(deadband), ..*point }))
            .collect();
        let each = best_of_each(&two, Some(worth));
        assert_eq!(each.iter().map(|one| one.point).collect::<Vec<_>>(), [4, 5]);
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
            completions in prop::collection::vec((1i64..40, 0u8..4), 0..3),
            (calm, lead) in (0i64..10, 0i64..4),
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
                completions: completions.iter().scan(0, |sum, (more, how)| {
                    *sum += more;
                    let how = [Completed::Done(None), Completed::Dropped, Completed::Done(Some(Verdict::NothingWrong)),
                        Completed::Done(Some(Verdict::FoundIt))][usize::from(*how)];
                    Some(Completion { at: hour(*sum * 4), how })
                }).collect(),
                calm_ms: calm * 2 * HOUR,
                lead_ms: lead * 4 * HOUR,
                least: Severity::Notice,
                horizon_ms: horizon * 4 * HOUR,
                ..Assumptions::default()
            };
            let meter = Meter::measurement("bar");
            let until = hour(values.len() as i64 * 4 + 40);
            let history = History::of(&meter, &readings, until, &past);
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

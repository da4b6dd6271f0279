//! Up to 64 settings tried together, a bit of a word each: where all of them stand, the spells of each, and what they would
//! have answered.

use super::setting::{FinderPoint, Setting};
use crate::{
    ground::time::{HOUR, Instant, SECOND},
    watch::limits::{
        Ladder, Rung, RungSide, Watched,
        replay::{Assumptions, Completed, History},
        waits_for_a_reading,
        warnings::{Judge, JudgedFailure},
    },
    work::Verdict,
};

/// How many of some ascending thresholds are at or below a value.
pub(super) struct Thresholds {
    pub(super) ascending: Vec<f64>,
    pub(super) first: f64,
    /// Thresholds in a unit of value, where they are as far apart as in a grid.
    per_unit: f64,
}

impl Thresholds {
    pub(super) fn new(ascending: Vec<f64>) -> Self {
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
pub(super) fn each_bit(mut bits: u64, mut each: impl FnMut(usize)) {
    while bits != 0 {
        each(bits.trailing_zeros() as usize);
        bits &= bits - 1;
    }
}

/// Up to 64 settings of one deadband, high side up.
pub(super) struct Together<'a> {
    pub(super) chosen: &'a Rung,
    pub(super) settings: &'a [Setting],
    pub(super) rules: Rules<'a>,
    pub(super) mirror: f64,
    enter: Thresholds,
    pub(super) leave: Thresholds,
}

/// What holds for every setting.
pub(super) struct Rules<'a> {
    pub(super) raises: bool,
    pub(super) separate: bool,
    pub(super) interval_ms: i64,
    pub(super) lasts_ms: i64,
    pub(super) assumptions: &'a Assumptions,
}

impl<'a> Together<'a> {
    pub(super) fn new(
        ladder: &Ladder,
        chosen: &'a Rung,
        settings: &'a [Setting],
        assumptions: &'a Assumptions,
    ) -> Self {
        let mirror = if chosen.side == RungSide::Low { -1.0 } else { 1.0 };
        let deadband = |one: &Setting| one.deadband.unwrap_or(0.0);
        let enter = settings.iter().map(|one| mirror * one.setpoint).collect();
        // As the machine has it: setpoint − deadband above, setpoint + deadband below.
        let leave = settings.iter().map(|one| mirror * (one.setpoint - mirror * deadband(one))).collect();
        let rules = Rules {
            raises: chosen.response.makes_work(),
            separate: ladder.separate_work,
            interval_ms: i64::from(ladder.raise_interval_seconds) * SECOND,
            lasts_ms: assumptions.work_lasts_ms.max(HOUR),
            assumptions,
        };
        Self { chosen, settings, rules, mirror, enter: Thresholds::new(enter), leave: Thresholds::new(leave) }
    }

    pub(super) fn base(&self) -> f64 {
        if let Watched::Change { baseline } = self.chosen.watched { baseline } else { 0.0 }
    }

    pub(super) fn run(&self, history: &History) -> Vec<FinderPoint> {
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
pub(super) struct Spells<'a> {
    pub(super) together: &'a Together<'a>,
    pub(super) history: &'a History<'a>,
    /// Since when each setting is entered.
    pub(super) from: [i64; 64],
    courses: Vec<Course<'a>>,
}

impl<'a> Spells<'a> {
    pub(super) fn new(together: &'a Together<'a>, history: &'a History<'a>) -> Self {
        let terms = together.rules.assumptions.terms(history.until);
        let course = |_| Course {
            works: Vec::new(),
            raised: i64::MIN,
            done: i64::MIN,
            judge: Judge::new(history.past, terms, false),
        };
        Self { together, history, from: [0; 64], courses: (0..together.settings.len()).map(course).collect() }
    }

    pub(super) fn begin(&mut self, entered: u64, at: i64) {
        each_bit(entered, |setting| self.from[setting] = at);
    }

    pub(super) fn end(&mut self, left: u64, at: i64) {
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
    pub(super) fn points(mut self, entered: u64, settings: &[Setting]) -> Vec<FinderPoint> {
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
    pub(super) together: &'a Together<'a>,
    pub(super) history: &'a History<'a>,
    /// Strictly behind it a value clears, high side up.
    pub(super) leave: f64,
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
    pub(super) raised: i64,
    pub(super) done: i64,
    pub(super) judge: Judge<'a>,
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

    /// What [`crate::watch::limits::respond`] decides where there is one rung, maybe after finished work.
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

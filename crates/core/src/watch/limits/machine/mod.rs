//! When a rung is entered and left. The same machine for live readings, for a replay, and for outside cases.
//!
//! Each rung runs on its own, judged only at readings, at most one change a reading. Nothing happens between readings;
//! a gap counts towards a running timer. Source: alarm deadband, on-delay and off-delay of IEC 62682 (from memory).

mod course;

use super::{Ladder, Rung, RungSide, Watched};
use crate::{
    ground::{
        severity::Severity,
        time::{HOUR, Instant, SECOND},
    },
    watch::{
        meters::Meter,
        readings::{Reading, Series},
    },
};
use serde::{Deserialize, Serialize};
use std::ops::Range;

/// What one rung looks for.
#[derive(Debug, Clone, PartialEq)]
enum Zone {
    /// In at `enter` and above, out strictly below `leave`.
    High { enter: f64, leave: f64 },
    /// In at `enter` and below, out strictly above `leave`.
    Low { enter: f64, leave: f64 },
    /// In at these values, out at all others.
    Values(Vec<f64>),
}

impl Zone {
    fn in_zone(&self, value: f64) -> bool {
        match self {
            Self::High { enter, .. } => value >= *enter,
            Self::Low { enter, .. } => value <= *enter,
            Self::Values(values) => values.contains(&value),
        }
    }

    fn clears(&self, value: f64) -> bool {
        match self {
            Self::High { leave, .. } => value < *leave,
            Self::Low { leave, .. } => value > *leave,
            Self::Values(values) => !values.contains(&value),
        }
    }
}

/// Whether a rung is entered, and the timer that runs towards the other state, if any.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize)]
pub struct RungState {
    #[serde(rename = "e")]
    pub entered: bool,
    #[serde(rename = "t", default, skip_serializing_if = "Option::is_none")]
    pub timer_since: Option<Instant>,
    /// For a rate: the reading it is taken from next, as the series goes on across exchanges and rollovers.
    #[serde(rename = "a", default, skip_serializing_if = "Option::is_none")]
    pub anchor: Option<(Instant, f64)>,
}

/// Which way a rung changed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Change {
    Entered,
    Left,
}

/// A rung, by its place in the ladder, that changed at a reading.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Transition {
    pub rung: usize,
    pub change: Change,
    /// What the rung looked at: the reading's value, its rate per hour or its change from the baseline.
    pub looked_at: f64,
}

/// The series that a rule looks at.
#[derive(Debug, Clone, Copy, PartialEq)]
enum Derived {
    Value,
    Change { baseline: f64 },
    Rate { over_ms: i64 },
}

#[derive(Debug, Clone, PartialEq)]
struct Rule {
    derived: Derived,
    side: RungSide,
    /// Orders rungs of one side; the severity's strokes, or an outside case's own level.
    level: u32,
    zone: Zone,
    on_delay_ms: i64,
    off_delay_ms: i64,
}

impl Rule {
    /// The value of this rule's series at a reading; none where a rate has nothing to be taken from yet.
    fn derive(&self, state: &mut RungState, reading: Reading, through: f64) -> Option<f64> {
        match self.derived {
            Derived::Value => Some(reading.value),
            Derived::Change { baseline } => Some(through - baseline),
            Derived::Rate { over_ms } => {
                let Some((since, from)) = state.anchor else {
                    state.anchor = Some((reading.at, through));
                    return None;
                };
                let ms = reading.at.since(since);
                if ms < over_ms.max(1) {
                    return None;
                }
                state.anchor = Some((reading.at, through));
                Some((through - from) / (ms as f64 / HOUR as f64))
            }
        }
    }

    fn step(&self, state: &mut RungState, reading: Reading, through: f64) -> Option<(Change, f64)> {
        let value = self.derive(state, reading, through)?;
        let (towards, delay) = if state.entered {
            (self.zone.clears(value), self.off_delay_ms)
        } else {
            (self.zone.in_zone(value), self.on_delay_ms)
        };
        if !towards {
            state.timer_since = None;
            return None;
        }
        let since = *state.timer_since.get_or_insert(reading.at);
        if reading.at.since(since) < delay {
            return None;
        }
        *state = RungState { entered: !state.entered, timer_since: None, ..*state };
        Some((if state.entered { Change::Entered } else { Change::Left }, value))
    }
}

/// A ladder ready to run.
#[derive(Debug, Clone, PartialEq)]
pub struct Machine {
    rules: Vec<Rule>,
}

/// One plain level of an outside case: no severity, no response.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PlainLevel {
    pub side: RungSide,
    pub level: u32,
    pub setpoint: f64,
    pub deadband: f64,
    pub on_delay_ms: i64,
    pub off_delay_ms: i64,
}

impl Machine {
    /// The machine of a ladder that [`Ladder::check`] accepted for that meter.
    #[must_use]
    pub fn new(ladder: &Ladder, meter: &Meter) -> Self {
        Self { rules: ladder.rungs.iter().map(|rung| rule(rung, meter)).collect() }
    }

    /// The machine of plain levels, whether or not they make sense together.
    #[must_use]
    pub fn of_levels(levels: &[PlainLevel]) -> Self {
        let rules = levels.iter().map(|level| Rule {
            derived: Derived::Value,
            side: level.side,
            level: level.level,
            zone: match level.side {
                RungSide::Low => Zone::Low { enter: level.setpoint, leave: level.setpoint + level.deadband },
                _ => Zone::High { enter: level.setpoint, leave: level.setpoint - level.deadband },
            },
            on_delay_ms: level.on_delay_ms,
            off_delay_ms: level.off_delay_ms,
        });
        Self { rules: rules.collect() }
    }

    /// Every rung out, no timer running.
    #[must_use]
    pub fn at_rest(&self) -> Vec<RungState> {
        vec![RungState::default(); self.rules.len()]
    }

    /// Moves `states` (one a rung, in the ladder's order) by one reading and appends what changed to `changed`: high
    /// before low before grade, left before entered, left with the worst first, entered with the mildest first.
    pub fn step(&self, states: &mut [RungState], reading: Reading, changed: &mut Vec<Transition>) {
        self.step_through(states, reading, reading.value, changed);
    }

    /// As [`Self::step`], for a counter: `through` is its value as it goes on across exchanges and rollovers, of which rates
    /// and changes are taken.
    pub fn step_through(
        &self,
        states: &mut [RungState],
        reading: Reading,
        through: f64,
        changed: &mut Vec<Transition>,
    ) {
        let first = changed.len();
        for (rung, (rule, state)) in self.rules.iter().zip(states).enumerate() {
            let stepped = rule.step(state, reading, through);
            changed.extend(stepped.map(|(change, looked_at)| Transition { rung, change, looked_at }));
        }
        self.sort(&mut changed[first..]);
    }

    /// Whether some rung looks at a rate or a change.
    #[must_use]
    pub fn derives(&self) -> bool {
        self.rules.iter().any(|rule| rule.derived != Derived::Value)
    }

    /// Rungs that are entered and that the reading just stepped, at `at`, did not begin to clear: what was to be mended still
    /// stands.
    pub fn beyond_at(&self, states: &[RungState], at: Instant) -> impl Iterator<Item = usize> {
        let stand = self.rules.iter().zip(states).enumerate().filter(move |(_, (rule, state))| {
            let looked = match rule.derived {
                Derived::Rate { .. } => state.anchor.is_some_and(|(anchor, _)| anchor == at),
                Derived::Value | Derived::Change { .. } => true,
            };
            state.entered && state.timer_since.is_none() && looked
        });
        stand.map(|(rung, _)| rung)
    }

    /// The first of some readings after `after` and before `before` at which an entered rung is looked at and not cleared.
    /// For a rate all readings of the part are gone through.
    #[must_use]
    pub fn first_beyond(
        &self,
        rung: usize,
        series: Series,
        part: Range<usize>,
        after: Instant,
        before: Instant,
    ) -> Option<Instant> {
        let rule = &self.rules[rung];
        let at = series.columns.at();
        let first = part.start + at[part.clone()].partition_point(|one| *one <= after.ms());
        let mut state = RungState::default();
        // What a rate is taken from hangs on all readings before.
        let from = if matches!(rule.derived, Derived::Rate { .. }) { part.start } else { first };
        for place in from..part.end {
            let reading = series.reading(place);
            if reading.at >= before {
                return None;
            }
            let value = rule.derive(&mut state, reading, series.through(place));
            if place >= first && value.is_some_and(|value| !rule.zone.clears(value)) {
                return Some(reading.at);
            }
        }
        None
    }

    /// Whether an earlier reading that came late cannot have changed where the machine stands: at `newest`, the newest one,
    /// every rung is decided by that value alone.
    #[must_use]
    pub fn is_decided_by(&self, newest: Reading) -> bool {
        self.rules.iter().all(|rule| {
            let at_once = |delay: i64| delay == 0;
            rule.derived == Derived::Value
                && ((rule.zone.clears(newest.value) && at_once(rule.off_delay_ms))
                    || (rule.zone.in_zone(newest.value) && at_once(rule.on_delay_ms)))
        })
    }

    /// High before low before grade, left before entered, left with the worst first, entered with the mildest first.
    fn sort(&self, changed: &mut [Transition]) {
        if changed.len() > 1 {
            changed.sort_by_key(|t| {
                let rule = &self.rules[t.rung];
                let level = i64::from(rule.level);
                (rule.side, t.change == Change::Entered, if t.change == Change::Left { -level } else { level })
            });
        }
    }

    /// The worst rung whose zone a value lies in, delays aside: what a person should judge of a late reading. Rungs on a
    /// derived series are left out.
    #[must_use]
    pub fn beyond(&self, value: f64) -> Option<usize> {
        let rules = self.rules.iter().enumerate();
        let reached = rules.filter(|(_, rule)| rule.derived == Derived::Value && rule.zone.in_zone(value));
        reached.max_by_key(|(_, rule)| rule.level).map(|(rung, _)| rung)
    }

    /// The worst level among the entered rungs of one side, 0 when none is.
    #[must_use]
    pub fn worst_level(&self, states: &[RungState], side: RungSide) -> u32 {
        let entered = self.rules.iter().zip(states).filter(|(rule, state)| rule.side == side && state.entered);
        entered.map(|(rule, _)| rule.level).max().unwrap_or(0)
    }
}

fn rule(rung: &Rung, meter: &Meter) -> Rule {
    let enter = rung.setpoint.unwrap_or_default();
    let leave = rung.clears_at().unwrap_or(enter);
    let place = |grade: &String| meter.grades().iter().position(|g| g == grade).map(|place| place as f64);
    Rule {
        derived: match rung.watched {
            Watched::Value => Derived::Value,
            Watched::Change { baseline } => Derived::Change { baseline },
            Watched::Rate { over_seconds } => Derived::Rate { over_ms: i64::from(over_seconds.unwrap_or(0)) * SECOND },
        },
        side: rung.side,
        level: u32::from(rung.severity.strokes()),
        zone: match rung.side {
            RungSide::High => Zone::High { enter, leave },
            RungSide::Low => Zone::Low { enter, leave },
            RungSide::Grade => Zone::Values(rung.grades.iter().filter_map(place).collect()),
        },
        on_delay_ms: i64::from(rung.on_delay_seconds) * SECOND,
        off_delay_ms: i64::from(rung.off_delay_seconds) * SECOND,
    }
}

/// The worst severity among the entered rungs of a ladder.
#[must_use]
pub fn worst_severity(ladder: &Ladder, states: &[RungState]) -> Option<Severity> {
    ladder.rungs.iter().zip(states).filter(|(_, state)| state.entered).map(|(rung, _)| rung.severity).max()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{
        ground::time::MINUTE,
        watch::{limits::ladder::tests::rung, readings::Columns},
    };
    use proptest::prelude::*;

    /// 4 / 9 / 15 g, left below 1.5 g.
    fn bearing() -> Ladder {
        let of = |severity, setpoint| Rung {
            reset: Some(1.5),
            deadband: None,
            ..rung(RungSide::High, severity, setpoint, 0.0)
        };
        Ladder {
            rungs: vec![of(Severity::Alert, 4.0), of(Severity::Serious, 9.0), of(Severity::Danger, 15.0)],
            ..Ladder::default()
        }
    }

    fn run(ladder: &Ladder, values: &[f64]) -> Vec<(usize, Severity, Change)> {
        let machine = Machine::new(ladder, &Meter::measurement("[g]"));
        let mut states = machine.at_rest();
        let mut all = Vec::new();
        for (index, &value) in values.iter().enumerate() {
            let mut changed = Vec::new();
            let reading = Reading { at: Instant::from_ms(index as i64 * MINUTE), value };
            machine.step(&mut states, reading, &mut changed);
            all.extend(changed.iter().map(|t| (index, ladder.rungs[t.rung].severity, t.change)));
        }
        all
    }

    #[test]
    fn a_wavering_series_enters_once_and_leaves_below_the_reset() {
        let series = [3.9, 4.0, 2.0, 5.0, 2.0, 4.9, 1.5, 1.4];
        assert_eq!(
            run(&bearing(), &series),
            [(1, Severity::Alert, Change::Entered), (7, Severity::Alert, Change::Left)]
        );
    }

    #[test]
    fn a_jump_enters_all_the_rungs_below_it_mildest_first() {
        assert_eq!(
            run(&bearing(), &[1.0, 10.0]),
            [(1, Severity::Alert, Change::Entered), (1, Severity::Serious, Change::Entered)]
        );
    }

    #[test]
    fn a_rate_is_taken_between_readings_far_enough_apart() {
        // 0, 1, 2, 5 an hour apart: rates 1, 1, 3 per hour. Over two hours at least: 1 (0 to 2), then none.
        let at_rate = |over_seconds| Ladder {
            rungs: vec![Rung {
                watched: Watched::Rate { over_seconds },
                ..rung(RungSide::High, Severity::Alert, 2.0, 0.5)
            }],
            ..Ladder::default()
        };
        let entered = |ladder: &Ladder| {
            let machine = Machine::new(ladder, &Meter::measurement("mm"));
            let (mut states, mut changed) = (machine.at_rest(), Vec::new());
            for (hour, value) in [0.0, 1.0, 2.0, 5.0].into_iter().enumerate() {
                machine.step(&mut states, Reading { at: Instant::from_ms(hour as i64 * HOUR), value }, &mut changed);
            }
            changed.iter().map(|t| t.looked_at).collect::<Vec<_>>()
        };
        assert_eq!(entered(&at_rate(None)), [3.0]);
        assert_eq!(entered(&at_rate(Some(2 * 3_600))), Vec::<f64>::new());
    }

    #[test]
    fn a_change_is_counted_from_the_baseline() {
        let ladder = Ladder {
            rungs: vec![Rung {
                watched: Watched::Change { baseline: 10.0 },
                ..rung(RungSide::Low, Severity::Alert, -3.0, 1.0)
            }],
            ..Ladder::default()
        };
        assert_eq!(
            run(&ladder, &[8.0, 7.0, 8.0, 8.5]),
            [(1, Severity::Alert, Change::Entered), (3, Severity::Alert, Change::Left)]
        );
    }

    proptest! {
        /// Passing over quiet stretches finds what looking at every reading finds.
        #[test]
        fn running_over_columns_is_stepping_through_them(
            values in prop::collection::vec(0u8..14, 1..200),
            calm in prop::collection::vec(0usize..90, 200),
            on in 0i64..5, off in 0i64..5, cut in 0usize..4_000,
        ) {
            let level = |side, level, setpoint| PlainLevel {
                side, level, setpoint, deadband: 1.0, on_delay_ms: on * MINUTE, off_delay_ms: off * MINUTE,
            };
            let mut machine = Machine::of_levels(&[
                level(RungSide::High, 1, 9.0), level(RungSide::High, 2, 12.0), level(RungSide::Low, 1, 3.0),
                level(RungSide::High, 1, 4.0), level(RungSide::Low, 1, -60.0), level(RungSide::Grade, 1, 0.0),
            ]);
            machine.rules[3].derived = Derived::Change { baseline: 6.0 };
            machine.rules[4].derived = Derived::Rate { over_ms: 3 * MINUTE };
            machine.rules[5].zone = Zone::Values(vec![2.0, 7.0]);
            let mut columns = Columns::default();
            let mut at = 0;
            for (value, calm) in values.into_iter().zip(calm) {
                for value in std::iter::once(f64::from(value)).chain(std::iter::repeat_n(6.0, calm)) {
                    at += MINUTE;
                    columns.push(Reading { at: Instant::from_ms(at), value });
                }
            }
            let (mut slow, mut changed) = (Vec::new(), Vec::new());
            let mut states = machine.at_rest();
            for reading in columns.iter() {
                machine.step(&mut states, reading, &mut changed);
                slow.extend(changed.drain(..).map(|t| (reading.at, t)));
            }
            let mut fast = Vec::new();
            let mut taken_up = machine.at_rest();
            let cut = cut.min(columns.len());
            for part in [0..cut, cut..columns.len()] {
                machine.run(&mut taken_up, Series::of(&columns), part, &mut |at, changed| {
                    fast.extend(changed.iter().map(|t| (at, *t)));
                });
            }
            prop_assert_eq!(slow, fast);
            prop_assert_eq!(states, taken_up);
        }

        /// The slow way: at every reading look back over the whole run of values that pulls the other way.
        #[test]
        fn the_machine_matches_looking_back_over_runs(
            values in prop::collection::vec(0u8..12, 1..60),
            gaps in prop::collection::vec(1i64..4, 60),
            on_delay in 0u32..4,
            off_delay in 0u32..4,
        ) {
            let level = PlainLevel {
                side: RungSide::High, level: 1, setpoint: 6.0, deadband: 2.0,
                on_delay_ms: i64::from(on_delay) * MINUTE, off_delay_ms: i64::from(off_delay) * MINUTE,
            };
            let machine = Machine::of_levels(&[level]);
            let mut states = machine.at_rest();
            let mut entered = false;
            let mut run: Vec<i64> = Vec::new();
            let mut now = 0;
            for (value, gap) in values.iter().zip(gaps) {
                now += gap * MINUTE;
                let value = f64::from(*value);
                let pulls = if entered { value < 4.0 } else { value >= 6.0 };
                if pulls { run.push(now) } else { run.clear() }
                let delay = if entered { level.off_delay_ms } else { level.on_delay_ms };
                if run.first().is_some_and(|first| now - first >= delay) {
                    entered = !entered;
                    run.clear();
                }
                machine.step(&mut states, Reading { at: Instant::from_ms(now), value }, &mut Vec::new());
                prop_assert_eq!(states[0].entered, entered);
            }
        }
    }
}

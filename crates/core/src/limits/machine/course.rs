//! A machine over whole columns of readings, block by block: a rung that a block cannot touch passes it over, and one that
//! it can runs through it by itself; what all of them did is then put in order.

use super::{Change, Derived, Machine, Rule, RungState, Transition, Zone};
use crate::{
    readings::{Columns, Reading},
    time::Instant,
};
use std::ops::Range;

/// Readings looked at together. Few enough that a short excursion costs little, many enough that passing over pays.
const BLOCK: usize = 256;

/// What happened at which place of a block.
type Happened = Vec<(usize, Transition)>;

/// Where readings change nothing: values from `low` to `high`, both in, before `until`.
#[derive(Debug, Clone, Copy)]
struct Quiet {
    low: f64,
    high: f64,
    until: i64,
}

impl Quiet {
    /// Without a branch inside: which reading touches a restless rung cannot be guessed.
    fn holds(&self, at: i64, value: f64) -> bool {
        (self.low <= value) & (value <= self.high) & (at < self.until)
    }
}

/// One rung on its way through a series.
enum Course<'a> {
    /// It looks at the value itself, against bounds.
    Plain(Plain),
    /// Each reading has to be looked at.
    Careful(&'a Rule, RungState),
}

/// The phase is 0 out, 1 out with a timer, 2 entered, 3 entered with a timer.
#[derive(Debug, Clone, Copy)]
struct Plain {
    phase: usize,
    since: i64,
    /// Between which values nothing changes, by phase.
    between: [(f64, f64); 4],
    /// Before the rung turns, by phase.
    delay: [i64; 4],
}

impl<'a> Course<'a> {
    fn new(rule: &'a Rule, state: RungState) -> Self {
        let Some(between) = between(rule) else { return Self::Careful(rule, state) };
        Self::Plain(Plain {
            phase: usize::from(state.entered) << 1 | usize::from(state.timer_since.is_some()),
            since: state.timer_since.map_or(0, Instant::ms),
            between,
            delay: [rule.on_delay_ms, rule.on_delay_ms, rule.off_delay_ms, rule.off_delay_ms],
        })
    }

    /// Runs through a block whose values lie between `least` and `most`, adding what happened to `rung`.
    fn run(&mut self, rung: usize, block: &Block, happened: &mut Happened) {
        let mut happens = |place, (change, looked_at)| happened.push((place, Transition { rung, change, looked_at }));
        match self {
            Self::Plain(plain) if plain.passes(block) => {}
            Self::Plain(plain) => plain.run(block, &mut happens),
            Self::Careful(rule, state) => {
                for (place, (at, value)) in block.at.iter().zip(block.value).enumerate() {
                    if let Some(stepped) = rule.step(state, Reading { at: Instant::from_ms(*at), value: *value }) {
                        happens(place, stepped);
                    }
                }
            }
        }
    }

    fn leave_in(self, state: &mut RungState) {
        *state = match self {
            Self::Careful(_, state) => state,
            Self::Plain(plain) => RungState {
                entered: plain.phase & 2 == 2,
                timer_since: (plain.phase & 1 == 1).then(|| Instant::from_ms(plain.since)),
                ..*state
            },
        };
    }
}

impl Plain {
    fn quiet(&self) -> Quiet {
        let (low, high) = self.between[self.phase];
        let due = self.since.saturating_add(self.delay[self.phase]);
        Quiet { low, high, until: if self.phase & 1 == 1 { due } else { i64::MAX } }
    }

    /// No reading of the block changes anything.
    fn passes(&self, block: &Block) -> bool {
        let quiet = self.quiet();
        quiet.low <= block.least && block.most <= quiet.high && block.at.last().is_none_or(|last| *last < quiet.until)
    }

    /// As [`Rule::step`] at each reading.
    fn run(&mut self, block: &Block, happens: &mut impl FnMut(usize, (Change, f64))) {
        // Its own copy, which the compiler can keep at hand.
        let mut plain = *self;
        let mut quiet = plain.quiet();
        for (place, (&at, &value)) in block.at.iter().zip(block.value).enumerate() {
            if quiet.holds(at, value) {
                continue;
            }
            let timed = plain.phase & 1 == 1;
            // Within its bounds and yet not quiet: the time is up. Else the value has turned back.
            let within = (quiet.low <= value) & (value <= quiet.high);
            let turns = (timed & within) | (!timed & (plain.delay[plain.phase] == 0));
            plain.phase = if turns { (plain.phase & 2) ^ 2 } else { plain.phase ^ 1 };
            plain.since = at;
            quiet = plain.quiet();
            if turns {
                happens(place, (if plain.phase == 2 { Change::Entered } else { Change::Left }, value));
            }
        }
        *self = plain;
    }
}

fn between(rule: &Rule) -> Option<[(f64, f64); 4]> {
    if rule.derived != Derived::Value {
        return None;
    }
    let (below, above) = (f64::NEG_INFINITY, f64::INFINITY);
    match &rule.zone {
        Zone::High { enter, leave } => {
            Some([(below, enter.next_down()), (*enter, above), (*leave, above), (below, leave.next_down())])
        }
        Zone::Low { enter, leave } => {
            Some([(enter.next_up(), above), (below, *enter), (below, *leave), (leave.next_up(), above)])
        }
        Zone::Values(_) => None,
    }
}

/// Some readings in a row.
struct Block<'a> {
    at: &'a [i64],
    value: &'a [f64],
    least: f64,
    most: f64,
}

impl<'a> Block<'a> {
    fn new(at: &'a [i64], value: &'a [f64]) -> Self {
        // In lanes, so that the processor compares several at once.
        const LANES: usize = 8;
        let (mut least, mut most) = ([f64::INFINITY; LANES], [f64::NEG_INFINITY; LANES]);
        let (lanes, rest) = value.as_chunks::<LANES>();
        let rest = rest.iter().map(|value| [*value; LANES]);
        for values in lanes.iter().copied().chain(rest) {
            for (lane, value) in values.into_iter().enumerate() {
                least[lane] = if value < least[lane] { value } else { least[lane] };
                most[lane] = if value > most[lane] { value } else { most[lane] };
            }
        }
        Self {
            at,
            value,
            least: least.into_iter().fold(f64::INFINITY, f64::min),
            most: most.into_iter().fold(f64::NEG_INFINITY, f64::max),
        }
    }
}

impl Machine {
    /// As [`Self::step`] for each reading of a part of `columns`, handing what changed to `each` with its instant.
    pub fn run(
        &self,
        states: &mut [RungState],
        columns: &Columns,
        part: Range<usize>,
        each: &mut impl FnMut(Instant, &[Transition]),
    ) {
        let mut courses: Vec<Course> =
            self.rules.iter().zip(&*states).map(|(rule, state)| Course::new(rule, *state)).collect();
        let (mut happened, mut changed): (Happened, _) = (Vec::new(), Vec::new());
        let blocks = columns.at()[part.clone()].chunks(BLOCK).zip(columns.values()[part].chunks(BLOCK));
        for (at, value) in blocks {
            let block = Block::new(at, value);
            for (rung, course) in courses.iter_mut().enumerate() {
                course.run(rung, &block, &mut happened);
            }
            // One an instant: what happened at one place happened together.
            happened.sort_by_key(|(place, _)| *place);
            for together in happened.chunk_by(|a, b| a.0 == b.0) {
                changed.extend(together.iter().map(|(_, transition)| *transition));
                self.sort(&mut changed);
                each(Instant::from_ms(at[together[0].0]), &changed);
                changed.clear();
            }
            happened.clear();
        }
        for (state, course) in states.iter_mut().zip(courses) {
            course.leave_in(state);
        }
    }
}

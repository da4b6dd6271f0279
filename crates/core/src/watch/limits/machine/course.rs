//! A machine over whole columns of readings, block by block: a rung that a block cannot touch passes it over, and one that
//! it can goes through it by itself, from run to run; what all of them did is then put in order.

use super::{Change, Derived, Machine, Rule, RungState, Transition, Zone};
use crate::{
    ground::time::Instant,
    watch::readings::{Reading, Series},
};
use std::ops::Range;

/// Readings looked at together. Few enough that a short excursion costs little, many enough that passing over pays.
const BLOCK: usize = 256;

/// Readings to a word: a bit says of each whether it pulls at a rung.
const WORD: usize = u64::BITS as usize;

/// What happened at which place of a block.
type Happened = Vec<(usize, Transition)>;

/// Some readings in a row.
struct Block<'a> {
    at: &'a [i64],
    value: &'a [f64],
    /// The same values as they go on across exchanges and rollovers, where those are others.
    through: Option<&'a [f64]>,
    least: f64,
    most: f64,
}

impl<'a> Block<'a> {
    fn new(at: &'a [i64], value: &'a [f64], through: Option<&'a [f64]>) -> Self {
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
            through,
            least: least.into_iter().fold(f64::INFINITY, f64::min),
            most: most.into_iter().fold(f64::NEG_INFINITY, f64::max),
        }
    }
}

/// A bit for each of up to 64 values.
fn bits(values: &[f64], is: impl Fn(f64) -> bool) -> u64 {
    values.iter().enumerate().fold(0, |bits, (place, value)| bits | u64::from(is(*value)) << place)
}

/// The first place from `from` on whose bit is set; 64 where none is.
fn next_bit(bits: u64, from: usize) -> usize {
    let ahead = if from < WORD { bits & (u64::MAX << from) } else { 0 };
    ahead.trailing_zeros() as usize
}

impl Rule {
    /// As [`Rule::step`] at each reading of a block, handing on the place and what happened there.
    fn go(&self, state: &mut RungState, block: &Block, mut happens: impl FnMut(usize, (Change, f64))) {
        let base = match self.derived {
            Derived::Value => 0.0,
            Derived::Change { baseline } if block.through.is_none() => baseline,
            Derived::Change { .. } | Derived::Rate { .. } => {
                let through = block.through.unwrap_or(block.value);
                for (place, (at, value)) in block.at.iter().zip(block.value).enumerate() {
                    let reading = Reading { at: Instant::from_ms(*at), value: *value };
                    self.step(state, reading, through[place]).into_iter().for_each(|stepped| happens(place, stepped));
                }
                return;
            }
        };
        if state.timer_since.is_none() && self.is_out_of_reach(state.entered, block.least - base, block.most - base) {
            return;
        }
        for (word, values) in block.value.chunks(WORD).enumerate() {
            let first = word * WORD;
            let (beyond, behind) = match &self.zone {
                Zone::High { enter, leave } => {
                    (bits(values, |value| value - base >= *enter), bits(values, |value| value - base < *leave))
                }
                Zone::Low { enter, leave } => {
                    (bits(values, |value| value - base <= *enter), bits(values, |value| value - base > *leave))
                }
                zone @ Zone::Values(_) => {
                    (bits(values, |value| zone.in_zone(value - base)), bits(values, |value| zone.clears(value - base)))
                }
            };
            let at = &block.at[first..first + values.len()];
            self.through(state, at, beyond, behind, |place, change| {
                happens(first + place, (change, values[place] - base));
            });
        }
    }

    /// No value between the two, both in, pulls a rung without a timer to its other state.
    fn is_out_of_reach(&self, entered: bool, least: f64, most: f64) -> bool {
        match &self.zone {
            Zone::Values(_) => false,
            zone if entered => !zone.clears(least) && !zone.clears(most),
            zone => !zone.in_zone(least) && !zone.in_zone(most),
        }
    }

    /// From run to run through up to 64 readings, of which the bits tell which are in the zone and which clear it.
    fn through(
        &self,
        state: &mut RungState,
        at: &[i64],
        beyond: u64,
        behind: u64,
        mut happens: impl FnMut(usize, Change),
    ) {
        let mut place = 0;
        while place < at.len() {
            let (towards, delay) = if state.entered { (behind, self.off_delay_ms) } else { (beyond, self.on_delay_ms) };
            let since = if let Some(since) = state.timer_since {
                since
            } else {
                place = next_bit(towards, place);
                let Some(first) = at.get(place) else { return };
                Instant::from_ms(*first)
            };
            let end = next_bit(!towards, place).min(at.len());
            let due = since.ms().saturating_add(delay);
            if end > place && at[end - 1] >= due {
                place += at[place..end].partition_point(|at| *at < due);
                *state = RungState { entered: !state.entered, timer_since: None, ..*state };
                happens(place, if state.entered { Change::Entered } else { Change::Left });
                place += 1;
            } else {
                state.timer_since = (end == at.len()).then_some(since);
                place = end;
            }
        }
    }
}

impl Machine {
    /// As [`Self::step_through`] for each reading of a part of a series, handing what changed to `each` with its instant.
    pub fn run(
        &self,
        states: &mut [RungState],
        series: Series,
        part: Range<usize>,
        each: &mut impl FnMut(Instant, &[Transition]),
    ) {
        let (mut happened, mut changed): (Happened, _) = (Vec::new(), Vec::new());
        let columns = series.columns;
        let blocks = columns.at()[part.clone()].chunks(BLOCK).zip(columns.values()[part.clone()].chunks(BLOCK));
        for (n, (at, value)) in blocks.enumerate() {
            let first = part.start + n * BLOCK;
            let through = series.through.map(|through| &through[first..first + at.len()]);
            let block = Block::new(at, value, through);
            for (rung, (rule, state)) in self.rules.iter().zip(&mut *states).enumerate() {
                rule.go(state, &block, |place, (change, looked_at)| {
                    happened.push((place, Transition { rung, change, looked_at }));
                });
            }
            // One reading an instant: what happened at one place happened together.
            happened.sort_by_key(|(place, _)| *place);
            for together in happened.chunk_by(|a, b| a.0 == b.0) {
                changed.extend(together.iter().map(|(_, transition)| *transition));
                self.sort(&mut changed);
                each(Instant::from_ms(at[together[0].0]), &changed);
                changed.clear();
            }
            happened.clear();
        }
    }
}

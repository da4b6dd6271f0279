//! Whole numbers of the rows of a part. Mostly they lie close together: instants of a few weeks, or sums of money. Then each takes
//! four bytes, counted from one of the least, and the few that lie elsewhere are kept beside.

use super::column::{Column, NONE, ROWS};
use crate::ground::time::Instant;
use serde::{Deserialize, Serialize};
use std::ops::Range;

/// Numbers of the rows of a part, by place: all in `above`; or, where too many lie too far from each other and until all are
/// there, all in `wide`; or `same` of them that are all `base`.
#[derive(Debug, Clone, Default, Serialize, Deserialize)]
pub struct Numbers {
    base: i64,
    /// How far above `base`, or from [`FAR`] on the place in `far`.
    above: Vec<u32>,
    /// Those that lie elsewhere, and maybe some that did; first [those](MARKS) that mostly do.
    far: Vec<i64>,
    wide: Vec<i64>,
    same: usize,
}

/// From here on it stands beside.
const FAR: u32 = u32::MAX - 0xffff;

/// What is none, and what is never over.
const MARKS: [i64; 2] = [NONE, Instant::LATEST.ms()];

/// One number in so many may lie elsewhere.
const FAR_OF: usize = 16;

/// What most of some numbers are counted from.
fn base(values: &[i64]) -> i64 {
    let plain = || values.iter().copied().filter(|value| !MARKS.contains(value));
    let (least, most) = (plain().min().unwrap_or(0), plain().max().unwrap_or(0));
    if most.checked_sub(least).is_some_and(|range| range < i64::from(FAR)) {
        return least;
    }
    // Single ones that lie before most others are not.
    let mut all: Vec<i64> = plain().collect();
    let place = all.len() / (2 * FAR_OF);
    let some = *all.select_nth_unstable(place).1;
    plain().filter(|value| *value >= some.saturating_sub(i64::from(FAR / 2))).min().unwrap_or(some)
}

impl Numbers {
    /// The number at a place.
    ///
    /// # Panics
    /// Where there is no such place.
    #[inline(always)]
    #[must_use]
    pub fn of(&self, place: usize) -> i64 {
        match self.above.get(place) {
            Some(&above) => self.told(above),
            None => self.wide_or_same(place),
        }
    }

    /// What stands for a number that is near or far.
    #[inline(always)]
    fn told(&self, above: u32) -> i64 {
        if above < FAR { self.base + i64::from(above) } else { self.far[(above - FAR) as usize] }
    }

    #[inline(never)]
    fn wide_or_same(&self, place: usize) -> i64 {
        if place < self.same { self.base } else { self.wide[place] }
    }

    /// How many there are.
    #[must_use]
    pub fn len(&self) -> usize {
        self.above.len() + self.wide.len() + self.same
    }

    /// Whether there are none.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// All of them, by place.
    pub fn iter(&self) -> impl ExactSizeIterator<Item = i64> {
        (0..self.len()).map(|place| self.of(place))
    }

    /// Calls `found` with the place of each number from one to before another, and the number.
    // With `found` in one place, where it is inlined.
    #[inline(always)]
    pub fn within(&self, range: Range<i64>, mut found: impl FnMut(usize, i64)) {
        if self.above.is_empty() {
            return self.wide_or_same_within(range, &mut found);
        }
        // What is near is compared as it stands.
        let room = |value: i64| value.saturating_sub(self.base).clamp(0, i64::from(FAR)) as u32;
        let (from, to) = (room(range.start), room(range.end));
        for (place, &above) in self.above.iter().enumerate() {
            let is_within = if above < FAR { from <= above && above < to } else { range.contains(&self.told(above)) };
            if is_within {
                found(place, self.told(above));
            }
        }
    }

    fn wide_or_same_within(&self, range: Range<i64>, found: &mut dyn FnMut(usize, i64)) {
        let all = self.iter().enumerate().filter(|(_, value)| range.contains(value));
        all.for_each(|(place, value)| found(place, value));
    }

    fn is_wide(&self) -> bool {
        self.above.is_empty() && self.same == 0
    }

    /// Each for itself.
    fn widen(&mut self) {
        *self = Self { wide: self.iter().collect(), ..Self::default() };
    }

    /// What stands for a number among those that are near or far.
    fn stand_in(&mut self, value: i64) -> u32 {
        if let Some(mark) = MARKS.iter().position(|mark| *mark == value) {
            return FAR + mark as u32;
        }
        match value.checked_sub(self.base) {
            Some(above) if (0..i64::from(FAR)).contains(&above) => above as u32,
            _ => {
                self.far.push(value);
                FAR + (self.far.len() - 1) as u32
            }
        }
    }
}

impl Column<i64> for Numbers {
    #[inline(always)]
    fn of(&self, place: usize) -> i64 {
        self.of(place)
    }

    #[inline]
    fn push(&mut self, value: i64) {
        // While rows are read, each stands as it is.
        if self.is_wide() {
            self.wide.push(value);
        } else {
            self.insert(self.len(), value);
        }
    }

    fn insert(&mut self, place: usize, value: i64) {
        if self.same > 0 {
            if value == self.base {
                self.same += 1;
                return;
            }
            self.widen();
        }
        if self.is_wide() {
            return self.wide.insert(place, value);
        }
        // Of what was changed again and again more was far than is.
        if self.far.len() > MARKS.len() + ROWS / FAR_OF + self.above.len() / FAR_OF {
            self.widen();
            return self.wide.insert(place, value);
        }
        let stand_in = self.stand_in(value);
        self.above.insert(place, stand_in);
    }

    fn remove(&mut self, place: usize) {
        if self.same > 0 {
            self.same -= 1;
            return;
        }
        if self.is_wide() {
            self.wide.remove(place);
            return;
        }
        self.above.remove(place);
    }

    fn split_off(&mut self, place: usize) -> Self {
        if self.is_wide() {
            return Self { wide: self.wide.split_off(place), ..Self::default() };
        }
        if self.same > 0 {
            let rest = std::mem::replace(&mut self.same, place);
            return Self { base: self.base, same: rest - place, ..Self::default() };
        }
        Self { base: self.base, above: self.above.split_off(place), far: self.far.clone(), ..Self::default() }
    }

    fn settle(&mut self) {
        if !self.is_wide() {
            return;
        }
        if let [first, rest @ ..] = self.wide.as_slice()
            && rest.iter().all(|value| value == first)
        {
            *self = Self { base: *first, same: self.wide.len(), ..Self::default() };
            return;
        }
        let mut near = Self { base: base(&self.wide), far: MARKS.to_vec(), ..Self::default() };
        near.above.reserve_exact(self.wide.len());
        for value in &self.wide {
            let stand_in = near.stand_in(*value);
            near.above.push(stand_in);
            if near.far.len() > MARKS.len() + self.wide.len() / FAR_OF {
                return self.wide.shrink_to_fit();
            }
        }
        near.far.shrink_to_fit();
        *self = near;
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// Mostly of a few weeks; some of any time, none, or never.
    fn number() -> impl Strategy<Value = i64> {
        prop_oneof![
            20 => 1_700_000_000_000i64..1_702_000_000_000,
            1 => any::<i64>(),
            1 => Just(NONE),
            1 => Just(Instant::LATEST.ms()),
            // Right at the end of what four bytes hold, where the marks are.
            1 => 1_700_000_000_000i64 + i64::from(FAR) - 3..1_700_000_000_000i64 + i64::from(FAR) + 5,
        ]
    }

    #[derive(Debug, Clone)]
    enum Deed {
        Insert(prop::sample::Index, i64),
        Remove(prop::sample::Index),
        SplitOff(prop::sample::Index),
        Settle,
    }

    fn deed() -> impl Strategy<Value = Deed> {
        prop_oneof![
            4 => (any::<prop::sample::Index>(), number()).prop_map(|(place, value)| Deed::Insert(place, value)),
            3 => any::<prop::sample::Index>().prop_map(Deed::Remove),
            1 => any::<prop::sample::Index>().prop_map(Deed::SplitOff),
            1 => Just(Deed::Settle),
        ]
    }

    proptest! {
        /// Whatever is done to them, they are what a plain list holds.
        #[test]
        fn numbers_are_what_a_list_holds(
            first in prop_oneof![
                prop::collection::vec(number(), 0..600),
                (number(), 0usize..9).prop_map(|(value, times)| vec![value; times]),
            ],
            deeds in prop::collection::vec(deed(), 0..60),
            from in number(),
            to in number(),
        ) {
            let (mut list, mut numbers) = (first.clone(), Numbers::default());
            first.iter().for_each(|value| numbers.push(*value));
            for deed in deeds {
                match deed {
                    Deed::Insert(place, value) => {
                        let place = place.index(list.len() + 1);
                        list.insert(place, value);
                        numbers.insert(place, value);
                    }
                    Deed::Remove(place) if !list.is_empty() => {
                        let place = place.index(list.len());
                        list.remove(place);
                        numbers.remove(place);
                    }
                    Deed::SplitOff(place) => {
                        let place = place.index(list.len() + 1);
                        let (rest, of_rest) = (numbers.split_off(place), list.split_off(place));
                        prop_assert_eq!(rest.iter().collect::<Vec<_>>(), of_rest);
                    }
                    Deed::Settle => numbers.settle(),
                    Deed::Remove(_) => {}
                }
                prop_assert_eq!(numbers.iter().collect::<Vec<_>>(), list.clone());
            }
            let range = from.min(to)..from.max(to);
            let mut found = Vec::new();
            numbers.within(range.clone(), |place, value| found.push((place, value)));
            let in_list = list.iter().copied().enumerate().filter(|(_, value)| range.contains(value));
            prop_assert_eq!(found, in_list.collect::<Vec<_>>());
        }
    }

    /// Of four thousand instants of a week, with some of years later and one of years before, each takes little more than four bytes.
    #[test]
    fn what_lies_close_together_takes_half_as_much() {
        let mut numbers = Numbers::default();
        for place in 0..4_096i64 {
            let years_away = if place == 7 { -3 } else { i64::from(place % 50 == 0) };
            numbers.push(1_700_000_000_000 + place * 147_000 + years_away * 31_557_600_000);
        }
        numbers.settle();
        assert_eq!((numbers.above.len(), numbers.far.len(), numbers.wide.capacity()), (4_096, 2 + 83, 0));
    }

    /// Where nobody plans, there is no start of any order.
    #[test]
    fn what_is_all_the_same_takes_no_room() {
        let mut numbers = Numbers::default();
        (0..1_000).for_each(|_| numbers.push(NONE));
        numbers.settle();
        assert_eq!((numbers.same, numbers.above.capacity(), numbers.wide.capacity()), (1_000, 0, 0));
        assert_eq!((numbers.len(), numbers.of(999)), (1_000, NONE));
    }

    /// What is spread over years has no near ones to speak of.
    #[test]
    fn what_lies_far_apart_stays_as_it_is() {
        let mut numbers = Numbers::default();
        (0..100i64).for_each(|place| numbers.push(place * 31_557_600_000));
        numbers.settle();
        assert_eq!((numbers.wide.len(), numbers.above.len()), (100, 0));
    }
}

//! Entries of labour: hours by the kind of their work, and what crews can do in a week.

use super::{Contribution, Measure, NO_WORK, cost::entry_row};
use crate::{
    facts::{FieldsFact, Snapshot, Spent, SpentFact, Works, columns::Part, packed::Packed},
    ground::{
        ids::{CrewId, WorkOrderId},
        time::{DAY, Instant, Span},
    },
    tally::{
        Question,
        indicators::{RowKind, TraceRow},
    },
};

/// Calls `found` with each entry of a window that has hours, order by order, and its instant in milliseconds.
#[inline(always)]
fn each_labour<'a>(facts: &'a Snapshot, window: Span, mut found: impl FnMut(&'a Spent, usize, i64)) {
    for part in facts.spent.overlapping(window) {
        part.at.within(window.start().ms()..window.end().ms(), |place, at| found(part, place, at));
    }
}

/// What the fields of orders say at the instants of their rows. Rows come order by order: each is looked up once.
struct OfWork<'a, T> {
    facts: &'a Snapshot,
    last: Option<(&'a Works, usize)>,
    work: u32,
    says: Says<T>,
}

/// What an order says of all its rows, or that it has to be asked for each.
#[derive(Clone, Copy)]
enum Says<T> {
    Always(T),
    ByInstant,
    Nothing,
}

/// An order in a part in which no number is missing before it.
fn order_in(part: &Works, work: u32) -> Option<(&Works, usize)> {
    let place = work.checked_sub(part.number[0])? as usize;
    (part.number.get(place) == Some(&work)).then_some((part, place))
}

impl<'a, T: Copy> OfWork<'a, T> {
    fn new(facts: &'a Snapshot) -> Self {
        Self { facts, last: None, work: NO_WORK, says: Says::Nothing }
    }

    /// As they are now, where they were never others.
    #[inline(always)]
    fn at(
        &mut self,
        (work, at): (u32, i64),
        now: impl Fn(&Works, usize) -> T,
        then: impl Fn(&FieldsFact) -> T,
    ) -> Option<T> {
        if work != self.work {
            self.turn_to(work, now);
        }
        match self.says {
            Says::Always(value) => Some(value),
            Says::Nothing => None,
            Says::ByInstant => {
                self.facts.fields_at(WorkOrderId::unpack(work), Instant::from_ms(at)).map(|fields| then(&fields))
            }
        }
    }

    fn turn_to(&mut self, work: u32, now: impl Fn(&Works, usize) -> T) {
        self.work = work;
        // The next one mostly stands right behind.
        let near = self.last.and_then(|(part, _)| order_in(part, work));
        self.last = near.or_else(|| self.facts.works.order(work));
        self.says = match self.last {
            Some((part, place)) if part.changed[place] => Says::ByInstant,
            Some((part, place)) => Says::Always(now(part, place)),
            None => Says::Nothing,
        };
    }
}

/// What an entry adds.
fn contribution(part: &Spent, (place, at): (usize, i64), cell: usize, amount: i64) -> Contribution {
    Contribution { asset: part.asset[place], at: Instant::unpack(at), cell, amount, work: part.work[place] }
}

/// An entry as a why shows it.
fn row_of(facts: &Snapshot, q: Question, part: &Spent, place: usize, amount: i64) -> TraceRow {
    let SpentFact { id, asset, work, at, .. } = part.row(place);
    match facts.entries.find((at, id)) {
        Some((part, place)) => entry_row(facts, q, part, place, amount),
        None => TraceRow {
            kind: RowKind::Entry,
            id: id.0,
            asset: facts.tree.node(asset as usize).id,
            work_order: Some(work),
            at,
            amount,
            whole: None,
            settled: None,
        },
    }
}

/// Hours of labour, by the kind that their work was of.
pub(in crate::tally) struct Worked;

impl Measure for Worked {
    type Rows = Spent;
    const CELLS: usize = 6;

    fn window(&self, _: &Snapshot, q: Question) -> Span {
        q.period
    }

    fn each(
        &self,
        facts: &Snapshot,
        q: Question,
        counts: impl Fn(u32) -> bool,
        mut found: impl FnMut(&Spent, usize, Contribution),
    ) {
        let mut of_work = OfWork::new(facts);
        each_labour(facts, q.period, |part, place, at| {
            if !counts(part.asset[place]) {
                return;
            }
            let when = (part.work[place], at);
            let kind = of_work.at(when, |part, place| part.kind[place], |fields| fields.kind.pack());
            if let Some(kind) = kind {
                found(part, place, contribution(part, (place, at), usize::from(kind), part.hours_ms.of(place)));
            }
        });
    }

    fn row(&self, facts: &Snapshot, q: Question, part: &Spent, place: usize, one: Contribution) -> TraceRow {
        row_of(facts, q, part, place, one.amount)
    }
}

/// Weekly hours of crews, each shared out by where it spent its hours in the twelve months before: an hour of it carries its part
/// of the week. Own rule (common practice).
pub(in crate::tally) struct Capacity;

impl Measure for Capacity {
    type Rows = Spent;
    const CELLS: usize = 1;

    fn window(&self, _: &Snapshot, q: Question) -> Span {
        let end = q.as_of();
        Span::new(end.plus(-365 * DAY), end.plus(1)).unwrap_or(q.period)
    }

    fn each(
        &self,
        facts: &Snapshot,
        q: Question,
        counts: impl Fn(u32) -> bool,
        mut found: impl FnMut(&Spent, usize, Contribution),
    ) {
        let none = Option::<CrewId>::None.pack();
        let mut of_work = OfWork::new(facts);
        let window = self.window(facts, q);
        let mut crew_of = |part: &Spent, place: usize, at: i64| {
            let when = (part.work[place], at);
            of_work.at(when, |part, place| part.crew[place], |fields| fields.crew.pack()).filter(|crew| *crew != none)
        };
        let spent = facts.crew_hours(window, || {
            let mut spent = ByCrew::<i64>::default();
            each_labour(facts, window, |part, place, at| {
                if let Some(crew) = crew_of(part, place, at) {
                    *spent.of_mut(crew) += part.hours_ms.of(place);
                }
            });
            spent.0
        });
        let weekly = |crew: u32| facts.worth.weekly_ms.get(&CrewId::unpack(crew)).and_then(|dated| dated.at(q.as_of()));
        let mut shares = ByCrew::<Option<(i64, i64)>>::default();
        for (crew, spent) in (0u32..).zip(spent.iter()).filter(|(_, spent)| **spent > 0) {
            *shares.of_mut(crew) = weekly(crew).map(|weekly| (weekly, *spent));
        }
        each_labour(facts, window, |part, place, at| {
            if !counts(part.asset[place]) {
                return;
            }
            if let Some((weekly, spent)) = crew_of(part, place, at).and_then(|crew| shares.of(crew)) {
                let amount = part_of(weekly, part.hours_ms.of(place), spent);
                found(part, place, contribution(part, (place, at), 0, amount));
            }
        });
    }

    fn row(&self, facts: &Snapshot, q: Question, part: &Spent, place: usize, one: Contribution) -> TraceRow {
        TraceRow { whole: Some(part.hours_ms.of(place)), ..row_of(facts, q, part, place, one.amount) }
    }
}

/// How much of a whole, which is not negative, a part is, in whole units towards nought: `whole * part / all`.
// A division of floating numbers takes a fraction of one of whole numbers, and is off by one at most below 2^51.
#[inline]
fn part_of(whole: i64, part: i64, all: i64) -> i64 {
    let exact = || (i128::from(whole) * i128::from(part) / i128::from(all)) as i64;
    let Some(size) = whole.checked_mul(part).and_then(i64::checked_abs) else { return exact() };
    let near = (size as f64 / all as f64) as i64;
    if near >= 1 << 51 {
        return exact();
    }
    let rest = size - near * all;
    part.signum() * (near + i64::from(rest >= all) - i64::from(rest < 0))
}

/// A value of every crew, by its number; there are few, and their numbers are small.
#[derive(Default)]
struct ByCrew<T>(Vec<T>);

impl<T: Default + Copy> ByCrew<T> {
    fn of(&self, crew: u32) -> T {
        self.0.get(crew as usize).copied().unwrap_or_default()
    }

    fn of_mut(&mut self, crew: u32) -> &mut T {
        let place = crew as usize;
        if place >= self.0.len() {
            self.0.resize(place + 1, T::default());
        }
        &mut self.0[place]
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// Against a division of whole numbers of twice the size, which can't overflow.
        #[test]
        fn a_part_of_a_whole_is_what_whole_numbers_say(
            whole in 0..i64::MAX / 1_000_000,
            all in 1..i64::MAX / 10_000,
            // More than all of it, where much was entered in error and taken back.
            share in -9_000_000i64..=9_000_000,
        ) {
            let part = (i128::from(all) * i128::from(share) / 1_000_000) as i64;
            let exact = i128::from(whole) * i128::from(part) / i128::from(all);
            prop_assert_eq!(i128::from(part_of(whole, part, all)), exact);
        }

        #[test]
        fn what_comes_out_even_is_not_off_by_one(one in 1..1i64 << 20, a in 1..1i64 << 10, b in 1..1i64 << 20, c in 1..1i64 << 10) {
            let (part, all) = (b * c.min(a), b * a);
            prop_assert_eq!(part_of(one * a, part, all), one * c.min(a));
        }
    }
}

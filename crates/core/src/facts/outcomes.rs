//! What became of orders, as their moves and failures tell it.

use super::{
    Failures, Moves, WorkFact,
    columns::{Columns, Part},
    packed::Packed,
};
use crate::{
    ground::{ids::CodeId, time::Instant},
    work::WorkState,
};
use rustc_hash::FxHashSet;

/// Since when work has not been open any more, by its moves in order; [`Instant::LATEST`] while it is.
pub(super) fn closed_since(moves: impl IntoIterator<Item = (Instant, WorkState)>) -> Instant {
    let mut since = Instant::LATEST;
    for (at, to) in moves {
        match (to.is_open(), since) {
            (true, _) => since = Instant::LATEST,
            (false, Instant::LATEST) => since = at,
            (false, _) => {}
        }
    }
    since
}

/// When work was done first, by its moves in order; [`Instant::LATEST`] while it was not.
pub(super) fn first_done(mut moves: impl Iterator<Item = (Instant, WorkState)>) -> Instant {
    moves.find(|(_, to)| *to == WorkState::Done).map_or(Instant::LATEST, |(at, _)| at)
}

/// Orders that have a failure with problem, cause and remedy, of those that are `asked` for.
pub(super) fn coded(failures: &Columns<Failures>, asked: impl Fn(u32) -> bool) -> FxHashSet<u32> {
    let none = Option::<CodeId>::None.pack();
    let mut coded = FxHashSet::default();
    for part in failures.parts() {
        let is_coded =
            |place: &usize| [&part.problem, &part.cause, &part.remedy].iter().all(|code| code[*place] != none);
        let of_asked = (0..part.len()).filter(is_coded).map(|place| part.work[place]).filter(|work| asked(*work));
        coded.extend(of_asked);
    }
    coded
}

/// When an order was done first, and since when it has not been open any more.
#[derive(Debug)]
struct End {
    work: u32,
    until: Instant,
    done_at: Instant,
}

/// What became of all orders.
#[derive(Debug)]
pub struct Outcomes {
    /// Of those that have moves, by number.
    ends: Vec<End>,
    coded: FxHashSet<u32>,
    /// Where the next one that is asked for mostly stands.
    next: usize,
}

impl Outcomes {
    /// As their moves, in the order in which they count, and their failures tell it.
    #[must_use]
    pub fn of(moves: &Columns<Moves>, failures: &Columns<Failures>) -> Self {
        let mut ends = Vec::new();
        let mut way: Vec<(Instant, WorkState)> = Vec::new();
        let mut of = None;
        let mut end = |work: Option<u32>, way: &[(Instant, WorkState)]| {
            let (until, done_at) = (closed_since(way.iter().copied()), first_done(way.iter().copied()));
            ends.extend(work.map(|work| End { work, until, done_at }));
        };
        for part in moves.parts() {
            for place in 0..part.len() {
                if of != Some(part.work[place]) {
                    end(of.replace(part.work[place]), &way);
                    way.clear();
                }
                way.push((Instant::unpack(part.at.of(place)), WorkState::unpack(part.to[place])));
            }
        }
        end(of, &way);
        Self { ends, coded: coded(failures, |_| true), next: 0 }
    }

    /// The order with its `until`, its `done_at` and whether it is `coded`; orders mostly come by number.
    pub fn complete(&mut self, work: WorkFact) -> WorkFact {
        let number = work.number.pack();
        if self.ends.get(self.next).is_none_or(|end| end.work != number) {
            self.next = self.ends.partition_point(|end| end.work < number);
        }
        let found = self.ends.get(self.next).filter(|end| end.work == number);
        self.next += 1;
        WorkFact {
            until: found.map_or(Instant::LATEST, |end| end.until),
            done_at: found.map_or(Instant::LATEST, |end| end.done_at),
            coded: self.coded.contains(&number),
            ..work
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use WorkState::{Closed, Done, Dropped, Raised, UnderWay};
    use rstest::rstest;

    #[rstest]
    #[case::open(&[(1, Raised), (2, UnderWay)], None)]
    #[case::done_and_closed(&[(1, Raised), (5, Done), (9, Closed)], Some(5))]
    #[case::taken_up_again(&[(1, Raised), (5, Done), (6, UnderWay)], None)]
    #[case::done_twice(&[(1, Raised), (5, Done), (6, UnderWay), (8, Done)], Some(8))]
    #[case::dropped_at_once(&[(1, Dropped)], Some(1))]
    fn work_is_closed_since_it_was_open_last(#[case] way: &[(i64, WorkState)], #[case] since: Option<i64>) {
        let moves = way.iter().map(|(at, to)| (Instant::from_ms(*at), *to));
        assert_eq!(closed_since(moves), since.map_or(Instant::LATEST, Instant::from_ms));
    }
}

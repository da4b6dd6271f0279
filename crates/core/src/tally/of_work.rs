//! What orders are, to take their rows apart by.

use super::{Dimension, measures::NO_WORK};
use crate::{
    facts::{
        ByWork, Snapshot,
        columns::Part,
        packed::{NONE, Packed},
    },
    ground::time::Instant,
};

/// What an order is, to take its rows apart by: keys in short, so that one look finds them all.
#[derive(Debug, Clone, Copy)]
pub(super) struct OfOrder {
    kind: u32,
    crew: u32,
    problem: u32,
}

/// A key in short that is none.
const NOTHING: u32 = u32::MAX;

impl OfOrder {
    const NONE: Self = Self { kind: NOTHING, crew: NOTHING, problem: NOTHING };

    /// The key of what it is.
    pub(super) fn says(self, dimension: Dimension) -> i64 {
        let key = match dimension {
            Dimension::WorkKind => self.kind,
            Dimension::Crew => self.crew,
            Dimension::Problem => self.problem,
            _ => NOTHING,
        };
        if key == NOTHING { NONE } else { i64::from(key) }
    }
}

/// What orders are, by their numbers.
pub(super) struct OfWork(ByWork<OfOrder>);

impl OfWork {
    /// What they are or, of what stood at an instant, were then.
    pub(super) fn new(facts: &Snapshot, at: Option<Instant>) -> Self {
        let mut all = ByWork::new(&facts.works, OfOrder::NONE);
        for part in facts.works.parts() {
            for place in 0..part.len() {
                let of = OfOrder { kind: u32::from(part.kind[place]), crew: part.crew[place], problem: NOTHING };
                all.put(part.number[place], of);
            }
        }
        if let Some(at) = at {
            facts.each_fields_at(at, |then| {
                if let Some(of) = all.of_mut(then.work.pack()) {
                    (of.kind, of.crew) = (u32::from(then.kind.pack()), then.crew.pack());
                }
            });
        }
        facts.each_problem_of_work(at.unwrap_or(Instant::LATEST), |work, problem| {
            if let Some(of) = all.of_mut(work).filter(|of| of.problem == NOTHING) {
                of.problem = problem;
            }
        });
        Self(all)
    }

    pub(super) fn of(&self, work: u32) -> OfOrder {
        if work == NO_WORK { OfOrder::NONE } else { self.0.of(work) }
    }
}

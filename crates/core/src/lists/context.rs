//! What a question is asked over: the facts, the instant, and who looks.

use super::counted::Counted;
use crate::{
    access::{
        bounds::Bounds,
        seen::{Whose, WorkSeen},
    },
    facts::{ByWork, Snapshot, Works, columns::Part, packed::Packed},
    ground::{
        ids::{CrewId, PersonId},
        time::Instant,
    },
    plant::assets::{Shape, reached},
};
use rustc_hash::FxHashSet;
use std::sync::Arc;

/// Whose work somebody sees, and where.
#[derive(Debug, Clone)]
pub struct Sees {
    pub work: WorkSeen,
    pub person: PersonId,
    pub crew: Option<CrewId>,
    /// How far they reach: rows of what stands elsewhere today are none.
    pub bounds: Bounds,
    /// What they reported again; needed where they don't see all work.
    pub reported: FxHashSet<u32>,
}

impl Sees {
    /// All of it.
    #[must_use]
    pub fn all() -> Self {
        Self::of(WorkSeen::All, PersonId(0), None, Bounds::None)
    }

    /// Of what somebody sees by their role and crew.
    #[must_use]
    pub fn of(work: WorkSeen, person: PersonId, crew: Option<CrewId>, bounds: Bounds) -> Self {
        Self { work, person, crew, bounds, reported: FxHashSet::default() }
    }
}

/// What a question is asked over.
#[derive(Debug, Clone)]
pub struct Context<'a> {
    pub facts: &'a Snapshot,
    /// What says whose work is; today's, whatever the facts are as of.
    pub today: &'a Snapshot,
    pub now: Instant,
    pub sees: Sees,
    /// The rows of a figure, where only those are asked for.
    pub counted: Option<Counted>,
    /// The tree as it stands now.
    pub shape: Arc<Shape>,
}

impl<'a> Context<'a> {
    #[must_use]
    pub fn new(facts: &'a Snapshot, now: Instant, sees: Sees) -> Self {
        Self { facts, today: facts, now, sees, counted: None, shape: facts.tree.shape_at(now) }
    }

    /// Whether a work order is seen.
    pub(super) fn sees(&self, part: &Works, place: usize) -> bool {
        if self.sees.work == WorkSeen::All {
            return true;
        }
        let work = part.row(place);
        let work = self.today.works.get((work.number,)).unwrap_or(work);
        let reported = self.sees.reported.contains(&work.number.pack());
        let whose =
            Whose { crew: work.crew, assignee: work.assignee, raised_by: work.raised_by, asked: work.asked, reported };
        self.sees.work.includes(whose, self.sees.person, self.sees.crew)
    }

    /// By dense index of the facts whether an asset is reached, as it stands today; `None` where all are.
    pub(super) fn reached(&self) -> Option<Vec<bool>> {
        let (then, today) = (&self.facts.tree, &self.today.tree);
        let reached = reached(today, &self.sees.bounds)?;
        let is_reached = |asset| today.index(asset).is_some_and(|index| reached[index]);
        Some((0..then.len()).map(|index| is_reached(then.node(index).id)).collect())
    }

    /// By number of the order whether it is seen; `None` where all are.
    pub(super) fn seen(&self) -> Option<ByWork<bool>> {
        if self.sees.work == WorkSeen::All {
            return None;
        }
        Some(self.by_work(false, |part, place| self.sees(part, place)))
    }

    /// By number of the order whether a row that is seen tells of it: not where the order stands elsewhere, nor, of rows that don't
    /// follow their order, where that is not seen. `None` where all are told of.
    pub(super) fn told(&self, follows_work: bool) -> Option<ByWork<bool>> {
        let Some(reached) = reached(&self.today.tree, &self.sees.bounds) else {
            return if follows_work { None } else { self.seen() };
        };
        Some(self.by_work(false, |part, place| {
            let work = part.row(place);
            let asset = match self.today.works.get((work.number,)) {
                Some(today) => Some(today.asset as usize),
                None => self.today.tree.index(self.facts.tree.node(work.asset as usize).id),
            };
            asset.is_some_and(|asset| reached[asset]) && (follows_work || self.sees(part, place))
        }))
    }

    /// A value of every work order, to be looked up by its number.
    pub(super) fn by_work<T: Copy>(&self, none: T, mut value: impl FnMut(&Works, usize) -> T) -> ByWork<T> {
        let mut values = ByWork::new(&self.facts.works, none);
        for part in self.facts.works.parts() {
            (0..part.len()).for_each(|place| values.put(part.number[place], value(part, place)));
        }
        values
    }
}

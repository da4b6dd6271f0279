//! What a question is asked over: the facts, the instant, and who looks.

use super::counted::Counted;
use crate::{
    access::{
        bounds::Bounds,
        seen::{Whose, WorkSeen},
    },
    facts::{ByWork, Snapshot, Works, columns::Part},
    ground::{
        ids::{CrewId, PersonId},
        time::Instant,
    },
    plant::assets::{Shape, reached},
};
use std::sync::Arc;

/// Whose work somebody sees, and where.
#[derive(Debug, Clone)]
pub struct Sees {
    pub work: WorkSeen,
    pub person: PersonId,
    pub crew: Option<CrewId>,
    /// How far they reach: rows of what stands elsewhere today are none.
    pub bounds: Bounds,
}

impl Sees {
    /// All of it.
    pub const ALL: Self = Self { work: WorkSeen::All, person: PersonId(0), crew: None, bounds: Bounds::None };
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
        let whose = Whose { crew: work.crew, assignee: work.assignee, raised_by: work.raised_by, asked: work.asked };
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

    /// A value of every work order, to be looked up by its number.
    pub(super) fn by_work<T: Copy>(&self, none: T, mut value: impl FnMut(&Works, usize) -> T) -> ByWork<T> {
        let mut values = ByWork::new(&self.facts.works, none);
        for part in self.facts.works.parts() {
            (0..part.len()).for_each(|place| values.put(part.number[place], value(part, place)));
        }
        values
    }
}

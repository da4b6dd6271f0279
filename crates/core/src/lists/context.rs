//! What a question is asked over: the facts, the instant, and who looks.

use crate::{
    access::seen::{Whose, WorkSeen},
    facts::{Snapshot, Works, columns::Part},
    ground::{
        ids::{CrewId, PersonId},
        time::Instant,
    },
    plant::assets::Shape,
};
use std::sync::Arc;

/// Whose work somebody sees.
#[derive(Debug, Clone, Copy)]
pub struct Sees {
    pub work: WorkSeen,
    pub person: PersonId,
    pub crew: Option<CrewId>,
}

impl Sees {
    /// All of it.
    pub const ALL: Self = Self { work: WorkSeen::All, person: PersonId(0), crew: None };
}

/// What a question is asked over.
#[derive(Debug, Clone)]
pub struct Context<'a> {
    pub facts: &'a Snapshot,
    pub now: Instant,
    pub sees: Sees,
    /// The tree as it stands now.
    pub shape: Arc<Shape>,
}

impl<'a> Context<'a> {
    #[must_use]
    pub fn new(facts: &'a Snapshot, now: Instant, sees: Sees) -> Self {
        Self { facts, now, sees, shape: facts.tree.shape_at(now) }
    }

    /// Whether a work order is seen.
    pub(super) fn sees(&self, part: &Works, place: usize) -> bool {
        if self.sees.work == WorkSeen::All {
            return true;
        }
        let work = part.row(place);
        let whose = Whose { crew: work.crew, assignee: work.assignee, raised_by: work.raised_by, asked: work.asked };
        self.sees.work.includes(whose, self.sees.person, self.sees.crew)
    }

    /// A value of every work order, to be looked up by its number.
    pub(super) fn by_work<T: Copy>(&self, none: T, mut value: impl FnMut(&Works, usize) -> T) -> ByWork<T> {
        let works = &self.facts.works;
        let first = works.parts().next().map_or(0, |part| part.number[0]);
        let last = works.parts().last().and_then(|part| part.number.last()).copied().unwrap_or(first);
        let mut values = vec![none; (last - first) as usize + 1];
        for part in works.parts() {
            for place in 0..part.len() {
                values[(part.number[place] - first) as usize] = value(part, place);
            }
        }
        ByWork { first, values, none }
    }
}

/// A value of every work order.
pub(super) struct ByWork<T> {
    first: u32,
    values: Vec<T>,
    none: T,
}

impl<T: Copy> ByWork<T> {
    /// Of the order of that number; none where there is no such order.
    pub(super) fn of(&self, number: u32) -> T {
        let place = number.checked_sub(self.first);
        place.and_then(|place| self.values.get(place as usize)).copied().unwrap_or(self.none)
    }

    /// Puts one in.
    pub(super) fn put(&mut self, number: u32, value: T) {
        let place = number.checked_sub(self.first);
        if let Some(kept) = place.and_then(|place| self.values.get_mut(place as usize)) {
            *kept = value;
        }
    }
}

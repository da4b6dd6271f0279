//! What is asked of the tally.

use crate::{
    ground::time::{Instant, Span},
    plant::assets::Basis,
};

/// What is asked of the tally.
#[derive(Debug, Clone, Copy)]
pub struct Question {
    pub period: Span,
    /// The asked instant: nothing later is known, and what is settled by then is settled.
    pub now: Instant,
    pub basis: Basis,
}

impl Question {
    /// The part of the period that has passed.
    pub(super) fn passed(&self) -> Option<Span> {
        Span::new(self.period.start(), self.period.end().min(self.now)).ok()
    }

    /// Whether all of the period is to come: nothing has a figure after now.
    pub(super) fn is_ahead(&self) -> bool {
        self.period.start() > self.now
    }

    /// The instant whose open work counts: the last of a past period, or now, with what is raised at this very moment.
    pub(super) fn as_of(&self) -> Instant {
        if self.period.end() < self.now { self.period.end().plus(-1) } else { self.now }
    }

    /// The instant whose tree an event counts in.
    pub(super) fn tree_at(&self, event: Instant) -> Instant {
        match self.basis {
            Basis::AsWas => event,
            Basis::AsIs => self.now,
        }
    }
}

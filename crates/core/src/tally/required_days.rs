//! Days on which assets are required to run: work that needs a standstill has no place on them.

use super::required::RequiredTime;
use crate::{
    facts::Snapshot,
    ground::time::{Instant, Span},
    plant::assets::Basis,
};

/// When assets are required to run, in one window.
#[derive(Debug)]
pub struct RequiredDays<'a>(RequiredTime<'a>);

impl<'a> RequiredDays<'a> {
    /// By the tree as it is at `now`.
    #[must_use]
    pub fn new(facts: &'a Snapshot, window: Span, now: Instant) -> Self {
        Self(RequiredTime::new(&facts.tree, &facts.assignments, &facts.calendars, window, Basis::AsIs, now))
    }

    /// Whether an asset, by its dense index, is required to run at some time of a part of the window. Without a calendar on it or
    /// above it: always.
    pub fn is_required(&mut self, asset: u32, within: Span) -> bool {
        let class = self.0.class(asset);
        let required = self.0.of(class);
        required.until(within.end()) > required.until(within.start())
    }
}

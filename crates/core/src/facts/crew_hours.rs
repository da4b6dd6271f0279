//! Hours that crews spent, kept for the entries that were asked for last: who asks for a part of the plant needs those of all of it.

use super::Snapshot;
use crate::ground::{ids::EntryId, time::Span};
use quick_cache::sync::Cache;
use std::sync::Arc;

/// How many entries there are before a window and before its end, of what facts: the same entries, with the same crews.
type Key = ([usize; 2], [u64; 4]);

/// Hours in milliseconds, by the number of the crew.
#[derive(Clone)]
pub struct CrewHours(Arc<Cache<Key, Arc<Vec<i64>>>>);

impl CrewHours {
    /// As many as a year by month asks for, with the year before.
    const KEPT: usize = 16;
}

impl Default for CrewHours {
    fn default() -> Self {
        Self(Arc::new(Cache::new(Self::KEPT)))
    }
}

impl std::fmt::Debug for CrewHours {
    fn fmt(&self, f: &mut std::fmt::Formatter) -> std::fmt::Result {
        f.debug_struct("CrewHours").field("kept", &self.0.len()).finish()
    }
}

impl Snapshot {
    /// Hours in milliseconds that each crew spent in a window, by its number; they are counted where they are not known.
    pub fn crew_hours(&self, window: Span, count: impl FnOnce() -> Vec<i64>) -> Arc<Vec<i64>> {
        let before = [window.start(), window.end()].map(|at| self.entries.before((at, EntryId(0))));
        let stamps = [self.entries.stamp(), self.spent.stamp(), self.works.stamp(), self.fields.stamp()];
        let key = (before, stamps);
        self.crew_hours.0.get(&key).unwrap_or_else(|| {
            let counted = Arc::new(count());
            self.crew_hours.0.insert(key, counted.clone());
            counted
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{
        facts::EntryFact,
        ground::{
            ids::{PersonId, WorkOrderId},
            money::Cents,
            time::Instant,
        },
        work::entries::EntryKind,
    };

    fn entry(id: i64, at: i64) -> (i64, Option<EntryFact>) {
        let entry = EntryFact {
            id: EntryId(id),
            asset: 0,
            work: WorkOrderId(1),
            kind: EntryKind::Labour,
            at: Instant::from_ms(at),
            cost: Cents(100),
            quantity: 3_600_000,
            settled_at: Instant::LATEST,
            recorded_at: Instant::from_ms(at),
            person: Some(PersonId(1)),
            item: None,
            supplier: None,
        };
        (id, Some(entry))
    }

    fn window(from: i64, to: i64) -> Span {
        Span::new(Instant::from_ms(from), Instant::from_ms(to)).unwrap()
    }

    /// They are counted once for the same entries, and again after whatever changed, or where the window holds others; a clone
    /// from before keeps its own.
    #[test]
    fn hours_are_counted_where_they_are_not_known() {
        let mut facts = Snapshot::default();
        facts.change_entries(vec![entry(1, 10), entry(2, 20)]);
        assert_eq!(*facts.crew_hours(window(5, 25), || vec![2]), [2]);
        assert_eq!(*facts.crew_hours(window(6, 30), || panic!("no entry came in or left")), [2]);
        assert_eq!(*facts.crew_hours(window(15, 25), || vec![1]), [1]);
        let before = facts.clone();
        facts.change_entries(vec![entry(3, 22)]);
        assert_eq!(*facts.crew_hours(window(5, 25), || vec![3]), [3]);
        assert_eq!(*before.crew_hours(window(5, 25), || panic!("nothing changed here")), [2]);
    }
}

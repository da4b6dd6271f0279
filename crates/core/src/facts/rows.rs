//! What happened, as the tally needs it: narrow rows by time.

use crate::{
    codes::failures::Effect,
    ground::{
        ids::{AssetId, DowntimeId, EntryId, FailureId, WorkOrderId},
        money::Cents,
        time::{Instant, Span},
    },
    plant::downtime::DowntimeKind,
    work::{WorkState, entries::EntryKind},
};
use std::{
    collections::{HashMap, HashSet},
    sync::Arc,
};

/// A row with an id and an instant.
pub trait Fact: Clone {
    fn id(&self) -> i64;
    /// What the rows are sorted by.
    fn at(&self) -> Instant;
    fn work(&self) -> Option<WorkOrderId>;
    /// The end of what it covers; its instant where it covers none.
    fn until(&self) -> Instant {
        self.at()
    }
}

/// One entry of cost.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct EntryFact {
    pub id: EntryId,
    pub asset: AssetId,
    pub work: WorkOrderId,
    pub kind: EntryKind,
    pub at: Instant,
    pub cost: Cents,
    /// Labour only; negative in a reversing entry.
    pub hours_ms: i64,
    /// [`Instant::LATEST`] while provisional.
    pub settled_at: Instant,
}

/// One interval of downtime.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DowntimeFact {
    pub id: DowntimeId,
    pub asset: AssetId,
    pub work: Option<WorkOrderId>,
    pub kind: DowntimeKind,
    pub start: Instant,
    /// [`Instant::LATEST`] while open.
    pub end: Instant,
}

/// One failure report.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FailureFact {
    pub id: FailureId,
    pub asset: AssetId,
    pub work: WorkOrderId,
    pub at: Instant,
    pub effect: Effect,
}

/// One work order with its way through the states.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct WorkFact {
    pub number: WorkOrderId,
    pub asset: AssetId,
    pub raised_at: Instant,
    pub estimated_ms: Option<i64>,
    /// Ascending by instant; the first is the state it was raised in.
    pub states: Vec<(Instant, WorkState)>,
}

impl WorkFact {
    /// The state as of an instant; `None` before it was raised.
    #[must_use]
    pub fn state_at(&self, at: Instant) -> Option<WorkState> {
        let after = self.states.partition_point(|(since, _)| *since <= at);
        Some(self.states[after.checked_sub(1)?].1)
    }
}

impl Fact for EntryFact {
    fn id(&self) -> i64 {
        self.id.0
    }
    fn at(&self) -> Instant {
        self.at
    }
    fn work(&self) -> Option<WorkOrderId> {
        Some(self.work)
    }
}

impl Fact for DowntimeFact {
    fn id(&self) -> i64 {
        self.id.0
    }
    fn at(&self) -> Instant {
        self.start
    }
    fn work(&self) -> Option<WorkOrderId> {
        self.work
    }
    fn until(&self) -> Instant {
        self.end
    }
}

impl Fact for FailureFact {
    fn id(&self) -> i64 {
        self.id.0
    }
    fn at(&self) -> Instant {
        self.at
    }
    fn work(&self) -> Option<WorkOrderId> {
        Some(self.work)
    }
}

impl Fact for WorkFact {
    fn id(&self) -> i64 {
        self.number.0
    }
    fn at(&self) -> Instant {
        self.raised_at
    }
    fn work(&self) -> Option<WorkOrderId> {
        Some(self.number)
    }
    fn until(&self) -> Instant {
        match self.states.last() {
            Some((since, state)) if !state.is_open() => *since,
            _ => Instant::LATEST,
        }
    }
}

/// Rows of one kind, sorted by instant and id. Clones share their rows until one of them changes.
#[derive(Debug, Clone)]
pub struct Facts<F>(Arc<Kept<F>>);

#[derive(Debug, Clone)]
struct Kept<F> {
    rows: Vec<F>,
    // The latest end among the rows up to and including that place: rows before the first place where it lies beyond a
    // window's start can't overlap the window.
    latest_end: Vec<Instant>,
    at_of: HashMap<i64, Instant>,
    by_work: HashMap<WorkOrderId, Vec<i64>>,
}

impl<F: Fact> Default for Facts<F> {
    fn default() -> Self {
        let (at_of, by_work) = (HashMap::new(), HashMap::new());
        Self(Arc::new(Kept { rows: Vec::new(), latest_end: Vec::new(), at_of, by_work }))
    }
}

impl<F: Fact> Facts<F> {
    /// Puts rows in place of those with the same id, and takes away those whose new row is `None`.
    pub fn apply(&mut self, changes: Vec<(i64, Option<F>)>) {
        if !changes.is_empty() {
            Arc::make_mut(&mut self.0).apply(changes);
        }
    }

    /// Rows whose instant lies in the window.
    #[must_use]
    pub fn dated_in(&self, window: Span) -> &[F] {
        let rows = &self.0.rows;
        let first = rows.partition_point(|row| row.at() < window.start());
        let last = rows.partition_point(|row| row.at() < window.end());
        &rows[first..last.max(first)]
    }

    /// Rows that cover some of the window.
    pub fn overlapping(&self, window: Span) -> impl Iterator<Item = &F> {
        let Kept { rows, latest_end, .. } = &*self.0;
        let first = latest_end.partition_point(|end| *end <= window.start());
        let last = rows.partition_point(|row| row.at() < window.end());
        rows[first..last.max(first)].iter().filter(move |row| row.until() > window.start())
    }

    /// Rows that stand at an instant: begun, and not ended before it.
    pub fn standing_at(&self, at: Instant) -> impl Iterator<Item = &F> {
        Span::new(at, at.plus(1)).ok().into_iter().flat_map(|moment| self.overlapping(moment))
    }

    /// Rows of a work order, in the order they came.
    pub fn of_work(&self, work: WorkOrderId) -> impl Iterator<Item = &F> {
        self.0.by_work.get(&work).into_iter().flatten().filter_map(|id| self.get(*id))
    }

    /// The row of that id.
    #[must_use]
    pub fn get(&self, id: i64) -> Option<&F> {
        let at = *self.0.at_of.get(&id)?;
        let place = self.0.rows.binary_search_by_key(&(at, id), |row| (row.at(), row.id())).ok()?;
        Some(&self.0.rows[place])
    }

    /// How many rows there are.
    #[must_use]
    pub fn len(&self) -> usize {
        self.0.rows.len()
    }

    /// Whether there are none.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.0.rows.is_empty()
    }
}

impl<F: Fact> Kept<F> {
    fn apply(&mut self, changes: Vec<(i64, Option<F>)>) {
        let changed: HashSet<i64> = changes.iter().map(|(id, _)| *id).collect();
        if changed.iter().any(|id| self.at_of.contains_key(id)) {
            for row in self.rows.extract_if(.., |row| changed.contains(&row.id())) {
                self.at_of.remove(&row.id());
                if let Some(of_work) = row.work().and_then(|work| self.by_work.get_mut(&work)) {
                    of_work.retain(|id| *id != row.id());
                }
            }
        }
        for row in changes.into_iter().filter_map(|(_, row)| row) {
            self.at_of.insert(row.id(), row.at());
            if let Some(work) = row.work() {
                self.by_work.entry(work).or_default().push(row.id());
            }
            self.rows.push(row);
        }
        // Almost sorted, which the standard library's stable sort makes use of.
        self.rows.sort_by_key(|row| (row.at(), row.id()));
        let mut latest = Instant::EARLIEST;
        self.latest_end.clear();
        self.latest_end.extend(self.rows.iter().map(|row| {
            latest = latest.max(row.until());
            latest
        }));
    }
}

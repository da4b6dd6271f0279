//! The facts a tally is computed over, as of one change of the database.

use super::{
    AssetFact, Assignment, ByWork, Life, Names, SeveralReports, Worth,
    columns::{Columns, Part},
    packed::{NONE, Packed},
    rows::{
        Alarms, Cycles, DownOfWork, DowntimeFact, Downtimes, Entries, Failures, Fields, MoveFact, Moves, Spent,
        StepFact, Steps, Works,
    },
};
use crate::{
    ground::{
        calendar::Calendar,
        ids::{CalendarId, CrewId, DowntimeId, EntryId, MeterId, WorkOrderId},
        lately::Lately,
        time::{HOUR, Instant, Span},
    },
    plant::{assets::Tree, downtime::DowntimeKind},
    watch::{
        meters::Meter,
        readings::{Exchange, Reading, risen},
    },
    work::{InState, StateLimit, StateStep, WaitingFor, WorkState},
};
use jiff::tz::TimeZone;
use std::{collections::HashMap, ops::Range, sync::Arc};

/// A counter whose hours are its asset's operating time.
#[derive(Debug, Clone, PartialEq)]
pub struct RunningCounter {
    pub meter: MeterId,
    /// By time, as hours since the first.
    pub readings: Vec<(Instant, f64)>,
    /// The newest of them, as it was read.
    pub last: Option<Reading>,
    /// How often its readings had been revised when these were read.
    pub revised: i64,
    /// When it was retired; [`Instant::LATEST`] while it is not.
    pub until: Instant,
}

impl RunningCounter {
    /// Takes a newer reading; exchanges of the device ascend.
    pub fn push(&mut self, rules: &Meter, reading: Reading, exchanges: &[Exchange]) {
        let so_far = self.readings.last().map_or(0.0, |last| last.1);
        let more = self.last.map_or(0.0, |last| risen(rules, last, reading, exchanges).max(0.0));
        self.readings.push((reading.at, so_far + more));
        self.last = Some(reading);
    }

    /// From its first reading to its last, or to its end.
    fn covers(&self) -> Option<Span> {
        let (first, last) = (self.readings.first()?.0, self.readings.last()?.0);
        Span::new(first, last.min(self.until)).ok()
    }
}

/// Running-hours counters of one asset: one at a time, in the order they came.
pub type Counters = Vec<Arc<RunningCounter>>;

/// Everything figures and lists are made of. Clones share all of it until something changes, and then all but that.
#[derive(Debug, Clone)]
pub struct Snapshot {
    /// The database's change counter that this is true for.
    pub change: i64,
    pub zone: TimeZone,
    /// Month, 1 to 12, in which the fiscal year starts.
    pub fiscal_month: i8,
    pub state_limits: Arc<[StateLimit]>,
    /// Days ahead within which open work is expected to have a date.
    pub headline_days: u16,
    /// Days between two stays in a state up to which they count as one.
    pub stay_gap_days: u16,
    /// What is set for assets and crews from an instant on.
    pub worth: Arc<Worth>,
    pub names: Arc<Names>,
    pub tree: Arc<Tree>,
    /// By dense index of the tree.
    pub assets: Arc<[AssetFact]>,
    /// By dense index of the tree.
    pub assignments: Arc<[Vec<Assignment>]>,
    pub calendars: Arc<HashMap<CalendarId, Calendar>>,
    /// By dense index of the tree.
    pub running: Arc<HashMap<u32, Counters>>,
    pub entries: Columns<Entries>,
    /// What they come to from the beginning.
    pub life: Life,
    pub spent: Columns<Spent>,
    /// Hours in milliseconds that each crew spent, by its number: of the entries between how many of them, of what facts.
    pub crew_hours: Lately<([usize; 2], [u64; 4]), Vec<i64>>,
    pub downtimes: Columns<Downtimes>,
    pub down_of_work: Columns<DownOfWork>,
    pub failures: Columns<Failures>,
    /// Of orders that have several, by the state of the failures.
    pub several_reports: Lately<u64, SeveralReports>,
    pub works: Columns<Works>,
    pub moves: Columns<Moves>,
    pub fields: Columns<Fields>,
    pub steps: Columns<Steps>,
    pub alarms: Columns<Alarms>,
    pub cycles: Columns<Cycles>,
}

impl Default for Snapshot {
    fn default() -> Self {
        Self {
            change: 0,
            zone: TimeZone::UTC,
            fiscal_month: 1,
            state_limits: Arc::default(),
            headline_days: 0,
            stay_gap_days: 7,
            worth: Arc::default(),
            names: Arc::default(),
            tree: Arc::default(),
            assets: Arc::default(),
            assignments: Arc::default(),
            calendars: Arc::default(),
            running: Arc::default(),
            entries: Columns::default(),
            life: Life::default(),
            spent: Columns::default(),
            crew_hours: Lately::default(),
            downtimes: Columns::default(),
            down_of_work: Columns::default(),
            failures: Columns::default(),
            several_reports: Lately::default(),
            works: Columns::default(),
            moves: Columns::default(),
            fields: Columns::default(),
            steps: Columns::default(),
            alarms: Columns::default(),
            cycles: Columns::default(),
        }
    }
}

/// The number after one, for ranges of keys that begin with it.
fn after(work: WorkOrderId) -> WorkOrderId {
    WorkOrderId(work.0 + 1)
}

/// The places of an order's rows in parts from the one on that its first may be in, where rows are in the order of their work.
pub(super) fn of_work<'a, P: Part + 'a>(
    parts: impl Iterator<Item = &'a P>,
    column: impl Fn(&P) -> &[u32],
    work: WorkOrderId,
) -> impl Iterator<Item = (&'a P, Range<usize>)> {
    let (number, mut is_over) = (work.pack(), false);
    parts.map_while(move |part| {
        if is_over {
            return None;
        }
        let numbers = column(part);
        let first = numbers.partition_point(|other| *other < number);
        let own = numbers[first..].iter().take_while(|other| **other == number).count();
        is_over = first + own < numbers.len();
        Some((part, first..first + own))
    })
}

impl Snapshot {
    /// Puts a counter in the place it had, or among those of its asset.
    pub fn put_running(&mut self, asset: u32, counter: RunningCounter) {
        self.remove_running(counter.meter);
        let of_asset = Arc::make_mut(&mut self.running).entry(asset).or_default();
        of_asset.push(Arc::new(counter));
        of_asset.sort_by_key(|counter| (counter.readings.first().map(|first| first.0), counter.meter));
    }

    /// A counter counts no more.
    pub fn remove_running(&mut self, meter: MeterId) {
        drop(self.take_running(meter));
    }

    /// Takes a counter away, to put it back with more.
    pub fn take_running(&mut self, meter: MeterId) -> Option<RunningCounter> {
        let is_it = |counter: &Arc<RunningCounter>| counter.meter == meter;
        let asset = *self.running.iter().find(|(_, counters)| counters.iter().any(is_it))?.0;
        let running = Arc::make_mut(&mut self.running);
        let counters = running.get_mut(&asset)?;
        let counter = counters.remove(counters.iter().position(is_it)?);
        if counters.is_empty() {
            running.remove(&asset);
        }
        Some(Arc::unwrap_or_clone(counter))
    }

    /// Assets that have a running-hours counter.
    pub fn with_counter(&self) -> impl Iterator<Item = u32> {
        self.running.keys().copied()
    }

    /// Running time in the window by the asset's counters, in milliseconds, and what of the window they cover: read between readings
    /// along a straight line, and nothing before the first or after the last of each. Where one follows another, each counts from
    /// where the one before it ended. `None` without a counter that was read in or around the window.
    #[must_use]
    pub fn running_ms(&self, asset: u32, window: Span) -> Option<(i64, Vec<Span>)> {
        let mut running: Option<(i64, Vec<Span>)> = None;
        let mut counted_to = Instant::EARLIEST;
        for counter in self.running.get(&asset)? {
            let Some(covers) = counter.covers() else { continue };
            let part = Span::new(covers.start().max(counted_to), covers.end()).ok().and_then(|part| part.clip(window));
            if let Some(part) = part {
                let hours = hours_at(&counter.readings, part.end()) - hours_at(&counter.readings, part.start());
                let (ms, covered) = running.get_or_insert_default();
                *ms += (hours * HOUR as f64).round() as i64;
                covered.push(part);
            }
            counted_to = counted_to.max(covers.end());
        }
        running
    }

    /// Hours in milliseconds that each crew spent in a window, by its number; they are counted where they are not known.
    pub fn crew_hours(&self, window: Span, count: impl FnOnce() -> Vec<i64>) -> Arc<Vec<i64>> {
        let before = [window.start(), window.end()].map(|at| self.entries.before((at, EntryId(0))));
        let stamps = [self.entries.stamp(), self.spent.stamp(), self.works.stamp(), self.fields.stamp()];
        self.crew_hours.of((before, stamps), count)
    }

    /// The last step of a work order by an instant; `None` before it was raised.
    #[must_use]
    pub fn step_at(&self, work: WorkOrderId, at: Instant) -> Option<MoveFact> {
        let mut found = None;
        for (part, steps) in of_work(self.moves.parts_from((work, 0)), |part: &Moves| &part.work, work) {
            let by_then = steps.take_while(|step| part.at.of(*step) <= at.ms()).last();
            found = by_then.map(|last| part.row(last)).or(found);
        }
        found
    }

    /// The steps of a work order that take hours, where one of them names an asset.
    pub fn steps_of(&self, work: WorkOrderId) -> impl Iterator<Item = StepFact> {
        let found = self.steps.between((work, 0), (after(work), 0));
        found.flat_map(|(part, places)| places.map(|place| part.row(place)))
    }

    /// The state of a work order as of an instant; `None` before it was raised.
    #[must_use]
    pub fn state_at(&self, work: WorkOrderId, at: Instant) -> Option<WorkState> {
        self.step_at(work, at).map(|step| step.to)
    }

    /// By the number of a state whether there is a limit on it.
    #[must_use]
    pub fn limited_states(&self) -> Vec<bool> {
        WorkState::ALL.iter().map(|state| self.state_limits.iter().any(|limit| limit.state == *state)).collect()
    }

    /// Whether an order stands longer in its state than some limit lets it, as of an instant.
    #[must_use]
    pub fn order_is_over_limit(&self, number: WorkOrderId, at: Instant) -> bool {
        let found = self.works.order(number.pack());
        found.is_some_and(|(part, place)| self.is_over_limit(part, place, Standing::now(part, place), at))
    }

    /// Whether work, as it stood at an instant, stood longer in its state than some limit lets it. The one answer for orders, lists,
    /// tally and backlog.
    #[must_use]
    pub fn is_over_limit(&self, part: &Works, place: usize, work: Standing, at: Instant) -> bool {
        if self.state_limits.iter().all(|limit| limit.state != work.state) {
            return false;
        }
        let crew = work.crew.and_then(|crew| Names::find(&self.names.crews, crew.0));
        let Standing { state, since, waiting_for, is_dated, rank, .. } = work;
        let work = InState { state, waiting_for, is_dated, rank, crew: crew.map(|crew| crew.code.as_str()) };
        let (raised_at, number) = (Instant::unpack(part.raised_at.of(place)), WorkOrderId::unpack(part.number[place]));
        let is_exceeded = |limit: &StateLimit| {
            let allowed = limit.allowed_ms();
            // What stands there since then has been there as long; what is younger than that can't have.
            at.since(since) > allowed
                || at.since(raised_at) > allowed
                    && limit.stood_ms(&self.steps_until(number, at), at, self.stay_gap_days) > allowed
        };
        self.state_limits.iter().any(|limit| limit.applies_to(work) && is_exceeded(limit))
    }

    /// The steps of an order by an instant, in order.
    fn steps_until(&self, work: WorkOrderId, at: Instant) -> Vec<StateStep> {
        let found = of_work(self.moves.parts_from((work, 0)), |part: &Moves| &part.work, work);
        let steps = found.flat_map(|(part, steps)| steps.map(|step| part.row(step)));
        let by_then = steps.take_while(|step| step.at <= at);
        by_then.map(|MoveFact { at, to, waiting_for, .. }| StateStep { at, to, waiting_for }).collect()
    }

    /// The problem of each order, by its id: that of the first of its failures that has one.
    #[must_use]
    pub fn problem_of_work(&self) -> ByWork<i64> {
        let mut problems = ByWork::new(&self.works, NONE);
        self.each_problem_of_work(Instant::LATEST, |work, problem| {
            if problems.of(work) == NONE {
                problems.put(work, i64::from(problem));
            }
        });
        problems
    }

    /// Each problem that was found on an order by an instant, by its number; the first of an order is its own.
    pub fn each_problem_of_work(&self, until: Instant, mut each: impl FnMut(u32, u32)) {
        let none = Option::<crate::ground::ids::CodeId>::None.pack();
        for part in self.failures.parts() {
            let had = (0..part.len()).filter(|place| part.problem[*place] != none);
            for place in had.filter(|place| part.at.of(*place) <= until.ms()) {
                each(part.work[place], part.problem[place]);
            }
        }
    }

    /// When recorded downtime counts: open downtime up to `now`, and none beyond the life of its asset.
    #[must_use]
    pub fn lasted(&self, fact: &DowntimeFact, now: Instant) -> Option<Span> {
        self.in_life(fact.asset, Span::new(fact.start, fact.end.min(now)).ok()?)
    }

    fn in_life(&self, asset: u32, span: Span) -> Option<Span> {
        match self.tree.lives_always(asset as usize) {
            true => Some(span),
            false => span.clip(self.tree.node(asset as usize).life),
        }
    }

    /// When something stood for which an order was raised, each asset for itself: its unplanned downtime, open downtime up to `now`.
    pub(super) fn unplanned_of(&self, work: WorkOrderId, now: Instant) -> Vec<(u32, Span)> {
        let first = |work| (work, Instant::EARLIEST, DowntimeId(0));
        let down = self.down_of_work.between(first(work), first(after(work)));
        let down = down.flat_map(|(part, places)| places.map(|place| part.row(place)));
        let unplanned = down.filter(|down| down.kind == DowntimeKind::Unplanned);
        let spans = unplanned.filter_map(|down| {
            let span = self.in_life(down.asset, Span::new(down.start, down.end.min(now)).ok()?)?;
            Some((down.asset, span))
        });
        spans.collect()
    }

    /// When there was an entry last; none where there was none.
    #[must_use]
    pub fn last_entry(&self) -> Option<Instant> {
        let last = self.entries.parts().last()?;
        Some(Instant::unpack(last.at.of(last.len().checked_sub(1)?)))
    }

    /// Hours spent on a work order up to an instant, in milliseconds.
    #[must_use]
    pub fn spent_ms(&self, work: WorkOrderId, up_to: Instant) -> i64 {
        let parts = self.spent.parts_from((work, Instant::EARLIEST, EntryId(0)));
        let of_part = |(part, places): (&Spent, Range<usize>)| -> i64 {
            let by_then = places.take_while(|place| part.at.of(*place) <= up_to.ms());
            by_then.map(|place| part.hours_ms.of(place)).sum()
        };
        of_work(parts, |part| &part.work, work).map(of_part).sum()
    }
}

/// Where a work order stands, as limits on states look at it.
#[derive(Debug, Clone, Copy)]
pub struct Standing {
    pub state: WorkState,
    pub since: Instant,
    pub waiting_for: Option<WaitingFor>,
    pub is_dated: bool,
    pub rank: u8,
    pub crew: Option<CrewId>,
}

impl Standing {
    /// Where one stands now.
    #[must_use]
    pub fn now(part: &Works, place: usize) -> Self {
        Self {
            state: WorkState::unpack(part.state[place]),
            since: Instant::unpack(part.state_since.of(place)),
            waiting_for: Option::unpack(part.waiting_for[place]),
            is_dated: part.scheduled_start.of(place) != NONE,
            rank: part.rank[place],
            crew: Option::unpack(part.crew[place]),
        }
    }
}

fn hours_at(readings: &[(Instant, f64)], at: Instant) -> f64 {
    let after = readings.partition_point(|(when, _)| *when <= at);
    let Some(&(before_at, before)) = after.checked_sub(1).and_then(|i| readings.get(i)) else {
        return readings.first().map_or(0.0, |r| r.1);
    };
    let Some(&(after_at, later)) = readings.get(after) else { return before };
    let share = at.since(before_at) as f64 / after_at.since(before_at) as f64;
    before + (later - before) * share
}

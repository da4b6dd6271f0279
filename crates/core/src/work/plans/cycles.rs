//! The cycles of upkeep: which there are from now on, which are due, which are missed.
//!
//! A cycle has a number, counted for each plan and asset from 1; the newest that was *settled* (its work raised, or missed) says
//! where the next one counts from. So no cycle is ever raised twice, whatever the clock does.

use super::{recurrence::CountsFrom, recurrence::Recurrence};
use jiff::{ToSpan, civil::Date};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// The newest cycle that was settled.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Settled {
    pub number: i64,
    /// Before any move.
    pub due: Date,
    /// The count at which it was due, of a counter.
    pub mark: Option<f64>,
}

/// When work was last done.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LastDone {
    pub on: Date,
    /// What the counter read.
    pub count: Option<f64>,
}

/// A counter and how much it is used. Low and high bound the use a day.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct CounterUse {
    pub on: Date,
    pub count: f64,
    pub per_day: f64,
    pub low: f64,
    pub high: f64,
}

/// Where a plan stands on an asset.
#[derive(Debug, Clone, PartialEq)]
pub struct Standing {
    /// What was due before it was set up is none of its cycles.
    pub since: Date,
    pub settled: Option<Settled>,
    /// When the work of the settled cycle is to be done, while that is open.
    pub open: Option<Date>,
    /// Of the settled cycle, or of one before it while that is open; none where the settled one was missed or its work dropped.
    pub done: Option<LastDone>,
    /// Cycles ahead that were moved, by number.
    pub moved: BTreeMap<i64, Date>,
    pub counter: Option<CounterUse>,
}

/// What makes a cycle due.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum DueBy {
    Days,
    Counter,
}

/// A cycle ahead.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Cycle {
    pub number: i64,
    /// Before any move: a counter's by its use until now.
    pub due: Date,
    /// When it is to be done: as it was moved, or when it is due.
    pub on: Date,
    pub by: DueBy,
    pub mark: Option<f64>,
    /// Between these it falls due by a counter whose use goes on within its bounds.
    pub earliest: Date,
    pub latest: Date,
}

/// What the clock does of a plan.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct ToSettle {
    pub missed: Vec<Cycle>,
    pub raise: Option<Cycle>,
}

/// What became of a cycle.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum CycleOutcome {
    /// Its work was raised.
    Raised,
    Missed,
}

crate::kept_as_words!(CycleOutcome);

impl CycleOutcome {
    /// All there are.
    pub const ALL: [Self; 2] = [Self::Raised, Self::Missed];
}

/// Cycles looked at in one go.
const MOST_CYCLES: usize = 2_000;

fn plus(date: Date, days: f64) -> Date {
    // Beyond what anybody plans all is equally far.
    date.saturating_add((days.clamp(-400_000.0, 400_000.0) as i64).days())
}

fn days_between(from: Date, to: Date) -> i64 {
    from.until(to).map_or(0, |span| i64::from(span.get_days()))
}

/// Where cycles count from, as far as they have come.
#[derive(Clone, Copy)]
struct Before {
    settled: Option<Settled>,
    done: Option<LastDone>,
}

/// Of one cycle: when a counter makes it due, at which count.
struct ByCounter {
    mark: f64,
    due: Date,
    earliest: Date,
    latest: Date,
}

impl Recurrence {
    fn by_days(&self, before: Before, since: Date) -> Option<Date> {
        let (every, first) = (i64::from(self.every_days?), self.first_due?);
        if self.counts_from == CountsFrom::LastDone {
            let due = match (before.done, before.settled) {
                (Some(done), _) => done.on.saturating_add(every.days()),
                (None, Some(settled)) => settled.due.saturating_add(every.days()),
                (None, None) => first,
            };
            return Some(self.season.map_or(due, |season| season.at_or_after(due)));
        }
        // At least half an interval after the one before, however the dates were moved since.
        let least = match before.settled {
            Some(settled) => settled.due.saturating_add((every / 2 + 1).days()),
            None => since,
        };
        let missing = days_between(first, least).max(0);
        let mut due = first.saturating_add((missing.div_euclid(every) * every).days());
        while due < least || self.season.is_some_and(|season| !season.contains(due)) {
            let next = due.saturating_add(every.days());
            if next == due || days_between(least, next) > 100 * 366 {
                return None;
            }
            due = next;
        }
        Some(due)
    }

    fn by_counter(&self, before: Before, counter: Option<CounterUse>) -> Option<ByCounter> {
        let (every, counter) = (self.every_units?, counter?);
        let first = self.first_count.unwrap_or(every);
        let last_done = self.counts_from == CountsFrom::LastDone;
        let mark = match (before.done.and_then(|done| done.count), before.settled.and_then(|settled| settled.mark)) {
            (Some(done), _) if last_done => done + every,
            (_, Some(mark)) if last_done => mark + every,
            (_, Some(mark)) => first + ((mark - first) / every + 0.5).floor().mul_add(every, every),
            (_, None) => first,
        };
        let left = mark - counter.count;
        let reached = |per_day: f64| {
            if left <= 0.0 {
                Some(counter.on)
            } else if per_day > 0.0 {
                Some(plus(counter.on, (left / per_day).ceil()))
            } else {
                None
            }
        };
        let due = reached(counter.per_day)?;
        let in_season = |date: Date| self.season.map_or(date, |season| season.at_or_after(date));
        Some(ByCounter {
            mark,
            due: in_season(due),
            earliest: in_season(reached(counter.high).unwrap_or(due).min(due)),
            latest: in_season(reached(counter.low).unwrap_or(Date::MAX).max(due)),
        })
    }

    /// The cycle after what came before.
    fn next(&self, before: Before, standing: &Standing) -> Option<Cycle> {
        let number = before.settled.map_or(1, |settled| settled.number + 1);
        let days = self.by_days(before, standing.since);
        let counter = self.by_counter(before, standing.counter);
        let mark = counter.as_ref().map(|counter| counter.mark);
        let cycle = |due, by, earliest, latest| Cycle { number, due, on: due, by, mark, earliest, latest };
        let cycle = match (days, counter) {
            (Some(due), Some(counter)) if counter.due < due => {
                cycle(counter.due, DueBy::Counter, counter.earliest, counter.latest.min(due))
            }
            (Some(due), Some(counter)) => cycle(due, DueBy::Days, due.min(counter.earliest), due),
            (Some(due), None) => cycle(due, DueBy::Days, due, due),
            (None, Some(counter)) => cycle(counter.due, DueBy::Counter, counter.earliest, counter.latest),
            (None, None) => return None,
        };
        Some(Cycle { on: standing.moved.get(&number).copied().unwrap_or(cycle.due), ..cycle })
    }

    /// The cycles from now on that are to be done by a date, in order. Work that is counted from when it was last done is taken
    /// to be done on its day, or today where that is over.
    #[must_use]
    pub fn ahead(&self, standing: &Standing, today: Date, until: Date) -> Vec<Cycle> {
        let mut ahead = self.due_or_moved(standing, today, until);
        ahead.retain(|cycle| cycle.on <= until);
        ahead
    }

    /// Of a plan counted from when it was last done, after a cycle that was missed (its work was dropped): the dates that are over
    /// by now, each missed as well, and where the next one counts from.
    fn passed_over(&self, standing: &Standing, today: Date) -> (Vec<Cycle>, Before) {
        let mut before = Before { settled: standing.settled, done: standing.done };
        let mut passed = Vec::new();
        let counts = self.counts_from == CountsFrom::LastDone
            && standing.open.is_none()
            && standing.done.is_none()
            && standing.settled.is_some();
        let is_over = |cycle: &Cycle| match (cycle.by, cycle.mark, standing.counter) {
            // Where the next is reached as well, this one is over.
            (DueBy::Counter, Some(mark), Some(counter)) => mark + self.every_units.unwrap_or(f64::MAX) <= counter.count,
            _ => cycle.on < today,
        };
        while counts
            && passed.len() < MOST_CYCLES
            && let Some(cycle) = self.next(before, standing).filter(is_over)
        {
            before.settled = Some(Settled { number: cycle.number, due: cycle.due, mark: cycle.mark });
            passed.push(cycle);
        }
        (passed, before)
    }

    /// The cycles from now on that are due by a date, or moved to one before it, in order.
    fn due_or_moved(&self, standing: &Standing, today: Date, until: Date) -> Vec<Cycle> {
        let (_, mut before) = self.passed_over(standing, today);
        let counted_on = |date: Date| {
            let counter = standing.counter?;
            Some(counter.per_day.mul_add(days_between(counter.on, date).max(0) as f64, counter.count))
        };
        let done_on = |date: Date| {
            let on = date.max(today);
            LastDone { on, count: counted_on(on) }
        };
        if let Some(open) = standing.open {
            before.done = Some(done_on(open));
        }
        let mut found = Vec::new();
        while found.len() < MOST_CYCLES
            && let Some(cycle) = self.next(before, standing)
        {
            if cycle.on.min(cycle.due) > until {
                break;
            }
            before.settled = Some(Settled { number: cycle.number, due: cycle.due, mark: cycle.mark });
            before.done = Some(done_on(cycle.on));
            found.push(cycle);
        }
        found
    }

    /// The cycle whose turn it is, however far ahead it lies; one that nobody knows a day for is for today.
    #[must_use]
    pub fn next_cycle(&self, standing: &Standing, today: Date) -> Cycle {
        let before = Before { settled: standing.settled, done: standing.done };
        self.next(before, standing).unwrap_or(Cycle {
            number: before.settled.map_or(1, |settled| settled.number + 1),
            due: today,
            on: today,
            by: DueBy::Counter,
            mark: None,
            earliest: today,
            latest: today,
        })
    }

    /// What is to be done today: the cycle whose work is to be raised, and those that are missed by now. Of several whose day has
    /// come, while nobody looked or the work before was open, the newest is raised and the others are missed; so is one that was
    /// moved beyond a later one. While work of the plan is open no other is raised.
    #[must_use]
    pub fn to_settle(&self, standing: &Standing, today: Date) -> ToSettle {
        if self.counts_from == CountsFrom::LastDone {
            // One cycle at a time.
            let (missed, before) = self.passed_over(standing, today);
            let due = |cycle: &Cycle| self.raise_on(cycle) <= today;
            let raise = if standing.open.is_none() { self.next(before, standing).filter(due) } else { None };
            return ToSettle { missed, raise };
        }
        let until = today.saturating_add(i64::from(self.lead_days).days());
        let mut due = self.due_or_moved(standing, today, until);
        let come = due.iter().rposition(|cycle| cycle.on <= today);
        if standing.open.is_some() {
            due.truncate(come.map_or(0, |newest| newest + 1));
            return ToSettle { missed: due, raise: None };
        }
        let newest = come.or_else(|| due.iter().position(|cycle| cycle.on <= until));
        due.truncate(newest.map_or(0, |newest| newest + 1));
        let raise = due.pop();
        ToSettle { missed: due, raise }
    }

    /// The date on which the work of a cycle is raised.
    #[must_use]
    pub fn raise_on(&self, cycle: &Cycle) -> Date {
        cycle.on.saturating_sub(i64::from(self.lead_days).days())
    }
}

/// Whether a cycle was done in time: by the date before any move and a tenth of its interval, given in days.
#[must_use]
pub fn is_in_time(due: Date, grace_days: u32, done: Option<Date>) -> bool {
    done.is_some_and(|done| done <= due.saturating_add(i64::from(grace_days).days()))
}

#[cfg(test)]
#[path = "cycles_tests.rs"]
mod tests;

//! Work that was raised, completed, or stood in a week's schedule.

use super::{Contribution, Measure, open::work_row};
use crate::{
    facts::{FieldsFact, Snapshot, Works, columns::Part, packed::Packed},
    ground::{
        ids::WorkOrderId,
        period::midnight,
        time::{DAY, Instant, Span},
    },
    tally::{Question, indicators::TraceRow},
    work::WorkKind,
};
use jiff::ToSpan;

/// Kinds there are: the first so many cells of measures by kind.
const KINDS: usize = 6;

/// The asset and the kind of an order at an instant.
fn asset_and_kind(facts: &Snapshot, part: &Works, place: usize, at: Instant) -> (u32, u8) {
    let fields = part.changed[place].then(|| facts.fields_at(WorkOrderId::unpack(part.number[place]), at)).flatten();
    fields.map_or((part.asset[place], part.kind[place]), |fields| (fields.asset, fields.kind.pack()))
}

/// Work that was raised in the period, by kind.
pub(in crate::tally) struct Raised;

impl Measure for Raised {
    type Rows = Works;
    const CELLS: usize = KINDS;

    fn window(&self, _: &Snapshot, q: Question) -> Span {
        q.period
    }

    fn each(
        &self,
        facts: &Snapshot,
        q: Question,
        counts: impl Fn(u32) -> bool,
        mut found: impl FnMut(&Works, usize, Contribution),
    ) {
        let period = q.period.start().ms()..q.period.end().ms();
        for part in facts.works.beginning(q.period) {
            part.raised_at.within(period.clone(), |place, at| {
                let at = Instant::unpack(at);
                let (asset, kind) = asset_and_kind(facts, part, place, at);
                if counts(asset) {
                    let work = part.number[place];
                    found(part, place, Contribution { asset, at, cell: usize::from(kind), amount: 1, work });
                }
            });
        }
    }

    fn row(&self, facts: &Snapshot, _: Question, part: &Works, place: usize, one: Contribution) -> TraceRow {
        work_row(facts, part, place, one)
    }
}

/// Work that was done first in the period: by kind, and the hours spent on it by kind; of what had an estimate that and the hours
/// spent; how long it took since it was raised; what was corrective, and of that what is coded in full.
pub(in crate::tally) struct Completed;

impl Completed {
    pub(in crate::tally) const HOURS: usize = KINDS;
    pub(in crate::tally) const ESTIMATED_MS: usize = 2 * KINDS;
    pub(in crate::tally) const ACTUAL_MS: usize = 2 * KINDS + 1;
    pub(in crate::tally) const CYCLE_MS: usize = 2 * KINDS + 2;
    pub(in crate::tally) const CORRECTIVE: usize = 2 * KINDS + 3;
    pub(in crate::tally) const CODED: usize = 2 * KINDS + 4;
}

impl Measure for Completed {
    type Rows = Works;
    const CELLS: usize = 2 * KINDS + 5;

    fn window(&self, _: &Snapshot, q: Question) -> Span {
        q.period
    }

    fn each(
        &self,
        facts: &Snapshot,
        q: Question,
        counts: impl Fn(u32) -> bool,
        mut found: impl FnMut(&Works, usize, Contribution),
    ) {
        let period = q.period.start().ms()..q.period.end().ms();
        for part in facts.works.overlapping(q.period) {
            part.done_at.within(period.clone(), |place, at| {
                let at = Instant::unpack(at);
                let (asset, _) = asset_and_kind(facts, part, place, at);
                if !counts(asset) {
                    return;
                }
                let work = part.number[place];
                // What it was completed as is what was recorded by then.
                let recorded = part.changed[place].then(|| facts.fields_recorded_by(WorkOrderId::unpack(work), at));
                let (kind, estimated_ms) = match recorded.flatten() {
                    Some(fields) => (fields.kind.pack(), fields.estimated_ms),
                    None => (part.kind[place], Option::unpack(part.estimated_ms.of(place))),
                };
                let spent = part.spent_ms.of(place);
                let mut adds = |cell, amount| found(part, place, Contribution { asset, at, cell, amount, work });
                adds(usize::from(kind), 1);
                adds(Self::HOURS + usize::from(kind), spent);
                adds(Self::CYCLE_MS, at.ms() - part.raised_at.of(place));
                if let Some(estimated_ms) = estimated_ms {
                    adds(Self::ESTIMATED_MS, estimated_ms);
                    adds(Self::ACTUAL_MS, spent);
                }
                if WorkKind::unpack(kind).is_corrective() {
                    adds(Self::CORRECTIVE, 1);
                    if part.coded[place] {
                        adds(Self::CODED, 1);
                    }
                }
            });
        }
    }

    fn row(&self, facts: &Snapshot, _: Question, part: &Works, place: usize, one: Contribution) -> TraceRow {
        work_row(facts, part, place, one)
    }
}

/// Work in the schedules of weeks that began in the period and are over: what was to begin in a week, as it was recorded by the time
/// that began, and was not done by then; and what of it was done in that week. Weeks begin on Mondays (ISO 8601).
pub(in crate::tally) struct Scheduled;

impl Scheduled {
    pub(in crate::tally) const ALL: usize = 0;
    pub(in crate::tally) const DONE: usize = 1;
}

/// The weeks that began in a period and are over by an instant, one after the other, and from when to when they last.
struct Weeks {
    weeks: Vec<Span>,
    from: i64,
    to: i64,
}

impl Weeks {
    fn new(facts: &Snapshot, q: Question) -> Self {
        let mut weeks = Vec::new();
        let date = q.period.start().in_zone(&facts.zone).date();
        let mut monday = date.saturating_sub(i64::from(date.weekday().to_monday_zero_offset()).days());
        loop {
            let next = monday.saturating_add(7.days());
            let (start, end) = (midnight(monday, &facts.zone), midnight(next, &facts.zone));
            if start >= q.period.end() || end > q.now || next <= monday {
                let from = weeks.first().map_or(i64::MAX, |week: &Span| week.start().ms());
                let to = weeks.last().map_or(i64::MAX, |week| week.end().ms());
                return Self { weeks, from, to };
            }
            weeks.extend(Span::new(start, end).ok().filter(|_| start >= q.period.start()));
            monday = next;
        }
    }

    /// The one that an instant lies in, in milliseconds.
    #[inline]
    fn of(&self, ms: i64) -> Option<Span> {
        if ms < self.from || ms >= self.to {
            return None;
        }
        // All but those in which clocks are changed are as long.
        let guessed = ((ms - self.from) / (7 * DAY)) as usize;
        let near = [guessed, guessed.wrapping_sub(1), guessed + 1];
        near.iter()
            .filter_map(|week| self.weeks.get(*week))
            .find(|week| week.start().ms() <= ms && ms < week.end().ms())
            .copied()
    }
}

impl Measure for Scheduled {
    type Rows = Works;
    const CELLS: usize = 2;

    fn window(&self, _: &Snapshot, q: Question) -> Span {
        q.period
    }

    fn each(
        &self,
        facts: &Snapshot,
        q: Question,
        counts: impl Fn(u32) -> bool,
        mut found: impl FnMut(&Works, usize, Contribution),
    ) {
        let weeks = Weeks::new(facts, q);
        for part in facts.works.overlapping(q.period) {
            let mut in_week = |place: usize, week: Span, asset: u32| {
                // What was not done yet is open, unless it was dropped, and that is for good.
                let is_there = part.raised_at.of(place) < week.start().ms()
                    && part.done_at.of(place) >= week.start().ms()
                    && part.until.of(place) > week.start().ms();
                if is_there {
                    let (at, work) = (week.start(), part.number[place]);
                    let mut adds = |cell| found(part, place, Contribution { asset, at, cell, amount: 1, work });
                    adds(Self::ALL);
                    if part.done_at.of(place) < week.end().ms() {
                        adds(Self::DONE);
                    }
                }
            };
            part.scheduled_start.within(weeks.from..weeks.to, |place, start| {
                if !part.changed[place] && counts(part.asset[place]) {
                    let week = weeks.of(start);
                    week.into_iter().for_each(|week| in_week(place, week, part.asset[place]));
                }
            });
            for place in (0..part.len()).filter(|place| part.changed[*place]) {
                let number = WorkOrderId::unpack(part.number[place]);
                // Each week that some version names, if that is the version that held when the week began.
                let mut held_in: Vec<(Span, FieldsFact)> = Vec::new();
                for version in facts.versions(number) {
                    let week = version.scheduled_start.and_then(|start| weeks.of(start.ms()));
                    let Some(week) = week.filter(|week| held_in.iter().all(|(known, _)| known != week)) else {
                        continue;
                    };
                    if let Some(held) = facts.fields_recorded_by(number, week.start())
                        && held.scheduled_start.is_some_and(|start| week.contains(start))
                    {
                        held_in.push((week, held));
                    }
                }
                held_in.into_iter().for_each(|(week, held)| in_week(place, week, held.asset));
            }
        }
    }

    fn row(&self, facts: &Snapshot, _: Question, part: &Works, place: usize, one: Contribution) -> TraceRow {
        work_row(facts, part, place, one)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{ground::time::HOUR, plant::assets::Basis};
    use rstest::rstest;

    /// Each hour of three years and whatever week holds it, looked for among all: where clocks are put on and back, and where a
    /// whole day was left out (2011-12-30, as the time zone database has it).
    #[rstest]
    #[case::clocks_are_changed("Europe/Berlin", "2023-12-20T00:00:00Z")]
    #[case::a_day_is_left_out("Pacific/Apia", "2009-12-20T00:00:00Z")]
    fn a_week_that_is_guessed_is_the_one_that_holds_the_instant(#[case] zone: &str, #[case] from: &str) {
        let from = Instant::parse(from).unwrap();
        let to = from.plus(3 * 366 * DAY);
        let facts = Snapshot { zone: jiff::tz::TimeZone::get(zone).unwrap(), ..Snapshot::default() };
        let q = Question { period: Span::new(from, to).unwrap(), now: to, basis: Basis::AsWas };
        let weeks = Weeks::new(&facts, q);
        assert!(weeks.weeks.len() > 150);
        for hour in -200..3 * 366 * 24 + 200 {
            let at = from.plus(hour * HOUR);
            let held = weeks.weeks.iter().find(|week| week.contains(at)).copied();
            assert_eq!(weeks.of(at.ms()), held, "{at:?}");
        }
    }
}

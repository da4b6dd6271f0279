//! Facts as they were at an instant, by what had been recorded by another.

use super::{
    AlarmFact, Alarms, ByWork, DowntimeFact, Downtimes, Entries, EntryFact, Failures, FieldsFact, Life, MoveFact,
    Moves, Snapshot, StepFact, WorkFact,
    changes::down_of_work,
    columns::{Columns, Part},
    hours_ms,
    outcomes::{closed_since, coded, first_done},
    packed::Packed,
};
use crate::{
    access::refusal::Refusal,
    ground::{
        ids::{EntryId, WorkOrderId},
        time::Instant,
    },
    work::WorkState,
};
use rustc_hash::FxHashSet;

/// As of when facts are asked for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct AsOf {
    /// Nothing later has happened.
    pub at: Instant,
    /// Nothing that was recorded later is known.
    pub known: Instant,
}

impl AsOf {
    /// What somebody asks for at `now`; `None` where that is today's. Without an instant of its own it is asked as of when it was
    /// known.
    ///
    /// # Errors
    /// [`Refusal::Field`] for what lies ahead, or before anything there is.
    pub fn asked(now: Instant, as_of: Option<Instant>, known_at: Option<Instant>) -> Result<Option<Self>, Refusal> {
        for (field, at) in [("as_of", as_of), ("known_at", known_at)] {
            if at.is_some_and(|at| at > now) {
                return Err(Refusal::field(field, "lies ahead: nothing is known of it yet"));
            }
            if at.is_some_and(|at| at < Instant::EARLIEST_EVENT) {
                return Err(Refusal::field(field, "lies before 1950: nothing is recorded of it"));
            }
        }
        let at = as_of.or(known_at);
        Ok(at.map(|at| Self { at, known: known_at.unwrap_or(Instant::LATEST) }))
    }

    fn has(self, at: Instant, recorded_at: Instant) -> bool {
        at <= self.at && recorded_at <= self.known
    }

    /// Whether something had happened by then, and was recorded only afterwards.
    fn came_late(self, at: Instant, recorded_at: Instant) -> bool {
        at <= self.at && recorded_at > self.known
    }
}

/// Hours and money of an order that had not been spent, or were not known.
type Unspent = (i64, i64);

/// What became of orders afterwards, and which were coded then.
struct Since {
    unspent: ByWork<Unspent>,
    moved: ByWork<bool>,
    coded: FxHashSet<u32>,
}

impl Snapshot {
    /// Puts downtime, failures and alarms as they were known in place of those that are.
    pub fn put_known(&mut self, downtimes: Columns<Downtimes>, failures: Columns<Failures>, alarms: Columns<Alarms>) {
        (self.downtimes, self.failures, self.alarms) = (downtimes, failures, alarms);
    }

    /// The facts as they were. Work stands in the state, and has the fields, the hours and the cost, that it had then; what lasted
    /// beyond is open. Names are today's. Of the plant, downtime and failures it is asked of the database what was known then:
    /// here only what was recorded later goes.
    #[must_use]
    pub fn as_of(&self, then: AsOf) -> Self {
        let downtimes = self.downtimes.mapped(|row| {
            let end = if row.end > then.at { Instant::LATEST } else { row.end };
            then.has(row.start, row.recorded_at).then_some(DowntimeFact { end, ..row })
        });
        let late: FxHashSet<EntryId> = each(&self.entries)
            .filter(|(part, place)| {
                then.came_late(Instant::unpack(part.at.of(*place)), Instant::unpack(part.recorded_at.of(*place)))
            })
            .map(|(part, place)| EntryId::unpack(part.id[place]))
            .collect();
        let past = Self {
            down_of_work: down_of_work(&downtimes),
            downtimes,
            entries: self.entries_as_of(then),
            spent: self.spent.mapped(|row| (row.at <= then.at && !late.contains(&row.id)).then_some(row)),
            failures: self.failures.mapped(|row| then.has(row.at, row.recorded_at).then_some(row)),
            alarms: self.alarms.mapped(|row| alarm_as_of(then, row)),
            cycles: self.cycles.mapped(|row| then.has(row.recorded_at, row.recorded_at).then_some(row)),
            moves: self.moves.mapped(|row| then.has(row.at, row.recorded_at).then_some(row)),
            fields: self.fields.mapped(|row| then.has(row.since, row.recorded_at).then_some(row)),
            steps: self.steps.mapped(|row| {
                let is_settled = then.has(row.settled_at, row.settled_at);
                Some(StepFact { settled_at: if is_settled { row.settled_at } else { Instant::LATEST }, ..row })
            }),
            ..self.clone()
        };
        let since = Since {
            unspent: self.unspent(then),
            moved: self.moved_since(then),
            coded: coded(&past.failures, |_| true),
        };
        let works = self.works.mapped(|row| past.work_as_of(then, row, &since));
        let life = Life::of(&past.entries, &past.tree, &[]);
        Self { works, life, ..past }
    }

    /// Entries there were, settled as they were: not by an end of their work that nobody knew of.
    fn entries_as_of(&self, then: AsOf) -> Columns<Entries> {
        let ends = [WorkState::Closed.pack(), WorkState::Dropped.pack()];
        let unknown: FxHashSet<(u32, i64)> = each(&self.moves)
            .filter(|(part, place)| {
                ends.contains(&part.to[*place])
                    && then.came_late(Instant::unpack(part.at.of(*place)), Instant::unpack(part.recorded_at.of(*place)))
            })
            .map(|(part, place)| (part.work[place], part.at.of(place)))
            .collect();
        self.entries.mapped(|row| {
            let is_settled = row.settled_at <= then.at && !unknown.contains(&(row.work.pack(), row.settled_at.ms()));
            let settled_at = if is_settled { row.settled_at } else { Instant::LATEST };
            then.has(row.at, row.recorded_at).then_some(EntryFact { settled_at, ..row })
        })
    }

    fn unspent(&self, then: AsOf) -> ByWork<Unspent> {
        let mut unspent = ByWork::new(&self.works, (0, 0));
        for (part, place) in each(&self.entries) {
            if !then.has(Instant::unpack(part.at.of(place)), Instant::unpack(part.recorded_at.of(place)))
                && let Some((ms, cents)) = unspent.of_mut(part.work[place])
            {
                *ms += hours_ms(part, place);
                *cents += part.cost.of(place);
            }
        }
        unspent
    }

    /// Orders that were moved afterwards.
    fn moved_since(&self, then: AsOf) -> ByWork<bool> {
        let mut moved = ByWork::new(&self.works, false);
        for (part, place) in each(&self.moves) {
            if !then.has(Instant::unpack(part.at.of(place)), Instant::unpack(part.recorded_at.of(place))) {
                moved.put(part.work[place], true);
            }
        }
        moved
    }

    /// A work order as it was, with moves and fields as they were.
    fn work_as_of(&self, then: AsOf, row: WorkFact, since: &Since) -> Option<WorkFact> {
        if !then.has(row.raised_at, row.recorded_at) {
            return None;
        }
        let number = row.number.pack();
        let (ms, cents) = since.unspent.of(number);
        let mut work = WorkFact { spent_ms: row.spent_ms - ms, coded: since.coded.contains(&number), ..row };
        work.cost.0 -= cents;
        if row.changed
            && let Some(fields) = self.fields_at(row.number, then.at)
        {
            work = work.with(&fields);
        }
        if since.moved.of(number) {
            let way: Vec<MoveFact> = self.steps(row.number).collect();
            let last = way.last()?;
            (work.state, work.state_since, work.waiting_for) = (last.to, last.at, last.waiting_for);
            work.until = closed_since(way.iter().map(|step| (step.at, step.to)));
            work.done_at = first_done(way.iter().map(|step| (step.at, step.to)));
            // Who is asked and until when it waits is only known as long as that stands; the verdict was given with the finish.
            (work.asked, work.expected_until) = (None, None);
            work.verdict = work.verdict.filter(|_| way.iter().any(|step| step.to == WorkState::Done));
        }
        Some(work)
    }

    /// The steps of a work order through the states, in order.
    fn steps(&self, work: WorkOrderId) -> impl Iterator<Item = MoveFact> {
        let found = self.moves.between((work, 0), (WorkOrderId(work.0 + 1), 0));
        found.flat_map(|(part, steps): (&Moves, _)| steps.map(|step| part.row(step)))
    }

    /// The versions of the fields of a work order that was changed, in order.
    pub fn versions(&self, work: WorkOrderId) -> impl Iterator<Item = FieldsFact> {
        let found = self.fields.between((work, 0), (WorkOrderId(work.0 + 1), 0));
        found.flat_map(|(part, places)| places.map(|place| part.row(place)))
    }

    /// Calls `found` with what the fields of each work order that was changed were at an instant, as [`Self::fields_at`] says.
    pub fn each_fields_at(&self, at: Instant, mut found: impl FnMut(&FieldsFact)) {
        let mut held: Option<FieldsFact> = None;
        for version in self.fields.rows() {
            match &held {
                Some(before) if before.work == version.work && version.since > at => {}
                Some(before) if before.work == version.work => held = Some(version),
                before => {
                    before.iter().for_each(&mut found);
                    held = Some(version);
                }
            }
        }
        held.iter().for_each(found);
    }

    /// What was recorded by an instant of the fields of a work order that was changed: its newest version of those that held and were
    /// written by then; its first before that. What is written later about the past changes nothing that was closed with it.
    #[must_use]
    pub fn fields_recorded_by(&self, work: WorkOrderId, at: Instant) -> Option<FieldsFact> {
        let mut held: Option<FieldsFact> = None;
        for version in self.versions(work) {
            if held.is_none() || version.since <= at && version.recorded_at <= at {
                held = Some(version);
            }
        }
        held
    }

    /// What the fields of a work order that was changed were at an instant: those of its newest version by then, of its first
    /// before that.
    #[must_use]
    pub fn fields_at(&self, work: WorkOrderId, at: Instant) -> Option<FieldsFact> {
        let mut held: Option<FieldsFact> = None;
        for version in self.versions(work) {
            if held.is_none() || version.since <= at {
                held = Some(version);
            }
        }
        held
    }
}

/// An alarm as it stood.
fn alarm_as_of(then: AsOf, row: AlarmFact) -> Option<AlarmFact> {
    let mut alarm = row;
    if row.left_at > then.at {
        (alarm.left_at, alarm.left_by) = (Instant::LATEST, None);
    }
    if row.acknowledged_at.is_some_and(|at| at > then.at) {
        (alarm.acknowledged_at, alarm.acknowledged_by) = (None, None);
    }
    then.has(row.entered_at, row.recorded_at).then_some(alarm)
}

impl WorkFact {
    /// The version of fields that it has now.
    #[must_use]
    pub fn newest_fields(&self, since: Instant, recorded_at: Instant) -> FieldsFact {
        let Self { number, asset, kind, source_severity, rank, window_end, target_start, target_finish, .. } = *self;
        let Self { scheduled_start, scheduled_end, crew, department, assignee, estimated_ms, .. } = *self;
        FieldsFact {
            work: number,
            // After all former ones, however many those are.
            version: u16::MAX,
            since,
            recorded_at,
            asset,
            kind,
            source_severity,
            rank,
            window_end,
            target_start,
            target_finish,
            scheduled_start,
            scheduled_end,
            crew,
            department,
            assignee,
            estimated_ms,
        }
    }

    /// With those fields.
    fn with(self, fields: &FieldsFact) -> Self {
        let FieldsFact { asset, kind, rank, window_end, target_start, target_finish, .. } = *fields;
        let FieldsFact {
            scheduled_start,
            scheduled_end,
            crew,
            department,
            assignee,
            estimated_ms,
            source_severity,
            ..
        } = *fields;
        Self {
            asset,
            kind,
            source_severity,
            rank,
            window_end,
            target_start,
            target_finish,
            scheduled_start,
            scheduled_end,
            crew,
            department,
            assignee,
            estimated_ms,
            ..self
        }
    }
}

/// All rows by part and place.
fn each<P: Part>(columns: &Columns<P>) -> impl Iterator<Item = (&P, usize)> {
    columns.parts().flat_map(|part| (0..part.len()).map(move |place| (part, place)))
}

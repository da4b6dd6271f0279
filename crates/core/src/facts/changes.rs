//! How facts change: all at once at start, then row by row. What can be told from other rows is made here, so that it is always
//! in step with them.

use super::{
    AlarmFact, Alarms, CycleFact, Cycles, DownFact, DownOfWork, DowntimeFact, Downtimes, Entries, EntryFact,
    FailureFact, Failures, Fields, FieldsFact, Life, MoveFact, Moves, Snapshot, Spent, SpentFact, StepFact, Steps,
    WorkFact, Works,
    columns::{Columns, Part},
    life::fiscal_cuts,
    outcomes::{closed_since, coded, first_done},
    packed::Packed,
    pile::Pile,
    snapshot::of_work,
};
use crate::{
    ground::{ids::WorkOrderId, time::Instant},
    work::WorkState,
};
use rustc_hash::FxHashSet;

/// What was entered, and by the work that it was spent on.
#[derive(Debug, Default)]
pub struct Entered {
    entries: Columns<Entries>,
    spent: Columns<Spent>,
}

impl Entered {
    /// Of entries in any order.
    #[must_use]
    pub fn of(entries: Pile<Entries>) -> Self {
        let entries = entries.columns();
        let mut all = Pile::default();
        entries.rows().filter_map(|row| spent(&row)).for_each(|row| all.push(row));
        Self { entries, spent: all.columns() }
    }

    /// Of both as they were kept.
    #[must_use]
    pub fn kept(entries: Columns<Entries>, spent: Columns<Spent>) -> Self {
        Self { entries, spent }
    }
}

/// All that happened.
#[derive(Debug, Default)]
pub struct Happened {
    pub entered: Entered,
    pub downtimes: Columns<Downtimes>,
    pub failures: Columns<Failures>,
    /// [Complete](super::Outcomes::complete).
    pub works: Columns<Works>,
    pub moves: Columns<Moves>,
    pub fields: Columns<Fields>,
    pub steps: Columns<Steps>,
    pub alarms: Columns<Alarms>,
    pub cycles: Columns<Cycles>,
}

/// What stands with orders that were raised, moved or changed: all of each of them.
#[derive(Debug, Default)]
pub struct OfWork {
    /// In the order in which they count.
    pub moves: Vec<MoveFact>,
    pub fields: Vec<FieldsFact>,
    pub steps: Vec<StepFact>,
}

/// A row of the database by its id; `None` where it is gone.
pub type Changed<R> = (i64, Option<R>);

fn spent(entry: &EntryFact) -> Option<SpentFact> {
    let (EntryFact { id, asset, work, at, .. }, hours_ms) = (*entry, entry.hours_ms());
    (hours_ms != 0).then_some(SpentFact { id, asset, work, at, hours_ms })
}

fn down(downtime: &DowntimeFact) -> Option<DownFact> {
    let DowntimeFact { id, asset, kind, start, end, .. } = *downtime;
    let work = downtime.work.filter(|_| downtime.is_stop())?;
    Some(DownFact { id, asset, work, kind, start, end })
}

/// Stops of work, of all downtime.
pub(super) fn down_of_work(downtimes: &Columns<Downtimes>) -> Columns<DownOfWork> {
    let mut all = Pile::default();
    downtimes.rows().filter_map(|row| down(&row)).for_each(|row| all.push(row));
    all.columns()
}

impl Snapshot {
    /// Takes all that happened, in place of what it has.
    pub fn fill(&mut self, happened: Happened) {
        let Happened { entered, downtimes, failures, works, moves, fields, steps, alarms, cycles } = happened;
        (self.entries, self.spent) = (entered.entries, entered.spent);
        (self.downtimes, self.failures, self.moves, self.works) = (downtimes, failures, moves, works);
        (self.fields, self.steps, self.alarms, self.cycles) = (fields, steps, alarms, cycles);
        (self.life, self.down_of_work) = rayon::join(|| self.life_anew(), || down_of_work(&self.downtimes));
    }

    /// What everything costs from the beginning, cut where years and quarters begin: those are asked for most.
    fn life_anew(&self) -> Life {
        let (first, last) = (self.entries.parts().next(), self.last_entry());
        let first = first.map(|part| Instant::unpack(part.at.of(0)));
        let cuts = first.zip(last).map(|(first, last)| fiscal_cuts(first, last, &self.zone, self.fiscal_month));
        Life::of(&self.entries, &self.tree, &cuts.unwrap_or_default())
    }

    /// Assets were added or moved: what hangs on where they ever stood is made anew.
    pub fn plant_changed(&mut self) {
        self.life = self.life_anew();
    }

    /// The way of a work order through the states, in order.
    pub fn way(&self, work: WorkOrderId) -> impl Iterator<Item = (Instant, WorkState)> {
        let found = of_work(self.moves.parts_from((work, 0)), |part: &Moves| &part.work, work);
        found.flat_map(|(part, steps)| {
            steps.map(|step| (Instant::unpack(part.at.of(step)), WorkState::unpack(part.to[step])))
        })
    }

    /// Entries that were added, settled or are gone.
    pub fn change_entries(&mut self, changes: Vec<Changed<EntryFact>>) {
        // Hours never change; only a row that goes may have some to be taken away.
        self.spent.put_all(changes.iter().filter_map(|(_, row)| row.as_ref().and_then(spent)));
        self.spent.apply(gone(&changes));
        let is_over = |row: &EntryFact| self.life.is_over(row.at);
        let is_over = changes.iter().any(|(_, row)| row.as_ref().is_none_or(is_over));
        for entry in changes.iter().filter_map(|(_, row)| *row) {
            let before = self.entries.get(Entries::key_of(&entry));
            self.life.change(before, entry);
        }
        self.entries.apply(changes);
        if is_over {
            self.life = self.life_anew();
        }
    }

    /// Downtime that was added, ended, corrected or is gone.
    pub fn change_downtimes(&mut self, changes: Vec<Changed<DowntimeFact>>) {
        // One that is no stop of work any more goes as well.
        self.down_of_work.apply(changes.iter().map(|(id, row)| (*id, row.as_ref().and_then(down))).collect());
        self.downtimes.apply(changes);
    }

    /// Failure reports that were added, changed or are gone.
    pub fn change_failures(&mut self, changes: Vec<Changed<FailureFact>>) {
        let ids: FxHashSet<i64> = changes.iter().map(|(id, _)| *id).collect();
        let mut works: FxHashSet<u32> = changes.iter().filter_map(|(_, row)| Some(row.as_ref()?.work.pack())).collect();
        for part in self.failures.parts() {
            let before = (0..part.len()).filter(|place| ids.contains(&part.id(*place)));
            works.extend(before.map(|place| part.work[place]));
        }
        self.failures.apply(changes);
        let coded = coded(&self.failures, |work| works.contains(&work));
        for work in works {
            let known = self.works.order(work).map(|(part, place)| part.row(place));
            let is_coded = coded.contains(&work);
            known.filter(|row| row.coded != is_coded).into_iter().for_each(|row| {
                self.works.put(WorkFact { coded: is_coded, ..row });
            });
        }
    }

    /// Alarms that were set off, answered, acknowledged or have ended.
    pub fn change_alarms(&mut self, changes: Vec<Changed<AlarmFact>>) {
        self.alarms.apply(changes);
    }

    /// Cycles of upkeep that were settled.
    pub fn change_cycles(&mut self, changes: Vec<Changed<CycleFact>>) {
        self.cycles.apply(changes);
    }

    /// Work that was raised, moved, planned or is gone, with all that stands with it. Its `until` and `done_at` are made of its
    /// moves, and of its failures whether it is `coded`.
    pub fn change_works(&mut self, changes: Vec<Changed<WorkFact>>, OfWork { moves, fields, steps }: OfWork) {
        for (number, _) in &changes {
            let (from, to) = ((WorkOrderId(*number), 0), (WorkOrderId(*number + 1), 0));
            self.moves.clear(from, to);
            self.fields.clear(from, to);
            self.steps.clear(from, to);
        }
        self.moves.put_all(moves);
        self.fields.put_all(fields);
        self.steps.put_all(steps);
        let numbers: FxHashSet<i64> = changes.iter().map(|(number, _)| *number).collect();
        let coded = coded(&self.failures, |work| numbers.contains(&i64::from(work)));
        let until = |row: WorkFact| WorkFact {
            coded: coded.contains(&row.number.pack()),
            until: closed_since(self.way(row.number)),
            done_at: first_done(self.way(row.number)),
            ..row
        };
        let changes = changes.into_iter().map(|(number, row)| (number, row.map(until))).collect();
        self.works.apply(changes);
    }
}

/// The same ids without their rows, of those that are gone.
fn gone<R, S>(changes: &[Changed<R>]) -> Vec<Changed<S>> {
    changes.iter().filter(|(_, row)| row.is_none()).map(|(id, _)| (*id, None)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{
        ground::{
            ids::{EntryId, PersonId},
            money::Cents,
            time::Span,
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

//! How facts change: all at once at start, then row by row. What can be told from other rows is made here, so that it is always
//! in step with them.

use super::{
    AlarmFact, Alarms, CycleFact, Cycles, DownFact, DownOfWork, DowntimeFact, Downtimes, Entries, EntryFact,
    FailureFact, Failures, Fields, FieldsFact, Life, MoveFact, Moves, Snapshot, Spent, SpentFact, StepFact, Steps,
    WorkFact, Works,
    columns::{Columns, Part},
    life::fiscal_cuts,
    packed::Packed,
};
use crate::{
    ground::{
        ids::{CodeId, WorkOrderId},
        time::Instant,
    },
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
    pub fn of(entries: Entries) -> Self {
        let mut all = Spent::default();
        (0..entries.len()).filter_map(|place| spent(&entries.row(place))).for_each(|row| all.push(row));
        Self { entries: Columns::of(&entries), spent: Columns::of(&all) }
    }
}

/// All that happened.
#[derive(Debug, Default)]
pub struct Happened {
    pub entered: Entered,
    pub downtimes: Columns<Downtimes>,
    pub failures: Columns<Failures>,
    /// In any order. Their `until` and `done_at` are made of the moves, and of the failures whether they are `coded`.
    pub works: Works,
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
    let mut all = DownOfWork::default();
    downtimes.rows().filter_map(|row| down(&row)).for_each(|row| all.push(row));
    Columns::of(&all)
}

/// Since when work has not been open any more, by its moves in order; [`Instant::LATEST`] while it is.
pub(super) fn closed_since(moves: impl IntoIterator<Item = (Instant, WorkState)>) -> Instant {
    let mut since = Instant::LATEST;
    for (at, to) in moves {
        match (to.is_open(), since) {
            (true, _) => since = Instant::LATEST,
            (false, Instant::LATEST) => since = at,
            (false, _) => {}
        }
    }
    since
}

/// When work was done first, by its moves in order; [`Instant::LATEST`] while it was not.
pub(super) fn first_done(mut moves: impl Iterator<Item = (Instant, WorkState)>) -> Instant {
    moves.find(|(_, to)| *to == WorkState::Done).map_or(Instant::LATEST, |(at, _)| at)
}

/// When an order was done first, and since when it has not been open any more.
struct End {
    work: u32,
    until: Instant,
    done_at: Instant,
}

impl Snapshot {
    /// Takes all that happened, in place of what it has.
    pub fn fill(&mut self, happened: Happened) {
        let Happened { entered, downtimes, failures, mut works, moves, fields, steps, alarms, cycles } = happened;
        (self.entries, self.spent) = (entered.entries, entered.spent);
        (self.downtimes, self.failures, self.moves) = (downtimes, failures, moves);
        (self.fields, self.steps, self.alarms, self.cycles) = (fields, steps, alarms, cycles);
        let of_works = || {
            let coded = self.coded(|_| true);
            let ends = self.ends();
            let mut next = 0;
            for place in 0..works.len() {
                let number = works.number[place];
                works.coded[place] = coded.contains(&number);
                // Mostly they come in the same order.
                if ends.get(next).is_none_or(|end| end.work != number) {
                    next = ends.partition_point(|end| end.work < number);
                }
                let found = ends.get(next).filter(|end| end.work == number);
                works.until[place] = found.map_or(Instant::LATEST, |end| end.until).pack();
                works.done_at[place] = found.map_or(Instant::LATEST, |end| end.done_at).pack();
                next += 1;
            }
            Columns::of(&works)
        };
        let (works, (life, down_of_work)) = rayon::join(of_works, || (self.life_anew(), down_of_work(&self.downtimes)));
        (self.works, self.life, self.down_of_work) = (works, life, down_of_work);
    }

    /// What everything costs from the beginning, cut where years and quarters begin: those are asked for most.
    fn life_anew(&self) -> Life {
        let (first, last) = (self.entries.parts().next(), self.last_entry());
        let first = first.and_then(|part| part.at.first()).map(|at| Instant::unpack(*at));
        let cuts = first.zip(last).map(|(first, last)| fiscal_cuts(first, last, &self.zone, self.fiscal_month));
        Life::of(&self.entries, &self.tree, &cuts.unwrap_or_default())
    }

    /// The ends of all orders that have moves, by number.
    fn ends(&self) -> Vec<End> {
        let mut ends = Vec::new();
        let mut way: Vec<(Instant, WorkState)> = Vec::new();
        let mut of = None;
        let mut end = |work: Option<u32>, way: &[(Instant, WorkState)]| {
            let (until, done_at) = (closed_since(way.iter().copied()), first_done(way.iter().copied()));
            ends.extend(work.map(|work| End { work, until, done_at }));
        };
        for part in self.moves.parts() {
            for place in 0..part.len() {
                if of != Some(part.work[place]) {
                    end(of.replace(part.work[place]), &way);
                    way.clear();
                }
                way.push((Instant::unpack(part.at[place]), WorkState::unpack(part.to[place])));
            }
        }
        end(of, &way);
        ends
    }

    /// Assets were added or moved: what hangs on where they ever stood is made anew.
    pub fn plant_changed(&mut self) {
        self.life = self.life_anew();
    }

    /// The way of a work order through the states, in order.
    pub fn way(&self, work: WorkOrderId) -> impl Iterator<Item = (Instant, WorkState)> {
        let found = self.moves.between((work, 0), (WorkOrderId(work.0 + 1), 0));
        found.flat_map(|(part, steps)| {
            steps.map(|step| (Instant::unpack(part.at[step]), WorkState::unpack(part.to[step])))
        })
    }

    /// Entries that were added, settled or are gone.
    pub fn change_entries(&mut self, changes: Vec<Changed<EntryFact>>) {
        // Hours never change; only a row that goes may have some to be taken away.
        changes.iter().filter_map(|(_, row)| row.as_ref().and_then(spent)).for_each(|row| self.spent.put(row));
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

    /// Downtime that was added, ended or is gone.
    pub fn change_downtimes(&mut self, changes: Vec<Changed<DowntimeFact>>) {
        changes.iter().filter_map(|(_, row)| row.as_ref().and_then(down)).for_each(|row| self.down_of_work.put(row));
        self.down_of_work.apply(gone(&changes));
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
        let coded = self.coded(|work| works.contains(&work));
        for work in works {
            let known = self.works.order(work).map(|(part, place)| part.row(place));
            let is_coded = coded.contains(&work);
            known.filter(|row| row.coded != is_coded).into_iter().for_each(|row| {
                self.works.put(WorkFact { coded: is_coded, ..row });
            });
        }
    }

    /// Orders that have a failure with problem, cause and remedy, of those that are `asked` for.
    pub(super) fn coded(&self, asked: impl Fn(u32) -> bool) -> FxHashSet<u32> {
        let none = Option::<CodeId>::None.pack();
        let mut coded = FxHashSet::default();
        for part in self.failures.parts() {
            let is_coded =
                |place: &usize| [&part.problem, &part.cause, &part.remedy].iter().all(|code| code[*place] != none);
            let of_asked = (0..part.len()).filter(is_coded).map(|place| part.work[place]).filter(|work| asked(*work));
            coded.extend(of_asked);
        }
        coded
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
        moves.into_iter().for_each(|row| self.moves.put(row));
        fields.into_iter().for_each(|row| self.fields.put(row));
        steps.into_iter().for_each(|row| self.steps.put(row));
        let numbers: FxHashSet<i64> = changes.iter().map(|(number, _)| *number).collect();
        let coded = self.coded(|work| numbers.contains(&i64::from(work)));
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
    use WorkState::{Closed, Done, Dropped, Raised, UnderWay};
    use rstest::rstest;

    #[rstest]
    #[case::open(&[(1, Raised), (2, UnderWay)], None)]
    #[case::done_and_closed(&[(1, Raised), (5, Done), (9, Closed)], Some(5))]
    #[case::taken_up_again(&[(1, Raised), (5, Done), (6, UnderWay)], None)]
    #[case::done_twice(&[(1, Raised), (5, Done), (6, UnderWay), (8, Done)], Some(8))]
    #[case::dropped_at_once(&[(1, Dropped)], Some(1))]
    fn work_is_closed_since_it_was_open_last(#[case] way: &[(i64, WorkState)], #[case] since: Option<i64>) {
        let moves = way.iter().map(|(at, to)| (Instant::from_ms(*at), *to));
        assert_eq!(closed_since(moves), since.map_or(Instant::LATEST, Instant::from_ms));
    }
}

//! Entries of labour: hours by the kind of their work, and what crews can do in a week.

use super::{Contribution, Measure, cost::entry_row};
use crate::{
    facts::{ByWork, Entries, Snapshot, columns::Part, hours_ms, packed::Packed},
    ground::{
        ids::{CrewId, EntryId, WorkOrderId},
        time::{DAY, Instant, Span},
    },
    tally::{Question, indicators::TraceRow},
    work::entries::EntryKind,
};
use rustc_hash::FxHashMap;

/// Calls `found` with each labour entry of a window that has hours.
fn labour(facts: &Snapshot, window: Span, mut found: impl FnMut(&Entries, usize, i64)) {
    let is_labour = EntryKind::Labour.pack();
    for (part, places) in facts.entries.between((window.start(), EntryId(0)), (window.end(), EntryId(0))) {
        for place in places.filter(|place| part.kind[*place] == is_labour) {
            found(part, place, hours_ms(part, place));
        }
    }
}

/// A value of every order as its fields say at the instants of rows: those that were changed are looked up.
struct OfWork<T> {
    now: ByWork<Option<T>>,
}

impl<T: Copy> OfWork<T> {
    /// `None` stands for: look it up.
    fn new(facts: &Snapshot, value: impl Fn(&crate::facts::Works, usize) -> T) -> Self {
        let mut now = ByWork::new(&facts.works, None);
        for part in facts.works.parts() {
            for place in (0..part.len()).filter(|place| !part.changed[*place]) {
                now.put(part.number[place], Some(value(part, place)));
            }
        }
        Self { now }
    }
}

/// Hours of labour, by the kind that their work was of.
pub(in crate::tally) struct Worked;

impl Measure for Worked {
    type Rows = Entries;
    const CELLS: usize = 6;

    fn window(&self, _: &Snapshot, q: Question) -> Span {
        q.period
    }

    fn each(&self, facts: &Snapshot, q: Question, mut found: impl FnMut(&Entries, usize, Contribution)) {
        let kinds = OfWork::new(facts, |part, place| part.kind[place]);
        labour(facts, q.period, |part, place, amount| {
            let (work, at) = (part.work[place], Instant::unpack(part.at[place]));
            let changed = || Some(facts.fields_at(WorkOrderId::unpack(work), at)?.kind.pack());
            let Some(kind) = kinds.now.of(work).or_else(changed) else { return };
            found(part, place, Contribution { asset: part.asset[place], at, cell: usize::from(kind), amount, work });
        });
    }

    fn row(&self, facts: &Snapshot, q: Question, part: &Entries, place: usize, amount: i64) -> TraceRow {
        entry_row(facts, q, part, place, amount)
    }
}

/// Weekly hours of crews, each shared out by where it spent its hours in the twelve months before: an hour of it carries its part
/// of the week. Own rule (common practice).
pub(in crate::tally) struct Capacity;

impl Measure for Capacity {
    type Rows = Entries;
    const CELLS: usize = 1;

    fn window(&self, _: &Snapshot, q: Question) -> Span {
        let end = q.as_of();
        Span::new(end.plus(-365 * DAY), end.plus(1)).unwrap_or(q.period)
    }

    fn each(&self, facts: &Snapshot, q: Question, mut found: impl FnMut(&Entries, usize, Contribution)) {
        let window = self.window(facts, q);
        let crews = OfWork::new(facts, |part, place| part.crew[place]);
        let none = Option::<CrewId>::None.pack();
        let crew_of = |work: u32, at: Instant| {
            let changed = || Some(facts.fields_at(WorkOrderId::unpack(work), at)?.crew.pack());
            crews.now.of(work).or_else(changed).filter(|crew| *crew != none)
        };
        let mut spent: FxHashMap<u32, i64> = FxHashMap::default();
        labour(facts, window, |part, place, ms| {
            if let Some(crew) = crew_of(part.work[place], Instant::unpack(part.at[place])) {
                *spent.entry(crew).or_default() += ms;
            }
        });
        let weekly = |crew: u32| facts.worth.weekly_ms.get(&CrewId::unpack(crew)).and_then(|dated| dated.at(q.as_of()));
        let shares: FxHashMap<u32, (i64, i64)> = spent
            .into_iter()
            .filter_map(|(crew, spent)| Some((crew, (weekly(crew)?, spent))))
            .filter(|(_, (_, spent))| *spent > 0)
            .collect();
        labour(facts, window, |part, place, ms| {
            let at = Instant::unpack(part.at[place]);
            let share = crew_of(part.work[place], at).and_then(|crew| shares.get(&crew));
            if let Some((weekly, spent)) = share {
                let amount = i128::from(ms) * i128::from(*weekly) / i128::from(*spent);
                let (asset, work) = (part.asset[place], part.work[place]);
                found(part, place, Contribution { asset, at, cell: 0, amount: amount as i64, work });
            }
        });
    }

    fn row(&self, facts: &Snapshot, q: Question, part: &Entries, place: usize, amount: i64) -> TraceRow {
        TraceRow { whole: Some(hours_ms(part, place)), ..entry_row(facts, q, part, place, amount) }
    }
}

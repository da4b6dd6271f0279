//! One pass over the facts, part by part and on all cores: which rows pass, what they come to, and which are the first.

use super::{
    answer::{Answer, Cell, GroupRow, ListFacet, ListFacetValue, Row},
    asked::{Asked, MOST_KEYS, Question, Summary, Test},
    catalogue::SubjectId,
    column::Holds,
    context::Context,
    groups::Groups,
    joined::Column,
    subject::Subject,
    subjects::{Downtime, EntriesOf, FailuresOf, Work},
    summary::{Kept, unit},
    top::{Candidate, Keys, Top, key},
    words::index,
};
use crate::{
    access::{refusal::Refusal, seen::WorkSeen},
    facts::{columns::Part, packed::NONE},
    ground::{ids::AssetId, time::Instant},
};
use rayon::prelude::*;
use rustc_hash::FxHashSet;

/// Numbers of orders.
pub type Numbers = FxHashSet<u32>;

/// What the store found out beforehand: the scope, and what has letters.
#[derive(Debug, Clone, Default)]
pub struct Narrowed {
    /// With all below it.
    pub scope: Option<AssetId>,
    /// Numbers of orders that have the letters, by themselves or in their titles, and assets that have them: rows of either.
    pub letters: Option<(Numbers, Vec<AssetId>)>,
}

/// Values told of one column, and groups, at the most.
const MOST_TOLD: usize = 60;
const MOST_GROUPS: usize = 5_000;

/// Answers a question about a subject, with at most so many rows.
///
/// # Errors
/// [`Refusal::Field`] for what can't be asked.
pub fn answer(
    subject: SubjectId,
    context: &Context,
    asked: &Asked,
    narrowed: &Narrowed,
    most: usize,
) -> Result<Answer, Refusal> {
    match subject {
        SubjectId::Work => run::<Work>(context, asked, narrowed, most),
        SubjectId::Entries => run::<EntriesOf>(context, asked, narrowed, most),
        SubjectId::Downtime => run::<Downtime>(context, asked, narrowed, most),
        SubjectId::Failures => run::<FailuresOf>(context, asked, narrowed, most),
    }
}

/// Rows that may be seen and lie in the scope.
struct Base<'a> {
    by_asset: Option<Vec<bool>>,
    letters: Option<(&'a FxHashSet<u32>, Vec<bool>)>,
    /// By number of the order.
    seen: Option<super::context::ByWork<bool>>,
    only: Option<FxHashSet<i64>>,
}

impl<'a> Base<'a> {
    fn new<S: Subject>(context: &Context, asked: &Asked, narrowed: &'a Narrowed) -> Self {
        let mark = |assets: &mut dyn Iterator<Item = u32>| {
            let mut marked = vec![false; context.facts.tree.len()];
            assets.for_each(|asset| marked[asset as usize] = true);
            marked
        };
        let scope = narrowed.scope.and_then(|scope| index(context.facts, scope));
        let by_asset = scope.map(|scope| mark(&mut context.shape.below(scope).into_iter()));
        let letters = narrowed.letters.as_ref().map(|(orders, assets)| {
            (orders, mark(&mut assets.iter().filter_map(|asset| index(context.facts, *asset))))
        });
        let is_apart = context.sees.work != WorkSeen::All && S::orders(&S::Rows::default()).is_some();
        let seen = is_apart.then(|| context.by_work(false, |part, place| context.sees(part, place)));
        let only = asked.only.as_ref().map(|only| only.iter().copied().collect());
        Self { by_asset, letters, seen, only }
    }

    fn passes<S: Subject>(&self, context: &Context, part: &S::Rows, place: usize) -> bool {
        let asset = S::assets(part)[place] as usize;
        if self.by_asset.as_ref().is_some_and(|scope| !scope[asset]) {
            return false;
        }
        let order = || match S::orders(part) {
            Some(orders) => orders[place],
            None => u32::try_from(part.id(place)).unwrap_or(u32::MAX),
        };
        if let Some((orders, assets)) = &self.letters
            && !assets[asset]
            && !orders.contains(&order())
        {
            return false;
        }
        if self.only.as_ref().is_some_and(|only| !only.contains(&part.id(place))) {
            return false;
        }
        match &self.seen {
            Some(seen) => {
                let order = order();
                order == u32::MAX || seen.of(order)
            }
            None => context.sees.work == WorkSeen::All || S::sees(context, part, place),
        }
    }

    fn is_all(&self, context: &Context) -> bool {
        self.by_asset.is_none() && self.letters.is_none() && self.only.is_none() && context.sees.work == WorkSeen::All
    }
}

/// What some parts come to.
struct Partial {
    count: u64,
    totals: Vec<Kept>,
    groups: Groups,
    /// By facet and number, the first for none.
    counts: Vec<Vec<u64>>,
    top: Top,
    /// One column of a part, used again and again.
    scratch: Vec<Vec<i64>>,
    failed: Vec<u32>,
}

impl Partial {
    fn new<P: Part>(q: &Question<P>) -> Self {
        Self {
            count: 0,
            totals: vec![Kept::default(); q.summaries.len()],
            groups: Groups::new(q.summaries.len()),
            counts: vec![Vec::new(); q.facets.len()],
            top: Top::new(q.limit + 1),
            scratch: Vec::new(),
            failed: Vec::new(),
        }
    }

    fn join(mut self, other: Self) -> Self {
        self.count += other.count;
        self.totals.iter_mut().zip(&other.totals).for_each(|(into, kept)| into.join(kept));
        for (into, counts) in self.counts.iter_mut().zip(other.counts) {
            into.resize(into.len().max(counts.len()), 0);
            into.iter_mut().zip(counts).for_each(|(into, count)| *into += count);
        }
        self.groups = self.groups.join(other.groups);
        self.top = self.top.join(other.top);
        self
    }

    /// The values of some columns of a part.
    fn fill<'c, P: 'c>(&mut self, part: &P, columns: impl Iterator<Item = &'c Column<'c, P>>) -> usize {
        let mut filled = 0;
        for column in columns {
            if self.scratch.len() == filled {
                self.scratch.push(Vec::new());
            }
            self.scratch[filled].clear();
            (column.fill)(part, &mut self.scratch[filled]);
            filled += 1;
        }
        filled
    }
}

/// A row that failed no condition.
const PASSED: u32 = 0;
/// A row that is not to be seen, whatever the conditions.
const UNSEEN: u32 = u32::MAX;

fn run<S: Subject>(context: &Context, asked: &Asked, narrowed: &Narrowed, most: usize) -> Result<Answer, Refusal> {
    let q: Question<S::Rows> = asked.check::<S>(context, most)?;
    let base = Base::new::<S>(context, asked, narrowed);
    let all = S::rows(context.facts);
    let numbers: Vec<usize> = (0..all.parts().len()).filter(|number| may_pass::<S>(&q, all.lasts(*number))).collect();
    let is_all = base.is_all(context);
    let done = numbers
        .par_iter()
        .fold(|| Partial::new(&q), |partial, number| part::<S>(context, &q, &base, is_all, partial, *number))
        .reduce(|| Partial::new(&q), Partial::join);
    Ok(told::<S>(context, &q, done))
}

/// Whether a part can have rows that pass a condition on when they were; what such a column has for values is never told.
fn may_pass<S: Subject>(q: &Question<S::Rows>, (from, until): (Instant, Instant)) -> bool {
    q.conditions.iter().filter(|condition| Some(condition.column.def.id) == S::TIME).all(|condition| {
        match condition.test {
            Test::Between(first, last) => from.ms() <= last && first <= until.ms(),
            _ => true,
        }
    })
}

fn part<S: Subject>(
    context: &Context,
    q: &Question<S::Rows>,
    base: &Base,
    is_all: bool,
    mut to: Partial,
    number: usize,
) -> Partial {
    let part = S::rows(context.facts).part(number);
    let rows = part.len();
    let mut failed = std::mem::take(&mut to.failed);
    failed.clear();
    match is_all {
        true => failed.resize(rows, PASSED),
        false => {
            failed.extend((0..rows).map(|place| if base.passes::<S>(context, part, place) { PASSED } else { UNSEEN }))
        }
    }
    for (place, condition) in q.conditions.iter().enumerate() {
        to.fill(part, std::iter::once(&condition.column));
        for (failed, value) in failed.iter_mut().zip(&to.scratch[0]) {
            *failed |= u32::from(!condition.test.passes(*value)) << place;
        }
    }
    for (facet, column) in q.facets.iter().enumerate() {
        // Rows that fail nothing but what is asked of this very column.
        let own = q.conditions.iter().enumerate().filter(|(_, condition)| condition.column.def.id == column.def.id);
        let own = own.fold(0u32, |own, (place, _)| own | 1 << place);
        to.fill(part, std::iter::once(column));
        let counts = &mut to.counts[facet];
        for (failed, value) in failed.iter().zip(&to.scratch[0]) {
            if failed & !own == PASSED {
                let place = if *value == NONE { 0 } else { usize::try_from(*value).map_or(0, |value| value + 1) };
                if counts.len() <= place {
                    counts.resize(place + 1, 0);
                }
                counts[place] += 1;
            }
        }
    }
    let passed: Vec<u32> =
        (0u32..).zip(&failed).filter(|(_, failed)| **failed == PASSED).map(|(place, _)| place).collect();
    to.count += passed.len() as u64;
    if !passed.is_empty() {
        sum_up(q, part, &passed, &mut to);
        if q.limit > 0 {
            rank_rows(q, part, number, &passed, &mut to);
        }
    }
    to.failed = failed;
    to
}

/// Totals and groups.
fn sum_up<P: Part>(q: &Question<P>, part: &P, passed: &[u32], to: &mut Partial) {
    let summed =
        to.fill(part, q.summaries.iter().map(|(column, _)| column).chain(q.group.iter().map(|one| &one.column)));
    let scratch = std::mem::take(&mut to.scratch);
    let (values, keys) = scratch[..summed].split_at(q.summaries.len());
    for (((_, of), values), total) in q.summaries.iter().zip(values).zip(&mut to.totals) {
        passed.iter().for_each(|place| total.take(values[*place as usize], *of == Summary::Median));
    }
    if !q.group.is_empty() {
        for &place in passed {
            let place = place as usize;
            let mut group_key = [NONE; MOST_KEYS];
            for (level, (grouping, values)) in q.group.iter().zip(keys).enumerate() {
                let value = values[place];
                group_key[level] = match &grouping.buckets {
                    Some(buckets) if value != NONE => buckets.of(value),
                    _ => value,
                };
            }
            let group = to.groups.of(group_key);
            group.count += 1;
            for (((_, of), values), kept) in q.summaries.iter().zip(values).zip(&mut group.kept) {
                kept.take(values[place], *of == Summary::Median);
            }
        }
    }
    to.scratch = scratch;
}

/// The first rows in order.
fn rank_rows<P: Part>(q: &Question<P>, part: &P, number: usize, passed: &[u32], to: &mut Partial) {
    to.fill(part, q.sort.iter().map(|(column, _)| column));
    let after: Option<Keys> = q.after.as_ref().map(|after| {
        let mut keys = [0; MOST_KEYS + 1];
        keys[..q.sort.len()].copy_from_slice(&after[..q.sort.len()]);
        keys[MOST_KEYS] = after[q.sort.len()];
        keys
    });
    for &place in passed {
        let mut keys = [0; MOST_KEYS + 1];
        for (level, (column, descending)) in q.sort.iter().enumerate() {
            let value = to.scratch[level][place as usize];
            let value = if column.def.holds.is_word() && value != NONE { column.words.rank(value) } else { value };
            keys[level] = key(value, *descending);
            if level == 0 && to.top.is_beyond(keys[0]) {
                break;
            }
        }
        keys[MOST_KEYS] = part.id(place as usize);
        if (!q.sort.is_empty() && to.top.is_beyond(keys[0])) || after.is_some_and(|after| keys <= after) {
            continue;
        }
        to.top.take(Candidate { keys, part: number as u32, place });
    }
}

fn cell<P>(column: &Column<P>, value: i64) -> Cell {
    if value == NONE {
        return Cell::None;
    }
    match column.def.holds {
        Holds::Instant => Cell::Instant(Instant::from_ms(value)),
        Holds::YesNo => Cell::YesNo(value != 0),
        Holds::Word | Holds::Text => Cell::Text(column.words.key(value)),
        Holds::Reference => Cell::Reference { code: column.words.key(value), name: column.words.name(value) },
        holds => Cell::Number(unit(value as f64, holds)),
    }
}

fn summary<P>(column: &Column<P>, kept: &Kept, of: Summary, whole: &Kept) -> Cell {
    match (kept.told(of, column.def.holds, whole), column.def.holds) {
        (None, _) => Cell::None,
        (Some(ms), Holds::Instant) => Cell::Instant(Instant::from_ms(ms as i64)),
        (Some(value), _) => Cell::Number(value),
    }
}

fn told<S: Subject>(context: &Context, q: &Question<S::Rows>, done: Partial) -> Answer {
    let mut first = done.top.in_order();
    let more = first.len() > q.limit;
    first.truncate(q.limit);
    let next_cursor = first.last().filter(|_| more).map(|last| {
        let keys = last.keys[..q.sort.len()].iter().chain([&last.keys[MOST_KEYS]]);
        keys.map(ToString::to_string).collect::<Vec<_>>().join("_")
    });
    let all = S::rows(context.facts);
    // The columns of each part that is shown are filled once.
    let mut rows: Vec<Option<Row>> = vec![None; first.len()];
    let mut parts: Vec<u32> = first.iter().map(|candidate| candidate.part).collect();
    parts.sort_unstable();
    parts.dedup();
    for number in parts {
        let part = all.part(number as usize);
        let mut values: Vec<Option<Vec<i64>>> = Vec::with_capacity(q.shown.len());
        for column in &q.shown {
            values.push(column.as_ref().map(|column| {
                let mut values = Vec::with_capacity(part.len());
                (column.fill)(part, &mut values);
                values
            }));
        }
        for (row, candidate) in rows.iter_mut().zip(&first).filter(|(_, candidate)| candidate.part == number) {
            let place = candidate.place as usize;
            let cells = q.shown.iter().zip(&values).map(|(column, values)| match (column, values) {
                (Some(column), Some(values)) => cell(column, values[place]),
                _ => Cell::None,
            });
            *row = Some(Row { id: part.id(place), cells: cells.collect() });
        }
    }
    let rank = |level: usize, value: i64| match q.group[level].column.def.holds.is_word() {
        true => q.group[level].column.words.rank(value),
        false => value,
    };
    let groups = done.groups.in_order(q.group.len(), |level, value| key(rank(level, value), false));
    let more_groups = groups.len().saturating_sub(MOST_GROUPS);
    let groups = groups.into_iter().take(MOST_GROUPS).map(|(depth, keys, group)| {
        let grouping = &q.group[depth];
        let value = keys[depth];
        let summaries = q.summaries.iter().zip(&group.kept).zip(&done.totals);
        GroupRow {
            depth,
            key: cell(&grouping.column, value),
            filter: if value == NONE { String::new() } else { grouping.column.words.key(value) },
            until: grouping.buckets.as_ref().filter(|_| value != NONE).map(|buckets| buckets.next(value)),
            count: group.count,
            summaries: summaries.map(|(((column, of), kept), whole)| summary(column, kept, *of, whole)).collect(),
        }
    });
    let facets = q.facets.iter().zip(&done.counts).map(|(column, counts)| facet(column, counts));
    let summaries = q.summaries.iter().zip(&done.totals);
    Answer {
        columns: q.columns.clone(),
        rows: rows.into_iter().flatten().collect(),
        groups: groups.collect(),
        more_groups,
        count: done.count,
        summaries: summaries.map(|((column, of), kept)| summary(column, kept, *of, kept)).collect(),
        facets: facets.collect(),
        next_cursor,
        change: context.facts.change,
    }
}

fn facet<P>(column: &Column<P>, counts: &[u64]) -> ListFacet {
    let mut found: Vec<(i64, u64)> =
        (-1i64..).zip(counts).filter(|(_, count)| **count > 0).map(|(value, count)| (value, *count)).collect();
    let more = found.len().saturating_sub(MOST_TOLD);
    if more > 0 {
        found.sort_by_key(|(_, count)| std::cmp::Reverse(*count));
        found.truncate(MOST_TOLD);
    }
    // None comes last.
    found.sort_by_key(|(value, _)| if *value < 0 { i64::MAX } else { column.words.rank(*value) });
    let values = found.into_iter().map(|(value, count)| match value {
        -1 => ListFacetValue { value: String::new(), name: String::new(), count },
        value => ListFacetValue { value: column.words.key(value), name: column.words.name(value), count },
    });
    ListFacet { column: column.def.id, values: values.collect(), more }
}

//! One pass over the facts, part by part and on all cores: which rows pass, what they come to, and which are the first.

use super::{
    asked::{MOST_KEYS, Summary},
    base::Base,
    condition::Test,
    context::Context,
    facets::{PASSED, Passing, UNSEEN, count},
    groups::{GroupKey, Groups},
    joined::Column,
    question::Question,
    subject::{Fill, Subject, of_word},
    summary::Kept,
    top::{Candidate, Keys, Top, key},
};
use crate::{
    facts::{columns::Part, packed::NONE},
    ground::time::Instant,
};
use rayon::prelude::*;

/// What some parts come to.
pub(super) struct Partial {
    pub(super) count: u64,
    pub(super) totals: Vec<Kept>,
    pub(super) groups: Groups,
    /// Where a row can stand in several groups: the outer levels, which the innermost don't add up to.
    pub(super) outer: Vec<Groups>,
    /// By facet and number, the first for none.
    pub(super) counts: Vec<Vec<u64>>,
    pub(super) top: Top,
    /// Columns of a part, one or more, used again and again.
    scratch: Vec<Vec<i64>>,
    failed: Vec<u32>,
}

impl Partial {
    fn new<P: Part>(q: &Question<P>) -> Self {
        Self {
            count: 0,
            totals: vec![Kept::default(); q.summaries.len()],
            groups: Groups::new(q.summaries.len()),
            outer: match q.may_overlap() {
                true => (1..q.group.len()).map(|_| Groups::new(q.summaries.len())).collect(),
                false => Vec::new(),
            },
            counts: vec![Vec::new(); q.facets.len()],
            top: Top::new(q.limit + 1),
            scratch: vec![Vec::new()],
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
        self.outer = self.outer.into_iter().zip(other.outer).map(|(into, other)| into.join(other)).collect();
        self.top = self.top.join(other.top);
        self
    }

    /// The values of some columns of a part.
    fn fill<'c, P: Part + 'c>(&mut self, part: &P, columns: impl Iterator<Item = &'c Column<'c, P>>) -> usize {
        let mut filled = 0;
        for column in columns {
            if self.scratch.len() == filled {
                self.scratch.push(Vec::new());
            }
            self.scratch[filled].clear();
            column.fill.fill(part, &mut self.scratch[filled]);
            filled += 1;
        }
        filled
    }
}

/// Goes over all parts that can have rows of the base that pass.
pub(super) fn pass<S: Subject>(context: &Context, q: &Question<S::Rows>, base: &Base) -> Partial {
    let all = S::rows(context.facts);
    let mut numbers: Vec<usize> =
        (0..all.parts().len()).filter(|number| may_pass::<S>(q, all.lasts(*number))).collect();
    // Rows are mostly in the order in which they came: of the newest first, later parts have none.
    if q.sort.first().is_some_and(|(_, descending)| *descending) {
        numbers.reverse();
    }
    let is_all = base.is_all(context);
    numbers
        .par_iter()
        .fold(|| Partial::new(q), |partial, number| part::<S>(context, q, base, is_all, partial, *number))
        .reduce(|| Partial::new(q), Partial::join)
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
    let all = S::rows(context.facts);
    let part = all.part(number);
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
        let fails = |value: i64| u32::from(!condition.test.passes(value)) << place;
        if let Fill::Words(of) = &condition.column.fill {
            // There are few words: each is asked once.
            let of_each: [u32; 256] = std::array::from_fn(|word| fails(of_word(word as u8)));
            failed.iter_mut().zip(of(part)).for_each(|(failed, word)| *failed |= of_each[usize::from(*word)]);
            continue;
        }
        to.fill(part, std::iter::once(&condition.column));
        failed.iter_mut().zip(&to.scratch[0]).for_each(|(failed, value)| *failed |= fails(*value));
    }
    let passed: Vec<u32> =
        (0u32..).zip(&failed).filter(|(_, failed)| **failed == PASSED).map(|(place, _)| place).collect();
    for (facet, column) in q.facets.iter().enumerate() {
        // Rows that fail nothing but what is asked of this very column.
        let own = q.conditions.iter().enumerate().filter(|(_, condition)| condition.column.def.id == column.def.id);
        let own = own.fold(0u32, |own, (place, _)| own | 1 << place);
        let passing = if own == 0 { Passing::all(&failed, &passed) } else { Passing::but_for(&failed, own) };
        count((all, number), column, &passing, &mut to.scratch[0], &mut to.counts[facet]);
    }
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
            let count_in = |groups: &mut Groups, group_key| {
                let group = groups.of(group_key);
                group.count += 1;
                for (((_, of), values), kept) in q.summaries.iter().zip(values).zip(&mut group.kept) {
                    kept.take(values[place], *of == Summary::Median);
                }
            };
            if !q.may_overlap() {
                count_in(&mut to.groups, group_key);
                continue;
            }
            for_each_key(q, group_key, 1, &mut |levels, key| match to.outer.get_mut(levels - 1) {
                Some(groups) => count_in(groups, key),
                None => count_in(&mut to.groups, key),
            });
        }
    }
    to.scratch = scratch;
}

/// The keys of all groups of a row whose columns have several values, level by level: with how many levels, and its key.
fn for_each_key<P>(q: &Question<P>, key: GroupKey, levels: usize, found: &mut impl FnMut(usize, GroupKey)) {
    let place = levels - 1;
    let values = match &q.group[place].column.sets {
        Some(sets) if key[place] != NONE => sets.values(key[place]),
        _ => &key[place..levels],
    };
    for value in values {
        let mut own = key;
        own[place] = *value;
        let mut outer = own;
        outer[levels..].fill(NONE);
        found(levels, outer);
        if levels < q.group.len() {
            for_each_key(q, own, levels + 1, found);
        }
    }
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

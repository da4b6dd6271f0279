//! What was found, told: rows by their cells, groups by their keys, values of columns by their names.

use super::{
    answer::{Answer, Cell, GroupRow, ListFacet, ListFacetValue, Row},
    asked::{MOST_KEYS, Summary},
    column::Holds,
    context::Context,
    groups::{Group, GroupKey},
    joined::Column,
    pass::Partial,
    question::Question,
    several::Sets,
    subject::Subject,
    summary::{Kept, unit},
    top::key,
};
use crate::{
    facts::{columns::Part, packed::NONE},
    ground::time::Instant,
};
use std::collections::BTreeMap;

/// Values told of one column, and groups, at the most.
const MOST_TOLD: usize = 60;
const MOST_GROUPS: usize = 5_000;

fn cell<P>(column: &Column<P>, value: i64) -> Cell {
    if value == NONE {
        return Cell::None;
    }
    if let Some(sets) = &column.sets {
        let words: Vec<String> = sets.values(value).iter().map(|value| column.words.key(*value)).collect();
        return Cell::Text(words.join(", "));
    }
    match column.def.holds {
        Holds::Instant => Cell::Instant(Instant::from_ms(value)),
        Holds::YesNo => Cell::YesNo(value != 0),
        Holds::Word | Holds::Words | Holds::Text => Cell::Text(column.words.key(value)),
        Holds::Reference => Cell::Reference { code: column.words.key(value), name: column.words.name(value) },
        holds => Cell::Number(unit(value as f64, holds)),
    }
}

/// The key of a group: of several values the one that its rows share.
fn group_cell<P>(column: &Column<P>, value: i64) -> Cell {
    match column.sets {
        Some(_) if value != NONE => Cell::Text(column.words.key(value)),
        _ => cell(column, value),
    }
}

fn summary<P>(column: &Column<P>, kept: &Kept, of: Summary, whole: &Kept) -> Cell {
    match (kept.told(of, column.def.holds, whole), column.def.holds) {
        (None, _) => Cell::None,
        (Some(ms), Holds::Instant) => Cell::Instant(Instant::from_ms(ms as i64)),
        (Some(value), _) => Cell::Number(value),
    }
}

/// What was found, as it is answered.
pub(super) fn told<S: Subject>(context: &Context, q: &Question<S::Rows>, done: Partial) -> Answer {
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
                column.fill.fill(part, &mut values);
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
    let innermost =
        |(depth, _, group): &(usize, GroupKey, Group)| if depth + 1 == q.group.len() { group.count } else { 0 };
    let overlap = groups.iter().map(innermost).sum::<u64>().saturating_sub(done.count) * u64::from(q.may_overlap());
    let outer = |depth: usize, keys: &GroupKey, group: Group| match done.outer.get(depth) {
        Some(groups) => groups.get(keys, depth + 1).unwrap_or(group),
        None => group,
    };
    let more_groups = groups.len().saturating_sub(MOST_GROUPS);
    let groups = groups.into_iter().take(MOST_GROUPS).map(|(depth, keys, group)| {
        let group = outer(depth, &keys, group);
        let grouping = &q.group[depth];
        let value = keys[depth];
        let summaries = q.summaries.iter().zip(&group.kept).zip(&done.totals);
        GroupRow {
            depth,
            key: group_cell(&grouping.column, value),
            filter: if value == NONE { String::new() } else { grouping.column.words.filter(value) },
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
        overlap,
        count: done.count,
        summaries: summaries.map(|((column, of), kept)| summary(column, kept, *of, kept)).collect(),
        summed: q.summaries.iter().map(|(column, _)| column.def).collect(),
        facets: facets.collect(),
        next_cursor,
        change: context.facts.change,
    }
}

/// How many rows have each value, of how many have each set of values.
fn by_value(sets: &Sets, counted: impl Iterator<Item = (i64, u64)>) -> Vec<(i64, u64)> {
    let mut found: BTreeMap<i64, u64> = BTreeMap::new();
    for (set, count) in counted {
        let values = if set < 0 { &[-1] } else { sets.values(set) };
        values.iter().for_each(|value| *found.entry(*value).or_default() += count);
    }
    found.into_iter().collect()
}

fn facet<P>(column: &Column<P>, counts: &[u64]) -> ListFacet {
    let counted = (-1i64..).zip(counts).filter(|(_, count)| **count > 0).map(|(value, count)| (value, *count));
    let mut found: Vec<(i64, u64)> = match &column.sets {
        Some(sets) => by_value(sets, counted),
        None => counted.collect(),
    };
    let more = found.len().saturating_sub(MOST_TOLD);
    if more > 0 {
        found.sort_by_key(|(_, count)| std::cmp::Reverse(*count));
        found.truncate(MOST_TOLD);
    }
    // None comes last.
    found.sort_by_key(|(value, _)| if *value < 0 { i64::MAX } else { column.words.rank(*value) });
    let values = found.into_iter().map(|(value, count)| match value {
        -1 => ListFacetValue { value: String::new(), name: String::new(), count },
        value => ListFacetValue { value: column.words.filter(value), name: column.words.name(value), count },
    });
    ListFacet { column: column.def.id, values: values.collect(), more }
}

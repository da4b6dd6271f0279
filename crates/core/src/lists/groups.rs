//! Rows that fall together, with what each group comes to.

use super::{asked::MOST_KEYS, summary::Kept};
use crate::facts::packed::NONE;
use rustc_hash::FxHashMap;

/// The values that a group has in common, from the outermost.
pub(super) type GroupKey = [i64; MOST_KEYS];

/// What a group comes to: how many rows, and each summary.
#[derive(Debug, Clone, Default)]
pub(super) struct Group {
    pub(super) count: u64,
    pub(super) kept: Vec<Kept>,
}

/// Groups of the innermost level.
#[derive(Debug, Default)]
pub(super) struct Groups {
    summaries: usize,
    place: FxHashMap<GroupKey, usize>,
    pub(super) all: Vec<(GroupKey, Group)>,
    // Rows mostly come in runs.
    last: Option<(GroupKey, usize)>,
}

impl Groups {
    pub(super) fn new(summaries: usize) -> Self {
        Self { summaries, ..Self::default() }
    }

    #[inline]
    pub(super) fn of(&mut self, key: GroupKey) -> &mut Group {
        let place = match self.last {
            Some((last, place)) if last == key => place,
            _ => {
                let all = &mut self.all;
                let summaries = self.summaries;
                *self.place.entry(key).or_insert_with(|| {
                    all.push((key, Group { count: 0, kept: vec![Kept::default(); summaries] }));
                    all.len() - 1
                })
            }
        };
        self.last = Some((key, place));
        &mut self.all[place].1
    }

    /// The group of the first so many values of a key.
    pub(super) fn get(&self, key: &GroupKey, levels: usize) -> Option<Group> {
        let mut own = *key;
        own[levels..].fill(NONE);
        self.place.get(&own).map(|place| self.all[*place].1.clone())
    }

    pub(super) fn join(mut self, other: Self) -> Self {
        for (key, group) in other.all {
            let into = self.of(key);
            into.count += group.count;
            into.kept.iter_mut().zip(&group.kept).for_each(|(into, kept)| into.join(kept));
        }
        self
    }

    /// The groups of all levels, each before those inside it, with their depth. `ranks` puts the values of one level in order.
    pub(super) fn in_order(self, levels: usize, rank: impl Fn(usize, i64) -> i64) -> Vec<(usize, GroupKey, Group)> {
        let ranked = |key: &GroupKey| -> GroupKey {
            let mut ranks = [0; MOST_KEYS];
            (0..levels).for_each(|level| ranks[level] = rank(level, key[level]));
            ranks
        };
        let mut inner: Vec<(GroupKey, GroupKey, Group)> =
            self.all.into_iter().map(|(key, group)| (ranked(&key), key, group)).collect();
        inner.sort_by_key(|(ranks, key, _)| (*ranks, *key));
        let mut told: Vec<(usize, GroupKey, Group)> = Vec::with_capacity(inner.len() * 2);
        let mut open = [usize::MAX; MOST_KEYS];
        let mut before: Option<GroupKey> = None;
        for (_, key, group) in inner {
            let shared =
                before.map_or(0, |before| (0..levels).take_while(|level| before[*level] == key[*level]).count());
            for (level, place) in open.iter_mut().enumerate().take(levels).skip(shared) {
                *place = told.len();
                told.push((level, key, Group { count: 0, kept: vec![Kept::default(); group.kept.len()] }));
            }
            for place in open.iter().take(levels) {
                let into = &mut told[*place].2;
                into.count += group.count;
                into.kept.iter_mut().zip(&group.kept).for_each(|(into, kept)| into.join(kept));
            }
            before = Some(key);
        }
        told
    }
}

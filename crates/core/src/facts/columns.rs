//! Rows of one kind as columns: parts of a few thousand rows, each a struct of arrays, in the order of their key. Clones share
//! their parts, and a change copies the part it falls into and nothing else.
//!
//! To add a kind of row: `columns!` with its fields, in a module of its own, and a field of
//! [`Snapshot`](super::Snapshot); the store reads it and says which of its rows changed.

use super::{column::ROWS, noted::Noted, packed::Packed};
use crate::ground::time::{Instant, Span};
use rayon::prelude::*;
use serde::{Serialize, de::DeserializeOwned};
use std::{
    collections::HashSet,
    fmt::Debug,
    ops::Range,
    sync::{
        Arc,
        atomic::{AtomicU64, Ordering},
    },
};

/// Some rows as columns. [`columns!`](crate::facts::columns) makes them.
pub trait Part: Clone + Default + Debug + Send + Sync + Serialize + DeserializeOwned {
    type Row: Copy + Debug + PartialEq;
    /// What rows are in order of; no two have the same.
    type Key: Ord + Copy + Debug + Send + Sync;

    fn len(&self) -> usize;
    fn row(&self, place: usize) -> Self::Row;
    fn key(&self, place: usize) -> Self::Key;
    fn key_of(row: &Self::Row) -> Self::Key;
    /// What the database knows the row by.
    fn id(&self, place: usize) -> i64;
    fn id_of(row: &Self::Row) -> i64;
    /// From when to when the row says something; its instant twice where it is of one.
    fn lasts(&self, place: usize) -> (Instant, Instant);
    fn push(&mut self, row: Self::Row);
    fn insert(&mut self, place: usize, row: Self::Row);
    fn remove(&mut self, place: usize);
    fn split_off(&mut self, place: usize) -> Self;
    /// All its rows are there, or have changed: it takes as little room as it can.
    fn settle(&mut self);

    fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// The first place whose key is not below.
    fn place_of(&self, key: Self::Key) -> usize {
        let (mut low, mut high) = (0, self.len());
        while low < high {
            let middle = low.midpoint(high);
            if self.key(middle) < key { low = middle + 1 } else { high = middle }
        }
        low
    }
}

/// Makes a row and the part that keeps it in columns.
macro_rules! columns {
    (
        $(#[$doc:meta])*
        $row:ident in $part:ident, by ($($key:ident: $key_type:ty),+), id $id:ident, lasts ($from:ident, $until:ident) {
            $($(#[$field_doc:meta])* $field:ident: $type:ty),+ $(,)?
        }
    ) => {
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, Eq)]
        pub struct $row {
            $($(#[$field_doc])* pub $field: $type),+
        }

        #[doc = concat!("Rows of [`", stringify!($row), "`] as columns.")]
        #[derive(Debug, Clone, Default, serde::Serialize, serde::Deserialize)]
        pub struct $part {
            $(pub $field: <$type as $crate::facts::packed::Packed>::Column),+
        }

        impl $crate::facts::columns::Part for $part {
            type Row = $row;
            type Key = ($($key_type,)+);

            fn len(&self) -> usize {
                self.$id.len()
            }

            fn row(&self, place: usize) -> $row {
                use $crate::facts::packed::{Column, Packed};
                $row { $($field: <$type>::unpack(Column::of(&self.$field, place))),+ }
            }

            fn key(&self, place: usize) -> Self::Key {
                use $crate::facts::packed::{Column, Packed};
                ($(<$key_type>::unpack(Column::of(&self.$key, place)),)+)
            }

            fn key_of(row: &$row) -> Self::Key {
                ($(row.$key,)+)
            }

            fn id(&self, place: usize) -> i64 {
                self.$id[place].into()
            }

            fn id_of(row: &$row) -> i64 {
                use $crate::facts::packed::Packed;
                row.$id.pack().into()
            }

            fn lasts(&self, place: usize) -> ($crate::ground::time::Instant, $crate::ground::time::Instant) {
                use $crate::{facts::packed::Packed, ground::time::Instant};
                (Instant::unpack(self.$from.of(place)), Instant::unpack(self.$until.of(place)))
            }

            fn push(&mut self, row: $row) {
                use $crate::facts::packed::{Column, Packed};
                $(Column::push(&mut self.$field, row.$field.pack());)+
            }

            fn insert(&mut self, place: usize, row: $row) {
                use $crate::facts::packed::{Column, Packed};
                $(Column::insert(&mut self.$field, place, row.$field.pack());)+
            }

            fn remove(&mut self, place: usize) {
                use $crate::facts::packed::Column;
                $(Column::remove(&mut self.$field, place);)+
            }

            fn split_off(&mut self, place: usize) -> Self {
                use $crate::facts::packed::Column;
                Self { $($field: Column::split_off(&mut self.$field, place)),+ }
            }

            fn settle(&mut self) {
                use $crate::facts::packed::Column;
                $(Column::settle(&mut self.$field);)+
            }
        }
    };
}

pub(crate) use columns;

/// A part and what it lasts: from the first beginning among its rows to the last beginning and the last end.
#[derive(Debug, Clone)]
struct Kept<P: Part> {
    part: Arc<P>,
    len: usize,
    from: Instant,
    last_from: Instant,
    until: Instant,
    /// Those few rows that end last once more, and the last end of all others: an order that stays open for years does not make
    /// all be looked at that came with it.
    late: Option<Arc<P>>,
    over: Instant,
    /// Its rows were changed since that was found out.
    is_stale: bool,
    noted: Arc<Noted>,
}

/// One row in so many is among those that end last.
const LATE_OF: usize = 32;

impl<P: Part> Kept<P> {
    /// Of which nothing is known yet.
    fn stale(part: Arc<P>) -> Self {
        let (from, until) = (Instant::EARLIEST, Instant::LATEST);
        let noted = Arc::default();
        Self { len: part.len(), part, from, last_from: until, until, late: None, over: until, is_stale: true, noted }
    }

    fn of(part: Arc<P>) -> Self {
        let (mut begins, mut last_begins, mut takes_time) = (Instant::LATEST, Instant::EARLIEST, false);
        let mut ends: Vec<End> = Vec::with_capacity(part.len());
        for place in 0..part.len() {
            let (from, until) = part.lasts(place);
            (begins, last_begins) = (begins.min(from), last_begins.max(from));
            takes_time |= from != until;
            ends.push((until, place as u32));
        }
        let last = |ends: &[End]| ends.iter().map(|(until, _)| *until).max().unwrap_or(Instant::EARLIEST);
        let until = last(&ends);
        let (late, over) = match ends.len() / LATE_OF {
            few @ 1.. if takes_time => {
                let (others, late) = late(&mut ends, few);
                (Some(Arc::new(some_of(&*part, late))), last(others))
            }
            _ => (None, until),
        };
        let (len, noted) = (part.len(), Arc::default());
        Self { len, part, from: begins, last_from: last_begins, until, late, over, is_stale: false, noted }
    }
}

/// When a row ends, and its place.
type End = (Instant, u32);

/// All others, and the few that end last, by their places.
fn late(ends: &mut [End], few: usize) -> (&[End], &[End]) {
    let others = ends.len() - few;
    ends.select_nth_unstable(others);
    let (others, late) = ends.split_at_mut(others);
    late.sort_unstable_by_key(|(_, place)| *place);
    (others, late)
}

/// Some rows of a part.
fn some_of<P: Part>(part: &P, some: &[End]) -> P {
    let mut rows = P::default();
    some.iter().for_each(|(_, place)| rows.push(part.row(*place as usize)));
    rows.settle();
    rows
}

/// Rows of one kind.
#[derive(Debug, Clone)]
pub struct Columns<P: Part> {
    // None is empty.
    parts: Vec<Kept<P>>,
    /// The first key of each: what parts are found by stands close together.
    firsts: Vec<P::Key>,
    len: usize,
    /// The greatest id there ever was: what is above is new.
    last_id: i64,
    stamp: u64,
}

/// A number that no other rows have had.
fn new_stamp() -> u64 {
    static LAST: AtomicU64 = AtomicU64::new(0);
    LAST.fetch_add(1, Ordering::Relaxed) + 1
}

fn firsts<P: Part>(parts: &[Kept<P>]) -> Vec<P::Key> {
    parts.iter().map(|kept| kept.part.key(0)).collect()
}

impl<P: Part> Default for Columns<P> {
    fn default() -> Self {
        Self { parts: Vec::new(), firsts: Vec::new(), len: 0, last_id: i64::MIN, stamp: 0 }
    }
}

impl<P: Part> Columns<P> {
    /// Parts in the order of their keys, none of them empty, with the greatest id there ever was.
    #[must_use]
    pub fn of_parts(parts: Vec<P>, last_id: i64) -> Self {
        let len = parts.iter().map(Part::len).sum();
        let parts: Vec<Kept<P>> = parts.into_par_iter().map(|part| Kept::of(Arc::new(part))).collect();
        Self { firsts: firsts(&parts), parts, len, last_id, stamp: new_stamp() }
    }

    /// Another number after each change; the same in clones that nothing changed.
    #[must_use]
    pub fn stamp(&self) -> u64 {
        self.stamp
    }

    /// The greatest id there ever was.
    #[must_use]
    pub fn last_id(&self) -> i64 {
        self.last_id
    }

    /// How many rows there are.
    #[must_use]
    pub fn len(&self) -> usize {
        self.len
    }

    /// Whether there are none.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.len == 0
    }

    /// All parts, in order.
    pub fn parts(&self) -> impl ExactSizeIterator<Item = &P> {
        self.parts.iter().map(|kept| &*kept.part)
    }

    /// The part of that number.
    #[must_use]
    pub fn part(&self, number: usize) -> &P {
        &self.parts[number].part
    }

    /// What was found out about all rows of a part and noted by that name, since they changed last.
    #[must_use]
    pub fn noted(&self, number: usize, what: &str) -> Option<Arc<[u32]>> {
        self.parts[number].noted.of(what)
    }

    /// Notes what was found out about all rows of a part, from these alone; all who note it by that name find the same.
    pub fn note(&self, number: usize, what: &'static str, found: Arc<[u32]>) {
        self.parts[number].noted.note(what, found);
    }

    /// From when to when the rows of a part say something.
    #[must_use]
    pub fn lasts(&self, number: usize) -> (Instant, Instant) {
        (self.parts[number].from, self.parts[number].until)
    }

    /// All rows, in order.
    pub fn rows(&self) -> impl Iterator<Item = P::Row> {
        self.parts().flat_map(|part| (0..part.len()).map(|place| part.row(place)))
    }

    /// Parts that may have rows that last into a window, and may have others: in part those rows alone that end last.
    pub fn overlapping(&self, window: Span) -> impl Iterator<Item = &P> {
        let begun = move |kept: &&Kept<P>| kept.from < window.end();
        self.parts.iter().filter(begun).filter_map(move |kept| match (kept.over, kept.until) {
            (over, _) if over >= window.start() => Some(&*kept.part),
            (_, until) if until >= window.start() => kept.late.as_deref(),
            _ => None,
        })
    }

    /// Parts that may have rows that begin in a window, and may have others.
    pub fn beginning(&self, window: Span) -> impl Iterator<Item = &P> {
        let touches = move |kept: &&Kept<P>| kept.from < window.end() && kept.last_from >= window.start();
        self.parts.iter().filter(touches).map(|kept| &*kept.part)
    }

    /// Rows with keys from one to before another, part by part.
    pub fn between(&self, from: P::Key, to: P::Key) -> impl Iterator<Item = (&P, Range<usize>)> {
        let first = self.holding(from);
        let last = first + self.firsts.get(first..).unwrap_or_default().partition_point(|first| *first < to);
        self.parts[first..last].iter().filter_map(move |kept| {
            let places = kept.part.place_of(from)..kept.part.place_of(to);
            (!places.is_empty()).then_some((&*kept.part, places))
        })
    }

    /// How many rows have keys before one.
    #[must_use]
    pub fn before(&self, key: P::Key) -> usize {
        let number = self.holding(key);
        let whole: usize = self.parts[..number].iter().map(|kept| kept.len).sum();
        whole + self.parts.get(number).map_or(0, |kept| kept.part.place_of(key))
    }

    /// Parts from the one that a key falls into on.
    pub fn parts_from(&self, key: P::Key) -> impl Iterator<Item = &P> {
        self.parts[self.holding(key)..].iter().map(|kept| &*kept.part)
    }

    /// The row of that key.
    #[must_use]
    pub fn get(&self, key: P::Key) -> Option<P::Row> {
        let (part, place) = self.find(key)?;
        Some(part.row(place))
    }

    /// The part and the place in it of a key.
    #[must_use]
    pub fn find(&self, key: P::Key) -> Option<(&P, usize)> {
        let part = &*self.parts.get(self.holding(key))?.part;
        let place = part.place_of(key);
        (place < part.len() && part.key(place) == key).then_some((part, place))
    }

    /// The part that a key falls into; the last one that begins before it, the first where none does.
    fn holding(&self, key: P::Key) -> usize {
        self.firsts.partition_point(|first| *first <= key).saturating_sub(1)
    }

    /// Puts a row in its place; the row of the same key goes.
    pub fn put(&mut self, row: P::Row) {
        self.put_all([row]);
    }

    /// The same of many.
    pub fn put_all(&mut self, rows: impl IntoIterator<Item = P::Row>) {
        rows.into_iter().for_each(|row| self.place(row));
        self.settle();
    }

    fn place(&mut self, row: P::Row) {
        let key = P::key_of(&row);
        self.stamp = new_stamp();
        self.last_id = self.last_id.max(P::id_of(&row));
        if self.parts.is_empty() {
            let mut part = P::default();
            part.push(row);
            self.parts.push(Kept::stale(Arc::new(part)));
            self.firsts.push(key);
            self.len = 1;
            return;
        }
        let number = self.holding(key);
        let kept = &mut self.parts[number];
        let part = Arc::make_mut(&mut kept.part);
        let place = part.place_of(key);
        if place < part.len() && part.key(place) == key {
            part.remove(place);
        } else {
            self.len += 1;
        }
        part.insert(place, row);
        let rest = (part.len() >= 2 * ROWS).then(|| {
            let mut rest = part.split_off(ROWS);
            part.settle();
            rest.settle();
            rest
        });
        self.changed(number);
        if let Some(rest) = rest {
            self.firsts.insert(number + 1, rest.key(0));
            self.parts.insert(number + 1, Kept::stale(Arc::new(rest)));
        }
    }

    /// Takes the row of a key away.
    pub fn take(&mut self, key: P::Key) {
        self.remove(key);
        self.settle();
    }

    fn remove(&mut self, key: P::Key) {
        let number = self.holding(key);
        let Some(kept) = self.parts.get_mut(number) else { return };
        let place = kept.part.place_of(key);
        if place >= kept.part.len() || kept.part.key(place) != key {
            return;
        }
        Arc::make_mut(&mut kept.part).remove(place);
        self.stamp = new_stamp();
        self.len -= 1;
        if kept.part.is_empty() {
            self.parts.remove(number);
            self.firsts.remove(number);
        } else {
            self.changed(number);
        }
    }

    /// The rows of a part are other ones.
    fn changed(&mut self, number: usize) {
        let kept = &mut self.parts[number];
        kept.is_stale = true;
        self.firsts[number] = kept.part.key(0);
    }

    /// Finds out what parts last whose rows were changed: once a part, however many there were.
    fn settle(&mut self) {
        self.parts.iter_mut().filter(|kept| kept.is_stale).for_each(|kept| *kept = Kept::of(kept.part.clone()));
    }

    /// Puts rows in place of those with the same id, and takes away those whose new row is `None`.
    ///
    /// Cost grows with the changed rows; where the key of one may have changed, or it is gone, all ids are looked at once.
    pub fn apply(&mut self, changes: Vec<(i64, Option<P::Row>)>) {
        // A row that has its key already, or whose id is new, has no older one.
        let is_where_it_was = |id: &i64, row: &Option<P::Row>| {
            *id > self.last_id
                || row.is_some_and(|row| self.find(P::key_of(&row)).is_some_and(|(part, place)| part.id(place) == *id))
        };
        let elsewhere: HashSet<i64> =
            changes.iter().filter(|(id, row)| !is_where_it_was(id, row)).map(|(id, _)| *id).collect();
        if !elsewhere.is_empty() {
            let places = self.parts().flat_map(|part| (0..part.len()).map(move |place| (part, place)));
            let old: Vec<P::Key> = places
                .filter(|(part, place)| elsewhere.contains(&part.id(*place)))
                .map(|(part, place)| part.key(place))
                .collect();
            old.into_iter().for_each(|key| self.remove(key));
        }
        self.put_all(changes.into_iter().filter_map(|(_, row)| row));
    }

    /// The same rows, each as `then` makes it, without those that it makes nothing of; keys stay. Parts of which no row is
    /// another are shared.
    #[must_use]
    pub fn mapped(&self, then: impl Fn(P::Row) -> Option<P::Row> + Sync) -> Self {
        let part = |kept: &Kept<P>| -> Option<Kept<P>> {
            let rows = || (0..kept.part.len()).map(|place| kept.part.row(place));
            if rows().all(|row| then(row) == Some(row)) {
                return Some(kept.clone());
            }
            let mut part = P::default();
            rows().filter_map(&then).for_each(|row| part.push(row));
            part.settle();
            (!part.is_empty()).then(|| Kept::of(Arc::new(part)))
        };
        let parts: Vec<Kept<P>> = self.parts.par_iter().filter_map(part).collect();
        let len = parts.iter().map(|kept| kept.len).sum();
        Self { firsts: firsts(&parts), parts, len, last_id: self.last_id, stamp: new_stamp() }
    }

    /// Takes rows with keys from one to before another away.
    pub fn clear(&mut self, from: P::Key, to: P::Key) {
        let found: Vec<P::Key> =
            self.between(from, to).flat_map(|(part, places)| places.map(|place| part.key(place))).collect();
        found.into_iter().for_each(|key| self.remove(key));
        self.settle();
    }
}

/// An id that is kept in four bytes.
#[must_use]
pub fn fits(id: i64) -> bool {
    u32::try_from(id).is_ok_and(|id| id != <Option<u32> as Packed>::pack(None))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use std::collections::BTreeMap;

    columns! {
        /// Something that was noted.
        Note in Notes, by (at: Instant, id: u32), id id, lasts (at, until) {
            id: u32,
            at: Instant,
            until: Instant,
        }
    }

    /// Of the greatest length it never ends.
    fn note(id: u32, at: i64, length: i64) -> Note {
        let until = if length == 8 { Instant::LATEST } else { Instant::from_ms(at + length) };
        Note { id, at: Instant::from_ms(at), until }
    }

    proptest! {
        /// Whatever is put, changed and taken, it is what a map by id has, in order; and an older clone stays as it was.
        #[test]
        fn changed_row_by_row_it_is_what_a_map_holds(
            first in prop::collection::vec((0u32..50, 0i64..40, 0i64..9), 0..40),
            changes in prop::collection::vec((0u32..80, prop::option::of((0i64..40, 0i64..9))), 0..60),
            window in (0i64..40, 1i64..20),
        ) {
            let mut map: BTreeMap<u32, Note> = first.iter().map(|&(id, at, length)| (id, note(id, at, length))).collect();
            let mut columns = Columns::<Notes>::default();
            map.values().for_each(|row| columns.put(*row));
            let before = columns.clone();
            let rows_before: Vec<Note> = before.rows().collect();
            for (id, change) in changes {
                let row = change.map(|(at, length)| note(id, at, length));
                match row {
                    Some(row) => drop(map.insert(id, row)),
                    None => drop(map.remove(&id)),
                }
                let stamp = columns.stamp();
                let had = columns.rows().any(|row| row.id == id);
                columns.apply(vec![(i64::from(id), row)]);
                prop_assert_eq!(columns.stamp() != stamp, had || row.is_some());
            }
            let mut wanted: Vec<Note> = map.values().copied().collect();
            wanted.sort_by_key(Notes::key_of);
            prop_assert_eq!(columns.rows().collect::<Vec<_>>(), wanted.clone());
            prop_assert_eq!(columns.len(), wanted.len());
            prop_assert_eq!(before.rows().collect::<Vec<_>>(), rows_before);
            for row in &wanted {
                prop_assert_eq!(columns.get(Notes::key_of(row)), Some(*row));
            }
            let later = |row: Note| (!row.id.is_multiple_of(3)).then_some(Note { until: row.until.plus(i64::from(row.id % 2)), ..row });
            let mapped = columns.mapped(later);
            prop_assert_eq!(mapped.rows().collect::<Vec<_>>(), wanted.iter().copied().filter_map(later).collect::<Vec<_>>());
            prop_assert_eq!(mapped.len(), mapped.rows().count());
            let window = Span::new(Instant::from_ms(window.0), Instant::from_ms(window.0 + window.1)).unwrap();
            let (from, to) = ((window.start(), 0), (window.end(), 0));
            let found: Vec<Note> = columns.between(from, to).flat_map(|(part, places)| places.map(|place| part.row(place))).collect();
            let dated: Vec<Note> = wanted.iter().copied().filter(|row| window.contains(row.at)).collect();
            prop_assert_eq!(&found, &dated);
            prop_assert_eq!(columns.before(from), wanted.iter().filter(|row| Notes::key_of(row) < from).count());
            let in_parts = columns.beginning(window).flat_map(|part| (0..part.len()).map(|place| part.row(place)));
            prop_assert_eq!(in_parts.filter(|row| window.contains(row.at)).collect::<Vec<_>>(), dated);
            let overlaps = |row: &Note| row.at < window.end() && row.until >= window.start();
            let in_parts = columns.overlapping(window).flat_map(|part| (0..part.len()).map(|place| part.row(place)));
            let overlapping: Vec<Note> = wanted.iter().copied().filter(overlaps).collect();
            prop_assert_eq!(in_parts.filter(|row| overlaps(row)).collect::<Vec<_>>(), overlapping);
        }
    }

    #[test]
    fn a_part_that_grows_is_cut_and_one_that_is_empty_goes() {
        let mut columns: Columns<Notes> = Columns::default();
        let many = u32::try_from(3 * ROWS).unwrap();
        (0..many).rev().for_each(|id| columns.put(note(id, i64::from(id), 1)));
        assert!(columns.parts().len() >= 2 && columns.parts().all(|part| part.len() < 2 * ROWS));
        assert_eq!(columns.rows().map(|row| row.id).collect::<Vec<_>>(), (0..many).collect::<Vec<_>>());
        columns.clear((Instant::EARLIEST, 0), (Instant::LATEST, 0));
        assert_eq!((columns.len(), columns.parts().len()), (0, 0));
    }

    /// Of a part that is over but for few rows, these alone are gone to.
    #[test]
    fn a_row_that_ends_late_is_found_without_those_that_came_with_it() {
        let mut columns: Columns<Notes> = Columns::default();
        let long = |id: u32| id == 40 || id == 70;
        (0..100).for_each(|id| columns.put(note(id, i64::from(id), if long(id) { 8 } else { 1 })));
        let later = Span::new(Instant::from_ms(500), Instant::from_ms(501)).unwrap();
        let found = |columns: &Columns<Notes>| -> Vec<u32> {
            columns.overlapping(later).flat_map(|part| &part.id).copied().collect()
        };
        // A third may be there that is over.
        let some = found(&columns);
        assert!(some.len() <= 3 && [40, 70].iter().all(|id| some.contains(id)), "{some:?}");
        [40, 70].iter().for_each(|id| columns.put(note(*id, i64::from(*id), 1)));
        assert_eq!(found(&columns), [0; 0]);
    }
}

//! For which rows of an answer something on an asset counts: found once for every asset that stands still, and followed by
//! itself where something was moved.

use super::{
    Places, Question,
    formula::{MOST_CELLS, Wanted},
    held::Held,
    measures::{Contribution, Measure, NO_WORK},
};
use crate::{
    facts::{Added, ByWork, Snapshot},
    ground::time::{Instant, Span},
    plant::assets::{Basis, NOBODY, Shape},
};
use fixedbitset::FixedBitSet;
use rustc_hash::FxHashSet;
use std::{borrow::Cow, collections::HashSet, sync::Arc};

/// Counts for no row.
const NOTHING: u32 = u32::MAX;
/// From here on: which row counts hangs on the instant, and these are the numbers of what was moved.
const FOLLOWED: u32 = 1 << 31;

/// What leaves hang on.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Reach {
    window: Span,
    of_all: bool,
    stands_at: Option<Instant>,
}

/// Which rows there are.
#[derive(Clone, Copy)]
enum Rows<'a> {
    /// Every asset, wherever it stood.
    Assets,
    /// Rows of a tally.
    Places(&'a Places),
}

/// The rows of an answer, each with the row that it is part of.
pub(super) struct Slots<'a> {
    snapshot: &'a Snapshot,
    q: Question,
    rows: Rows<'a>,
    held: Option<&'a Held>,
    shape: Arc<Shape>,
    /// By asset the innermost row it lies in, and the same of the assets that count alone, which are told by a bit each.
    all: Arc<Vec<u32>>,
    leaf: Arc<Vec<u32>>,
    counting: Arc<FixedBitSet>,
    /// Rows with the row above, so that whoever adds each to the one above in this order adds up all.
    up: Vec<(u32, u32)>,
    len: usize,
    /// Below which rows may begin or end.
    told_apart: HashSet<u32>,
}

impl<'a> Slots<'a> {
    /// A row for every asset, by its dense index.
    pub(super) fn of_assets(snapshot: &'a Snapshot, q: Question, held: Option<&'a Held>) -> Self {
        let shape = snapshot.tree.shape_at(q.tree_at(q.as_of()));
        let len = snapshot.tree.len();
        let all = Arc::new((0u32..).take(len).collect());
        let (leaf, counting) = held_to(&all, (0..len).collect(), held);
        let up = shape.order().iter().rev().map(|asset| (*asset, shape.parent(*asset)));
        let up = up.filter(|(_, above)| *above != NOBODY).collect();
        let (rows, told_apart) = (Rows::Assets, HashSet::new());
        Self { snapshot, q, rows, held, shape, all, leaf, counting, up, len, told_apart }
    }

    /// The rows of a tally, by their place.
    pub(super) fn of_places(snapshot: &'a Snapshot, places: &'a Places, q: Question) -> Self {
        let shape = snapshot.tree.shape_at(q.tree_at(q.as_of()));
        let len = places.list().len();
        let mut all = vec![NOTHING; snapshot.tree.len()];
        let mut counting = FixedBitSet::with_capacity(all.len());
        places.leaves(&shape, |asset, place| {
            all[asset as usize] = place as u32;
            counting.insert(asset as usize);
        });
        let (rows, held, all) = (Rows::Places(places), places.held(), Arc::new(all));
        let (leaf, counting) = held_to(&all, counting, held);
        let above = places.list().iter().enumerate().rev();
        let up = above.filter_map(|(place, row)| Some((place as u32, row.parent? as u32))).collect();
        let told_apart = places.told_apart(&snapshot.tree);
        Self { snapshot, q, rows, held, shape, all, leaf, counting, up, len, told_apart }
    }

    /// How many rows there are.
    pub(super) fn len(&self) -> usize {
        self.len
    }

    /// What leaves of a measure hang on: its window, whether they are of all assets, because it takes away on some what it adds
    /// on others, and as of when its work is what is held to.
    pub(super) fn reach(&self, measure: &impl Measure) -> Reach {
        let of_all = measure.takes_away() && self.held.is_some_and(|held| held.assets().is_some());
        let stands_at = measure.stands_at(self.q).filter(|_| self.is_held_to_work());
        Reach { window: measure.window(self.snapshot, self.q), of_all, stands_at }
    }

    /// By asset the innermost row that something in a window counts for.
    pub(super) fn leaves(&self, Reach { window, of_all, stands_at }: Reach) -> Leaves<'_> {
        let work = self.held.and_then(|held| held.works(self.snapshot, stands_at));
        let leaf = if of_all { self.all.clone() } else { self.leaf.clone() };
        let counting = self.counting.clone();
        let mut leaves = Leaves { slots: self, leaf, counting, work, stays: Vec::new() };
        let as_of = self.q.as_of();
        let (from, until) = (window.start().min(as_of.plus(-1)), window.end().max(as_of.plus(1)));
        let (Basis::AsWas, Ok(window)) = (self.q.basis, Span::new(from, until)) else { return leaves };
        let mut moved: Vec<u32> = self.snapshot.tree.moved_in(window).collect();
        moved.sort_unstable();
        moved.dedup();
        // What is moved inside what is moved comes first, and keeps its own stays.
        moved.sort_by_cached_key(|asset| std::cmp::Reverse(self.shape.line(*asset).count()));
        let mut done = FxHashSet::default();
        for asset in moved {
            let is_shared = match self.rows {
                Rows::Assets => true,
                Rows::Places(_) => !self.told_apart.contains(&asset),
            };
            let mut stay = None;
            for below in self.shape.below(asset) {
                let holds = self.holds_asset(below);
                if done.contains(&below) || !(of_all || holds) {
                    continue;
                }
                let stay = match stay {
                    Some(stay) if is_shared => stay,
                    _ => {
                        let of = if is_shared { asset } else { below };
                        *stay.insert(self.stays(of, window).map(|stays| {
                            leaves.stays.push((of, stays));
                            leaves.stays.len() as u32 - 1
                        }))
                    }
                };
                done.insert(below);
                if let Some(stay) = stay {
                    Arc::make_mut(&mut leaves.leaf)[below as usize] = FOLLOWED + stay;
                    Arc::make_mut(&mut leaves.counting).set(below as usize, holds);
                }
            }
        }
        leaves
    }

    fn holds_asset(&self, asset: u32) -> bool {
        self.held.and_then(Held::assets).is_none_or(|assets| assets[asset as usize])
    }

    /// Whether it is held to some work.
    pub(super) fn is_held_to_work(&self) -> bool {
        self.held.is_some_and(Held::is_of_work)
    }

    /// Where an asset stood in a window, one stay after the other: until when, and the rows it counted for. None where these were
    /// the same throughout.
    fn stays(&self, asset: u32, window: Span) -> Option<Vec<Stay>> {
        let tree = &self.snapshot.tree;
        let (mut stays, mut at) = (Vec::new(), window.start());
        loop {
            let mut rows = Vec::new();
            self.follow(asset, at, |row| rows.push(row as u32));
            let next = tree.line_at(asset as usize, at).filter_map(|above| tree.moves_after(above, at)).min();
            match next.filter(|next| *next < window.end()) {
                Some(next) => {
                    stays.push(Stay { until: next, rows });
                    at = next;
                }
                None => {
                    let is_same = stays.iter().all(|stay: &Stay| stay.rows == rows);
                    stays.push(Stay { until: Instant::LATEST, rows });
                    return (!is_same).then_some(stays);
                }
            }
        }
    }

    /// Adds each row, of so many cells, to the row above it, but for those that `stop`.
    fn add_up(&self, sums: &mut [i64], cells: usize, stop: &[bool]) {
        for &(below, above) in &self.up {
            if stop.get(below as usize) == Some(&true) {
                continue;
            }
            let of_row = |row: u32| row as usize * cells..(row as usize + 1) * cells;
            if let Ok([below, above]) = sums.get_disjoint_mut([of_row(below), of_row(above)]) {
                above.iter_mut().zip(below).for_each(|(above, below)| *above += *below);
            }
        }
    }

    /// By row whether it is that row or part of it.
    fn within(&self, row: usize) -> Vec<bool> {
        let mut within = vec![false; self.len];
        within[row] = true;
        for &(below, above) in self.up.iter().rev() {
            within[below as usize] |= within[above as usize];
        }
        within
    }

    /// Calls `found` with each row that something on an asset counts for at that instant; of assets only those above it.
    fn follow(&self, asset: u32, at: Instant, mut found: impl FnMut(usize)) {
        let line = self.snapshot.tree.line_at(asset as usize, self.q.tree_at(at));
        match self.rows {
            Rows::Assets => line.skip(1).for_each(found),
            Rows::Places(places) => {
                let line: Vec<usize> = line.collect();
                places.each(&line, &mut found);
            }
        }
    }
}

/// A stay of an asset that was moved, until an instant, and all rows that something on it counted for.
#[derive(Debug)]
struct Stay {
    until: Instant,
    rows: Vec<u32>,
}

/// Innermost rows, for what happened in one window.
pub(super) struct Leaves<'a> {
    slots: &'a Slots<'a>,
    leaf: Arc<Vec<u32>>,
    counting: Arc<FixedBitSet>,
    /// The work that counts; all of it without.
    work: Option<Cow<'a, ByWork<bool>>>,
    /// Of what was moved, each with the asset whose they are: that asset's or one above it, inside which nothing moved.
    stays: Vec<(u32, Vec<Stay>)>,
}

impl Leaves<'_> {
    /// Adds an amount to the cell of the innermost row; what was moved goes apart into all its rows, which are not added up any
    /// more.
    // Called for every row there is.
    #[inline(always)]
    pub(super) fn add(&self, sums: &mut Sums, one: &Contribution) {
        let (leaf, place) = (self.leaf[one.asset as usize], sums.place[one.cell]);
        if leaf == NOTHING || place == UNWANTED || !self.holds(one) {
            return;
        }
        if leaf < FOLLOWED {
            sums.cell[leaf as usize * sums.cells + usize::from(place)] += one.amount;
        } else {
            self.add_moved(leaf, sums, one);
        }
    }

    /// Adds what an asset adds without the rows that it is of.
    #[inline(always)]
    pub(super) fn add_kept(&self, sums: &mut Sums, asset: u32, at: Instant, added: Added) {
        let one = |cell, amount| Contribution { asset, at, cell, amount, work: NO_WORK };
        match added {
            Added::One(cell, amount) => self.add(sums, &one(cell, amount)),
            Added::All(cells) => match self.leaf[asset as usize] {
                NOTHING => {}
                leaf if leaf < FOLLOWED => {
                    let of_leaf = &mut sums.cell[leaf as usize * sums.cells..][..sums.cells];
                    if of_leaf.len() == cells.len() {
                        of_leaf.iter_mut().zip(cells).for_each(|(sum, amount)| *sum += amount);
                        return;
                    }
                    let wanted = sums.place.iter().zip(cells).filter(|(place, _)| **place != UNWANTED);
                    wanted.for_each(|(place, amount)| of_leaf[usize::from(*place)] += amount);
                }
                moved => {
                    let some = (0..).zip(cells).filter(|(_, amount)| *amount != 0);
                    some.for_each(|(cell, amount)| self.add_moved(moved, sums, &one(cell, amount)));
                }
            },
        }
    }

    #[cold]
    fn add_moved(&self, moved: u32, sums: &mut Sums, one: &Contribution) {
        let Contribution { asset, at, cell, amount, .. } = *one;
        let Some(cell) = sums.place(cell) else { return };
        if sums.apart.is_empty() {
            sums.apart = vec![0; sums.cell.len()];
        }
        // Up to what was moved assets add up as they always do.
        if matches!(self.slots.rows, Rows::Assets) {
            sums.cell[asset as usize * sums.cells + cell] += amount;
        }
        self.rows(moved, at).iter().for_each(|row| sums.apart[*row as usize * sums.cells + cell] += amount);
    }

    /// The assets on which something may count for some row.
    pub(super) fn counting(&self) -> &FixedBitSet {
        &self.counting
    }

    /// Whether an asset is one of them.
    // Asked for every row there is: a bit an asset stays close at hand.
    pub(super) fn may_count(&self) -> impl Fn(u32) -> bool + Copy {
        let counting = self.counting();
        move |asset| counting.contains(asset as usize)
    }

    #[inline(always)]
    fn holds(&self, one: &Contribution) -> bool {
        self.work.as_ref().is_none_or(|work| work.of(one.work))
    }

    /// Adds an amount to the list of the innermost row, or, of what was moved, of all its rows.
    #[inline(always)]
    pub(super) fn list(&self, lists: &mut Lists, one: &Contribution) {
        let leaf = self.leaf[one.asset as usize];
        if leaf == NOTHING || !self.holds(one) {
            return;
        }
        if leaf < FOLLOWED {
            lists.of[leaf as usize].push(one.amount);
        } else {
            self.list_moved(leaf, lists, one);
        }
    }

    #[cold]
    fn list_moved(&self, moved: u32, lists: &mut Lists, one: &Contribution) {
        if matches!(self.slots.rows, Rows::Assets) {
            lists.of[one.asset as usize].push(one.amount);
        }
        self.rows(moved, one.at).iter().for_each(|row| lists.apart[*row as usize].push(one.amount));
    }

    /// Of the rows that something counts for the one right below the first, where it is part of that.
    pub(super) fn child(&self, one: &Contribution, is_child: impl Fn(usize) -> bool) -> Option<usize> {
        let rows: &[u32] = match self.leaf[one.asset as usize] {
            NOTHING => &[],
            row if row < FOLLOWED => return Some(row as usize).filter(|row| is_child(*row) && self.holds(one)),
            moved => self.rows(moved, one.at),
        };
        rows.iter().map(|row| *row as usize).find(|row| is_child(*row) && self.holds(one))
    }

    fn rows(&self, moved: u32, at: Instant) -> &[u32] {
        let (_, stays) = &self.stays[(moved - FOLLOWED) as usize];
        stays.iter().find(|stay| at < stay.until).map_or(&[], |stay| &stay.rows)
    }

    /// Rows that are not added up to the one above, because that hangs on the instant.
    fn stop(&self) -> Vec<bool> {
        if self.stays.is_empty() || !matches!(self.slots.rows, Rows::Assets) {
            return Vec::new();
        }
        let mut stop = vec![false; self.slots.len];
        self.stays.iter().for_each(|(asset, _)| stop[*asset as usize] = true);
        stop
    }

    /// Whether something counts for a row.
    pub(super) fn counts_for(&self, row: usize) -> impl Fn(&Contribution) -> bool {
        let within = self.slots.within(row);
        move |one| match self.leaf[one.asset as usize] {
            _ if !self.holds(one) => false,
            NOTHING => false,
            leaf if leaf < FOLLOWED => within[leaf as usize],
            moved => {
                let Contribution { asset, at, .. } = *one;
                let (top, _) = self.stays[(moved - FOLLOWED) as usize];
                let mut inside = self.slots.shape.line(asset);
                let is_inside = matches!(self.slots.rows, Rows::Assets)
                    && inside
                        .find(|above| *above as usize == row || *above == top)
                        .is_some_and(|found| found as usize == row);
                is_inside || self.rows(moved, at).contains(&(row as u32))
            }
        }
    }
}

/// Nobody asks for that cell of a measure.
const UNWANTED: u8 = u8::MAX;

/// Sums of one measure: so many cells a row.
#[derive(Debug, Clone)]
pub(super) struct Sums {
    cells: usize,
    /// By cell of the measure which cell of a row it is added to.
    place: [u8; MOST_CELLS],
    cell: Vec<i64>,
    /// Of what was moved; empty where nothing was.
    apart: Vec<i64>,
}

impl Sums {
    pub(super) fn new(rows: usize, wanted: &Wanted) -> Self {
        let (mut place, apart) = ([UNWANTED; MOST_CELLS], wanted.apart());
        for (of_row, set) in (0u8..).zip(&apart) {
            (0..MOST_CELLS).filter(|cell| set >> cell & 1 == 1).for_each(|cell| place[cell] = of_row);
        }
        Self { cells: apart.len(), place, cell: vec![0; rows * apart.len()], apart: Vec::new() }
    }

    fn place(&self, cell: usize) -> Option<usize> {
        Some(self.place[cell]).filter(|place| *place != UNWANTED).map(usize::from)
    }

    /// Adds up the rows.
    pub(super) fn done(mut self, leaves: &Leaves) -> Self {
        leaves.slots.add_up(&mut self.cell, self.cells, &leaves.stop());
        self.cell.iter_mut().zip(std::mem::take(&mut self.apart)).for_each(|(cell, apart)| *cell += apart);
        self
    }

    /// Some cells of a measure together, whose sum was wanted.
    pub(super) fn of(&self, cells: impl Iterator<Item = usize>) -> SumOf<'_> {
        let place = |cell: usize| {
            debug_assert!(self.place(cell).is_some(), "nobody asked for the cell {cell}");
            self.place(cell)
        };
        let mut places: Vec<usize> = cells.filter_map(place).collect();
        places.sort_unstable();
        places.dedup();
        SumOf { sums: Some(self), places }
    }
}

/// A sum of some cells by row.
#[derive(Debug, Default)]
pub(super) struct SumOf<'a> {
    sums: Option<&'a Sums>,
    places: Vec<usize>,
}

impl SumOf<'_> {
    /// That of a row.
    pub(super) fn row(&self, row: usize) -> i64 {
        self.sums.map_or(0, |sums| self.places.iter().map(|place| sums.cell[row * sums.cells + place]).sum())
    }
}

/// What rows add one by one, by the row of the answer.
#[derive(Debug, Clone, Default)]
pub(super) struct Lists {
    of: Vec<Vec<i64>>,
    apart: Vec<Vec<i64>>,
}

impl Lists {
    pub(super) fn new(rows: usize) -> Self {
        Self { of: vec![Vec::new(); rows], apart: vec![Vec::new(); rows] }
    }

    /// Hands the lists up to the rows above; none is in order.
    pub(super) fn done(mut self, leaves: &Leaves) -> Vec<Vec<i64>> {
        let stop = leaves.stop();
        for &(below, above) in &leaves.slots.up {
            if stop.get(below as usize) != Some(&true)
                && let Ok([below, above]) = self.of.get_disjoint_mut([below as usize, above as usize])
            {
                above.extend_from_slice(below);
            }
        }
        for (list, apart) in self.of.iter_mut().zip(self.apart) {
            list.extend(apart);
        }
        self.of
    }
}

/// Without what does not count.
fn held_to(all: &Arc<Vec<u32>>, mut counting: FixedBitSet, held: Option<&Held>) -> (Arc<Vec<u32>>, Arc<FixedBitSet>) {
    let mut leaf = all.clone();
    if let Some(assets) = held.and_then(Held::assets) {
        let leaf = Arc::make_mut(&mut leaf);
        for (asset, _) in assets.iter().enumerate().filter(|(_, counts)| !**counts) {
            leaf[asset] = NOTHING;
            counting.remove(asset);
        }
    }
    (leaf, Arc::new(counting))
}

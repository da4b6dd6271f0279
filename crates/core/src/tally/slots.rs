//! For which rows of an answer something on an asset counts: found once for every asset that stands still, and followed by
//! itself where something was moved.

use super::{Places, Question};
use crate::{
    facts::Snapshot,
    ground::time::{Instant, Span},
    plant::assets::{Basis, NOBODY, Shape},
};
use std::{borrow::Cow, sync::Arc};

/// Counts for no row.
const NOTHING: u32 = u32::MAX;
/// What counts for which row hangs on the instant.
const FOLLOWED: u32 = u32::MAX - 1;

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
    shape: Arc<Shape>,
    /// By asset the innermost row it counts for.
    leaf: Vec<u32>,
    /// Rows with the row above, so that whoever adds each to the one above in this order adds up all.
    up: Vec<(u32, u32)>,
    len: usize,
}

impl<'a> Slots<'a> {
    /// A row for every asset, by its dense index.
    pub(super) fn of_assets(snapshot: &'a Snapshot, q: Question) -> Self {
        let shape = snapshot.tree.shape_at(q.tree_at(q.as_of()));
        let len = snapshot.tree.len();
        let leaf = (0u32..).take(len).collect();
        let up = shape.order().iter().rev().map(|asset| (*asset, shape.parent(*asset)));
        let up = up.filter(|(_, above)| *above != NOBODY).collect();
        Self { snapshot, q, rows: Rows::Assets, shape, leaf, up, len }
    }

    /// The rows of a tally, by their place.
    pub(super) fn of_places(snapshot: &'a Snapshot, places: &'a Places, q: Question) -> Self {
        let shape = snapshot.tree.shape_at(q.tree_at(q.as_of()));
        let len = places.list().len();
        let mut leaf = vec![NOTHING; snapshot.tree.len()];
        places.leaves(&shape, |asset, place| leaf[asset as usize] = place as u32);
        let above = places.list().iter().enumerate().rev();
        let up = above.filter_map(|(place, row)| Some((place as u32, row.parent? as u32))).collect();
        Self { snapshot, q, rows: Rows::Places(places), shape, leaf, up, len }
    }

    /// How many rows there are.
    pub(super) fn len(&self) -> usize {
        self.len
    }

    /// By asset the innermost row that something in a window counts for.
    pub(super) fn leaves(&self, window: Span) -> Leaves<'_> {
        let mut leaf = Cow::Borrowed(&self.leaf[..]);
        if self.q.basis == Basis::AsWas {
            let as_of = self.q.as_of();
            let from = window.start().min(as_of.plus(-1));
            let until = window.end().max(as_of.plus(1));
            if let Ok(window) = Span::new(from, until) {
                for asset in self.snapshot.tree.moved_in(window) {
                    let leaf = leaf.to_mut();
                    self.shape.below(asset).into_iter().for_each(|below| leaf[below as usize] = FOLLOWED);
                }
            }
        }
        Leaves { slots: self, leaf }
    }

    /// Adds each row, of so many cells, to the row above it.
    pub(super) fn add_up(&self, sums: &mut [i64], cells: usize) {
        for &(below, above) in &self.up {
            let (below, above) = (below as usize * cells, above as usize * cells);
            for cell in 0..cells {
                sums[above + cell] += sums[below + cell];
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

    /// Calls `found` with each row that something on an asset counts for at that instant.
    fn follow(&self, asset: u32, at: Instant, mut found: impl FnMut(usize)) {
        let line = self.snapshot.tree.line_at(asset as usize, self.q.tree_at(at));
        match self.rows {
            Rows::Assets => line.for_each(found),
            Rows::Places(places) => {
                let line: Vec<usize> = line.collect();
                places.each(&line, &mut found);
            }
        }
    }
}

/// Innermost rows, for what happened in one window.
pub(super) struct Leaves<'a> {
    slots: &'a Slots<'a>,
    leaf: Cow<'a, [u32]>,
}

impl Leaves<'_> {
    /// Adds an amount to the cell of the innermost row; what was moved goes into `followed` with all its rows, which are not
    /// added up any more.
    #[inline]
    pub(super) fn add(&self, sums: &mut Sums, asset: u32, at: Instant, cell: usize, amount: i64) {
        match self.leaf[asset as usize] {
            NOTHING => {}
            FOLLOWED => self.slots.follow(asset, at, |row| sums.followed.push((row * sums.cells + cell, amount))),
            row => sums.cell[row as usize * sums.cells + cell] += amount,
        }
    }

    /// Whether something counts for a row.
    pub(super) fn counts_for(&self, row: usize) -> impl Fn(u32, Instant) -> bool {
        let within = self.slots.within(row);
        move |asset, at| match self.leaf[asset as usize] {
            NOTHING => false,
            FOLLOWED => {
                let mut counts = false;
                self.slots.follow(asset, at, |one| counts |= one == row);
                counts
            }
            leaf => within[leaf as usize],
        }
    }
}

/// Sums of one measure: so many cells a row.
#[derive(Debug, Default)]
pub(super) struct Sums {
    cells: usize,
    cell: Vec<i64>,
    followed: Vec<(usize, i64)>,
}

impl Sums {
    pub(super) fn new(rows: usize, cells: usize) -> Self {
        Self { cells, cell: vec![0; rows * cells], followed: Vec::new() }
    }

    /// Adds up the rows.
    pub(super) fn done(mut self, slots: &Slots) -> Self {
        slots.add_up(&mut self.cell, self.cells);
        for (cell, amount) in std::mem::take(&mut self.followed) {
            self.cell[cell] += amount;
        }
        self
    }

    /// A cell of a row.
    pub(super) fn of(&self, row: usize, cell: usize) -> i64 {
        self.cell[row * self.cells + cell]
    }
}

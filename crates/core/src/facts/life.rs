//! Cost of each asset from the beginning, kept row by row: what it came to by an instant is that, less what came after.

use super::{
    Entries, EntryFact,
    columns::{Columns, Part},
    packed::Packed,
};
use crate::{
    ground::{ids::EntryId, time::Instant},
    plant::assets::Tree,
    work::entries::EntryKind,
};
use std::sync::Arc;

/// Sums of an asset: for each kind of entry what is settled, and what is not.
const CELLS: usize = EntryKind::ALL.len() * 2;

/// Assets whose sums a change copies.
const ASSETS: usize = 256;

/// Cost of each asset from the beginning.
#[derive(Debug, Clone, Default)]
pub struct Life {
    /// By dense index, in pieces.
    sums: Vec<Arc<Vec<[i64; CELLS]>>>,
    /// By dense index whether it ever stood elsewhere, or below something that did: its entries count by their instants.
    is_apart: Arc<Vec<bool>>,
    /// The entries of those.
    apart: Columns<Entries>,
    /// When an entry was settled last.
    last_settled: Option<Instant>,
    /// The tree that it was made for: for another it says nothing.
    tree: Option<Arc<Tree>>,
}

/// The sum that an entry goes into.
#[must_use]
pub fn cell(kind: EntryKind, is_settled: bool) -> usize {
    kind as usize * 2 + usize::from(!is_settled)
}

impl Life {
    /// Of all entries there are.
    #[must_use]
    pub fn of(entries: &Columns<Entries>, tree: &Arc<Tree>) -> Self {
        let is_apart = tree.ever_moved();
        let mut sums = vec![[0; CELLS]; tree.len()];
        let (mut apart, mut last_settled) = (Entries::default(), i64::MIN);
        let unsettled = Instant::LATEST.ms();
        for part in entries.parts() {
            for place in 0..part.len() {
                let asset = part.asset[place] as usize;
                let settled_at = part.settled_at[place];
                if settled_at != unsettled {
                    last_settled = last_settled.max(settled_at);
                }
                if is_apart[asset] {
                    apart.push(part.row(place));
                } else {
                    let cell = usize::from(part.kind[place]) * 2 + usize::from(settled_at == unsettled);
                    sums[asset][cell] += part.cost[place];
                }
            }
        }
        Self {
            sums: sums.chunks(ASSETS).map(|some| Arc::new(some.to_vec())).collect(),
            is_apart: is_apart.into(),
            apart: Columns::of(&apart),
            last_settled: (last_settled > i64::MIN).then(|| Instant::from_ms(last_settled)),
            tree: Some(tree.clone()),
        }
    }

    /// An entry that was added, or settled: `before` it was that.
    pub(super) fn change(&mut self, before: Option<EntryFact>, entry: EntryFact) {
        if entry.settled_at != Instant::LATEST {
            self.last_settled = self.last_settled.max(Some(entry.settled_at));
        }
        let Some(&is_apart) = self.is_apart.get(entry.asset as usize) else {
            self.tree = None;
            return;
        };
        if is_apart {
            self.apart.put(entry);
            return;
        }
        let mut adds = |entry: EntryFact, sign: i64| {
            let asset = entry.asset as usize;
            let cell = cell(entry.kind, entry.settled_at != Instant::LATEST);
            Arc::make_mut(&mut self.sums[asset / ASSETS])[asset % ASSETS][cell] += sign * entry.cost.0;
        };
        before.into_iter().for_each(|before| adds(before, -1));
        adds(entry, 1);
    }

    /// Calls `found` with an asset that counts, an instant, a cell and an amount so that they add up to the cost of all its entries
    /// before `end`, as it is settled at `now`; those of one asset at any instant, where it does not matter. False where something
    /// was settled since, or the tree is another: then nothing is found.
    pub fn before(
        &self,
        entries: &Columns<Entries>,
        tree: &Arc<Tree>,
        (end, now): (Instant, Instant),
        counts: impl Fn(u32) -> bool,
        mut found: impl FnMut(u32, Instant, usize, i64),
    ) -> bool {
        let is_it = |of: &Arc<Tree>| Arc::ptr_eq(of, tree);
        if !self.tree.as_ref().is_some_and(is_it) || self.last_settled.is_some_and(|last| last > now) {
            return false;
        }
        let sums = (0u32..).zip(self.sums.iter().flat_map(|some| some.iter()));
        for (asset, sums) in sums.filter(|(asset, _)| counts(*asset)) {
            for (cell, sum) in sums.iter().enumerate().filter(|(_, sum)| **sum != 0) {
                found(asset, end, cell, *sum);
            }
        }
        let mut each = |entries: &Columns<Entries>, from: Instant, to: Instant, apart: bool, sign: i64| {
            for (part, places) in entries.between((from, EntryId(0)), (to, EntryId(0))) {
                let of_part = places.start..;
                let is_counted = |asset: &u32| counts(*asset) && self.is_apart[*asset as usize] == apart;
                for (place, asset) in of_part.zip(&part.asset[places]).filter(|(_, asset)| is_counted(asset)) {
                    let cell = usize::from(part.kind[place]) * 2 + usize::from(part.settled_at[place] > now.ms());
                    found(*asset, Instant::unpack(part.at[place]), cell, sign * part.cost[place]);
                }
            }
        };
        each(entries, end, Instant::LATEST, false, -1);
        each(&self.apart, Instant::EARLIEST, end, true, 1);
        true
    }
}

//! Cost of each asset from the beginning up to some instants, kept row by row: what it came to between any two is the difference of
//! those nearest, more or less what came between.

use super::{
    Entries, EntryFact,
    columns::{Columns, Part, columns},
    packed::Packed,
    pile::Pile,
};
use crate::{
    ground::{
        ids::EntryId,
        money::Cents,
        period::{fiscal_year_start, midnight},
        time::{Instant, Span},
    },
    plant::assets::Tree,
    work::entries::EntryKind,
};
use fixedbitset::FixedBitSet;
use jiff::{ToSpan, tz::TimeZone};
use std::sync::Arc;

/// Sums of an asset: for each kind of entry what is settled, and what is not.
const CELLS: usize = EntryKind::ALL.len() * 2;

/// Assets whose sums a change copies.
const ASSETS: usize = 256;

/// Assets whose sums are looked at in the time of one entry, at least.
const ASSETS_A_ROW: usize = 2;

/// Years whose quarters are kept, and whose beginnings are, counted back from the newest.
const QUARTERS_OF: i64 = 3;
const YEARS: i64 = 12;

/// Where fiscal years begin, and the quarters of the newest, of entries from the first to the last; and where the next will.
pub(super) fn fiscal_cuts(first: Instant, last: Instant, zone: &TimeZone, fiscal_month: i8) -> Vec<Instant> {
    let newest = fiscal_year_start(last, zone, fiscal_month).in_zone(zone).date();
    let begin = |months: i64| midnight(newest.saturating_add(months.months()), zone);
    let years = (QUARTERS_OF..YEARS).rev().map(|back| begin(-12 * back));
    let quarters = (-4 * (QUARTERS_OF - 1)..=4).map(|quarter| begin(3 * quarter));
    let mut cuts: Vec<Instant> = years.chain(quarters).filter(|at| first < *at).collect();
    cuts.truncate(cuts.partition_point(|at| *at <= last) + 1);
    cuts
}

/// Sums by dense index, in pieces.
type Sums = Vec<Arc<Piece>>;

/// Sums of some assets: in half the room, as long as they are small enough for it.
#[derive(Debug, Clone)]
enum Piece {
    Small(Vec<[i32; CELLS]>),
    Any(Vec<[i64; CELLS]>),
}

impl Piece {
    fn of(sums: &[[i64; CELLS]]) -> Self {
        let small: Option<Vec<_>> = sums.iter().map(Self::small).collect();
        small.map_or_else(|| Self::Any(sums.to_vec()), Self::Small)
    }

    fn small(cells: &[i64; CELLS]) -> Option<[i32; CELLS]> {
        let mut small = [0; CELLS];
        for (small, cell) in small.iter_mut().zip(cells) {
            *small = i32::try_from(*cell).ok()?;
        }
        Some(small)
    }

    /// Adds the sums of a place to others, or takes them away.
    fn add_to(&self, place: usize, sign: i64, into: &mut [i64; CELLS]) {
        match self {
            Self::Small(sums) => {
                into.iter_mut().zip(&sums[place]).for_each(|(into, cell)| *into += sign * i64::from(*cell));
            }
            Self::Any(sums) => into.iter_mut().zip(&sums[place]).for_each(|(into, cell)| *into += sign * cell),
        }
    }

    fn add(&mut self, place: usize, cell: usize, amount: i64) {
        match self {
            Self::Small(sums) => match i32::try_from(i64::from(sums[place][cell]) + amount) {
                Ok(sum) => sums[place][cell] = sum,
                Err(_) => {
                    *self = Self::Any(sums.iter().map(|cells| cells.map(i64::from)).collect());
                    self.add(place, cell, amount);
                }
            },
            Self::Any(sums) => sums[place][cell] += amount,
        }
    }
}

columns! {
    /// What of an entry counts, to be found by its asset.
    ApartFact in Apart, by (asset: u32, at: Instant, id: EntryId), id id, lasts (at, at) {
        id: EntryId,
        asset: u32,
        at: Instant,
        kind: EntryKind,
        cost: Cents,
        settled_at: Instant,
    }
}

impl From<EntryFact> for ApartFact {
    fn from(entry: EntryFact) -> Self {
        let EntryFact { id, asset, at, kind, cost, settled_at, .. } = entry;
        Self { id, asset, at, kind, cost, settled_at }
    }
}

/// What each asset had cost before an instant.
#[derive(Debug, Clone)]
struct Cut {
    at: Instant,
    sums: Sums,
}

impl Cut {
    /// What an asset had cost at the last more than at the first.
    fn between<'a>([first, last]: [Option<&'a Self>; 2], asset: usize) -> [i64; CELLS] {
        let piece = |cut: Option<&'a Self>| cut.and_then(|cut| cut.piece(asset));
        // Most are small.
        if let (Some(Piece::Small(before)), Some(Piece::Small(after))) = (piece(first), piece(last)) {
            let (before, after) = (&before[asset % ASSETS], &after[asset % ASSETS]);
            return std::array::from_fn(|cell| i64::from(after[cell]) - i64::from(before[cell]));
        }
        let mut between = [0; CELLS];
        last.iter().for_each(|cut| cut.add_to(asset, 1, &mut between));
        first.iter().for_each(|cut| cut.add_to(asset, -1, &mut between));
        between
    }

    fn piece(&self, asset: usize) -> Option<&Piece> {
        self.sums.get(asset / ASSETS).map(|piece| &**piece)
    }

    fn add_to(&self, asset: usize, sign: i64, into: &mut [i64; CELLS]) {
        if let Some(piece) = self.piece(asset) {
            piece.add_to(asset % ASSETS, sign, into);
        }
    }
}

/// What is kept that lies nearest to the ends of a window, by the entries between; none where that is the beginning.
#[derive(Debug)]
pub struct Ends<'a> {
    window: Span,
    cuts: [Option<&'a Cut>; 2],
    /// How many entries lie between, and how many in the window.
    rest: usize,
    all: usize,
}

impl Ends<'_> {
    /// Whether what is kept of those assets spares a pass over the entries of the window.
    #[must_use]
    pub fn spare(&self, counting: &FixedBitSet) -> bool {
        self.rest + counting.count_ones(..) / ASSETS_A_ROW < self.all
    }
}

/// Cost of each asset from the beginning.
#[derive(Debug, Clone, Default)]
pub struct Life {
    /// Ascending; the last is of all there is.
    cuts: Vec<Cut>,
    /// From here on another cut would be of use.
    until: Option<Instant>,
    /// By dense index whether it ever stood elsewhere, or below something that did: its entries count by their instants.
    is_apart: Arc<Vec<bool>>,
    /// The entries of those.
    apart: Columns<Apart>,
    /// When an entry was settled last.
    last_settled: Option<Instant>,
    /// The tree that it was made for: for another it says nothing.
    tree: Option<Arc<Tree>>,
}

/// What an asset adds: to one of its sums, or to all of them.
#[derive(Debug, Clone, Copy)]
pub enum Added {
    One(usize, i64),
    All([i64; CELLS]),
}

/// The sum that an entry goes into.
#[must_use]
pub fn cell(kind: EntryKind, is_settled: bool) -> usize {
    kind as usize * 2 + usize::from(!is_settled)
}

/// The sum that an entry goes into, by the columns of its kind and of when it was settled, as it is at an instant.
#[inline]
fn cell_as_of(now: Instant, kind: u8, settled_at: i64) -> usize {
    usize::from(kind) * 2 + usize::from(settled_at > now.ms())
}

impl Life {
    /// Of all entries there are, cut at ascending instants; the last of these lies ahead of all entries, and tells from when on
    /// there should be another.
    #[must_use]
    pub fn of(entries: &Columns<Entries>, tree: &Arc<Tree>, at: &[Instant]) -> Self {
        let is_apart = tree.ever_moved();
        let mut sums = vec![[0; CELLS]; tree.len()];
        let (mut apart, mut last_settled) = (Pile::default(), i64::MIN);
        let unsettled = Instant::LATEST.ms();
        let in_pieces = |sums: &[[i64; CELLS]]| sums.chunks(ASSETS).map(|some| Arc::new(Piece::of(some))).collect();
        let (mut cuts, mut next) = (Vec::new(), at.iter().copied().peekable());
        for part in entries.parts() {
            for place in 0..part.len() {
                while let Some(at) = next.next_if(|next| next.ms() <= part.at.of(place)) {
                    cuts.push(Cut { at, sums: in_pieces(&sums) });
                }
                let asset = part.asset[place] as usize;
                let settled_at = part.settled_at.of(place);
                if settled_at != unsettled {
                    last_settled = last_settled.max(settled_at);
                }
                if is_apart[asset] {
                    apart.push(part.row(place).into());
                } else {
                    let cell = usize::from(part.kind[place]) * 2 + usize::from(settled_at == unsettled);
                    sums[asset][cell] += part.cost.of(place);
                }
            }
        }
        cuts.push(Cut { at: Instant::LATEST, sums: in_pieces(&sums) });
        Self {
            cuts,
            until: next.next(),
            is_apart: is_apart.into(),
            apart: apart.columns(),
            last_settled: (last_settled > i64::MIN).then(|| Instant::from_ms(last_settled)),
            tree: Some(tree.clone()),
        }
    }

    /// Whether another cut would be of use once there is an entry at an instant.
    pub(super) fn is_over(&self, at: Instant) -> bool {
        self.until.is_some_and(|until| until <= at)
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
            self.apart.put(entry.into());
            return;
        }
        let mut adds = |entry: EntryFact, sign: i64| {
            let asset = entry.asset as usize;
            let cell = cell(entry.kind, entry.settled_at != Instant::LATEST);
            for cut in self.cuts.iter_mut().filter(|cut| entry.at < cut.at) {
                Arc::make_mut(&mut cut.sums[asset / ASSETS]).add(asset % ASSETS, cell, sign * entry.cost.0);
            }
        };
        before.into_iter().for_each(|before| adds(before, -1));
        adds(entry, 1);
    }

    /// What is kept that lies nearest to the ends of a window.
    #[must_use]
    pub fn ends(&self, entries: &Columns<Entries>, window: Span) -> Ends<'_> {
        let before = |at: Instant| entries.before((at, EntryId(0)));
        let nearest = |at: Instant, here: usize| {
            // None lies nearer than the last before and the first after.
            let next = self.cuts.partition_point(|cut| cut.at < at);
            let earlier = match next.checked_sub(1) {
                Some(last) => (Some(&self.cuts[last]), here - before(self.cuts[last].at)),
                None => (None, here),
            };
            let later = self.cuts.get(next).map(|cut| (Some(cut), before(cut.at) - here));
            std::iter::once(earlier).chain(later).min_by_key(|(_, between)| *between).unwrap_or(earlier)
        };
        let [start, end] = [before(window.start()), before(window.end())];
        let [first, last] = [nearest(window.start(), start), nearest(window.end(), end)];
        Ends { window, cuts: [first.0, last.0], rest: first.1 + last.1, all: end - start }
    }

    /// Calls `found` with an asset that counts, an instant and what it adds so that this adds up to the cost of all its entries in
    /// a window, as it is settled at `now`; those of one asset at any instant, where it does not matter. False where something was
    /// settled since, or the tree is another: then nothing is found.
    pub fn between(
        &self,
        entries: &Columns<Entries>,
        tree: &Arc<Tree>,
        (Ends { window, cuts: [first, last], .. }, now): (Ends, Instant),
        counting: &FixedBitSet,
        mut found: impl FnMut(u32, Instant, Added),
    ) -> bool {
        let is_it = |of: &Arc<Tree>| Arc::ptr_eq(of, tree);
        if !self.tree.as_ref().is_some_and(is_it) || self.last_settled.is_some_and(|last| last > now) {
            return false;
        }
        if first.map(|cut| cut.at) != last.map(|cut| cut.at) {
            for asset in counting.ones() {
                found(asset as u32, window.start(), Added::All(Cut::between([first, last], asset)));
            }
        }
        let mut each = |(from, to): (Instant, Instant), sign: i64| {
            for (part, places) in entries.between((from, EntryId(0)), (to, EntryId(0))) {
                let of_part = places.start..;
                let is_counted = |asset: &u32| counting.contains(*asset as usize) && !self.is_apart[*asset as usize];
                for (place, asset) in of_part.zip(&part.asset[places]).filter(|(_, asset)| is_counted(asset)) {
                    let cell = cell_as_of(now, part.kind[place], part.settled_at.of(place));
                    found(*asset, Instant::unpack(part.at.of(place)), Added::One(cell, sign * part.cost.of(place)));
                }
            }
        };
        for (at, cut, sign) in [(window.start(), first, -1), (window.end(), last, 1)] {
            let cut = cut.map_or(Instant::EARLIEST, |cut| cut.at);
            match cut < at {
                true => each((cut, at), sign),
                false => each((at, cut), -sign),
            }
        }
        self.apart_between(window, now, |asset| counting.contains(asset as usize), found);
        true
    }

    /// Calls `found` with each entry in a window of those that ever stood elsewhere.
    fn apart_between(
        &self,
        window: Span,
        now: Instant,
        counts: impl Fn(u32) -> bool,
        mut found: impl FnMut(u32, Instant, Added),
    ) {
        for part in self.apart.parts() {
            let mut next = 0;
            while let Some(&asset) = part.asset.get(next) {
                let of_asset = next..next + part.asset[next..].iter().take_while(|of| **of == asset).count();
                next = of_asset.end;
                if !counts(asset) {
                    continue;
                }
                for place in of_asset {
                    let at = Instant::unpack(part.at.of(place));
                    if window.contains(at) {
                        let cell = cell_as_of(now, part.kind[place], part.settled_at.of(place));
                        found(asset, at, Added::One(cell, part.cost.of(place)));
                    }
                }
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Two billion minor units are the most that fits into half the room; what goes beyond is counted on as it was.
    #[test]
    fn sums_grow_beyond_what_is_small() {
        let most = i64::from(i32::MAX);
        let mut piece = Piece::of(&[[0; CELLS], [most - 1; CELLS]]);
        piece.add(1, 3, 1);
        assert!(matches!(piece, Piece::Small(_)));
        piece.add(1, 3, 7);
        piece.add(0, 0, -3);
        let mut first = [0; CELLS];
        first[0] = -3;
        let mut second = [most - 1; CELLS];
        second[3] = most + 7;
        let of = |piece: &Piece, place: usize| {
            let mut cells = [0; CELLS];
            piece.add_to(place, 1, &mut cells);
            cells
        };
        assert_eq!([of(&piece, 0), of(&piece, 1)], [first, second]);
        assert_eq!(of(&Piece::of(&[first, second]), 1), second);
    }

    #[test]
    fn years_and_the_quarters_of_the_newest_are_cut() {
        let at = |text: &str| Instant::parse(text).unwrap();
        let cuts = fiscal_cuts(at("2019-05-01T00:00:00Z"), at("2026-03-31T00:00:00Z"), &TimeZone::UTC, 4);
        let dates: Vec<String> = cuts.iter().map(|at| at.in_zone(&TimeZone::UTC).date().to_string()).collect();
        // The fiscal year of March 2026 began in April 2025; the next cut is where the next one begins.
        assert_eq!(
            dates,
            [
                "2020-04-01",
                "2021-04-01",
                "2022-04-01",
                "2023-04-01",
                "2023-07-01",
                "2023-10-01",
                "2024-01-01",
                "2024-04-01",
                "2024-07-01",
                "2024-10-01",
                "2025-01-01",
                "2025-04-01",
                "2025-07-01",
                "2025-10-01",
                "2026-01-01",
                "2026-04-01",
            ]
        );
    }
}

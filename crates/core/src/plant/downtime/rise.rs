//! How downtime climbs where the tree stands still: each row once up its line, in order of time. What was moved or turned
//! within the window, and groups that it touches, go the long way of [`chain`].

use super::{
    DowntimeKind, Piece,
    chain::{Group, reach},
};
use crate::{
    ground::time::{Instant, Span},
    plant::assets::{Basis, NOBODY, ParentEffect, Shape, SteadyEffect, Tree},
};
use fixedbitset::FixedBitSet;
use std::{
    cmp::Reverse,
    collections::{BTreeMap, HashMap},
    sync::Arc,
};

/// A piece, by its number, on its way from one asset up to another, both of which it puts down.
#[derive(Debug, Clone, Copy)]
struct Climb {
    start: Instant,
    piece: u32,
    enter: u32,
    leave: u32,
}

/// Pieces, and how those of kinds up to the last climb.
#[derive(Debug)]
struct Climbs {
    last: DowntimeKind,
    pieces: Vec<Piece>,
    climbs: Vec<Climb>,
}

impl Climbs {
    fn piece(&mut self, piece: Piece) -> u32 {
        self.pieces.push(piece);
        self.pieces.len() as u32 - 1
    }

    fn climb(&mut self, piece: u32, enter: u32, leave: u32) {
        let Piece { span, kind, .. } = self.pieces[piece as usize];
        if kind <= self.last {
            self.climbs.push(Climb { start: span.start(), piece, enter, leave });
        }
    }
}

/// Downtime of every asset that has any in a window, its own and what reaches it from below, not yet joined and not cut to
/// required time; of some kinds, up to the last that is asked for.
///
/// The same as [`reach`] says, at a cost that grows with the rows and the depth of their lines.
#[derive(Debug)]
pub struct Risen {
    shape: Arc<Shape>,
    // Ascending by start.
    climbs: Climbs,
}

/// Ways on which downtime climbs in a window.
#[derive(Debug)]
pub struct Ways<'a> {
    tree: &'a Tree,
    window: Span,
    basis: Basis,
    today: Instant,
    /// Of whose tree they are, but for what is apart.
    at: Instant,
    shape: Arc<Shape>,
    /// The assets whose downtime goes the long way.
    apart: Option<FixedBitSet>,
    last: DowntimeKind,
}

impl<'a> Ways<'a> {
    #[must_use]
    pub fn new(tree: &'a Tree, window: Span, basis: Basis, today: Instant) -> Self {
        let at = match basis {
            Basis::AsWas => window.end().plus(-1),
            Basis::AsIs => today,
        };
        let shape = tree.shape_at(at);
        let apart = match basis {
            Basis::AsWas => unsettled(tree, &shape, window),
            Basis::AsIs => None,
        };
        Self { tree, window, basis, today, at, shape, apart, last: DowntimeKind::External }
    }

    /// Of kinds up to one alone: what is down for another is asked where it leaves a group too few, which the first of the kinds
    /// in it counts for.
    #[must_use]
    pub fn up_to(self, last: DowntimeKind) -> Self {
        Self { last, ..self }
    }

    /// The assets whose downtime may reach one of some assets; none where all of it may.
    #[must_use]
    pub fn lead_to(&self, some: &[u32]) -> Option<FixedBitSet> {
        let mut roots = self.shape.order().iter().take_while(|asset| self.shape.parent(**asset) == NOBODY);
        if some.len() >= self.tree.len() || roots.all(|root| some.contains(root)) {
            return None;
        }
        let mut below = FixedBitSet::with_capacity(self.tree.len());
        self.shape.mark_below(some.iter().copied(), &mut below);
        // What is apart may have stood anywhere.
        self.apart.iter().for_each(|apart| below.union_with(apart));
        Some(below)
    }

    /// `own` is recorded downtime by asset; open intervals already end, and none reaches beyond the life of its asset.
    #[must_use]
    pub fn risen(self, own: impl IntoIterator<Item = (u32, Piece)>) -> Risen {
        let Self { tree, window, basis, today, at, shape, apart, last } = self;
        let climbs = Climbs { last, pieces: Vec::new(), climbs: Vec::new() };
        let mut rising = Rising { tree, shape: &shape, at, climbs, groups: BTreeMap::new() };
        let mut long_way = Vec::new();
        for (asset, piece) in own {
            let Some(span) = piece.span.clip(window) else { continue };
            let piece = Piece { span, ..piece };
            if apart.as_ref().is_some_and(|apart| apart.contains(asset as usize)) {
                long_way.push((asset as usize, piece));
            } else {
                rising.rise(asset, piece);
            }
        }
        rising.groups(window);
        let mut climbs = rising.climbs;
        if !long_way.is_empty() {
            for (asset, pieces) in reach(tree, window, &long_way, basis, today) {
                let asset = asset as u32;
                for piece in pieces {
                    let piece = climbs.piece(piece);
                    climbs.climb(piece, asset, asset);
                }
            }
        }
        climbs.climbs.sort_by_key(|climb| climb.start);
        Risen { shape, climbs }
    }
}

impl Risen {
    /// Calls `found` with each asset that a piece puts down, piece by piece in order of their starts, upwards from where it
    /// enters.
    pub fn each(&self, mut found: impl FnMut(u32, &Piece)) {
        for Climb { enter, leave, piece, .. } in &self.climbs.climbs {
            let (piece, mut asset) = (&self.climbs.pieces[*piece as usize], *enter);
            loop {
                found(asset, piece);
                if asset == *leave {
                    break;
                }
                asset = self.shape.parent(asset);
            }
        }
    }

    /// The pieces of some assets.
    #[must_use]
    pub fn of(&self, assets: impl IntoIterator<Item = u32>) -> HashMap<u32, Vec<Piece>> {
        let mut pieces: HashMap<u32, Vec<Piece>> = assets.into_iter().map(|asset| (asset, Vec::new())).collect();
        if !pieces.is_empty() {
            self.each(|asset, piece| {
                if let Some(of_asset) = pieces.get_mut(&asset) {
                    of_asset.push(*piece);
                }
            });
        }
        pieces
    }
}

/// How deep the parent of a group stands, the deepest first; parent and name.
type GroupKey<'a> = (Reverse<usize>, u32, &'a str);

struct Rising<'a> {
    tree: &'a Tree,
    shape: &'a Shape,
    at: Instant,
    climbs: Climbs,
    /// What members of groups were down, each with its pieces.
    groups: BTreeMap<GroupKey<'a>, HashMap<u32, Vec<Piece>>>,
}

impl<'a> Rising<'a> {
    /// Up through *yes*, cut to the life of each asset on the way, and into a group where it meets one.
    fn rise(&mut self, enter: u32, mut piece: Piece) {
        let (mut enter, mut asset, mut below) = (enter, enter, NOBODY);
        let mut number = self.climbs.piece(piece);
        loop {
            if !self.tree.lives_always(asset as usize) {
                let alive = piece.span.clip(self.tree.node(asset as usize).life);
                if alive != Some(piece.span) {
                    if below != NOBODY && enter != asset {
                        self.climbs.climb(number, enter, below);
                    }
                    let Some(span) = alive else { return };
                    piece.span = span;
                    number = self.climbs.piece(piece);
                    enter = asset;
                }
            }
            let parent = self.shape.parent(asset);
            match self.tree.steady_effect(asset as usize) {
                SteadyEffect::Yes if parent != NOBODY => {
                    (below, asset) = (asset, parent);
                    continue;
                }
                SteadyEffect::Yes | SteadyEffect::No => {
                    self.climbs.climb(number, enter, asset);
                    return;
                }
                SteadyEffect::Other => {}
            }
            match self.tree.effect_at(asset as usize, self.at) {
                ParentEffect::Yes if parent != NOBODY => (below, asset) = (asset, parent),
                ParentEffect::Group { name, .. } if parent != NOBODY => {
                    self.climbs.climb(number, enter, asset);
                    let depth = Reverse(self.shape.line(parent).count());
                    self.groups.entry((depth, parent, name)).or_default().entry(asset).or_default().push(piece);
                    return;
                }
                _ => {
                    self.climbs.climb(number, enter, asset);
                    return;
                }
            }
        }
    }

    /// Groups put their parents down while too few of them are up; the deepest first, because that may reach the next.
    fn groups(&mut self, window: Span) {
        while let Some(((_, parent, name), down)) = self.groups.pop_first() {
            let in_group = |asset: &u32| match self.tree.effect_at(*asset as usize, self.at) {
                ParentEffect::Group { name: of, needs } if of == name => Some((*asset, *needs)),
                _ => None,
            };
            let members: Vec<(u32, u32)> = self.shape.children(parent).iter().filter_map(in_group).collect();
            let Some((_, needs)) = members.first().copied() else { continue };
            // Before it was commissioned and once it is retired a member is neither up nor down.
            let lives = members.iter().map(|(asset, _)| self.tree.node(*asset as usize).life);
            let mut cuts: Vec<Instant> = lives.clone().flat_map(|life| [life.start(), life.end()]).collect();
            cuts.retain(|at| window.start() < *at && *at < window.end());
            cuts.extend([window.start(), window.end()]);
            cuts.sort_unstable();
            cuts.dedup();
            let lives: Vec<Span> = lives.collect();
            let mut rising = Vec::new();
            for part in cuts.windows(2).filter_map(|pair| Span::new(pair[0], pair[1]).ok()) {
                let alive = lives.iter().filter(|life| life.contains(part.start())).count();
                let cut = |pieces: &Vec<Piece>| -> Vec<Piece> {
                    let cut = pieces.iter().filter_map(|piece| Some(Piece { span: piece.span.clip(part)?, ..*piece }));
                    cut.collect()
                };
                let down: Vec<Vec<Piece>> = down.values().map(cut).filter(|pieces| !pieces.is_empty()).collect();
                rising.extend(Group { down }.puts_down(needs, alive));
            }
            rising.into_iter().for_each(|piece| self.rise(parent, piece));
        }
    }
}

/// Assets whose line, or what something on it does to its parent, changed within a window; where that touches a group, all
/// below its parent. None where nothing changed.
fn unsettled(tree: &Tree, shape: &Shape, window: Span) -> Option<FixedBitSet> {
    let changed: Vec<u32> = tree.moved_in(window).chain(tree.turned_in(window)).collect();
    if changed.is_empty() {
        return None;
    }
    let mut marked = FixedBitSet::with_capacity(tree.len());
    let mut tops = changed.clone();
    for asset in changed {
        shape.mark_below([asset], &mut marked);
        if tree.grouped().binary_search(&asset).is_ok() {
            for parent in tree.ever_parents(asset as usize) {
                shape.mark_below([parent as u32], &mut marked);
                tops.push(parent as u32);
            }
        }
    }
    // What is marked or holds something that is, upwards.
    let mut holds = FixedBitSet::with_capacity(tree.len());
    loop {
        for top in tops {
            for above in shape.line(top) {
                if holds.put(above as usize) {
                    break;
                }
            }
        }
        let parents = tree.grouped().iter().map(|member| shape.parent(*member));
        tops = parents
            .filter(|parent| {
                *parent != NOBODY && holds.contains(*parent as usize) && !marked.contains(*parent as usize)
            })
            .collect();
        if tops.is_empty() {
            return Some(marked);
        }
        shape.mark_below(tops.iter().copied(), &mut marked);
    }
}

//! The rows of a tally: a scope, what stood below it at some time of the period, and the rest, so that they add up.
//!
//! A row counts what happened while it stood in its place: below that parent, below the scope. What is booked on a row's
//! parent itself is the parent's *own*; what stood below it only at other times is *formerly here*. So the rows below a
//! parent, its own and what was formerly here are the parent, for every additive indicator.

use super::{Question, held::Held};
use crate::{
    facts::Snapshot,
    ground::{ids::AssetId, spans::intersection, time::Span},
    plant::assets::{Basis, NOBODY, Shape, Tree},
};
use serde::{Deserialize, Serialize};
use std::{
    collections::{HashMap, HashSet},
    sync::Arc,
};

/// What a row of a tally stands for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = TallyRowKind))]
#[serde(rename_all = "snake_case")]
pub enum PlaceKind {
    /// An asset with all below it, while it stood there.
    Asset,
    /// What is booked on the parent row's asset itself; additive figures only.
    Own,
    /// What stood below the parent row's asset, but not in the period; additive figures only.
    FormerlyHere,
}

/// One row.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Place {
    pub kind: PlaceKind,
    /// Dense index of the asset; of the parent's for the rest. None for the rest of the whole, which has no asset.
    asset: Option<usize>,
    /// Place of the parent in the list.
    pub parent: Option<usize>,
    pub depth: u32,
    /// Rows below it are listed.
    is_open: bool,
}

/// Rows in the order of the tree, each after its parent.
#[derive(Debug, Clone)]
pub struct Places {
    list: Vec<Place>,
    /// The way upwards from the scope, by dense index: it counts only while it stood there.
    above: Vec<usize>,
    /// The last of that way, or the scope without one, counts only while it was a root.
    from_root: bool,
    /// Without a scope: the roots are the rows.
    of_roots: bool,
    child: HashMap<(Option<usize>, usize), usize>,
    own: HashMap<usize, usize>,
    formerly: HashMap<Option<usize>, usize>,
    /// What counts at all; everything without it.
    held: Option<Arc<Held>>,
}

/// What is asked for.
#[derive(Debug, Clone, Default)]
pub struct Scope {
    /// All roots without it.
    pub asset: Option<AssetId>,
    /// The row it is taken from: it counts only while it stood there.
    pub under: Way,
    /// Levels below the scope.
    pub depth: u32,
}

/// How a row is reached from a screen's scope: what lay below a row of a tally, asked by itself, is counted as in that row.
#[derive(Debug, Clone, Default)]
pub struct Way {
    /// From the outermost; each right below the one before.
    pub through: Vec<AssetId>,
    /// The outermost (the asset itself where there is none) counts only while it was a root.
    pub from_root: bool,
}

impl Places {
    /// The rows of a scope: itself, then what stood below it at some time of the part of the period that has passed (of
    /// today's tree with [`Basis::AsIs`]); what was retired before the period is no row. `None` for an unknown asset.
    #[must_use]
    pub fn new(snapshot: &Snapshot, scope: Scope, q: Question) -> Option<Self> {
        let tree = &snapshot.tree;
        let above: Option<Vec<usize>> = scope.under.through.iter().rev().map(|above| tree.index(*above)).collect();
        let mut places = Self {
            list: Vec::new(),
            above: above?,
            from_root: scope.under.from_root,
            of_roots: scope.asset.is_none(),
            child: HashMap::new(),
            own: HashMap::new(),
            formerly: HashMap::new(),
            held: None,
        };
        let window = q.passed().unwrap_or(q.period);
        match scope.asset {
            Some(asset) => {
                let index = tree.index(asset)?;
                let stood = places.scope_stood(snapshot, index, q);
                places.add(snapshot, q, index, None, 0, scope.depth, &stood);
            }
            None => {
                for index in tree.roots_during(window_of(q, window)) {
                    let stood = stood_below(snapshot, index, None, &[window], q);
                    if is_row(snapshot, index, &stood, window) {
                        places.add(snapshot, q, index, None, 0, scope.depth, &stood);
                    }
                }
                places.rest(None, PlaceKind::FormerlyHere, 0);
            }
        }
        Some(places)
    }

    fn scope_stood(&self, snapshot: &Snapshot, index: usize, q: Question) -> Vec<Span> {
        let window = q.passed().unwrap_or(q.period);
        let mut downwards = self.above.iter().rev().copied().chain([index]);
        let outermost = downwards.next().unwrap_or(index);
        let stood = match self.from_root {
            true => stood_below(snapshot, outermost, None, &[window], q),
            false => vec![window],
        };
        let mut parent = outermost;
        downwards.fold(stood, |stood, next| {
            let there = stood_below(snapshot, next, Some(parent), &stood, q);
            parent = next;
            there
        })
    }

    #[allow(clippy::too_many_arguments, reason = "one recursion over the tree")]
    fn add(
        &mut self,
        snapshot: &Snapshot,
        q: Question,
        index: usize,
        parent: Option<usize>,
        depth: u32,
        most: u32,
        stood: &[Span],
    ) {
        let place = self.list.len();
        let is_open = depth < most;
        self.list.push(Place { kind: PlaceKind::Asset, asset: Some(index), parent, depth, is_open });
        self.child.insert((parent, index), place);
        if !is_open {
            return;
        }
        let window = q.passed().unwrap_or(q.period);
        let tree = &snapshot.tree;
        self.rest(Some(place), PlaceKind::Own, depth + 1);
        for child in tree.children_during(index, window_of(q, window)) {
            let there = stood_below(snapshot, child, Some(index), stood, q);
            if is_row(snapshot, child, &there, window) {
                self.add(snapshot, q, child, Some(place), depth + 1, most, &there);
            }
        }
        self.rest(Some(place), PlaceKind::FormerlyHere, depth + 1);
    }

    fn rest(&mut self, parent: Option<usize>, kind: PlaceKind, depth: u32) {
        let place = self.list.len();
        let asset = parent.and_then(|parent| self.list[parent].asset);
        self.list.push(Place { kind, asset, parent, depth, is_open: false });
        match (kind, parent) {
            (PlaceKind::Own, Some(parent)) => drop(self.own.insert(parent, place)),
            _ => drop(self.formerly.insert(parent, place)),
        }
    }

    /// The same rows, for which only that counts.
    #[must_use]
    pub fn held_to(self, held: Option<Arc<Held>>) -> Self {
        Self { held, ..self }
    }

    /// What counts at all; everything where it is none.
    pub(super) fn held(&self) -> Option<&Held> {
        self.held.as_deref()
    }

    /// The rows.
    #[must_use]
    pub fn list(&self) -> &[Place] {
        &self.list
    }

    /// Whether it is of one asset, not of all roots.
    #[must_use]
    pub fn has_scope(&self) -> bool {
        !self.of_roots
    }

    /// Dense index of a row's asset; none for what is not one asset.
    #[must_use]
    pub fn index(&self, place: usize) -> Option<usize> {
        self.list[place].asset.filter(|_| self.list[place].kind == PlaceKind::Asset)
    }

    /// Whether anything stood below a row's asset in the part of the period that has passed.
    #[must_use]
    pub fn has_children(&self, snapshot: &Snapshot, place: usize, q: Question) -> bool {
        let window = window_of(q, q.passed().unwrap_or(q.period));
        self.index(place).is_some_and(|index| {
            let mut children = snapshot.tree.children_during(index, window);
            children.any(|child| snapshot.tree.node(child).life.clip(q.passed().unwrap_or(q.period)).is_some())
        })
    }

    /// The scope's row, or its own or what was formerly below it.
    #[must_use]
    pub fn of_scope(&self, kind: PlaceKind) -> Option<usize> {
        let is_it = |row: &Place| if kind == PlaceKind::Asset { row.depth == 0 } else { row.parent == Some(0) };
        self.list.iter().position(|row| row.kind == kind && is_it(row))
    }

    /// When each row stood in its place, in the passed part of the period; empty for what is not one asset.
    #[must_use]
    pub fn stood(&self, snapshot: &Snapshot, q: Question) -> Vec<Vec<Span>> {
        let mut all: Vec<Vec<Span>> = Vec::with_capacity(self.list.len());
        let Some(window) = q.passed() else { return vec![Vec::new(); self.list.len()] };
        for (place, row) in self.list.iter().enumerate() {
            let stood = match (self.index(place), row.parent) {
                (None, _) => Vec::new(),
                (Some(index), None) if self.of_roots => stood_below(snapshot, index, None, &[window], q),
                (Some(index), None) => self.scope_stood(snapshot, index, q),
                (Some(index), Some(parent)) => stood_below(snapshot, index, self.list[parent].asset, &all[parent], q),
            };
            all.push(stood);
        }
        all
    }

    /// Assets that are rows, or ever stood above the scope: what is below another one counts for what that one counts for.
    pub(super) fn told_apart(&self, tree: &Tree) -> HashSet<u32> {
        let scope = self.list.first().and_then(|row| row.asset).filter(|_| !self.of_roots);
        let mut above: HashSet<u32> = HashSet::new();
        let mut next: Vec<usize> = scope.into_iter().collect();
        while let Some(below) = next.pop() {
            next.extend(tree.ever_parents(below).filter(|parent| above.insert(*parent as u32)));
        }
        above.extend(self.list.iter().filter_map(|row| Some(row.asset? as u32)));
        above
    }

    /// Calls `found` with each asset that counts for some row, as the tree stands in that shape, and the innermost such row.
    pub(super) fn leaves(&self, shape: &Shape, mut found: impl FnMut(u32, usize)) {
        // Rows that are open, each with what stands right below its asset.
        let mut open: Vec<(Option<usize>, &[u32])> = Vec::new();
        let roots: Vec<u32> =
            shape.order().iter().copied().take_while(|asset| shape.parent(*asset) == NOBODY).collect();
        match self.list.first().and_then(|row| row.asset).filter(|_| !self.of_roots) {
            None if self.of_roots => open.push((None, &roots)),
            None => {}
            Some(scope) => {
                let scope = scope as u32;
                let above: Vec<usize> = shape.line(scope).skip(1).map(|above| above as usize).collect();
                let is_there = above.starts_with(&self.above) && !(self.from_root && above.len() > self.above.len());
                match is_there {
                    true if self.list[0].is_open => {
                        if let Some(own) = self.own.get(&0) {
                            found(scope, *own);
                        }
                        open.push((Some(0), shape.children(scope)));
                    }
                    true => shape.below(scope).into_iter().for_each(|below| found(below, 0)),
                    false => {}
                }
            }
        }
        while let Some((place, below)) = open.pop() {
            for &asset in below {
                let row = self.child.get(&(place, asset as usize));
                match row {
                    Some(&row) if self.list[row].is_open => {
                        if let Some(own) = self.own.get(&row) {
                            found(asset, *own);
                        }
                        open.push((Some(row), shape.children(asset)));
                    }
                    Some(&row) => shape.below(asset).into_iter().for_each(|below| found(below, row)),
                    None => {
                        if let Some(formerly) = self.formerly.get(&place) {
                            shape.below(asset).into_iter().for_each(|below| found(below, *formerly));
                        }
                    }
                }
            }
        }
    }

    /// Calls `found` with every row that something on the first asset of `line` counts for, the scope first. The line goes
    /// upwards from the asset to its root.
    pub(super) fn each(&self, line: &[usize], mut found: impl FnMut(usize)) {
        let (mut at, mut below) = if self.of_roots {
            (None, line.len())
        } else {
            let Some(scope) = self.list.first().and_then(|row| row.asset) else { return };
            let Some(place) = line.iter().position(|index| *index == scope) else { return };
            let above = &line[place + 1..];
            if !above.starts_with(&self.above) || (self.from_root && above.len() > self.above.len()) {
                return;
            }
            found(0);
            (Some(0), place)
        };
        loop {
            if at.is_some_and(|at| !self.list[at].is_open) {
                return;
            }
            let Some(next) = below.checked_sub(1) else {
                if let Some(own) = at.and_then(|at| self.own.get(&at)) {
                    found(*own);
                }
                return;
            };
            match self.child.get(&(at, line[next])) {
                Some(place) => {
                    found(*place);
                    (at, below) = (Some(*place), next);
                }
                None => {
                    if let Some(formerly) = self.formerly.get(&at) {
                        found(*formerly);
                    }
                    return;
                }
            }
        }
    }
}

/// The window in which children are looked for: with today's tree, this moment.
fn window_of(q: Question, window: Span) -> Span {
    match q.basis {
        Basis::AsWas => window,
        Basis::AsIs => Span::new(q.now, q.now.plus(1)).unwrap_or(window),
    }
}

/// When an asset stood right below a parent (none: was a root), while the parent stood.
fn stood_below(snapshot: &Snapshot, index: usize, parent: Option<usize>, parents: &[Span], q: Question) -> Vec<Span> {
    match q.basis {
        Basis::AsWas => {
            let there: Vec<Span> = snapshot.tree.spans_below(index, parent).collect();
            intersection(&there, parents)
        }
        Basis::AsIs if snapshot.tree.parent_at(index, q.now) == parent => parents.to_vec(),
        Basis::AsIs => Vec::new(),
    }
}

/// Whether an asset that stood there has a row: not when its life was over before. One that is not in service yet has.
fn is_row(snapshot: &Snapshot, index: usize, stood: &[Span], window: Span) -> bool {
    let life = snapshot.tree.node(index).life;
    !stood.is_empty() && life.end() > window.start()
}

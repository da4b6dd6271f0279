//! Placements over time, and questions to them. In one file, because all questions look at the same private columns of the tree,
//! which nothing else may touch.

use super::{
    ParentEffect,
    by_id::ById,
    shape::{NOBODY, Shape},
};
use crate::ground::{
    ids::AssetId,
    lately::Lately,
    time::{Instant, Span},
};
use serde::{Deserialize, Serialize};
use std::sync::{Arc, OnceLock};

/// Where an asset sits from one instant to another; the last one is open.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Placement {
    pub parent: Option<AssetId>,
    pub from: Instant,
    /// [`Instant::LATEST`] while it lasts.
    pub to: Instant,
}

/// What being down does to the parent, from one instant to another.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct EffectSpan {
    pub effect: ParentEffect,
    pub from: Instant,
    pub to: Instant,
}

/// One asset with its places in time.
#[derive(Debug, Clone)]
pub struct Node {
    pub id: AssetId,
    /// Ascending, without gaps or overlaps.
    pub placements: Vec<Placement>,
    /// Ascending; where none stands the effect is *no*.
    pub effects: Vec<EffectSpan>,
    /// From commissioned to retired.
    pub life: Span,
}

/// Which tree a roll-up follows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Basis {
    /// Each event counts for the ancestors its asset had at that instant.
    #[default]
    AsWas,
    /// Each event counts for the ancestors its asset has today.
    AsIs,
}

/// Why an asset can't be put there.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum MoveError {
    #[error("asset {0} is not in the tree")]
    Unknown(AssetId),
    #[error("at {at} the new parent would sit below the asset itself")]
    Cycle { at: Instant },
}

#[derive(Debug, Clone, Copy)]
struct Place {
    from: Instant,
    to: Instant,
    parent: Option<usize>,
}

/// What downtime meets at an asset on its way up.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct Step {
    lives_always: bool,
    effect: SteadyEffect,
}

/// What being down does to the parent, where that never changes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum SteadyEffect {
    No,
    Yes,
    /// It changes, or is that of a group.
    Other,
}

impl SteadyEffect {
    fn of(effects: &[EffectSpan]) -> Self {
        match effects {
            [] => Self::No,
            [only] if (only.from, only.to) == (Instant::EARLIEST, Instant::LATEST) => match only.effect {
                ParentEffect::No => Self::No,
                ParentEffect::Yes => Self::Yes,
                ParentEffect::Group { .. } => Self::Other,
            },
            _ => Self::Other,
        }
    }
}

/// All assets by dense index: a number that stays an asset's as long as assets are only added.
#[derive(Debug, Clone, Default)]
pub struct Tree {
    nodes: Vec<Node>,
    by_id: ById,
    // The placements again with their parents by index: a roll-up asks for them once an event and level.
    places: Vec<Vec<Place>>,
    // Every asset that ever sat below the asset of that index: a superset to look through, whatever the instant.
    ever_children: Vec<Vec<usize>>,
    // The same for none: what ever was a root.
    ever_roots: Vec<usize>,
    // When which asset changed its place, or what it does to its parent, ascending; the first of each is no change.
    moves: Vec<(Instant, u32)>,
    turns: Vec<(Instant, u32)>,
    // Assets that ever were one of a group.
    grouped: Vec<u32>,
    below_groups: OnceLock<Vec<bool>>,
    // Where each stands among others.
    ranks: Vec<usize>,
    // What is asked at every step of a climb, close together.
    steps: Vec<Step>,
    // When a life begins or ends, ascending.
    lives: Vec<Instant>,
    // The last that were asked for, by how many moves there were before.
    shapes: Lately<usize, Shape>,
}

impl Tree {
    /// As [`Self::in_order`], children in the order in which they are given.
    #[must_use]
    pub fn new(nodes: Vec<Node>) -> Self {
        let ranks: Vec<usize> = (0..nodes.len()).collect();
        Self::in_order(nodes, &ranks)
    }

    /// Parents that are not among `nodes` are taken as none. The first placement reaches back to the beginning, whenever the
    /// asset was commissioned: what it cost before counts for all above it. `ranks` says for each where it stands among others,
    /// such as by name; children and roots are told in that order.
    #[must_use]
    pub fn in_order(mut nodes: Vec<Node>, ranks: &[usize]) -> Self {
        for first in nodes.iter_mut().filter_map(|node| node.placements.first_mut()) {
            first.from = Instant::EARLIEST;
        }
        let by_id = ById::new(nodes.iter().map(|node| node.id));
        let place =
            |p: &Placement| Place { from: p.from, to: p.to, parent: p.parent.and_then(|parent| by_id.get(parent)) };
        let places: Vec<Vec<Place>> = nodes.iter().map(|n| n.placements.iter().map(place).collect()).collect();
        let mut ever_children: Vec<Vec<usize>> = vec![Vec::new(); nodes.len()];
        for (index, places) in places.iter().enumerate() {
            for parent in places.iter().filter_map(|p| p.parent) {
                if ever_children[parent].last() != Some(&index) {
                    ever_children[parent].push(index);
                }
            }
        }
        let ranked = |assets: &mut Vec<usize>| assets.sort_by_key(|asset| ranks[*asset]);
        ever_children.iter_mut().for_each(ranked);
        let was_root = |asset: &usize| places[*asset].iter().any(|place| place.parent.is_none());
        let mut ever_roots: Vec<usize> = (0..nodes.len()).filter(was_root).collect();
        ranked(&mut ever_roots);
        let (mut moves, mut turns, mut grouped) = (Vec::new(), Vec::new(), Vec::new());
        for (asset, node) in (0u32..).zip(&nodes) {
            moves.extend(node.placements.iter().skip(1).map(|place| (place.from, asset)));
            let changes = node.effects.iter().flat_map(|effect| [effect.from, effect.to]);
            turns.extend(changes.filter(|at| *at != Instant::EARLIEST && *at != Instant::LATEST).map(|at| (at, asset)));
            if node.effects.iter().any(|span| matches!(span.effect, ParentEffect::Group { .. })) {
                grouped.push(asset);
            }
        }
        let step =
            |node: &Node| Step { lives_always: node.life == Span::ALWAYS, effect: SteadyEffect::of(&node.effects) };
        let steps = nodes.iter().map(step).collect();
        let ends = nodes.iter().filter(|node| node.life != Span::ALWAYS);
        let mut lives: Vec<Instant> = ends.flat_map(|node| [node.life.start(), node.life.end()]).collect();
        lives.sort_unstable();
        lives.dedup();
        moves.sort_unstable();
        turns.sort_unstable();
        Self {
            nodes,
            by_id,
            places,
            ever_children,
            ever_roots,
            moves,
            turns,
            grouped,
            below_groups: OnceLock::new(),
            ranks: ranks.to_vec(),
            steps,
            lives,
            shapes: Lately::default(),
        }
    }

    /// The tree as it stands at an instant. Those of the last few questions are kept: it is the same from one move to the next.
    #[must_use]
    pub fn shape_at(&self, at: Instant) -> Arc<Shape> {
        let moves = self.moves.partition_point(|(moved, _)| *moved <= at);
        let since = moves.checked_sub(1).map_or(Instant::EARLIEST, |last| self.moves[last].0);
        let parent = |asset: usize| self.parent_at(asset, since).map_or(NOBODY, |above| above as u32);
        self.shapes.of(moves, || Shape::of((0..self.len()).map(parent).collect()))
    }

    /// Assets that were moved strictly inside a window, by instant.
    pub fn moved_in(&self, window: Span) -> impl Iterator<Item = u32> {
        within(&self.moves, window)
    }

    /// By asset whether it ever was moved, or stood below something that ever was.
    #[must_use]
    pub fn ever_moved(&self) -> Vec<bool> {
        self.ever_below(self.moves.iter().map(|(_, asset)| *asset as usize))
    }

    /// By asset whether it is one of those, or ever stood below one.
    #[must_use]
    pub fn ever_below(&self, assets: impl IntoIterator<Item = usize>) -> Vec<bool> {
        let mut below = vec![false; self.len()];
        let mut next: Vec<usize> = assets.into_iter().collect();
        while let Some(asset) = next.pop() {
            if !std::mem::replace(&mut below[asset], true) {
                next.extend(&self.ever_children[asset]);
            }
        }
        below
    }

    /// By asset whether it ever stood below the parent of a group, so that its being down may put that down.
    pub fn below_groups(&self) -> &[bool] {
        self.below_groups
            .get_or_init(|| self.ever_below(self.grouped.iter().flat_map(|asset| self.ever_parents(*asset as usize))))
    }

    /// Assets whose effect on their parent changed strictly inside a window, by instant.
    pub fn turned_in(&self, window: Span) -> impl Iterator<Item = u32> {
        within(&self.turns, window)
    }

    /// Assets that ever were one of a group.
    #[must_use]
    pub fn grouped(&self) -> &[u32] {
        &self.grouped
    }

    /// Whether an asset lives as long as there is time.
    #[must_use]
    pub fn lives_always(&self, index: usize) -> bool {
        self.steps[index].lives_always
    }

    /// What its being down does to its parent, where that never changes.
    #[must_use]
    pub fn steady_effect(&self, index: usize) -> SteadyEffect {
        self.steps[index].effect
    }

    /// Where an asset stands among all others, such as by name.
    #[must_use]
    pub fn rank(&self, index: usize) -> usize {
        self.ranks[index]
    }

    /// Everything an asset ever stood right below.
    pub fn ever_parents(&self, index: usize) -> impl Iterator<Item = usize> {
        self.places[index].iter().filter_map(|place| place.parent)
    }

    /// When an asset is moved next after an instant.
    #[must_use]
    pub fn moves_after(&self, index: usize, at: Instant) -> Option<Instant> {
        let places = &self.places[index];
        places.get(places.partition_point(|place| place.from <= at)).map(|place| place.from)
    }

    /// The instants strictly inside `window` at which some asset was moved, ascending.
    #[must_use]
    pub fn moves_in(&self, window: Span) -> Vec<Instant> {
        inside(window, self.moves.iter().map(|(at, _)| *at))
    }

    /// How many assets there are.
    #[must_use]
    pub fn len(&self) -> usize {
        self.nodes.len()
    }

    /// Whether there are none.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.nodes.is_empty()
    }

    /// The node at that index.
    #[must_use]
    pub fn node(&self, index: usize) -> &Node {
        &self.nodes[index]
    }

    /// The dense index of an asset.
    #[must_use]
    pub fn index(&self, id: AssetId) -> Option<usize> {
        self.by_id.get(id)
    }

    /// The parent at that instant.
    #[must_use]
    pub fn parent_at(&self, index: usize, at: Instant) -> Option<usize> {
        let places = &self.places[index];
        let after = places.partition_point(|p| p.from <= at);
        let place = places.get(after.checked_sub(1)?)?;
        if at < place.to { place.parent } else { None }
    }

    /// The asset and its ancestors at that instant, upwards.
    pub fn line_at(&self, index: usize, at: Instant) -> impl Iterator<Item = usize> {
        std::iter::successors(Some(index), move |&below| self.parent_at(below, at))
    }

    /// The children at that instant, in their order.
    pub fn children_at(&self, index: usize, at: Instant) -> impl Iterator<Item = usize> {
        self.ever_children[index].iter().copied().filter(move |&child| self.parent_at(child, at) == Some(index))
    }

    /// The asset and all below it at that instant, parents before children.
    #[must_use]
    pub fn below(&self, index: usize, at: Instant) -> Vec<usize> {
        let mut found = vec![index];
        let mut next = 0;
        while let Some(&parent) = found.get(next) {
            found.extend(self.children_at(parent, at));
            next += 1;
        }
        found
    }

    /// Every asset that sat below this one at some instant of the window.
    pub fn children_during(&self, index: usize, window: Span) -> impl Iterator<Item = usize> {
        self.ever_children[index].iter().copied().filter(move |&child| {
            let mut places = self.places[child].iter();
            places.any(|p| p.parent == Some(index) && p.from < window.end() && p.to > window.start())
        })
    }

    /// Every asset that was a root at some instant of the window, in their order.
    pub fn roots_during(&self, window: Span) -> impl Iterator<Item = usize> {
        self.ever_roots.iter().copied().filter(move |&index| {
            let mut spans = self.spans_below(index, None);
            spans.any(|span| span.clip(window).is_some())
        })
    }

    /// When the asset sat right below `parent`, or was a root without it.
    pub fn spans_below(&self, index: usize, parent: Option<usize>) -> impl Iterator<Item = Span> {
        let places = self.places[index].iter().filter(move |place| place.parent == parent);
        places.filter_map(|place| Span::new(place.from, place.to).ok())
    }

    /// What the asset's being down does to its parent at that instant.
    #[must_use]
    pub fn effect_at(&self, index: usize, at: Instant) -> &ParentEffect {
        self.nodes[index].effects.iter().find(|e| e.from <= at && at < e.to).map_or(&ParentEffect::No, |e| &e.effect)
    }

    /// The instants strictly inside `window` at which some placement, effect or life of an asset changes, ascending.
    #[must_use]
    pub fn changes_in(&self, window: Span) -> Vec<Instant> {
        let changes = self.moves.iter().chain(&self.turns).map(|(at, _)| *at);
        inside(window, changes.chain(self.lives.iter().copied()))
    }

    /// The instants strictly inside `window` at which the life of an asset begins or ends, ascending.
    #[must_use]
    pub fn lives_in(&self, window: Span) -> Vec<Instant> {
        inside(window, self.lives.iter().copied())
    }

    /// Whether `asset` may sit below `parent` from `at` on, whatever else moves later.
    ///
    /// # Errors
    /// [`MoveError`] when either is unknown, or at some instant from `at` on the new parent sits below the asset.
    pub fn check_move(&self, asset: AssetId, parent: Option<AssetId>, at: Instant) -> Result<(), MoveError> {
        let index = self.index(asset).ok_or(MoveError::Unknown(asset))?;
        let Some(parent) = parent else { return Ok(()) };
        let parent = self.index(parent).ok_or(MoveError::Unknown(parent))?;
        // Only where the line above the parent changes can a cycle begin.
        let mut instants = vec![at];
        instants.extend(self.nodes.iter().flat_map(|n| &n.placements).map(|p| p.from).filter(|&from| from > at));
        instants.sort_unstable();
        instants.dedup();
        match instants.into_iter().find(|&at| self.line_at(parent, at).any(|above| above == index)) {
            Some(at) => Err(MoveError::Cycle { at }),
            None => Ok(()),
        }
    }
}

/// The assets of those strictly inside a window.
fn within(changes: &[(Instant, u32)], window: Span) -> impl Iterator<Item = u32> {
    let first = changes.partition_point(|(at, _)| *at <= window.start());
    let last = changes.partition_point(|(at, _)| *at < window.end());
    changes[first..last.max(first)].iter().map(|(_, asset)| *asset)
}

/// Those strictly inside a window, ascending, each once.
fn inside(window: Span, instants: impl Iterator<Item = Instant>) -> Vec<Instant> {
    let mut found: Vec<Instant> = instants.filter(|&at| window.start() < at && at < window.end()).collect();
    found.sort_unstable();
    found.dedup();
    found
}

#[cfg(test)]
mod tests {
    use super::*;

    fn at(ms: i64) -> Instant {
        Instant::from_ms(ms)
    }

    fn node(id: i64, placements: &[(Option<i64>, i64, i64)]) -> Node {
        Node {
            id: AssetId(id),
            placements: placements
                .iter()
                .map(|&(parent, from, to)| Placement { parent: parent.map(AssetId), from: at(from), to: at(to) })
                .collect(),
            effects: vec![],
            life: Span::ALWAYS,
        }
    }

    /// 1 is the root, 2 and 3 below it; 4 moves from 2 to 3 at 100, and 5 sits below 4.
    fn moved() -> Tree {
        Tree::new(vec![
            node(1, &[(None, 0, 1000)]),
            node(2, &[(Some(1), 0, 1000)]),
            node(3, &[(Some(1), 0, 1000)]),
            node(4, &[(Some(2), 0, 100), (Some(3), 100, 1000)]),
            node(5, &[(Some(4), 0, 1000)]),
        ])
    }

    #[test]
    fn the_line_above_an_asset_is_that_of_the_instant() {
        let tree = moved();
        let line = |ms| tree.line_at(4, at(ms)).map(|i| tree.node(i).id.0).collect::<Vec<_>>();
        assert_eq!(line(99), [5, 4, 2, 1]);
        assert_eq!(line(100), [5, 4, 3, 1], "a move counts from its instant on");
        assert_eq!(tree.children_at(1, at(50)).collect::<Vec<_>>(), [3]);
        assert_eq!(tree.children_at(1, at(100)).count(), 0);
        let window = Span::new(at(50), at(101)).unwrap();
        assert_eq!(tree.children_during(1, window).collect::<Vec<_>>(), [3]);
        assert_eq!(tree.changes_in(window), [at(100)]);
    }

    #[test]
    fn a_shape_is_the_tree_of_its_instant() {
        let tree = moved();
        for ms in [50, 100, 999] {
            let shape = tree.shape_at(at(ms));
            for asset in 0..5 {
                let line: Vec<usize> = shape.line(asset).map(|above| above as usize).collect();
                assert_eq!(line, tree.line_at(asset as usize, at(ms)).collect::<Vec<_>>());
                let mut below: Vec<usize> = shape.below(asset).into_iter().map(|below| below as usize).collect();
                let mut slow = tree.below(asset as usize, at(ms));
                below.sort_unstable();
                slow.sort_unstable();
                assert_eq!(below, slow);
            }
            assert_eq!(shape.order().len(), 5);
        }
        let window = |from, to| Span::new(at(from), at(to)).unwrap();
        assert_eq!(tree.moved_in(window(50, 101)).collect::<Vec<_>>(), [3]);
        assert_eq!(tree.moved_in(window(50, 100)).count() + tree.moved_in(window(100, 200)).count(), 0, "inside only");
    }

    #[test]
    fn the_first_place_reaches_back_to_the_beginning() {
        let tree = Tree::new(vec![node(1, &[(None, 500, 1000)]), node(2, &[(Some(1), 500, 700), (None, 700, 1000)])]);
        assert_eq!(tree.parent_at(1, at(-9)), Some(0));
        assert_eq!(tree.spans_below(1, Some(0)).collect::<Vec<_>>(), [Span::new(Instant::EARLIEST, at(700)).unwrap()]);
        assert_eq!(tree.roots_during(Span::new(at(600), at(700)).unwrap()).collect::<Vec<_>>(), [0]);
        assert_eq!(tree.roots_during(Span::new(at(600), at(701)).unwrap()).collect::<Vec<_>>(), [0, 1]);
    }

    #[test]
    fn a_move_that_would_close_a_ring_is_refused_at_its_instant() {
        let tree = moved();
        // 2 below 5: fine once 4 has left 2, a ring before.
        assert_eq!(tree.check_move(AssetId(2), Some(AssetId(5)), at(100)), Ok(()));
        assert_eq!(tree.check_move(AssetId(2), Some(AssetId(5)), at(99)), Err(MoveError::Cycle { at: at(99) }));
        // 3 below 5 at 50 would be fine for a while, and a ring from 100 on.
        assert_eq!(tree.check_move(AssetId(3), Some(AssetId(5)), at(50)), Err(MoveError::Cycle { at: at(100) }));
        assert_eq!(tree.check_move(AssetId(1), Some(AssetId(1)), at(50)), Err(MoveError::Cycle { at: at(50) }));
        assert_eq!(tree.check_move(AssetId(9), None, at(50)), Err(MoveError::Unknown(AssetId(9))));
    }
}

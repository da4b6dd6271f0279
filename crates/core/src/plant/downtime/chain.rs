//! How downtime climbs the tree: through *yes* always, through a group only while too few of it are up.

use super::{Piece, union};
use crate::{
    ground::time::{Instant, Span},
    plant::assets::{Basis, ParentEffect, Tree},
};
use std::collections::{BTreeMap, HashMap};

/// Downtime of every asset that has any in `window`, its own and what reaches it from below: pieces by asset index,
/// not yet joined (see [`super::counted`]) and not cut to required time.
///
/// `own` is recorded downtime by asset index; open intervals already end. The window is taken apart where the tree
/// changes, so that each part has one tree; with [`Basis::AsIs`] the tree is that of `today` throughout, and only lives take
/// it apart. Before it was commissioned and once it is retired an asset is neither up nor down, whatever is recorded. Cost
/// grows with the pieces times the depth of the tree, not with the number of assets.
#[must_use]
pub fn reach(
    tree: &Tree,
    window: Span,
    own: &[(usize, Piece)],
    basis: Basis,
    today: Instant,
) -> HashMap<usize, Vec<Piece>> {
    let mut reached: HashMap<usize, Vec<Piece>> = HashMap::new();
    let cuts = match basis {
        Basis::AsWas => tree.changes_in(window),
        Basis::AsIs => tree.lives_in(window),
    };
    let mut start = window.start();
    for end in cuts.into_iter().chain([window.end()]) {
        if let Ok(part) = Span::new(start, end)
            && own.iter().any(|(_, piece)| piece.span.clip(part).is_some())
        {
            let at = if basis == Basis::AsIs { today } else { start };
            climb(tree, part, at, own, &mut reached);
        }
        start = end;
    }
    reached
}

/// One part of the window, over the tree as it stands at `at`.
fn climb(tree: &Tree, part: Span, at: Instant, own: &[(usize, Piece)], reached: &mut HashMap<usize, Vec<Piece>>) {
    // Deepest first, so that an asset is looked at when all below it is done.
    let mut waiting: BTreeMap<(usize, usize), Vec<Piece>> = BTreeMap::new();
    let mut groups: HashMap<(usize, &str), Group> = HashMap::new();
    let key = |index: usize| (usize::MAX - tree.line_at(index, at).count(), index);
    for (index, piece) in own {
        if let Some(span) = piece.span.clip(part) {
            waiting.entry(key(*index)).or_default().push(Piece { span, ..*piece });
        }
    }
    while let Some(((_, index), mut pieces)) = waiting.pop_first() {
        for ((_, name), group) in groups.extract_if(|(parent, _), _| *parent == index) {
            let needs_of = |child: usize| match tree.effect_at(child, at) {
                ParentEffect::Group { name: of, needs } if of == name => Some((child, *needs)),
                _ => None,
            };
            let members: Vec<(usize, u32)> = tree.children_at(index, at).filter_map(needs_of).collect();
            let alive = members.iter().filter(|(child, _)| tree.node(*child).life.contains(part.start())).count();
            // Where members say it differently, the one of the lowest number is heard.
            let needs = members.iter().min().map_or(0, |(_, needs)| *needs);
            pieces.extend(group.puts_down(needs, alive));
        }
        if pieces.is_empty() || !tree.node(index).life.contains(part.start()) {
            continue;
        }
        if let Some(parent) = tree.parent_at(index, at) {
            match tree.effect_at(index, at) {
                ParentEffect::No => {}
                ParentEffect::Yes => waiting.entry(key(parent)).or_default().extend(&pieces),
                ParentEffect::Group { name, .. } => {
                    waiting.entry(key(parent)).or_default();
                    groups.entry((parent, name)).or_default().down.push(pieces.clone());
                }
            }
        }
        reached.entry(index).or_default().extend(pieces);
    }
}

/// Members of a k-of-n group that were down at some time.
#[derive(Default)]
pub(super) struct Group {
    /// A member's pieces together.
    pub(super) down: Vec<Vec<Piece>>,
}

impl Group {
    /// The members' pieces, cut to the times in which fewer than `needs` of `members` were up.
    pub(super) fn puts_down(self, needs: u32, members: usize) -> Vec<Piece> {
        let too_many = members.saturating_sub(needs as usize) + 1;
        let mut edges: Vec<(Instant, i32)> = Vec::new();
        for member in &self.down {
            for span in union(member.iter().map(|piece| piece.span).collect()) {
                edges.push((span.start(), 1));
                edges.push((span.end(), -1));
            }
        }
        edges.sort_unstable();
        let mut down_now = 0i32;
        let mut since = Instant::EARLIEST;
        let mut parent_down = Vec::new();
        for (at, change) in edges {
            if usize::try_from(down_now).is_ok_and(|n| n >= too_many) {
                parent_down.extend(Span::new(since, at).ok());
            }
            down_now += change;
            since = at;
        }
        let parent_down = union(parent_down);
        self.down
            .into_iter()
            .flatten()
            .flat_map(|piece| {
                let cut = parent_down.iter().filter_map(move |span| piece.span.clip(*span));
                cut.map(move |span| Piece { span, ..piece })
            })
            .collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{
        ground::{ids::AssetId, spans::total_ms},
        plant::{
            assets::{EffectSpan, Node, Placement},
            downtime::{DowntimeKind, counted},
        },
    };
    use proptest::prelude::*;

    fn at(second: i64) -> Instant {
        Instant::from_ms(second * 1000)
    }

    fn node(id: i64, placements: &[(i64, i64, i64)], effect: ParentEffect) -> Node {
        Node {
            id: AssetId(id),
            placements: placements
                .iter()
                .map(|&(parent, from, to)| Placement {
                    parent: (parent >= 0).then_some(AssetId(parent)),
                    from: at(from),
                    to: at(to),
                })
                .collect(),
            effects: vec![EffectSpan { effect, from: at(0), to: at(1000) }],
            life: Span::ALWAYS,
        }
    }

    fn piece(row: i64, start: i64, end: i64) -> Piece {
        Piece { span: Span::new(at(start), at(end)).unwrap(), kind: DowntimeKind::Unplanned, row_start: at(start), row }
    }

    fn pumps(needs: u32, n: i64) -> Tree {
        let group = ParentEffect::Group { name: "pumps".into(), needs };
        let mut nodes = vec![node(0, &[(-1, 0, 1000)], ParentEffect::No)];
        nodes.extend((1..=n).map(|id| node(id, &[(0, 0, 1000)], group.clone())));
        Tree::new(nodes)
    }

    fn seconds(reached: &HashMap<usize, Vec<Piece>>, index: usize) -> i64 {
        reached.get(&index).map_or(0, |p| counted(p).iter().map(|p| p.span.ms()).sum::<i64>() / 1000)
    }

    fn window() -> Span {
        Span::new(at(0), at(1000)).unwrap()
    }

    #[test]
    fn one_of_two_pumps_leaves_the_parent_up_and_two_put_it_down() {
        let tree = pumps(1, 2);
        let one = [(1, piece(1, 10, 60))];
        assert_eq!(seconds(&reach(&tree, window(), &one, Basis::AsWas, at(999)), 0), 0);
        let both = [(1, piece(1, 10, 60)), (2, piece(2, 40, 90))];
        assert_eq!(seconds(&reach(&tree, window(), &both, Basis::AsWas, at(999)), 0), 20);
    }

    #[test]
    fn a_move_splits_downtime_between_the_parents() {
        let tree = Tree::new(vec![
            node(0, &[(-1, 0, 1000)], ParentEffect::No),
            node(1, &[(0, 0, 1000)], ParentEffect::Yes),
            node(2, &[(0, 0, 1000)], ParentEffect::Yes),
            node(3, &[(1, 0, 100), (2, 100, 1000)], ParentEffect::Yes),
        ]);
        let own = [(3, piece(1, 70, 150))];
        let was = reach(&tree, window(), &own, Basis::AsWas, at(999));
        assert_eq!([seconds(&was, 1), seconds(&was, 2), seconds(&was, 0), seconds(&was, 3)], [30, 50, 80, 80]);
        let is = reach(&tree, window(), &own, Basis::AsIs, at(999));
        assert_eq!([seconds(&is, 1), seconds(&is, 2), seconds(&is, 0)], [0, 80, 80]);
    }

    /// Two pumps of which one is enough; the second is commissioned at 50 and retired at 80. Down: the first from 10 to 90, the
    /// second from 60 on, without an end.
    #[rstest::rstest]
    #[case::as_it_was(Basis::AsWas)]
    #[case::as_it_is(Basis::AsIs)]
    fn a_group_has_those_that_live(#[case] basis: Basis) {
        let mut nodes: Vec<Node> = (0..3).map(|index| pumps(1, 2).node(index).clone()).collect();
        nodes[2].life = Span::new(at(50), at(80)).unwrap();
        let tree = Tree::new(nodes);
        let own = [(1, piece(1, 10, 90)), (2, piece(2, 60, 1000))];
        let reached = reach(&tree, window(), &own, basis, at(999));
        // Alone to 50, both there to 80 and both down from 60 on, alone again to 90.
        assert_eq!(seconds(&reached, 0), (50 - 10) + (80 - 60) + (90 - 80));
        assert_eq!(seconds(&reached, 2), 20, "its own ends with its life");
    }

    #[test]
    fn a_retired_asset_keeps_nothing_down() {
        let mut part = node(1, &[(0, 0, 1000)], ParentEffect::Yes);
        part.life = Span::new(at(0), at(100)).unwrap();
        let tree = Tree::new(vec![node(0, &[(-1, 0, 1000)], ParentEffect::No), part]);
        for basis in [Basis::AsWas, Basis::AsIs] {
            let reached = reach(&tree, window(), &[(1, piece(1, 90, 1000))], basis, at(999));
            assert_eq!((seconds(&reached, 0), seconds(&reached, 1)), (10, 10));
        }
    }

    proptest! {
        #[test]
        fn k_of_n_matches_counting_second_by_second(
            needs in 1u32..4,
            rows in prop::collection::vec((1usize..5, 0i64..40, 1i64..20), 0..10),
        ) {
            let tree = pumps(needs, 4);
            let own: Vec<_> = rows.iter().enumerate()
                .map(|(row, &(pump, start, length))| (pump, piece(row as i64, start, start + length)))
                .collect();
            let reached = reach(&tree, window(), &own, Basis::AsWas, at(999));
            let slow = (0..70).filter(|&s| {
                let up = (1..5).filter(|&pump| !own.iter().any(|(p, piece)| *p == pump && piece.span.contains(at(s)))).count();
                up < needs as usize
            }).count() as i64;
            prop_assert_eq!(seconds(&reached, 0), slow);
            // The rows that are counted are parts of recorded rows, and together they are the figure.
            let parent = counted(reached.get(&0).map_or(&[][..], |p| p));
            let spans: Vec<Span> = parent.iter().map(|p| p.span).collect();
            prop_assert_eq!(total_ms(&spans), slow * 1000);
            for part in parent {
                prop_assert!(own.iter().any(|(_, whole)| whole.row == part.row && whole.span.clip(part.span) == Some(part.span)));
            }
        }
    }
}

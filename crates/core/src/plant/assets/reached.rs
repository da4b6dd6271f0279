//! How far somebody's bounds reach in the tree, where assets were put last.

use super::Tree;
use crate::{access::bounds::Bounds, ground::time::Instant};

/// By dense index whether an asset is reached; `None` where all are.
#[must_use]
pub fn reached(tree: &Tree, bounds: &Bounds) -> Option<Vec<bool>> {
    if !bounds.is_bounded() {
        return None;
    }
    let shape = tree.shape_at(Instant::LATEST);
    let mut reached = vec![false; tree.len()];
    for top in bounds.given().iter().filter_map(|asset| tree.index(*asset)) {
        for below in shape.below(top as u32) {
            reached[below as usize] = true;
        }
    }
    Some(reached)
}

/// Dense indexes of the assets that were given and don't stand below another one of them, in the order they were given.
#[must_use]
pub fn outermost(tree: &Tree, bounds: &Bounds) -> Vec<usize> {
    let shape = tree.shape_at(Instant::LATEST);
    let is_given = |index: u32| bounds.given().contains(&tree.node(index as usize).id);
    let is_outermost = |index: &usize| !shape.line(*index as u32).skip(1).any(is_given);
    bounds.given().iter().filter_map(|asset| tree.index(*asset)).filter(is_outermost).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{
        ground::{ids::AssetId, time::Span},
        plant::assets::{Node, Placement},
    };
    use proptest::prelude::*;

    fn tree(parents: &[Option<i64>]) -> Tree {
        let place = |parent: Option<i64>| Placement {
            parent: parent.map(AssetId),
            from: Instant::EARLIEST,
            to: Instant::LATEST,
        };
        let node = |(id, parent): (i64, &Option<i64>)| Node {
            id: AssetId(id),
            placements: vec![place(*parent)],
            effects: Vec::new(),
            life: Span::ALWAYS,
        };
        Tree::new((0..).zip(parents).map(node).collect())
    }

    #[test]
    fn without_bounds_everything_is_reached() {
        assert_eq!(reached(&tree(&[None]), &Bounds::None), None);
    }

    proptest! {
        /// The marks of all at once are what each asset's line upwards says, climbed by hand.
        #[test]
        fn marks_are_what_climbing_says(
            parents in prop::collection::vec(any::<prop::sample::Index>(), 1..40),
            given in prop::collection::vec(0_i64..45, 0..4),
        ) {
            let above = |place: usize| parents[place].index(place + 1);
            let parents: Vec<Option<i64>> =
                (0..parents.len()).map(|place| (above(place) < place).then_some(above(place) as i64)).collect();
            let tree = tree(&parents);
            let bounds = Bounds::of(given.iter().map(|id| AssetId(*id)));
            let climb = |from: i64| std::iter::successors(Some(from), |at| parents[*at as usize]).map(AssetId);
            let reached: Vec<bool> = (0..parents.len() as i64).map(|id| bounds.reach(climb(id))).collect();
            let outermost: Vec<i64> = outermost(&tree, &bounds).iter().map(|index| tree.node(*index).id.0).collect();
            let is_outermost = |id: &AssetId| id.0 < parents.len() as i64 && !climb(id.0).skip(1).any(|above| bounds.given().contains(&above));
            let wanted: Vec<i64> = bounds.given().iter().filter(|id| is_outermost(id)).map(|id| id.0).collect();
            prop_assert_eq!(outermost, wanted);
            prop_assert_eq!(super::reached(&tree, &bounds).unwrap_or(vec![true; parents.len()]), reached);
        }
    }
}

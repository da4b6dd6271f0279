//! How far an account reaches in the plant: everywhere, or below the assets it was given (rules.md §8). What its role may do
//! and see it may do and see there alone.

use super::{refusal::Refusal, roles::Role};
use crate::{
    ground::{ids::AssetId, time::Instant},
    plant::assets::Tree,
};
use std::sync::Arc;

/// How far an account reaches.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub enum Bounds {
    /// Everywhere.
    #[default]
    None,
    /// Those assets with all that stands below them now.
    Below(Arc<[AssetId]>),
}

/// Assets that one account or crew is given at the most: more are a place of their own in the tree.
pub const MOST_GIVEN: usize = 50;

impl Bounds {
    /// Of an account and its crew together: what either was given. Neither given anything is everywhere.
    #[must_use]
    pub fn of(given: impl IntoIterator<Item = AssetId>) -> Self {
        let mut given: Vec<AssetId> = given.into_iter().collect();
        given.sort_unstable();
        given.dedup();
        if given.is_empty() { Self::None } else { Self::Below(given.into()) }
    }

    /// Whether it is not everywhere.
    #[must_use]
    pub fn is_bounded(&self) -> bool {
        *self != Self::None
    }

    /// The assets that were given; none where it is everywhere.
    #[must_use]
    pub fn given(&self) -> &[AssetId] {
        match self {
            Self::None => &[],
            Self::Below(given) => given,
        }
    }

    /// Whether something that stands there is reached; `line` goes from its asset up to a root.
    pub fn reach(&self, mut line: impl Iterator<Item = AssetId>) -> bool {
        match self {
            Self::None => true,
            Self::Below(given) => line.any(|asset| given.contains(&asset)),
        }
    }

    /// Refuses what is of the plant as a whole to whoever is given a part of it.
    ///
    /// # Errors
    /// [`Refusal::NotTheirs`].
    pub fn require_whole(&self) -> Result<(), Refusal> {
        let part = || Refusal::NotTheirs("this is of the whole plant, and you are given a part of it".into());
        if self.is_bounded() { Err(part()) } else { Ok(()) }
    }

    /// By dense index of a tree whether an asset is reached, where it was put last; `None` where all are.
    #[must_use]
    pub fn marks(&self, tree: &Tree) -> Option<Vec<bool>> {
        let Self::Below(given) = self else { return None };
        let shape = tree.shape_at(Instant::LATEST);
        let mut marks = vec![false; tree.len()];
        for top in given.iter().filter_map(|asset| tree.index(*asset)) {
            for below in shape.below(top as u32) {
                marks[below as usize] = true;
            }
        }
        Some(marks)
    }

    /// Dense indexes of the assets that were given and don't stand below another one of them, in the order they were given.
    #[must_use]
    pub fn outermost(&self, tree: &Tree) -> Vec<usize> {
        let shape = tree.shape_at(Instant::LATEST);
        let is_given = |index: u32| self.given().contains(&tree.node(index as usize).id);
        let is_outermost = |index: &usize| !shape.line(*index as u32).skip(1).any(is_given);
        self.given().iter().filter_map(|asset| tree.index(*asset)).filter(is_outermost).collect()
    }
}

/// Whether somebody of that role may be bounded by that many assets.
///
/// # Errors
/// [`Refusal::Field`] for `scope`: an administrator could give themselves everything, and a long list is no bound.
pub fn check(role: Role, given: usize) -> Result<(), Refusal> {
    if given > 0 && role == Role::Administrator {
        return Err(Refusal::field("scope", "bounds nobody who says what others may see: an administrator has none"));
    }
    if given > MOST_GIVEN {
        return Err(Refusal::field("scope", format!("names {given} assets; {MOST_GIVEN} are the most")));
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{
        ground::time::Span,
        plant::assets::{Node, Placement},
    };
    use proptest::prelude::*;
    use rstest::rstest;

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
    fn what_nobody_was_given_is_everywhere() {
        assert_eq!(Bounds::of([]), Bounds::None);
        assert!(Bounds::None.reach([AssetId(7)].into_iter()));
        assert_eq!(Bounds::None.marks(&tree(&[None])), None);
        assert_eq!(Bounds::of([AssetId(2), AssetId(1), AssetId(2)]).given(), [AssetId(1), AssetId(2)]);
    }

    #[rstest]
    #[case::an_administrator(Role::Administrator, 1, false)]
    #[case::an_administrator_of_all(Role::Administrator, 0, true)]
    #[case::many(Role::Viewer, MOST_GIVEN, true)]
    #[case::too_many(Role::Viewer, MOST_GIVEN + 1, false)]
    fn who_may_be_bounded(#[case] role: Role, #[case] given: usize, #[case] may: bool) {
        assert_eq!(check(role, given).is_ok(), may);
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
            prop_assert_eq!(bounds.marks(&tree).unwrap_or(vec![true; parents.len()]), reached);
        }
    }
}

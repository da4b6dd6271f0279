//! How far an account reaches in the plant: everywhere, or below the assets it was given (rules.md §8). What its role may do
//! and see it may do and see there alone.

use super::{refusal::Refusal, roles::Role};
use crate::ground::ids::AssetId;
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
    use rstest::rstest;

    #[test]
    fn what_nobody_was_given_is_everywhere() {
        assert_eq!(Bounds::of([]), Bounds::None);
        assert!(Bounds::None.reach([AssetId(7)].into_iter()));
        assert!(Bounds::None.require_whole().is_ok() && Bounds::of([AssetId(1)]).require_whole().is_err());
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
}

//! Dense indices of assets by their ids.

use crate::ground::ids::AssetId;
use rustc_hash::FxHashMap;

/// So many times more numbers than assets are room that is left for ids in between.
const SPARSE: usize = 4;

/// No asset.
const NONE: u32 = u32::MAX;

/// By id the dense index: ids are mostly given one after the other, and stand in a list then; others are looked up.
#[derive(Debug, Clone, Default)]
pub(super) struct ById {
    near: Vec<u32>,
    far: FxHashMap<AssetId, u32>,
}

impl ById {
    /// Of ids in the order of their indices.
    pub(super) fn new(ids: impl ExactSizeIterator<Item = AssetId>) -> Self {
        let most = (ids.len() + 1) * SPARSE;
        let mut by_id = Self::default();
        for (id, index) in ids.zip(0u32..) {
            match usize::try_from(id.0) {
                Ok(near) if near < most => {
                    by_id.near.resize(by_id.near.len().max(near + 1), NONE);
                    by_id.near[near] = index;
                }
                _ => _ = by_id.far.insert(id, index),
            }
        }
        by_id.near.shrink_to_fit();
        by_id
    }

    /// The dense index of an asset.
    pub(super) fn get(&self, id: AssetId) -> Option<usize> {
        let near = usize::try_from(id.0).ok().and_then(|near| self.near.get(near)).filter(|index| **index != NONE);
        near.or_else(|| self.far.get(&id)).map(|index| *index as usize)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// Whatever ids there are, each is where it stands, and no other is anywhere.
        #[test]
        fn ids_are_where_they_stand(
            ids in prop::collection::hash_set(prop_oneof![9 => -3i64..60, 1 => any::<i64>()], 0..30),
            others in prop::collection::vec(prop_oneof![-5i64..200, any::<i64>()], 0..30),
        ) {
            let ids: Vec<AssetId> = ids.into_iter().map(AssetId).collect();
            let by_id = ById::new(ids.iter().copied());
            for id in others.into_iter().map(AssetId).chain(ids.iter().copied()) {
                prop_assert_eq!(by_id.get(id), ids.iter().position(|one| *one == id));
            }
        }
    }
}

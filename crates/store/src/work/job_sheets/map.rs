//! Where in the tree a round leads.

use crate::{
    ground::{
        error::{Result, StoreError},
        view::View,
    },
    plant::{assets, assets::NamedAsset},
};
use tally_core::{
    ground::ids::AssetId,
    work::rounds::{MapLine, Waypoint, map_of},
};

/// The part of the tree that visits to these assets lie in, as it is now and as far as the viewer reaches. An asset there is not
/// is passed over.
///
/// # Errors
/// SQLite's own.
pub fn round_map(view: &View, visited: &[&str]) -> Result<Vec<MapLine>> {
    let reached = |code: &&str| match assets::require_reached(view, code) {
        Ok(id) => Ok(Some(id)),
        Err(StoreError::NotFound { .. } | StoreError::Beyond { .. }) => Ok(None),
        Err(error) => Err(error),
    };
    let ids = visited.iter().map(reached).collect::<Result<Vec<Option<AssetId>>>>()?;
    let above = assets::above_each(view, ids.iter().copied().flatten())?;
    let named = assets::names(view.conn, ids.iter().copied().flatten())?;
    let way = |id: AssetId| -> Vec<Waypoint> {
        above.get(&id).into_iter().flatten().chain(named.get(&id)).cloned().map(waypoint).collect()
    };
    let ways: Vec<_> = ids.into_iter().map(|id| id.map(way).unwrap_or_default()).collect();
    Ok(map_of(&ways))
}

fn waypoint(asset: NamedAsset) -> Waypoint {
    Waypoint { code: asset.code, name: asset.name }
}

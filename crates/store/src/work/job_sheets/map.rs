//! Where in the tree a round leads.

use crate::{
    ground::{
        error::{Result, StoreError},
        view::View,
    },
    plant::{assets, assets::NamedAsset},
};
use tally_core::work::rounds::{MapLine, Waypoint, map_of};

/// The part of the tree that visits to these assets lie in, as it is now and as far as the viewer reaches. An asset there is not
/// is passed over.
///
/// # Errors
/// SQLite's own.
pub fn round_map(view: &View, visited: &[&str]) -> Result<Vec<MapLine>> {
    let mut name = view.conn.prepare_cached("SELECT code, name FROM assets WHERE id = ?1")?;
    let mut ways = Vec::with_capacity(visited.len());
    for code in visited {
        let id = match assets::require_reached(view, code) {
            Ok(id) => id,
            Err(StoreError::NotFound { .. } | StoreError::Beyond { .. }) => {
                ways.push(Vec::new());
                continue;
            }
            Err(error) => return Err(error),
        };
        let mut way: Vec<Waypoint> = assets::above(view, id)?.into_iter().map(waypoint).collect();
        way.push(name.query_row([id], |row| Ok(Waypoint { code: row.get(0)?, name: row.get(1)? }))?);
        ways.push(way);
    }
    Ok(map_of(&ways))
}

fn waypoint(asset: NamedAsset) -> Waypoint {
    Waypoint { code: asset.code, name: asset.name }
}

//! The assets that accounts and crews are given: below them they reach, and nowhere else.

use crate::{
    ground::{
        error::{Result, StoreError},
        tx::Tx,
    },
    plant::assets,
};
use rusqlite::params;
use std::collections::BTreeSet;
use tally_core::{
    access::{bounds, roles::Role},
    ground::ids::{CrewId, PersonId},
};

/// Who is given assets.
#[derive(Debug, Clone, Copy)]
pub(crate) enum Holder {
    Account(PersonId, Role),
    Crew(CrewId),
}

/// Gives exactly those assets, by their codes; none of them is everywhere.
///
/// # Errors
/// [`StoreError::Invalid`] for `scope`: an unknown asset, too many, or an administrator.
pub(crate) fn set(tx: &Tx, holder: Holder, codes: &[&str]) -> Result<()> {
    let given = codes.iter().map(|code| assets::require_in(tx.conn, code, "scope")).collect::<Result<BTreeSet<_>>>()?;
    let (column, id, role) = match holder {
        Holder::Account(person, role) => ("person_id", person.0, role),
        Holder::Crew(crew) => ("crew_id", crew.0, Role::Technician),
    };
    bounds::check(role, given.len())?;
    tx.conn.execute(&format!("DELETE FROM scopes WHERE {column} = ?1"), [id])?;
    let mut insert = tx.conn.prepare_cached(&format!("INSERT INTO scopes ({column}, asset_id) VALUES (?1, ?2)"))?;
    given.into_iter().try_for_each(|asset| insert.execute(params![id, asset]).map(drop)).map_err(StoreError::from)
}

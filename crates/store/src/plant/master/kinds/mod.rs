//! The tables, one module each: its columns, how its rows are read, added and changed.

mod assets;
mod meters;
mod people;
mod wanted;

pub(super) use wanted::Wanted;

use super::{columns::Column, kind::Kind};
use crate::ground::{error::Result, tx::Tx};

/// The columns of a kind, in the order in which files have them.
#[must_use]
pub fn columns(kind: Kind) -> &'static [Column] {
    match kind {
        Kind::Assets => assets::COLUMNS,
        Kind::EquipmentClasses => people::CLASSES,
        Kind::Meters => meters::COLUMNS,
        Kind::People => people::PEOPLE,
        Kind::Crews => people::CREWS,
    }
}

/// A query of all rows: `id`, `parent_id` of the asset to filter by, and every listed column by its name.
pub(super) fn select(kind: Kind) -> &'static str {
    match kind {
        Kind::Assets => assets::SELECT,
        Kind::EquipmentClasses => people::SELECT_CLASSES,
        Kind::Meters => meters::SELECT,
        Kind::People => people::SELECT_PEOPLE,
        Kind::Crews => people::SELECT_CREWS,
    }
}

/// Adds the row.
pub(super) fn add(tx: &mut Tx, wanted: &Wanted) -> Result<()> {
    match wanted.kind {
        Kind::Assets => assets::add(tx, wanted),
        Kind::Meters => meters::add(tx, wanted),
        Kind::EquipmentClasses => crate::plant::assets::add_class(tx, wanted.text("code"), wanted.text("name")),
        Kind::People => people::add_person(tx, wanted),
        Kind::Crews => people::add_crew(tx, wanted),
    }
}

/// Checks the row as it shall be and makes the changes that are not simply kept in a column.
pub(super) fn change(tx: &mut Tx, id: i64, wanted: &Wanted, changed: &[&Column]) -> Result<()> {
    match wanted.kind {
        Kind::Assets => assets::change(tx, id, wanted, changed),
        Kind::Meters => meters::change(tx, id, wanted, changed),
        Kind::People => people::change_person(tx, id, wanted, changed),
        Kind::EquipmentClasses | Kind::Crews => Ok(()),
    }
}

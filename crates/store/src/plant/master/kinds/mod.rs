//! The tables, one module each: its columns, how its rows are read, added and changed.

mod assets;
mod meters;
mod people;
mod source;
mod storeroom;
mod upkeep;
mod wanted;

pub(super) use source::Source;
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
        Kind::UpkeepPlans => upkeep::COLUMNS,
        Kind::Storeroom => storeroom::COLUMNS,
    }
}

/// Where the rows of a kind come from.
pub(super) fn source(kind: Kind) -> &'static Source {
    match kind {
        Kind::Assets => &assets::SOURCE,
        Kind::EquipmentClasses => &people::SOURCE_OF_CLASSES,
        Kind::Meters => &meters::SOURCE,
        Kind::People => &people::SOURCE_OF_PEOPLE,
        Kind::Crews => &people::SOURCE_OF_CREWS,
        Kind::UpkeepPlans => &upkeep::SOURCE,
        Kind::Storeroom => &storeroom::SOURCE,
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
        Kind::UpkeepPlans => upkeep::add(tx, wanted),
        Kind::Storeroom => storeroom::add(tx, wanted),
    }
}

/// Checks the row as it shall be and makes the changes that are not simply kept in a column.
pub(super) fn change(tx: &mut Tx, id: i64, wanted: &Wanted, changed: &[&Column]) -> Result<()> {
    match wanted.kind {
        Kind::Assets => assets::change(tx, id, wanted, changed),
        Kind::Meters => meters::change(tx, id, wanted, changed),
        Kind::People => people::change_person(tx, id, wanted, changed),
        Kind::Crews => people::change_crew(tx, id, wanted, changed),
        Kind::UpkeepPlans => upkeep::change(tx, id, wanted, changed),
        Kind::Storeroom => storeroom::change(tx, id, wanted, changed),
        Kind::EquipmentClasses => Ok(()),
    }
}
